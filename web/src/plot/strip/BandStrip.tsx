/** The system as a row of overlapping tiles, on the plot's frequency axis to the pixel. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { Project, Seam } from '../../api/types';
import { useWindow } from '../../state/window';
import { LEFT, RIGHT, ticksNow, tickText, toX } from '../scale';
import { Pill, SidesPill } from './Pills';
import { ROW, span, STRIP_HEIGHT, TOP, type StripProps } from './span';
import { Tile } from './Tile';
import { TileText } from './TileText';
import { useSize } from '../useSize';

export function BandStrip(props: StripProps) {
  const { project, tune, selection } = props;
  const { own } = useTheme();
  const [holder, { width }] = useSize<HTMLDivElement>();
  useWindow((state) => state.zoom.axis);
  const free: Record<string, number> = { left: LEFT, right: LEFT };
  const order = [...project.layout.drivers].sort((a, b) => Number(a.id === selection) - Number(b.id === selection));
  const textAt: Record<string, number> = {};
  const shown = project.seams.filter(
    (seam) => seam.ways && seam.side !== 'right' && !(seam.side === 'both' && hasSides(project, seam)),
  );
  for (const driver of project.layout.drivers) {
    const [low] = span(project, tune, driver);
    const sides = driver.side === 'both' ? ['left', 'right'] : [driver.side];
    const x = Math.max(toX(low, width) + 16, ...sides.map((side) => free[side]));
    textAt[driver.id] = x;
    for (const side of sides) free[side] = x + 130;
  }
  return (
    <Box ref={holder} sx={{ bgcolor: 'background.paper', height: STRIP_HEIGHT, width: '100%' }}>
      {width > 0 && (
        <svg
          width={width}
          height={STRIP_HEIGHT}
          fontSize={11}
          role="group"
          aria-label="Band strip"
          style={{ display: 'block', touchAction: 'none' }}>
          <text x={20} y={TOP + 22} fill={own.quiet} fontWeight={600}>
            L
          </text>
          <text x={20} y={TOP + ROW + 24} fill={own.quiet} fontWeight={600}>
            R
          </text>
          <defs>
            <clipPath id="strip-clip">
              <rect x={LEFT - 14} y={0} width={Math.max(1, width - LEFT - RIGHT + 28)} height={STRIP_HEIGHT} />
            </clipPath>
          </defs>
          <g clipPath="url(#strip-clip)">
            {order.map((driver) => (
              <Tile key={driver.id} {...props} driver={driver} width={width} />
            ))}
            {order.map((driver) => (
              <TileText key={driver.id} {...props} driver={driver} x={textAt[driver.id]} width={width} />
            ))}
            {shown.map((seam) => (
              <Pill key={seam.id} {...props} seamHere={seam} width={width} />
            ))}
          </g>
          <SidesPill {...props} width={width} />
          {ticksNow().map((hertz) => (
            <text
              key={hertz}
              x={toX(hertz, width)}
              y={STRIP_HEIGHT - 7}
              fill={own.quiet}
              textAnchor={hertz === 20000 ? 'end' : 'middle'}>
              {tickText(hertz)}
            </text>
          ))}
        </svg>
      )}
    </Box>
  );
}

const hasSides = (project: Project, seam: Seam) => project.seams.some((s) => s.name === seam.name && s.side === 'left');
