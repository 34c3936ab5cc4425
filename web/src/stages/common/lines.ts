/** From the server's curves to lines: role and driver decide colour, weight and dash. */
import { useTheme, type Theme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Curve, Driver, Project } from '../../api/types';
import type { Line } from '../../plot/parts';
import { useWindow } from '../../state/window';
import { hueOf } from '../../ui/theme';

type Own = Theme['own'];
type Style = Pick<Line, 'colour' | 'width' | 'dash'>;
const FAINT = '66';
const RIGHT_SIDE = [7, 4];

/** The colours that a take can be given, in order. */
export const looks = (own: Own): string[] => [
  own.good,
  own.ways.sub,
  own.clay,
  own.ways.tweeter,
  own.ways.mid,
  own.quiet,
];

/** How curves of a role are drawn: hue and dash are those of the driver, where there is one. */
const STYLES: Record<string, (own: Own, hue: string, dash?: number[]) => Style> = {
  bold: (_own, hue, dash) => ({ colour: hue, width: 2.6, dash }),
  faint: (_own, hue, dash) => ({ colour: hue + FAINT, width: 1.2, dash }),
  sum: (own) => ({ colour: own.sum, width: 2.6 }),
  'sum-faint': (own) => ({ colour: own.sum + FAINT, width: 1.3 }),
  'side-left': (own) => ({ colour: own.ways.full, width: 1.8 }),
  'side-right': (own) => ({ colour: own.ways.full, width: 1.8, dash: RIGHT_SIDE }),
  ideal: (own) => ({ colour: own.sum, width: 1, dash: [2, 4] }),
  predicted: (own) => ({ colour: own.ways.midbass, width: 1.8 }),
  null: (own) => ({ colour: own.good, width: 1.3, dash: [2, 3] }),
  measured: (own) => ({ colour: own.good, width: 1.6 }),
  compare: (own) => ({ colour: own.ways.sub, width: 1.4, dash: [3, 3] }),
  'bold-sum': (own) => ({ colour: own.sum, width: 2 }),
  interface: (own) => ({ colour: own.ways.midbass, width: 1.8 }),
  reference: (own) => ({ colour: own.quiet, width: 1.4, dash: [8, 3, 2, 3] }),
  running: (_own, hue) => ({ colour: hue, width: 2.4 }),
  'harmonic-2': (own) => ({ colour: own.sum, width: 1.6 }),
  'harmonic-3': (own) => ({ colour: own.sum, width: 1.4, dash: [7, 3] }),
  'harmonic-4': (own) => ({ colour: own.quiet, width: 1.3, dash: [3, 3] }),
  'harmonic-5': (own) => ({ colour: own.quiet, width: 1.3, dash: [1, 3] }),
  live: (own) => ({ colour: own.good, width: 2.2 }),
  edge: (_own, hue) => ({ colour: hue + FAINT, width: 0.8 }),
  target: (own) => ({ colour: own.clay, width: 1.8, dash: [6, 4] }),
  'own-target': (own) => ({ colour: own.clay, width: 1, dash: [2, 3] }),
  angle: (_own, hue) => ({ colour: hue, width: 1.2, dash: [2, 2] }),
  band: (_own, hue) => ({ colour: hue + FAINT, width: 1 }),
  correction: (own) => ({ colour: own.sum, width: 2 }),
  difference: (own) => ({ colour: own.sum, width: 2 }),
  phase: (own) => ({ colour: own.sum, width: 2 }),
};

/** A feed: hue by its group, line by its side, faint as it comes. */
function feedStyle([, group, side, faint]: string[], own: Own): Style {
  const hues: Record<string, string> = { front: own.ways.full, rear: own.ways.midbass, centre: own.ways.mid };
  const hue = hues[group] ?? own.ways.sub;
  const dash = side === 'right' ? RIGHT_SIDE : undefined;
  return faint ? { colour: hue + FAINT, width: 1.2, dash } : { colour: hue, width: 2.4, dash };
}

/** How one curve is drawn. While a new one grows, the one that it will take the place of stands back. */
export function lineOf(curve: Curve, driver: Driver | undefined, own: Own, growing: boolean): Line {
  const hue = driver ? hueOf(own, driver) : own.sum;
  const dash = driver?.side === 'right' ? RIGHT_SIDE : undefined;
  const base = { id: curve.id, values: curve.values, label: curve.label };
  if (curve.role.startsWith('look-'))
    return { ...base, colour: looks(own)[Number(curve.role.slice(5)) - 1], width: 1.6 };
  if (curve.role.startsWith('feed-')) return { ...base, ...feedStyle(curve.role.split('-'), own) };
  if (curve.role.startsWith('range-'))
    return { ...lineOf({ ...curve, role: curve.role.slice(6) }, driver, own, growing), width: 0 };
  const style = STYLES[growing && curve.role === 'bold' ? 'faint' : curve.role];
  return { ...base, ...(style ? style(own, hue, dash) : { colour: hue, width: 1.5, dash }) };
}

export function useLines(project: Project, pane: Curve['pane']): Line[] {
  const picture = useWindow((state) => state.picture);
  const growing = useWindow((state) => state.growing);
  const { own } = useTheme();
  return useMemo(() => {
    const drivers = new Map(project.layout.drivers.map((driver) => [driver.id, driver]));
    return [...(picture?.curves ?? []), ...(growing?.curves ?? [])]
      .filter((curve) => curve.pane === pane)
      .map((curve) => lineOf(curve, drivers.get(curve.channel), own, growing !== null));
  }, [picture, growing, pane, project, own]);
}
