/** Loss against delay, for both polarities; drag the line to set the delay. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { Picture } from '../../api/types';
import { drag } from '../../plot/drag';
import { signed } from '../../ui/format';

const WIDTH = 300;
const HEIGHT = 62;

export function Scan({
  picture,
  now,
  onDrag,
}: {
  picture: Picture | null;
  now: number;
  onDrag: (ms: number, done: boolean) => void;
}) {
  const { own } = useTheme();
  const curves = (picture?.curves ?? []).filter((curve) => curve.pane === 'scan' && curve.x);
  if (!curves.length) return <Box sx={{ height: HEIGHT, bgcolor: own.plot, borderRadius: 1 }} />;
  const x = curves[0].x!;
  const [low, high] = [x[0], x[x.length - 1]];
  const top = Math.max(...curves.map((curve) => curve.values.reduce((a, b) => Math.max(a, b), 0)), 1);
  const px = (ms: number) => ((ms - low) / (high - low)) * WIDTH;
  const py = (lost: number) => HEIGHT - 6 - (lost / top) * (HEIGHT - 14);
  const path = (values: Float32Array) =>
    `M${Array.from(values, (v, i) => `${px(x[i]).toFixed(1)},${py(v).toFixed(1)}`).join('L')}`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 14}`}
      width="100%"
      fontSize={10.5}
      role="img"
      aria-label="Loss against delay for both polarities"
      style={{ touchAction: 'none', cursor: 'ew-resize', display: 'block' }}
      onPointerDown={(event) => {
        const scale = event.currentTarget.getBoundingClientRect().width / WIDTH;
        let at = now;
        drag(
          event,
          (where) => {
            at = low + (where / scale / WIDTH) * (high - low);
            onDrag(at, false);
          },
          () => at !== now && onDrag(at, true),
        );
      }}>
      <rect width={WIDTH} height={HEIGHT} fill={own.plot} rx={3} />
      {curves.map((curve) => (
        <path
          key={curve.role}
          d={path(curve.values)}
          fill="none"
          stroke={curve.role === 'scan-now' ? own.sum : own.quiet}
          strokeWidth={curve.role === 'scan-now' ? 1.8 : 1.2}
          strokeDasharray={curve.role === 'scan-now' ? undefined : '4 3'}
        />
      ))}
      <line x1={px(now)} x2={px(now)} y1={0} y2={HEIGHT} stroke={own.clay} strokeWidth={2} />
      <text x={0} y={HEIGHT + 11} fill={own.quiet}>{`${signed(low, 2)} ms`}</text>
      <text x={WIDTH} y={HEIGHT + 11} fill={own.quiet} textAnchor="end">{`${signed(high, 2)} ms`}</text>
      <text x={4} y={12} fill={own.quiet}>{`${top.toFixed(1)} dB`}</text>
    </svg>
  );
}
