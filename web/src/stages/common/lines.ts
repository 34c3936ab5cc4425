/** From the server's curves to lines: role and driver decide colour, weight and dash. */
import { useTheme, type Theme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Curve, Project } from '../../api/types';
import type { Line } from '../../plot/parts';
import { useWindow } from '../../state/window';

const FAINT = '66';

/** The colours that a take can be given, in order. */
export const looks = (own: Theme['own']): string[] => [
  own.good,
  own.ways.sub,
  own.clay,
  own.ways.tweeter,
  own.ways.mid,
  own.quiet,
];

export function useLines(project: Project, pane: Curve['pane']): Line[] {
  const picture = useWindow((desk) => desk.picture);
  const growing = useWindow((desk) => desk.growing);
  const { own } = useTheme();
  return useMemo(() => {
    const drivers = new Map(project.layout.drivers.map((driver) => [driver.id, driver]));
    return [...(picture?.curves ?? []), ...(growing?.curves ?? [])]
      .filter((curve) => curve.pane === pane)
      .map((curve) => {
        const driver = drivers.get(curve.channel);
        const hue = driver ? own.ways[driver.kind] : own.sum;
        const dash = driver?.side === 'right' ? [7, 4] : undefined;
        const base = { id: curve.id, values: curve.values, label: curve.label };
        // While a new curve grows, the one that it will take the place of stands back.
        switch (growing && curve.role === 'bold' ? 'faint' : curve.role) {
          case 'bold':
            return { ...base, colour: hue, width: 2.6, dash };
          case 'faint':
            return { ...base, colour: hue + FAINT, width: 1.2, dash };
          case 'sum':
            return { ...base, colour: own.sum, width: 2.6 };
          case 'sum-faint':
            return { ...base, colour: own.sum + FAINT, width: 1.3 };
          case 'ideal':
            return { ...base, colour: own.sum, width: 1, dash: [2, 4] };
          case 'predicted':
            return { ...base, colour: own.ways.midbass, width: 1.8 };
          case 'measured':
            return { ...base, colour: own.good, width: 1.6 };
          case 'compare':
            return { ...base, colour: own.ways.sub, width: 1.4, dash: [3, 3] };
          case 'bold-sum':
            return { ...base, colour: own.sum, width: 2 };
          case 'interface':
            return { ...base, colour: own.ways.midbass, width: 1.8 };
          case 'reference':
            return { ...base, colour: own.quiet, width: 1.4, dash: [8, 3, 2, 3] };
          case 'running':
            return { ...base, colour: hue, width: 2.4 };
          case 'harmonic-2':
            return { ...base, colour: own.sum, width: 1.6 };
          case 'harmonic-3':
            return { ...base, colour: own.sum, width: 1.4, dash: [7, 3] };
          case 'harmonic-4':
            return { ...base, colour: own.quiet, width: 1.3, dash: [3, 3] };
          case 'harmonic-5':
            return { ...base, colour: own.quiet, width: 1.3, dash: [1, 3] };
          case 'look-1':
          case 'look-2':
          case 'look-3':
          case 'look-4':
          case 'look-5':
          case 'look-6':
            return { ...base, colour: looks(own)[Number(curve.role.slice(5)) - 1], width: 1.6 };
          case 'live':
            return { ...base, colour: own.good, width: 2.2 };
          case 'edge':
            return { ...base, colour: hue + FAINT, width: 0.8 };
          case 'target':
            return { ...base, colour: own.clay, width: 1.8, dash: [6, 4] };
          case 'own-target':
            return { ...base, colour: own.clay, width: 1, dash: [2, 3] };
          case 'angle':
            return { ...base, colour: hue, width: 1.2, dash: [2, 2] };
          case 'band':
            return { ...base, colour: hue + FAINT, width: 1 };
          case 'correction':
          case 'difference':
          case 'phase':
            return { ...base, colour: own.sum, width: 2 };
          default:
            return { ...base, colour: hue, width: 1.5, dash };
        }
      });
  }, [picture, growing, pane, project, own]);
}
