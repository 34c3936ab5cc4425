/**
 * The system as a row of overlapping tiles, on the plot's frequency axis to the pixel. One group is open, that of the
 * selection or of the seam; the others are folded below it.
 */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Group, Kind, Project, Seam } from '../../api/types';
import { GROUPS, groupOfSeam, groupsOf, mainOf, rowOf, shownWith } from '../../state/system';
import { useWindow } from '../../state/window';
import { LEFT, RIGHT, ticksNow, tickText, toX } from '../scale';
import { Folded } from './Folded';
import { Pill, SidesPill, SubsPill } from './Pills';
import { ROW, span, stripHeight, TOP, type StripProps } from './span';
import { Tile } from './Tile';
import { TileText } from './TileText';
import { useSize } from '../useSize';

/** The ways from low to high: in this order their words are placed. */
const WAYS: Kind[] = ['sub', 'woofer', 'midbass', 'mid', 'tweeter', 'full'];
/** So much of a row the words and switches of one tile take. */
const WORDS = 130;

export function BandStrip(props: StripProps) {
  const { project, tune, selection } = props;
  const { own } = useTheme();
  const [holder, { width }] = useSize<HTMLDivElement>();
  const [open, setOpen] = useOpenGroup(props);
  useWindow((state) => state.zoom.axis);
  const height = stripHeight(project);
  const groups = groupsOf(project);
  const drivers = project.layout.drivers
    .filter((one) => shownWith(project, one) === open)
    .sort((a, b) => WAYS.indexOf(a.kind) - WAYS.indexOf(b.kind));
  const order = [...drivers].sort((a, b) => Number(a.id === selection) - Number(b.id === selection));
  const free: Record<string, number> = { left: LEFT, right: LEFT };
  const textAt: Record<string, number> = {};
  for (const driver of drivers) {
    const [low] = span(project, tune, driver);
    const row = rowOf(project, driver);
    const rows = row === 'both' ? ['left', 'right'] : [row];
    const x = Math.max(toX(low, width) + 16, ...rows.map((one) => free[one]));
    textAt[driver.id] = x;
    for (const one of rows) free[one] = x + WORDS;
  }
  const seams = project.seams.filter((seam) => groupOfSeam(project, seam) === open);
  const ways = seams.filter(
    (seam) => seam.ways && seam.side !== 'right' && !(seam.side === 'both' && hasSides(project, seam)),
  );
  const subs = seams.filter((seam) => !seam.ways && seam.group === 'sub');
  const sides = seams.find((seam) => !seam.ways && seam.group !== 'sub');
  return (
    <Box ref={holder} sx={{ bgcolor: 'background.paper', height, width: '100%' }}>
      {width > 0 && (
        <svg
          width={width}
          height={height}
          fontSize={11}
          role="group"
          aria-label="Band strip"
          style={{ display: 'block', touchAction: 'none' }}>
          {groups.length > 1 && (
            <text x={6} y={TOP + 5} fill={own.text} fontWeight={600}>
              {GROUPS[open]}
            </text>
          )}
          <text x={20} y={TOP + 22} fill={own.quiet} fontWeight={600}>
            L
          </text>
          <text x={20} y={TOP + ROW + 24} fill={own.quiet} fontWeight={600}>
            R
          </text>
          <defs>
            <clipPath id="strip-clip">
              <rect x={LEFT - 14} y={0} width={Math.max(1, width - LEFT - RIGHT + 28)} height={height} />
            </clipPath>
          </defs>
          <g clipPath="url(#strip-clip)">
            {order.map((driver) => (
              <Tile key={driver.id} {...props} driver={driver} width={width} />
            ))}
            {order.map((driver) => (
              <TileText key={driver.id} {...props} driver={driver} x={textAt[driver.id]} width={width} />
            ))}
            {ways.map((seam) => (
              <Pill key={seam.id} {...props} here={seam} width={width} />
            ))}
            {subs.slice(0, 1).map((seam) => (
              <SubsPill key={seam.id} {...props} here={seam} width={width} />
            ))}
          </g>
          {sides && <SidesPill {...props} here={sides} />}
          {groups
            .filter((group) => group !== open)
            .map((group, place) => (
              <Folded key={group} {...props} group={group} place={place} width={width} onOpen={setOpen} />
            ))}
          {ticksNow().map((hertz) => (
            <text
              key={hertz}
              x={toX(hertz, width)}
              y={height - 7}
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

/** The group that is open: the one asked for, until something of another group is selected or looked at. */
function useOpenGroup({ project, selection, seam, seamsOpen }: StripProps): [Group, (group: Group) => void] {
  const [asked, setAsked] = useState<{ group: Group; at: string } | null>(null);
  const driver = project.layout.drivers.find((one) => one.id === selection);
  const looked = seamsOpen ? project.seams.find((one) => one.id === seam) : undefined;
  const at = looked ? `seam ${looked.id}` : selection;
  if (asked?.at === at && groupsOf(project).includes(asked.group))
    return [asked.group, (group) => setAsked({ group, at })];
  const here = looked ? groupOfSeam(project, looked) : driver ? shownWith(project, driver) : mainOf(project);
  return [here, (group) => setAsked({ group, at })];
}

const hasSides = (project: Project, seam: Seam) => project.seams.some((s) => s.name === seam.name && s.side === 'left');
