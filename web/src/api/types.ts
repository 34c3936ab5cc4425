/** The project's state as the server gives it, and the pictures it draws. */
import type { components } from './schema.generated';

export type Edit = components['schemas']['EditsIn']['edits'][number];
export type FitLimits = components['schemas']['FitLimits'];
export type Kind = 'sub' | 'midbass' | 'mid' | 'tweeter' | 'full' | 'centre' | 'rear';
export type Side = 'left' | 'right' | 'both';
export type Stage = 'rig' | 'drivers' | 'seams' | 'voice' | 'proof' | 'handover';
export type BandKind = 'peaking' | 'low_shelf' | 'high_shelf' | 'all_pass';
export type Shape = 'butterworth' | 'linkwitz-riley' | 'bessel';

export interface Driver { id: string; name: string; kind: Kind; side: Side; output: number }
export interface Seam {
  id: string; name: string | null; side: Side; lowers: string[]; uppers: string[]; ways: [Kind, Kind] | null;
}
export interface Crossover { shape: Shape; slope_db: number; corner_hz: number }
export interface Band { kind: BandKind; frequency_hz: number; gain_db: number; q: number }
export interface Channel {
  gain_db: number; inverted: boolean; delay_s: number; muted: boolean;
  high_pass: Crossover | null; low_pass: Crossover | null; bands: Band[];
}
export interface Tune {
  channels: Record<string, Channel>; common: Band[]; solo: string | null;
  tied_ways: string[]; tied_sides: string[]; target: { curve: string; level_db: number };
}
export interface DriverReading {
  take_id: number; low_hz: number; high_hz: number; over_noise_db: number; arrival_ms: number;
  timed: boolean; clock: string; made: string; method: string; moving_id: number | null;
}
export interface TroubleSaid { kind: string; weight: 'doubt' | 'note'; says: string; evidence: string; tries: string }
export interface Evidence {
  peak_dbfs: number; noise_dbfs: number; loopback_dbfs: number | null; over_noise_db: Record<string, number>;
  repeat_db: number | null; low_hz: number; high_hz: number; arrival_ms: number; drift_ppm: number | null;
}
export interface Agreement { level_db: number; shape_db: number; later_us: number | null; turned: boolean }
export interface Look { shown: boolean; colour: number; offset_db: number; locked: boolean }
export interface Take {
  id: number; channels: string[]; purpose: 'driver' | 'proof' | 'impedance' | 'raw'; input: number | null; look: Look; angle: number | null; of: number[]; loading: Loading; amount: number; method: string; timed: boolean;
  note: string; discarded: boolean; made: string; revision_id: number; clock: string; rate: number;
  correction: number | null; position: string; repeats: number; averages: number;
  troubles: TroubleSaid[]; judged: boolean; evidence: Evidence | null; agrees: Agreement | null;
}
export interface Position { name: string; x_cm: number; y_cm: number }
export interface Line { what: string; found: string; good: boolean; tries: string }
export type RigPart = 'device' | 'microphone' | 'check' | 'level' | 'reference' | 'takes' | 'jig' | 'input';
export interface Rig {
  device: string; rate: number; known_inputs: number; microphone_input: number; reference_input: number | null;
  input_names: string[]; output: number | null; output_names: string[]; timing: 'loopback' | 'marker' | 'none'; anchor: string; pointing: 'source' | 'ceiling';
  corrections: Record<'source' | 'ceiling', number | null>;
  sweep: { low_hz: number; high_hz: number; length: number; level_db: number; repeats: number; countdown_s: number };
  moving: { size: number; window: string; overlap: number; averages: number; level_db: number };
  jig: { driver_input: number; resistor_input: number; sense_ohm: number; known_ohm: number; method: 'sweep' | 'stepped'; repeats: number; level_db: number };
  jig_done: { made: string } | null; jig_steps: Standard[]; jig_stale: string;
  positions: Position[]; position: string;
  check: { made: string; device: string; rate: number; lines: Line[]; latency: number; noise_dbfs: number } | null;
  level: { made: string; peak_dbfs: number; noise_dbfs: number; over_noise_db: Record<string, number>; quiet_db_a: number | null } | null;
  aim_dbfs: [number, number]; level_says: string;
  reference: { made: string; full_scale_db_spl: number; how: string } | null;
  ready: { key: RigPart; name: string; state: 'set' | 'stale' | 'missing'; says: string }[];
  devices: { id: string; name: string; inputs: number; outputs: number; rates: number[] }[]; no_cards: string;
  correction_list: { id: number; name: string; pointing: string; origin: string; sensitivity: string }[];
  practice: Practice | null; switches: Record<string, string>; full_scale_db_spl: number;
}
export type Standard = 'open' | 'short' | 'resistor';
export type Loading = 'as it is' | 'mass' | 'box';
/** What is known of a driver, and which of its impedance takes count. */
export interface About { take_id: number | null; loaded_id: number | null; re_ohm: number | null; area_cm2: number | null; least_ohm: number }
export interface Parameter { key: string; name: string; unit: string; value: number; half: number | null; digits: number }
export interface Practice {
  turned_deg: number; clips: 'nothing' | 'joined' | 'resistor' | 'driver'; clipped_output: number; loading: 'as it is' | 'mass' | 'box' | 'leaking box'; loading_amount: number;
  plugged: 'microphone' | 'loop' | 'calibrator-94' | 'calibrator-114'; microphone: 'measuring' | 'plain'; pointing: 'source' | 'ceiling';
  [name: string]: string | boolean | number;
}
export interface Turn { channel: string; state: 'waiting' | 'done' | 'skipped'; take_id: number | null }
export interface Round { turns: Turn[]; method: 'sweep' | 'moving' }
export interface Reference { id: number; name: string; shown: boolean; shift_db: number }
export interface Layout { drivers: Driver[]; seat: 'left' | 'right' }
export interface Remark { says: string; bars: boolean }
export interface Finding {
  kind: string; about: string; says: string; evidence: string; action: string | null; remedy: Edit[];
}
export interface Change { channel: string; what: string; before: string; after: string }
export interface Range { least: number; most: number; step: number }
export interface Project {
  slug: string; name: string; layout: Layout; rig: Rig; round: Round; references: Reference[]; remarks: Remark[]; notice: string; seams: Seam[];
  grid: number[]; offset_db: number;
  revision: { id: number; number: number; summary: string; name: string | null; can_undo: boolean; can_redo: boolean };
  tune: Tune; guarded: string[]; drivers: Record<string, DriverReading>; without_moving: string[]; impedance: Record<string, About>; takes: Take[]; findings: Finding[];
  targets: { key: string; name: string }[];
  link: {
    unsent: Change[]; all_muted: boolean; slopes: Record<Shape, number[]>; slots: Record<string, string>; active_slot: number | null;
    limits: {
      outputs: number; rate: number; slots: number; bands: number; slope_db: number; gain_db: Range;
      delay_s: Range; corner_hz: Range; band_hz: Range; band_gain_db: Range; q: Range;
    };
  };
  stages: Record<Stage, string>;
}
export interface View {
  stage: Stage; smoothing: number | 'hearing' | null; selection: string; seam: string; take: number | null;
  compare: number | null; before: boolean; part: string; below: Below; gate_ms: number; lens: Lens; span_low_hz: number | null; span_high_hz: number | null; raw_from: number; raw_to: number; mark_from: number; mark_to: number; low_hz: number; high_hz: number;
}
export interface Lens {
  before_ms: number; shape: 'half-cosine' | 'hann' | 'blackman' | 'rectangular'; cycles: number; unwound: boolean; unit: 'db' | 'percent' | 'spl';
  decay_ms: number; window_ms: number; rise_ms: number; room: boolean;
}
export type Below = '' | 'phase' | 'unwrapped' | 'group-delay' | 'minimum' | 'impulse' | 'envelope' | 'step' | 'waterfall' | 'spectrogram' | 'distortion' | 'difference' | 'angles';
export interface Curve {
  id: string; role: string; label: string; pane: 'main' | 'lower' | 'scan' | 'time' | 'map' | 'live-phase' | 'live-coherence' | 'live-impulse' | 'wave'; channel: string;
  values: Float32Array; x: Float32Array | null;
}
export interface Deviation {
  mean: number; plus_minus: number; worst: number; rms: number; low_hz: number; high_hz: number;
}
interface Worst { worst_db: number; worst_percent: number; worst_hz: number; drive_dbfs: number }
export interface Facts {
  seam?: string; delay_ms?: number; path_mm?: number; inverted?: boolean; untimed?: string[];
  loss?: {
    mean: number; worst: number; worst_hz: number; low_hz: number; high_hz: number; null_db: number; null_hz: number;
  } | null;
  deviation?: Deviation; price?: { highest: number; lowest: number }; most_boost_db?: number;
  target_level_db?: number; share_db?: number; measured_at?: string;
  take?: { id: number; channels: string[]; made: string; revision_id: number };
  prediction?: { rms: number; worst: number; mean: number };
  span?: { low_hz: number; high_hz: number; rows: { label: string; mean: number; plus_minus: number; energy_db?: number }[] };
  extremes?: { curve: string; at: [number, number, boolean][] };
  explains?: string; lacking?: string; lowest_hz?: number;
  gate?: { reflection_ms: number | null; before_ms: number | null; gate_ms: number; from_ms: number; lowest_hz: number };
  sides?: { name: string; ms: number; samples: number; cm: number };
  map?: { rows: number; columns: number; every: number; unit: string; floor: number; window_ms?: number; rise_ms?: number; span_ms?: number }; angles_say?: string;
  decay?: { hertz: number; t20: number | null; t30: number | null; edt: number | null; quality: number | null }[];
  impedance?: {
    take_id: number; calibrated: boolean; repeats: number; rows: Parameter[]; misfit?: number; says: string; least: { ohms: number; hertz: number } | null; allowed: number;
    corners: { what: string; hertz: number; ohms: number; degrees: number }[]; mechanics: Parameter[] | null; mechanics_says: string;
    pair: { name: string; fs: number; qts: number; re: number; much: boolean } | null;
  };
  raw?: {
    take_id: number; seconds: number; shown: [number, number]; rate: number; levels: WeightedLevels; unit: string; octaves: [number, number][]; thirds: [number, number][];
    stretch: { seconds: number; once_hz: number; strongest_hz: number; peak_dbfs: number; rms_dbfs: number; crest_db: number };
  };
  distortion?: Worst & { unit: Lens['unit']; other: Worst | null };
  agreement?: Agreement; moving?: { averages: number; change_db: number | null; band_db: number };
}
export interface Picture { seq: number; view: View; tune: Tune; draft: boolean; revision: number; facts: Facts; curves: Curve[] }
export interface Meter { name: string; now: number; held: number; most: number }
export interface Progress {
  kind: 'take' | 'moving' | 'live' | 'check' | 'level' | 'calibrate' | 'signal' | 'channels' | 'polarity' | 'jig' | 'impedance' | 'listen';
  stage: 'idle' | 'countdown' | 'waiting' | 'playing' | 'computing' | 'kept' | 'done' | 'refused' | 'aborted'; channels: string[];
  purpose: 'driver' | 'proof' | 'impedance' | 'raw'; done: number; seconds_left: number; peak_dbfs: number; meters: Meter[]; averages: number;
  change_db: number | null; message: string; cause: string; take_id: number | null; version: number;
  result: {
    doubt?: boolean; delay_ms?: number; coherence?: number; settled?: boolean; full?: boolean; levels?: WeightedLevels; unit?: string; made?: string; ear?: string; level_dbfs_c?: number; meter_db_c?: number | null;
    channel?: string; heard?: boolean; positive?: boolean; sure?: number; shape?: number[];
  } | null;
}
export interface LevelsOf { equivalent: number; fast: number; fast_most: number; fast_least: number; slow: number; slow_most: number; slow_least: number }
export type WeightedLevels = Record<'A' | 'C' | 'Z', LevelsOf>;
export interface Growing { channels: string[]; curves: Curve[]; facts: { settled?: boolean } }
export interface Offer {
  delay_ms: number; inverted: boolean; change: string; mean_db: number; worst_db: number; edits: Edit[];
}
export interface Revision { id: number; number: number; summary: string; name: string | null; created: string }
