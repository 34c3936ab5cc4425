/** A network at the jig: watched while parts are clipped in and out, its load measured once it is soldered. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { Bench, Passive, PassiveStep, Practice } from '../../api/types';
import { Section } from '../../ui/Panel';
import { hueOf } from '../../ui/theme';
import { running, type Work } from '../../state/project';
import { usePick } from '../../state/window';
import { RunBox } from '../common/RunBox';
import { Ladder } from './Ladder';

type Wired = Practice['network'][number];
const same = (one: PassiveStep, other: PassiveStep) =>
  (Object.keys(one) as (keyof PassiveStep)[]).every((key) => one[key] === other[key]);

export function PassiveJig({ work, bench, state }: { work: Work; bench: Bench; state: Passive }) {
  const { project, slug, begin, recording } = work;
  const { own } = useTheme();
  const { progress } = usePick('progress');
  const { practice } = project.rig;
  const watching = progress && progress.kind === 'ohms' && running(progress);
  const measuring = progress && progress.kind === 'impedance' && running(progress);
  const ended = progress && ['ohms', 'impedance'].includes(progress.kind) && !running(progress) ? progress.message : '';
  const path = { params: { path: { slug } } };
  const watch = () => void begin(() => settled(client.POST('/api/projects/{slug}/passive/watch', path)));
  const measure = () =>
    void begin(() =>
      settled(
        client.POST('/api/projects/{slug}/impedance', {
          ...path,
          body: {
            channel: bench.network.branches[0].driver,
            loaded: { loading: 'network', amount: 0 },
            note: 'behind the network',
          },
        }),
      ),
    );
  const driver = (id: string) => project.layout.drivers.find((one) => one.id === id);
  const held = (n: number): Wired | undefined =>
    practice?.clips === 'network'
      ? practice.network.find((one) => one.output === driver(bench.network.branches[n].driver)?.output)
      : undefined;
  const isIn = (n: number, step: number) =>
    !!held(n)?.steps.some((one) => same(one, bench.network.branches[n].steps![step]));
  const hang = (wanted: (n: number, step: number) => boolean | null) => {
    const network = bench.network.branches.flatMap((branch, n) => {
      const output = driver(branch.driver)?.output;
      if (!output || wanted(n, -1) === null) return [];
      return [{ output, inverted: branch.inverted, steps: branch.steps!.filter((_one, k) => wanted(n, k)) }];
    });
    const body = { ...practice, clips: network.length ? 'network' : 'nothing', network };
    void work.onRig(() => settled(client.PUT('/api/rig/practice', { body: body as never })));
  };
  const turn = (way: number, step: number) =>
    hang((n, k) => {
      if (n !== way) return held(n) ? k < 0 || isIn(n, k) : null;
      return k === step && k >= 0 ? !isIn(n, k) : k < 0 || isIn(n, k);
    });
  const turnWay = (way: number) =>
    hang((n, k) => ((n === way) === !!held(n) ? null : n === way || k < 0 || isIn(n, k)));
  return (
    <>
      {measuring ? (
        <RunBox work={work} progress={progress} />
      ) : (
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            variant="contained"
            sx={{ flex: 1 }}
            disabled={recording && !watching}
            data-testid="watch-jig"
            onClick={() => (watching ? work.stop() : watch())}>
            {watching ? 'Stop' : 'Watch'}
          </Button>
          <Button variant="outlined" disabled={recording} data-testid="measure-network" onClick={measure}>
            Measure its load
          </Button>
        </Box>
      )}
      {watching ? (
        <Typography
          role="status"
          data-testid="looks"
          sx={{ fontSize: 20, lineHeight: '26px', fontWeight: 600, minHeight: 78 }}>
          {progress.result?.looks ?? 'Listening …'}
        </Typography>
      ) : (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          Clip the network between jig and drivers, and watch what each part does: the load, the sound at the
          microphone, and what hangs there by name.
        </Typography>
      )}
      {ended && (
        <Typography role="status" sx={{ fontSize: 12.5, color: own.clayText }}>
          {ended}
        </Typography>
      )}
      {bench.network.branches.map((branch, n) => (
        <Section
          key={branch.driver}
          title={driver(branch.driver)?.name ?? branch.driver}
          aside={
            practice && (
              <Button
                size="small"
                sx={{ py: 0, fontSize: 11.5, minWidth: 0 }}
                aria-pressed={!!held(n)}
                onClick={() => turnWay(n)}>
                {held(n) ? 'on the clips' : 'not on the clips'}
              </Button>
            )
          }>
          <Ladder
            branch={branch}
            parts={state.parts.filter((one) => one.branch === n)}
            hue={driver(branch.driver) ? hueOf(own, driver(branch.driver)!) : own.sum}
            chosen=""
            out={practice ? branch.steps!.map((_step, k) => !isIn(n, k)) : undefined}
            choose={(name) => {
              const part = state.parts.find((one) => one.name === name);
              if (practice && part && held(n)) turn(n, part.step);
            }}
          />
        </Section>
      ))}
      {practice && (
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          <Typography sx={{ fontSize: 12, flex: 1 }} color="text.secondary">
            The stand-in’s parts box: press a part to clip it in or out.
          </Typography>
          <Button size="small" data-testid="all-in" onClick={() => hang(() => true)}>
            all in
          </Button>
        </Box>
      )}
      {state.jig_says.map((one) => (
        <Typography key={one} data-testid="jig-says" sx={{ fontSize: 12.5 }}>
          {one}
        </Typography>
      ))}
    </>
  );
}
