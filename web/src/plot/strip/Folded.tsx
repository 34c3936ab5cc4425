/** A group that is folded: its drivers' bands as thin bars, to be opened by a click. */
import { useTheme } from '@mui/material/styles';
import type { Group } from '../../api/types';
import { GROUPS, rowOf, shownWith } from '../../state/system';
import { hueOf } from '../../ui/theme';
import { toX } from '../scale';
import { FOLD, FOLDS, span, type StripProps } from './span';

interface Props extends StripProps {
  group: Group;
  place: number;
  width: number;
  onOpen: (group: Group) => void;
}

export function Folded({ project, tune, group, place, width, onOpen }: Props) {
  const { own } = useTheme();
  const drivers = project.layout.drivers.filter((one) => shownWith(project, one) === group);
  const y = FOLDS + place * FOLD;
  const row = { left: 3, right: 11, both: 3 };
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`Open ${GROUPS[group]}: ${drivers.map((one) => one.name).join(', ')}`}
      style={{ cursor: 'pointer' }}
      onClick={() => onOpen(group)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onOpen(group);
      }}>
      <rect x={0} y={y} width={width} height={FOLD - 2} fill={own.ground} />
      <text x={6} y={y + 13} fill={own.text} fontWeight={600}>
        {GROUPS[group]}
      </text>
      {drivers.map((one) => {
        const [low, high] = span(project, tune, one);
        const silent = tune.channels[one.id].muted || (tune.solo !== null && tune.solo !== one.id);
        const from = toX(low, width);
        return (
          <rect
            key={one.id}
            x={from}
            y={y + row[rowOf(project, one)]}
            width={Math.max(2, toX(high, width) - from)}
            height={one.side === 'both' ? 13 : 5}
            rx={2}
            fill={hueOf(own, one)}
            fillOpacity={silent ? 0.25 : 0.6}>
            <title>{one.name}</title>
          </rect>
        );
      })}
    </g>
  );
}
