/** What this window shows and is in the middle of; nothing of the project itself. One slice for each subject. */
import { create, type StateCreator } from 'zustand';
import type { Length } from './lengths';
import type { Width } from './width';
import { CLOSED, type Microphone } from '../sound/browserSound';
import { useShallow } from 'zustand/react/shallow';
import type {
  Below,
  Edit,
  FitFigures,
  Growing,
  Lens,
  Loading,
  Picture,
  Progress,
  RigPart,
  Weight,
  Wish,
} from '../api/types';

export type Mode = 'dark' | 'light';

export interface Limits {
  /** None: as many bands as the server finds right for the processor. */
  count: number | null;
  boost_db: number;
  cut_db: number;
  most_q: number;
  low_hz: number;
  high_hz: number;
  /** By how much the worst of several places may stand over the target. */
  worst_db: number;
  weights: Weight[];
}

export interface Zoom {
  axis: [number, number];
  ranges: Record<string, [number, number]>;
}

/** `seconds` 0 averages all since the last reset, or `frames` of them where that is above zero. */
export interface LiveSettings {
  size: number;
  window: string;
  overlap: number;
  seconds: number;
  frames: number;
  follow: boolean;
  track: boolean;
  hold: boolean;
  microphones: number[];
  below: '' | 'phase' | 'coherence' | 'impulse';
}

export interface ListenSettings {
  input: number;
  sound: 'nothing' | 'pink';
  size: number;
  window: string;
  seconds: number;
  frames: number;
  fraction: 0 | 1 | 3;
  hold: boolean;
  record_s: number;
  log: boolean;
}

/** What is selected, and how it is looked at. */
interface Looking {
  selection: string;
  seam: string;
  /** The unit in which paths of sound are told. */
  length: Length;
  band: number | null;
  /** How the width of a band is told. */
  width: Width;
  /** Whether bands are shown as third octaves beside each other. */
  thirds: boolean;
  /** Whether FIR taps are shown in the place of bands. */
  taps: boolean;
  smoothing: number | 'hearing' | null;
  zoom: Zoom;
  zoomed: { zoom: Zoom; at: number }[];
  span: [number, number] | null;
  low: number;
  high: number;
  compare: number | null;
  before: boolean;
  /** Whether curves show what other takes and places show. */
  ranged: boolean;
  below: Below;
  gate: number;
  lens: Lens;
  /** How far down a map of a decay is drawn, in dB. */
  depth: number;
}

/** What will be recorded, and which takes are looked at. */
interface Measuring {
  part: RigPart;
  sourcePart: 'feeds' | 'level' | 'sum' | 'route' | 'second';
  handoverPart: 'processor' | 'customer' | 'files';
  /** The two feeds whose sum is looked at, as `sum-1-2`; `sum` for the first two. */
  sourceSum: string;
  /** The inputs of the processor whose wires the two leads hold; 0 for a lead that hangs free. */
  sourceWires: [number, number];
  /** The input that is looked at in Source; 0 for none. */
  sourceInput: number;
  tab: 'record' | 'takes' | 'impedance' | 'passive' | 'check' | 'files';
  loaded: { loading: Loading; amount: number };
  note: string;
  angle: number;
  olderTake: number | null;
  proofTake: number | null;
  proofChannels: string[] | null;
  proofMethod: 'sweep' | 'moving';
  proofPart: 'measure' | 'image' | 'listen';
  live: LiveSettings;
  listen: ListenSettings;
  rawTake: number | null;
  rawShown: [number, number];
  rawMarked: [number, number];
}

/** How fits are limited, and what is proposed. */
interface Fitting {
  /** Whether the target is being bent. */
  bending: boolean;
  /** Whether an alignment of the whole is to be proposed as soon as it is looked at. */
  propose: boolean;
  /** Whether a search for one is under way. */
  searching: boolean;
  /** What stands first among the proposals for the whole. */
  offered: { title: string; edits: Edit[] } | null;
  together: boolean;
  /** What the last fit left alone, and of what it was: empty for all channels. */
  leftAlone: { about: string; dips: FitFigures['left'] } | null;
  limits: Limits;
  /** What is wanted of FIR taps. */
  wish: Wish;
  /** Whether fits go by all places of the microphone together. */
  fitPlaces: boolean;
}

/** What is heard of the image, before it is kept. */
interface Imaging {
  /** The band that is asked for. */
  imageBand: { hz: number; octaves: number };
  imageSide: 'both' | 'left' | 'right';
  /** Where it stands: two places where it falls in two. */
  imageMarks: [number, number];
  imageFar: boolean;
  imageHigh: boolean;
  /** The job that plays the band that is asked for, 0 until it was begun. */
  imageJob: number;
  /** Whether bands come in any order and are not named. */
  imageBlind: boolean;
  imageLevel: number;
  imageSound: 'noise' | 'tone' | 'pulses';
  /** Whether bands play one after another, until they are stopped. */
  imageOn: boolean;
  /** Which of what mends is laid over the arcs; none below 0. */
  imageTry: number;
}

/** What is listened to. */
interface Listening {
  listenSong: number;
  /** Whether the next piece follows. */
  listenOn: boolean;
  listenLevel: number;
  /** What X was the last time, and what it was taken for. */
  listenTold: { was: 'a' | 'b'; said: 'a' | 'b' } | null;
}

/** What came over the socket, and what was not kept yet. */
interface Linked {
  draft: Edit[];
  picture: Picture | null;
  growing: Growing | null;
  /** What a job does, as long as its figures alone change: whoever shows those asks for `moment`. */
  progress: Progress | null;
  /** The same with the figures of this moment: how far, how long, how loud. */
  moment: Progress | null;
  linked: boolean;
  /** Whether the server has another page than this one by now. */
  outdated: boolean;
  error: string | null;
  /** How a text that was brought in was read, and what was left out of it. */
  understood: string | null;
}

/** The browser's own sound, where this window has it open. */
interface Sounding {
  microphone: Microphone;
}

/** How the tune leaves. */
interface Leaving {
  /** The fixed-point format whose rounding is looked at, as `2.30`; empty for none. */
  fixed: string;
}

/** How the page itself is wanted. */
interface Wanted {
  mode: Mode;
  hints: boolean;
  noticed: boolean;
}

/** What `draft` is while nothing is tried: always the same, so that whoever compares sees no change. */
export const NO_DRAFT: Edit[] = [];

export type WindowState = Looking &
  Measuring &
  Fitting &
  Imaging &
  Listening &
  Linked &
  Sounding &
  Leaving &
  Wanted & { set: (values: Partial<Omit<WindowState, 'set'>>) => void };
type Slice<T> = StateCreator<WindowState, [], [], T>;

const looking: Slice<Looking> = () => ({
  selection: '',
  seam: '',
  length: 'mm',
  band: null,
  width: 'Q',
  thirds: false,
  taps: false,
  smoothing: 6,
  zoom: { axis: [20, 20000], ranges: {} },
  zoomed: [],
  span: null,
  low: 40,
  high: 16000,
  compare: null,
  before: false,
  ranged: false,
  below: '',
  gate: 0,
  lens: {
    before_ms: 0,
    shape: 'half-cosine',
    cycles: 0,
    unwound: true,
    unit: 'db',
    decay_ms: 0,
    window_ms: 0,
    rise_ms: 0,
    room: false,
  },
  depth: -40,
});

const measuring: Slice<Measuring> = () => ({
  part: 'device',
  sourcePart: 'feeds',
  handoverPart: 'processor',
  sourceSum: 'sum',
  sourceWires: [1, 2],
  sourceInput: 0,
  tab: 'record',
  loaded: { loading: 'as it is', amount: 0 },
  note: '',
  angle: 0,
  olderTake: null,
  proofTake: null,
  proofChannels: null,
  proofMethod: 'sweep',
  proofPart: 'measure',
  live: {
    size: 32768,
    window: 'hann',
    overlap: -1,
    seconds: 1,
    frames: 0,
    follow: true,
    track: false,
    hold: false,
    microphones: [],
    below: '',
  },
  listen: {
    input: 0,
    sound: 'nothing',
    size: 32768,
    window: 'hann',
    seconds: 1,
    frames: 0,
    fraction: 3,
    hold: false,
    record_s: 0,
    log: false,
  },
  rawTake: null,
  rawShown: [0, 0],
  rawMarked: [0, 0],
});

const fitting: Slice<Fitting> = () => ({
  bending: false,
  propose: false,
  searching: false,
  offered: null,
  together: false,
  leftAlone: null,
  limits: { count: null, boost_db: 3, cut_db: 12, most_q: 6, low_hz: 20, high_hz: 20000, worst_db: 6, weights: [] },
  wish: {
    phase: 'linear',
    magnitude: false,
    low_hz: 200,
    high_hz: 16000,
    taps: 2047,
    boost_db: 4,
    cut_db: 12,
    tolerance_db: 0,
    bounds: [],
    beyond_db: 1,
    smoothing: 12,
    here: false,
    group_delay_ms: 5,
    pre_ms: 3,
    pre_db: -40,
    latency_ms: 0,
    cycles: 6,
    gate_ms: 0,
  },
  fitPlaces: false,
});

const imaging: Slice<Imaging> = () => ({
  imageBand: { hz: 125, octaves: 1 },
  imageSide: 'both',
  imageMarks: [0, 0],
  imageFar: false,
  imageHigh: false,
  imageBlind: false,
  imageLevel: -24,
  imageSound: 'noise',
  imageJob: 0,
  imageOn: false,
  imageTry: -1,
});

const listening: Slice<Listening> = () => ({ listenSong: -2, listenOn: false, listenLevel: -24, listenTold: null });

const linked: Slice<Linked> = () => ({
  draft: NO_DRAFT,
  picture: null,
  growing: null,
  progress: null,
  moment: null,
  linked: true,
  outdated: false,
  error: null,
  understood: null,
});

const leaving: Slice<Leaving> = () => ({ fixed: '' });

const sounding: Slice<Sounding> = () => ({ microphone: CLOSED });

const wanted: Slice<Wanted> = () => ({
  mode: localStorage.getItem('imbrix-mode') === 'light' ? 'light' : 'dark',
  hints: localStorage.getItem('imbrix-hints') !== 'off',
  noticed: false,
});

export const useWindow = create<WindowState>((set, get, store) => ({
  ...looking(set, get, store),
  ...measuring(set, get, store),
  ...fitting(set, get, store),
  ...imaging(set, get, store),
  ...listening(set, get, store),
  ...linked(set, get, store),
  ...sounding(set, get, store),
  ...leaving(set, get, store),
  ...wanted(set, get, store),
  set: (values) => set(values),
}));

/** Some of the window's state: a component that takes part of it is drawn anew for that part only. */
export function usePick<K extends keyof WindowState>(...keys: K[]): Pick<WindowState, K> {
  return useWindow(useShallow((all) => Object.fromEntries(keys.map((key) => [key, all[key]])) as Pick<WindowState, K>));
}

/** What a job does at this moment, its figures with it. */
export const useMoment = (begun: Progress): Progress => useWindow((state) => state.moment ?? begun);

/** The name of this window, by which the server knows its drafts from those of others. */
export const WINDOW = Math.random().toString(36).slice(2, 12);
