/** The project's state as the server gives it, and the pictures it draws. */
import type { components } from './schema.generated';

export type Edit = components['schemas']['EditsIn']['edits'][number];
export type FitLimits = components['schemas']['FitLimits'];
export type Kind = 'sub' | 'midbass' | 'mid' | 'tweeter' | 'full';
export type Side = 'left' | 'right' | 'both';
export type Stage = 'drivers' | 'seams' | 'voice' | 'proof' | 'handover';
export type BandKind = 'peaking' | 'low_shelf' | 'high_shelf' | 'all_pass';
export type Shape = 'butterworth' | 'linkwitz-riley' | 'bessel';

export interface Driver { id: string; name: string; kind: Kind; side: Side; output: number }
export interface Seam {
  id: string; name: string | null; side: Side; lowers: string[]; uppers: string[]; ways: [Kind, Kind] | null;
}
export interface Crossover { shape: Shape; slope_db: number; corner_hz: number }
export interface Band { kind: BandKind; frequency_hz: number; gain_db: number; q: number }
export interface Channel {
  gain_db: number; inverted: boolean; delay_s: number; muted: boolean;
  high_pass: Crossover | null; low_pass: Crossover | null; bands: Band[];
}
export interface Tune {
  channels: Record<string, Channel>; common: Band[]; solo: string | null;
  tied_ways: string[]; tied_sides: string[]; target: { curve: string; level_db: number };
}
export interface DriverReading {
  take_id: number; low_hz: number; high_hz: number; over_noise_db: number; arrival_ms: number;
  timed: boolean; made: string; method: string;
}
export interface Take {
  id: number; channels: string[]; purpose: 'driver' | 'proof'; method: string; timed: boolean;
  note: string; discarded: boolean; made: string; revision_id: number;
}
export interface Finding {
  kind: string; about: string; says: string; evidence: string; action: string | null; remedy: Edit[];
}
export interface Change { channel: string; what: string; before: string; after: string }
export interface Range { least: number; most: number; step: number }
export interface Project {
  slug: string; name: string; layout: { drivers: Driver[]; seat: 'left' | 'right' }; seams: Seam[];
  grid: number[]; offset_db: number;
  revision: { id: number; number: number; summary: string; name: string | null; can_undo: boolean; can_redo: boolean };
  tune: Tune; guarded: string[]; drivers: Record<string, DriverReading>; takes: Take[]; findings: Finding[];
  targets: { key: string; name: string }[];
  link: {
    unsent: Change[]; all_muted: boolean; slopes: Record<Shape, number[]>; slots: Record<string, string>; active_slot: number | null;
    limits: {
      outputs: number; rate: number; slots: number; bands: number; slope_db: number; gain_db: Range;
      delay_s: Range; corner_hz: Range; band_hz: Range; band_gain_db: Range; q: Range;
    };
  };
  stages: Record<Stage, string>;
}
export interface View {
  stage: Stage; smoothing: number | null; selection: string; seam: string; take: number | null;
  compare: number | null; before: boolean; low_hz: number; high_hz: number;
}
export interface Curve {
  id: string; role: string; label: string; pane: 'main' | 'lower' | 'scan'; channel: string;
  values: Float32Array; x: Float32Array | null;
}
export interface Deviation {
  mean: number; plus_minus: number; worst: number; rms: number; low_hz: number; high_hz: number;
}
export interface Facts {
  seam?: string; delay_ms?: number; path_mm?: number; inverted?: boolean; untimed?: string[];
  loss?: {
    mean: number; worst: number; worst_hz: number; low_hz: number; high_hz: number; null_db: number; null_hz: number;
  } | null;
  deviation?: Deviation; price?: { highest: number; lowest: number }; most_boost_db?: number;
  target_level_db?: number; share_db?: number; measured_at?: string;
  take?: { id: number; channels: string[]; made: string; revision_id: number };
  prediction?: { rms: number; worst: number; mean: number };
}
export interface Picture { seq: number; view: View; tune: Tune; draft: boolean; revision: number; facts: Facts; curves: Curve[] }
export interface Progress {
  stage: 'idle' | 'playing' | 'computing' | 'kept' | 'refused' | 'aborted'; channels: string[];
  purpose: 'driver' | 'proof'; done: number; seconds_left: number; peak_dbfs: number; message: string;
  take_id: number | null; version: number;
}
export interface Offer {
  delay_ms: number; inverted: boolean; change: string; mean_db: number; worst_db: number; edits: Edit[];
}
export interface Revision { id: number; number: number; summary: string; name: string | null; created: string }
