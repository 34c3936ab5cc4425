/** Where the microphone is held, and all drivers of the round recorded from there by one press. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { client, settled } from '../../api/client';
import type { Work } from '../../state/project';
import { Choice } from '../../ui/Field';
import { inARow } from '../common/doing';

export function InARow({ work }: { work: Work }) {
  const { project, recording, onRig } = work;
  const { rig, place, round, link, in_a_row: channels } = project;
  const all = channels.length === round.turns.length;
  // A position of another place means the first one here.
  const positions = [...rig.positions, ...place.spots];
  const held = positions.find((one) => one.name === rig.position) ?? positions[0];
  const hold = (position: string) => void onRig(() => settled(client.PATCH('/api/rig', { body: { position } })));
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mt: 0.75 }}>
      <Choice
        label="The microphone is held at"
        hideLabel
        value={held.name}
        options={positions.map((one) => ({ value: one.name, text: one.name }))}
        onChange={hold}
      />
      <Button
        variant="outlined"
        sx={{ flexShrink: 0 }}
        disabled={recording || link.by_hand || channels.length < 2}
        title={
          link.by_hand
            ? 'A processor that is typed by hand does not change from driver to driver by itself'
            : 'One after another, each for itself: what is kept stays, whatever comes after it'
        }
        onClick={() => inARow(work)}
        data-testid="in-a-row">{`${all ? 'All' : 'The other'} ${channels.length} in a row`}</Button>
    </Box>
  );
}
