/**
 * The system as a row of overlapping tiles, on the plot's frequency axis to the pixel. One group is open, that of the
 * selection or of the seam; the others are folded below it.
 */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Group, Kind, Project, Seam } from '../../api/types';
import { GROUPS, groupOfSeam, groupsOf, mainOf, shownWith } from '../../state/system';
import { useWindow } from '../../state/window';
import { LEFT, RIGHT, ticksNow, tickText, toX } from '../scale';
import { Folded } from './Folded';
import { Pill, SidesPill, SubsPill } from './Pills';
import { ROW, stripHeight, TOP, type StripProps } from './span';
import { Tile } from './Tile';
import { placed } from './placed';
import { TileText } from './TileText';
import { useSize } from '../useSize';

/** The ways from low to high: in this order their words are placed. */
const WAYS: Kind[] = ['sub', 'woofer', 'midbass', 'mid', 'tweeter', 'full'];

export function BandStrip(props: StripProps) {
  const { project, selection } = props;
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
  const text = placed(props, drivers, width);
  const seams = project.seams.filter((seam) => groupOfSeam(project, seam) === open);
  const ways = seams.filter(
    (seam) => seam.ways && seam.side !== 'right' && !(seam.side === 'both' && hasSides(project, seam)),
  );
  const ofSubs = seams.filter((seam) => !seam.ways && seam.group === 'sub');
  const subs = ofSubs.find((seam) => seam.id === props.seam) ?? ofSubs.at(0);
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
              <TileText key={driver.id} {...props} driver={driver} at={text[driver.id]} />
            ))}
            {ways.map((seam) => (
              <Pill key={seam.id} {...props} here={seam} width={width} />
            ))}
            {subs && <SubsPill {...props} here={subs} width={width} />}
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
