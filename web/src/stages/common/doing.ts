/** What the keys and the buttons of a stage do alike. */
import { client, settled } from '../../api/client';
import type { Fitted, Project, Seam } from '../../api/types';
import type { Work } from '../../state/project';
import { alike } from '../../state/system';
import { useWindow } from '../../state/window';

/** The seam that stands for all of them. */
export const WHOLE = 'whole';

/** Whether Seams looks at the whole system: where it has no seam there is nothing else to look at. */
export const atWhole = () => useWindow.getState().seam === WHOLE;

export const seamHere = (project: Project): Seam => {
  const { seam } = useWindow.getState();
  return project.seams.find((one) => one.id === seam) ?? project.seams[0];
};

export const proofChannels = (project: Project): string[] =>
  useWindow.getState().proofChannels ?? project.layout.drivers.map((driver) => driver.id);

/** Measure the impedance of a driver as it is loaded. */
export function measureImpedance(work: Work, channel: string) {
  const { loaded, note } = useWindow.getState();
  void work.begin(() =>
    settled(
      client.POST('/api/projects/{slug}/impedance', {
        params: { path: { slug: work.slug } },
        body: { channel, loaded, note },
      }),
    ),
  );
}

/** Record the drivers that wait, one after another. */
export function inARow(work: Work) {
  const { project, slug } = work;
  const body = { method: project.round.method, note: useWindow.getState().note };
  void work.begin(() => settled(client.POST('/api/projects/{slug}/takes/each', { params: { path: { slug } }, body })));
}

/** Listen to the chosen input; above zero seconds what is heard is kept. */
export function listenTo(work: Work, seconds: number) {
  const { listen } = useWindow.getState();
  void work.begin(() =>
    settled(
      client.POST('/api/projects/{slug}/listen', {
        params: { path: { slug: work.slug } },
        body: {
          ...listen,
          seconds: listen.seconds || null,
          frames: listen.frames || null,
          record_s: seconds,
          log: listen.log && !seconds,
          level_db: -24,
        },
      }),
    ),
  );
}

/** Record the wires that the leads hold, by the inputs of the processor that they go to. */
export function recordWires(work: Work, inputs: number[]) {
  void work.begin(() =>
    settled(
      client.POST('/api/projects/{slug}/source/record', {
        params: { path: { slug: work.slug } },
        body: { inputs: inputs as never, note: '' },
      }),
    ),
  );
}

/** Record a seam with its upper way inverted; what the processor lacks is sent first. */
export function recordNull(work: Work, seam: Seam) {
  const path = { slug: work.slug };
  void work.begin(async () => {
    if (work.project.link.unsent.length)
      await settled(client.POST('/api/projects/{slug}/processor/send', { params: { path } }));
    return settled(
      client.POST('/api/projects/{slug}/seams/{seam_id}/null', { params: { path: { ...path, seam_id: seam.id } } }),
    );
  });
}

/** Record channels at the microphone while the source plays its track; what the processor lacks is sent first. */
export function recordThroughSource(work: Work, channels: string[]) {
  const path = { params: { path: { slug: work.slug } } };
  void work.begin(async () => {
    if (work.project.link.unsent.length) await settled(client.POST('/api/projects/{slug}/processor/send', path));
    return settled(client.POST('/api/projects/{slug}/source/proof', { ...path, body: { channels } }));
  });
}

/** Listen while both sources of the processor change over. */
export function tryChangeOver(work: Work) {
  const path = { params: { path: { slug: work.slug } } };
  void work.begin(() => settled(client.POST('/api/projects/{slug}/source/switch', path)));
}

export function recordForStage(work: Work, selection: string) {
  const { project, stage } = work;
  const { tab, part, sourcePart, sourceWires } = useWindow.getState();
  if (stage === 'rig' && part === 'input') listenTo(work, 0);
  else if (stage === 'source' && sourcePart === 'second') tryChangeOver(work);
  else if (stage === 'source') recordWires(work, sourceWires[1] ? sourceWires : [sourceWires[0]]);
  else if (stage === 'drivers' && tab === 'impedance') measureImpedance(work, selection);
  else if (stage === 'drivers' && selection) work.record([selection], 'driver', false, project.round.method);
  else if (stage === 'seams' && atWhole()) work.record(proofChannels(project), 'proof', project.link.unsent.length > 0);
  else if (stage === 'seams') {
    const seam = seamHere(project);
    work.record([...seam.lowers, ...seam.uppers], 'proof', project.link.unsent.length > 0);
  } else if (stage === 'proof')
    work.record(proofChannels(project), 'proof', project.link.unsent.length > 0, useWindow.getState().proofMethod);
}

/** Fit the selection, its pair when left and right go together, or all channels when nothing is selected; `like` is a
 * channel that takes the target's place. */
export function fitSelection(work: Work, selection: string, like?: string): Promise<boolean> {
  const channels = fittedOf(work.project, selection, !!like);
  const { fitPlaces } = useWindow.getState();
  return fitWith(work, selection, { channels, like, places: fitPlaces });
}

/** The channels that a fit of a selection sets: none for what is common to all. */
export function fittedOf(project: Project, selection: string, single = false): string[] {
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const both = useWindow.getState().together && !single;
  return !driver ? [] : both ? alike(project, driver).map((one) => one.id) : [driver.id];
}

/** Fit the correction common to all channels to what a moving microphone heard of the whole. */
export const fitMeasured = (work: Work) => fitWith(work, '', { channels: [], measured: true });

interface FitAsked {
  channels: string[];
  like?: string | null;
  measured?: boolean;
  /** Whether it goes by all places of the microphone together. */
  places?: boolean;
}

/** A fit within the limits of this window; what it left alone is told of `about`. */
export function fitWith(work: Work, about: string, { channels, like, measured, places }: FitAsked): Promise<boolean> {
  const { limits, set } = useWindow.getState();
  const body = { channels, limits, like, measured: measured ?? false, places: places ?? false };
  return work.act(async () => {
    const made = await settled<Fitted>(
      client.POST('/api/projects/{slug}/fit', { params: { path: { slug: work.slug } }, body }),
    );
    set({ leftAlone: { about, dips: made.fit.left } });
    return made;
  });
}
