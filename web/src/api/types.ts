/** Names for the generated types of the API, and of the frames that come over the socket. None is typed by hand. */
import type { components, paths } from './schema.generated';

type Schemas = components['schemas'];

export type Edit = Schemas['EditsIn']['edits'][number];
export type BrowserOpened = NonNullable<Schemas['RigState']['browser']>;
export type JournalEntry = Schemas['Entry'];
export type Customer = Schemas['CustomerState'];
export type Effect = Schemas['Effect'];
export type Copy = Schemas['CopyState'];
export type Weight = Schemas['Weight'];
export type FitLimits = Schemas['FitLimits'];
export type Fir = Schemas['FirState'];
export type Passive = Schemas['PassiveState'];
export type PassivePart = Schemas['PartState'];
export type PassiveFound = Schemas['PassiveProposalState'];
export type Bench = NonNullable<Passive['bench']>;
export type PassiveBranch = Bench['network']['branches'][number];
export type PassiveStep = NonNullable<PassiveBranch['steps']>[number];
export type Bound = Required<Schemas['Bound']>;
export type Wish = Required<Omit<Schemas['Wish'], 'bounds'>> & { bounds: Bound[] };
export type Fitted = Schemas['Fitted'];
export type FitFigures = Fitted['fit'];
export type Driver = Schemas['Driver'];
export type Kind = Driver['kind'];
export type Side = Driver['side'];
export type Group = Driver['group'];
export type Layout = Schemas['Layout'];
export type Seam = Schemas['Seam'];
export type Tune = Schemas['Tune-Output'];
export type Channel = Schemas['Channel-Output'];
export type Crossover = Schemas['Crossover-Output'];
export type Shape = Crossover['shape'];
export type Band = Schemas['Band-Output'];
export type Bend = Schemas['Bend'];
export type BandKind = Band['kind'];

/** The project's state, with the grid that all its curves stand on, which comes once. */
export type Project = Schemas['ProjectState'] & { grid: number[] };
export type Projects = Schemas['Projects'];
export type Model = Schemas['ModelState'];
export type PlaceChoice = Schemas['PlaceChoice'];
export type Demo = Schemas['Demo'];
export type Source = Schemas['SourceState'];
export type SourceInput = Source['inputs'][number];
export type Made = Schemas['Made'];
export type Limits = Schemas['Limits'];
export type Stage = View['stage'];
export type Take = Schemas['TakeState'];
export type Look = Schemas['Look-Output'];
export type Agreement = NonNullable<Take['agrees']>;
export type Round = Schemas['Round-Output'];
export type Turn = Round['turns'][number];
export type Reference = Schemas['ReferenceState'];
export type Remark = Schemas['Remark'];
export type Finding = Schemas['Finding'];
export type Change = Schemas['Change'];
export type Offer = Schemas['OfferState'];
export type Proposals = Schemas['ProposalsState'];
export type Proposal = Schemas['ProposalState'];
export type Alignment = Schemas['FiguresState'];
export type Scope = NonNullable<Schemas['ProposeIn']['scope']>;
export type Allowed = Required<Schemas['Allowed']>;
export type Fill = Schemas['FillState'];
export type SideTurn = Schemas['TurnState'];
export type Plan = Schemas['PlanState'];
export type Step = Plan['steps'][number];
export type StepChoice = Step['choices'][number];
export type StepRequest = NonNullable<StepChoice['request']>;
export type Image = Schemas['ImageState'];
export type ImageBand = Image['bands'][number];
export type Mending = Image['mendings'][number];
export type Audition = Schemas['AuditionState'];
export type Song = Schemas['Song'];
export type Corner = Project['corners'][string]['high_pass'];

export type Rig = Schemas['RigState'];
export type RigPart = Rig['ready'][number]['key'] | 'input';
export type Position = Rig['positions'][number];
export type Practice = NonNullable<Rig['practice']>;
export type Standard = Rig['jig_steps'][number];
export type Loading = Take['loading'];

type ViewIn = Schemas['AlignIn']['view'];
export type View = Required<ViewIn>;
export type Lens = Required<Schemas['Lens']>;
export type Below = View['below'];
export type Facts = Schemas['Facts'];
export type Parameter = Schemas['Parameter'];
export type Progress = Schemas['Progress'];
export type Begun = Schemas['Begun'];
export type Meter = Schemas['Meter'];
export type WeightedLevels = NonNullable<NonNullable<Progress['result']>['levels']>;
export type LevelsOf = Schemas['Levels'];
export type RigBody = paths['/api/rig']['patch']['requestBody']['content']['application/json'];

/** A curve as a frame brings it: the fields of the API's, its values as floats. */
export type Curve = Omit<Schemas['CurveState'], 'values' | 'x'> & { values: Float32Array; x: Float32Array | null };

/** A picture that was asked for. */
export interface Picture {
  seq: number;
  view: View;
  tune: Tune;
  draft: boolean;
  revision: number;
  facts: Facts;
  curves: Curve[];
}

/** What a job has heard so far. */
export interface Growing {
  channels: string[];
  curves: Curve[];
  facts: Facts;
}
