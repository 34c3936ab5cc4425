/** Named places of the microphone on a small picture of the seat, seen from above. */
import Delete from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Rig } from '../../api/types';
import { Section } from '../../ui/Panel';
import { signed } from '../../ui/format';
import { drag } from '../../plot/drag';

const WIDTH = 300;
const HEIGHT = 150;
const SCALE = 2.6;
/** Centimetres that they are behind the middle of the head. */
const SHOULDERS = 25;

type Change = (values: { position?: string; positions?: Rig['positions'] }) => void;

interface Props {
  rig: Rig;
  /** Positions that belong to the place: chosen, but not moved. */ fixed: Rig['positions'];
  onChange: Change;
}

export function Positions({ rig, fixed, onChange }: Props) {
  const { own: colours } = useTheme();
  const [moved, setMoved] = useState<{ name: string; x: number; y: number } | null>(null);
  const [name, setName] = useState('');
  const all = [...rig.positions, ...fixed];
  const movable = (name: string) => rig.positions.some((one) => one.name === name);
  // As much of the ground as the positions take, the shoulders with it.
  const ahead = Math.max(...all.map((one) => one.y_cm));
  const behind = Math.max(SHOULDERS, ...all.map((one) => -one.y_cm));
  const aside = Math.max(...all.map((one) => Math.abs(one.x_cm)));
  const scale = Math.min(SCALE, (HEIGHT - 44) / (ahead + behind), (WIDTH / 2 - 20) / aside);
  const middle = HEIGHT - 22 - behind * scale;
  const place = (one: Rig['positions'][number]) =>
    moved?.name === one.name ? { x: moved.x, y: moved.y } : { x: one.x_cm, y: one.y_cm };
  const put = (which: string, x: number, y: number) =>
    onChange({ positions: rig.positions.map((one) => (one.name === which ? { ...one, x_cm: x, y_cm: y } : one)) });
  const add = () => {
    const wanted = name.trim();
    if (!wanted || all.some((one) => one.name === wanted)) return;
    onChange({ positions: [...rig.positions, { name: wanted, x_cm: 0, y_cm: -12 }], position: wanted });
    setName('');
  };
  const chosen = all.find((one) => one.name === rig.position);
  return (
    <Section
      title="Place of the microphone"
      aside={chosen ? `${signed(place(chosen).x, 0)} cm right, ${signed(place(chosen).y, 0)} cm forward` : ''}>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        fontSize={10.5}
        role="group"
        aria-label="The seat from above"
        style={{ touchAction: 'none', display: 'block' }}>
        <rect width={WIDTH} height={HEIGHT} rx={4} fill={colours.plot} />
        <g transform={`translate(${WIDTH / 2} ${middle}) scale(${scale / SCALE})`} stroke={colours.line}>
          <path d="M-62 63 q0 -34 26 -38 h72 q26 4 26 38 z" fill="none" strokeWidth={2} />
          <ellipse rx={9 * SCALE} ry={10 * SCALE} fill={colours.raised} />
          <path d={`M-6 ${1 - 10 * SCALE} l6 -9 l6 9`} fill={colours.raised} />
        </g>
        <text x={WIDTH / 2} y={14} textAnchor="middle" fill={colours.quiet}>
          forward
        </text>
        {all.map((one) => {
          const { x, y } = place(one);
          const [cx, cy] = [WIDTH / 2 + x * scale, middle - y * scale];
          const on = one.name === rig.position;
          return (
            <g
              key={one.name}
              role="button"
              tabIndex={0}
              aria-label={`Microphone at ${one.name}`}
              aria-pressed={on}
              style={{ cursor: movable(one.name) ? 'grab' : 'pointer' }}
              onKeyDown={(event) => {
                const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
                if (event.key === 'Enter') onChange({ position: one.name });
                if (!by || !movable(one.name)) return;
                event.preventDefault();
                event.stopPropagation();
                put(one.name, one.x_cm + by[0], one.y_cm + by[1]);
              }}
              onPointerDown={(event) => {
                const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect();
                const zoom = box.width / WIDTH;
                const [startX, startY] = [event.clientX - box.left, event.clientY - box.top];
                let at: [number, number] | null = null;
                drag(
                  event,
                  (px, py) => {
                    if (!movable(one.name)) return;
                    if (!at && Math.hypot(px - startX, py - startY) < 3) return;
                    at = [
                      Math.round(one.x_cm + (px - startX) / zoom / scale),
                      Math.round(one.y_cm - (py - startY) / zoom / scale),
                    ];
                    setMoved({ name: one.name, x: at[0], y: at[1] });
                  },
                  () => {
                    setMoved(null);
                    if (at) put(one.name, at[0], at[1]);
                    else onChange({ position: one.name });
                  },
                );
              }}>
              <circle
                cx={cx}
                cy={cy}
                r={on ? 6 : 4.5}
                fill={on ? colours.clay : colours.panel}
                stroke={on ? colours.clay : colours.quiet}
                strokeWidth={1.5}
              />
              {on && (
                <text
                  x={cx}
                  y={cy + 19}
                  textAnchor="middle"
                  fill={colours.text}
                  stroke={colours.plot}
                  strokeWidth={3}
                  paintOrder="stroke">
                  {one.name}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Box sx={{ display: 'flex', gap: 0.5, mt: 0.5, alignItems: 'center' }}>
        <InputBase
          value={name}
          placeholder="Name of another place, Enter"
          inputProps={{ 'aria-label': 'Name of another place', maxLength: 40 }}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') add();
          }}
          sx={{ flex: 1, fontSize: 12.5, height: 28, px: 1, border: 1, borderColor: 'divider', borderRadius: 1 }}
        />
        <IconButton
          size="small"
          aria-label={`Remove ${rig.position}`}
          title={`Remove ${rig.position}`}
          disabled={rig.positions.length < 2 || !movable(rig.position)}
          onClick={() => onChange({ positions: rig.positions.filter((one) => one.name !== rig.position) })}>
          <Delete fontSize="small" />
        </IconButton>
      </Box>
    </Section>
  );
}
