/** What this window shows and is in the middle of; nothing of the project itself. */
import { create } from 'zustand';
import type { Below, Edit, Growing, Lens, Loading, Picture, Progress, RigPart } from './api/types';

export type Mode = 'dark' | 'light';

export interface Limits { count: number; boost_db: number; cut_db: number; most_q: number; low_hz: number; high_hz: number }

export interface Zoom { axis: [number, number]; ranges: Record<string, [number, number]> }

/** `seconds` 0 averages all since the last reset, or `frames` of them where that is above zero. */
export interface LiveSettings {
  size: number; window: string; overlap: number; seconds: number; frames: number; follow: boolean; track: boolean; hold: boolean; microphones: number[];
  below: '' | 'phase' | 'coherence' | 'impulse';
}
export interface ListenSettings {
  input: number; sound: 'nothing' | 'pink'; size: number; window: string; seconds: number; frames: number; fraction: 0 | 1 | 3; hold: boolean; record_s: number; log: boolean;
}

interface Desk {
  selection: string;
  seam: string;
  band: number | null;
  smoothing: number | 'hearing' | null;
  zoom: Zoom;
  zoomed: { zoom: Zoom; at: number }[];
  span: [number, number] | null;
  low: number;
  high: number;
  compare: number | null;
  before: boolean;
  proofTake: number | null;
  proofChannels: string[] | null;
  together: boolean;
  limits: Limits;
  draft: Edit[];
  picture: Picture | null;
  growing: Growing | null;
  part: RigPart;
  tab: 'record' | 'takes' | 'impedance' | 'check' | 'files';
  loaded: { loading: Loading; amount: number };
  proofMethod: 'sweep' | 'moving';
  note: string;
  olderTake: number | null;
  noticed: boolean;
  live: LiveSettings;
  listen: ListenSettings;
  rawTake: number | null;
  rawShown: [number, number];
  rawMarked: [number, number];
  below: Below;
  gate: number;
  lens: Lens;
  /** How far down a map of a decay is drawn, in dB. */
  depth: number;
  angle: number;
  hints: boolean;
  progress: Progress | null;
  linked: boolean;
  error: string | null;
  mode: Mode;
  set: (values: Partial<Omit<Desk, 'set'>>) => void;
}

const stored = localStorage.getItem('imbrix-mode');

export const useDesk = create<Desk>((set) => ({
  selection: '',
  seam: '',
  band: null,
  smoothing: 6,
  zoom: { axis: [20, 20000], ranges: {} },
  zoomed: [],
  span: null,
  low: 40,
  high: 16000,
  compare: null,
  before: false,
  proofTake: null,
  proofChannels: null,
  together: false,
  limits: { count: 6, boost_db: 3, cut_db: 12, most_q: 6, low_hz: 20, high_hz: 20000 },
  draft: [],
  picture: null,
  growing: null,
  part: 'device',
  tab: 'record',
  loaded: { loading: 'as it is', amount: 0 },
  proofMethod: 'sweep',
  note: '',
  olderTake: null,
  noticed: false,
  live: { size: 32768, window: 'hann', overlap: -1, seconds: 1, frames: 0, follow: true, track: false, hold: false, microphones: [], below: '' },
  listen: { input: 0, sound: 'nothing', size: 32768, window: 'hann', seconds: 1, frames: 0, fraction: 3, hold: false, record_s: 0, log: false },
  rawTake: null,
  rawShown: [0, 0],
  rawMarked: [0, 0],
  below: '',
  gate: 0,
  lens: { before_ms: 0, shape: 'half-cosine', cycles: 0, unwound: true, unit: 'db', decay_ms: 0, window_ms: 0, rise_ms: 0, room: false },
  depth: -40,
  angle: 0,
  hints: localStorage.getItem('imbrix-hints') !== 'off',
  progress: null,
  linked: true,
  error: null,
  mode: stored === 'light' ? 'light' : 'dark',
  set: (values) => set(values),
}));
