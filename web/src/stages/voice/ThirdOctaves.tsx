/** All third octaves beside each other: each is turned up and down by mouse or keys. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Band } from '../../api/types';
import type { Work } from '../../state/project';
import { drag } from '../../plot/drag';
import { hertz, short, signed, stepOf } from '../../ui/format';
import { setThird, THIRDS_HZ, thirdsOf } from './thirds';

const HEIGHT = 104;
const SPAN_DB = 12;
const WIDE = 300;
const MARKED_HZ = [31.5, 100, 315, 1000, 3150, 10000];
const EACH = WIDE / THIRDS_HZ.length;

interface Props {
  work: Work;
  selection: string;
  bands: Band[];
  /** How many bands can still be set. */
  room: number;
}

export function ThirdOctaves({ work, selection, bands, room }: Props) {
  const { own } = useTheme();
  const [at, setAt] = useState(THIRDS_HZ.indexOf(1000));
  const can = work.project.link.limits.band_gain_db;
  const { gains, others } = thirdsOf(bands);
  const step = stepOf(can);
  const least = Math.max(can.least, -SPAN_DB);
  const most = Math.min(can.most, SPAN_DB);
  const edit = (n: number, gain: number) => {
    if (!gains[n] && room <= 0) return null; // no band is free for another one
    const fine = Math.round(Math.min(most, Math.max(least, gain)) / step) * step;
    return setThird(selection, bands, THIRDS_HZ[n], Number(fine.toFixed(2)));
  };
  const put = (n: number, gain: number) => {
    const one = edit(n, gain);
    if (one) void work.commit([one]);
  };
  const key = (event: React.KeyboardEvent, n: number) => {
    const by = event.shiftKey ? 10 * step : step;
    const steps: Record<string, number> = { ArrowUp: by, ArrowDown: -by, PageUp: 3, PageDown: -3 };
    if (event.key in steps) put(n, gains[n] + steps[event.key]);
    else if (event.key === 'Delete' || event.key === '0') put(n, 0);
    else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
      const to = Math.min(THIRDS_HZ.length - 1, Math.max(0, n + (event.key === 'ArrowRight' ? 1 : -1)));
      setAt(to);
      (event.currentTarget.parentElement?.children[to] as SVGElement | undefined)?.focus();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const grab = (event: React.PointerEvent<SVGGElement>, n: number) => {
    setAt(n);
    let last: number | null = null;
    const move = (_x: number, h: number) => {
      last = (1 - (2 * h) / HEIGHT) * SPAN_DB;
      const one = edit(n, last);
      if (one) work.draft([one]);
    };
    drag(event, move, () => last !== null && put(n, last));
  };
  const y = (db: number) => ((SPAN_DB - Math.min(SPAN_DB, Math.max(-SPAN_DB, db))) / (2 * SPAN_DB)) * HEIGHT;
  return (
    <Box>
      <svg viewBox={`0 0 ${WIDE} ${HEIGHT}`} width="100%" height={HEIGHT} role="group" aria-label="Third octaves">
        {THIRDS_HZ.map((hz, n) => (
          <g
            key={hz}
            role="slider"
            tabIndex={n === at ? 0 : -1}
            aria-label={`Third octave at ${hertz(hz)}`}
            aria-orientation="vertical"
            aria-valuemin={least}
            aria-valuemax={most}
            aria-valuenow={gains[n]}
            aria-valuetext={`${signed(gains[n])} dB`}
            data-testid={`third-${hz}`}
            onFocus={() => setAt(n)}
            onKeyDown={(event) => key(event, n)}
            onPointerDown={(event) => grab(event, n)}
            style={{ cursor: 'ns-resize', outline: 'none' }}>
            <rect x={n * EACH} width={EACH} height={HEIGHT} fill={n === at ? own.raised : own.plot} />
            <rect
              x={n * EACH + 1.5}
              width={EACH - 3}
              y={Math.min(y(0), y(gains[n])) - (gains[n] ? 0 : 1)}
              height={Math.max(2, Math.abs(y(gains[n]) - y(0)))}
              fill={gains[n] ? own.clay : own.line}
            />
          </g>
        ))}
        {MARKED_HZ.map((hz) => (
          <text
            key={hz}
            x={(THIRDS_HZ.indexOf(hz) + 0.5) * EACH}
            y={HEIGHT - 4}
            textAnchor="middle"
            fontSize={10}
            fill={own.quiet}
            style={{ pointerEvents: 'none' }}>
            {short(hz)}
          </text>
        ))}
        <line x1={0} x2={WIDE} y1={y(0)} y2={y(0)} stroke={own.line} style={{ pointerEvents: 'none' }} />
      </svg>
      <Typography sx={{ fontSize: 12 }} color="text.secondary" data-testid="third-says">
        {`${hertz(THIRDS_HZ[at])} ${signed(gains[at])} dB · ← → ↑ ↓, 0 puts it back`}
        {others > 0 && ` · ${others} other band${others > 1 ? 's' : ''}`}
        {room <= 0 && !gains[at] && ' · no band is free'}
      </Typography>
    </Box>
  );
}
