/** What is shown of the axes, and the way back: one key fits, one goes back. */
import { useWindow, type Zoom } from '../state/window';
import { HIGH, LOW, setAxis } from './scale';

const WHOLE: Zoom = { axis: [LOW, HIGH], ranges: {} };

function show(zoom: Zoom) {
  setAxis(...zoom.axis);
  useWindow.setState({ zoom });
}

/** Show another stretch; what was shown before can be gone back to. Wheel turns within a second are one step. */
export function zoomTo(next: Partial<Zoom>, step = false) {
  const { zoom, zoomed } = useWindow.getState();
  const now = Date.now();
  const fresh = step || !zoomed.length || now - zoomed[zoomed.length - 1].at > 1000;
  const past = fresh
    ? [...zoomed.slice(-30), { zoom, at: now }]
    : [...zoomed.slice(0, -1), { ...zoomed[zoomed.length - 1], at: now }];
  useWindow.setState({ zoomed: past });
  show({ ...zoom, ...next });
}

export function axisTo(low: number, high: number) {
  const wide = Math.max(high / low, 1.15);
  const centre = Math.sqrt(low * high);
  let [from, to] = wide > high / low ? [centre / Math.sqrt(wide), centre * Math.sqrt(wide)] : [low, high];
  [from, to] = [Math.max(LOW, from), Math.min(HIGH, to)];
  zoomTo({ axis: [from, to] });
}

export function rangeTo(name: string, range: [number, number]) {
  if (!(range[1] - range[0] >= 1)) return;
  zoomTo({ ranges: { ...useWindow.getState().zoom.ranges, [name]: range } });
}

export const fit = () => zoomTo({ ...WHOLE }, true);

export function back() {
  const { zoomed } = useWindow.getState();
  const last = zoomed[zoomed.length - 1];
  if (!last) return;
  useWindow.setState({ zoomed: zoomed.slice(0, -1) });
  show(last.zoom);
}
