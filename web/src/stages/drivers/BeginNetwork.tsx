/** Which drivers a network is for, where they meet, and what stands beside their crossovers: begun by the textbook. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { Passive, Project } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';

const SLOPES = [
  { value: 'butterworth 6', text: 'Butterworth 6 dB' },
  { value: 'linkwitz-riley 12', text: 'Linkwitz–Riley 12 dB' },
  { value: 'butterworth 12', text: 'Butterworth 12 dB' },
  { value: 'butterworth 18', text: 'Butterworth 18 dB' },
  { value: 'linkwitz-riley 24', text: 'Linkwitz–Riley 24 dB' },
] as const;
const TOGGLE = { py: 0.25, px: 1, fontSize: 12, textTransform: 'none' } as const;

export function BeginNetwork({
  project,
  can,
  busy,
  begin,
}: {
  project: Project;
  can: Passive['can'];
  busy: boolean;
  begin: (body: object) => void;
}) {
  const [drivers, setDrivers] = useState<string[]>([]);
  const [hertz, setHertz] = useState<number[]>([]);
  const [slope, setSlope] = useState<string>('linkwitz-riley 12');
  const [zobel, setZobel] = useState(true);
  const [pad, setPad] = useState(0);
  const lacks = (id: string) => can.find((one) => one.driver === id)?.lacks ?? '';
  const reasons = [...new Set(can.map((one) => one.lacks).filter(Boolean))].map((reason) => {
    const names = project.layout.drivers.filter((one) => lacks(one.id) === reason).map((one) => one.name);
    return `${names.length === project.layout.drivers.length ? 'None can be chosen yet' : names.join(', ')}: ${reason}`;
  });
  // Their order is that of the layout, from low to high: where two meet is asked for each two.
  const inOrder = project.layout.drivers.filter((one) => drivers.includes(one.id));
  const asked = inOrder.slice(1).map((one, n) => hertz[n] ?? project.corners[one.id]?.high_pass.hertz ?? 2500);
  const toggle = (id: string) =>
    setDrivers(drivers.includes(id) ? drivers.filter((one) => one !== id) : [...drivers, id].slice(-3));
  const [shape, db] = slope.split(' ');
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        A network of coils, capacitors and resistors between one output and up to three drivers, reckoned from their
        measured impedances and responses. Choose the drivers that it feeds.
      </Typography>
      <Box role="group" aria-label="Drivers of the network" sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
        {project.layout.drivers.map((one) => (
          <ToggleButton
            key={one.id}
            value={one.id}
            size="small"
            selected={drivers.includes(one.id)}
            disabled={Boolean(lacks(one.id))}
            title={lacks(one.id)}
            sx={TOGGLE}
            onChange={() => toggle(one.id)}>
            {one.name}
          </ToggleButton>
        ))}
      </Box>
      {reasons.map((says) => (
        <Typography key={says} sx={{ fontSize: 12.5 }} color="text.secondary" data-testid="network-lacks">
          {`${says}.`}
        </Typography>
      ))}
      {inOrder.length > 1 && (
        <Row>
          <Box sx={{ flex: 1.6, minWidth: 0 }}>
            <Choice label="Shape of each way" value={slope} options={[...SLOPES]} onChange={setSlope} />
          </Box>
          {asked.map((at, n) => (
            <NumberField
              key={n}
              label={n ? 'Upper meeting' : 'They meet at'}
              unit="Hz"
              digits={0}
              factor
              step={1 / 12}
              coarse={1 / 3}
              value={at}
              min={20}
              max={20000}
              onCommit={(value) => setHertz(asked.map((one, k) => (k === n ? value : one)))}
            />
          ))}
        </Row>
      )}
      <Row>
        <ToggleButton
          value="zobel"
          size="small"
          selected={zobel || inOrder.length === 1}
          disabled={inOrder.length === 1}
          title="A resistor and a capacitor across the driver, which make its coil look like a resistor"
          sx={TOGGLE}
          onChange={() => setZobel(!zobel)}>
          Zobel network
        </ToggleButton>
        {inOrder.length > 1 && (
          <NumberField
            label="Highest softer by"
            unit="dB"
            value={pad}
            step={0.5}
            coarse={1}
            min={0}
            max={20}
            onCommit={setPad}
          />
        )}
      </Row>
      <Button
        variant="contained"
        disabled={busy || !inOrder.length}
        data-testid="begin-network"
        onClick={() =>
          begin({
            drivers: inOrder.map((one) => one.id),
            meetings: asked.map((at) => ({ hertz: at, shape, slope_db: Number(db) })),
            zobel,
            pad_db: pad,
          })
        }>
        Begin by the textbook
      </Button>
    </Box>
  );
}
