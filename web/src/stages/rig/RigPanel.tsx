/** Rig: one part at a time, in the order of the work; nothing forces a person to finish one before the next. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { client, settled } from '../../api/client';
import type { RigPart } from '../../api/types';
import { KeyLine, PanelTitle } from '../../ui/Panel';
import { running } from '../../state/project';
import { usePick } from '../../state/window';
import type { StageProps } from '../props';
import { RunBox } from '../common/RunBox';
import { CheckPart } from './CheckPart';
import { DevicePart } from './DevicePart';
import { InputPart } from './InputPart';
import { JigPart } from './JigPart';
import { LevelPart } from './LevelPart';
import { MicrophonePart } from './MicrophonePart';
import { ReferencePart } from './ReferencePart';
import { TakesPart } from './TakesPart';

const PARTS: Record<RigPart, (props: StageProps) => React.ReactNode> = {
  device: DevicePart,
  microphone: MicrophonePart,
  check: CheckPart,
  level: LevelPart,
  reference: ReferencePart,
  takes: TakesPart,
  jig: JigPart,
  input: InputPart,
};
const MINE = ['check', 'level', 'calibrate', 'signal', 'jig'];

export function RigPanel(props: StageProps) {
  const { work } = props;
  const { part, progress, set } = usePick('part', 'progress', 'set');
  const { ready } = work.project.rig;
  const here = ready.findIndex((one) => one.key === part);
  const Part = PARTS[part];
  if (part === 'input') return <InputPart {...props} />;
  const mine = progress && MINE.includes(progress.kind);
  const exchange = () => void work.onRig(() => settled(client.POST('/api/rig/exchange')));
  return (
    <>
      <PanelTitle title={ready[here]?.name ?? 'Rig'} aside={`${here + 1} of ${ready.length}`} />
      <Part {...props} />
      {progress && mine && running(progress) && <RunBox work={work} progress={progress} />}
      {progress && mine && !running(progress) && progress.message && (
        <Box role="status" data-testid="rig-says">
          <Typography sx={{ fontSize: 12.5, color: (t) => t.own.clayText }}>{progress.message}</Typography>
          {progress.cause === 'exchanged' && (
            <Button variant="outlined" size="small" onClick={exchange} data-testid="exchange">
              Exchange the inputs
            </Button>
          )}
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 'auto' }}>
        <Button
          variant="outlined"
          sx={{ flex: 1 }}
          disabled={here < 1}
          onClick={() => set({ part: ready[here - 1].key })}>
          Back
        </Button>
        <Button
          variant="outlined"
          sx={{ flex: 1 }}
          disabled={here >= ready.length - 1}
          onClick={() => set({ part: ready[here + 1].key })}
          data-testid="rig-next">
          {ready[here + 1] ? `On to ${ready[here + 1].name.toLowerCase()}` : 'Done'}
        </Button>
      </Box>
      <KeyLine follows>Space stops · you may go on with anything missing</KeyLine>
    </>
  );
}
