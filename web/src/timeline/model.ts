// What the tracks show, and where it lies.
import { type ChannelView, type CurveView, type Family } from '../engine/engine';
import type { Snapped } from './snapping';
import { TimeScale } from '../stores/timeScale';
import { firstAt, ROW, valueRange, type ChannelRow, type Row, type ValueScale } from './layout';

export interface Palette {
  text: string;
  faint: string;
  line: string;
  back: string;
  /** Of the dots where something was found. */
  warning: string;
  lane: string;
  accent: string;
  family: Record<Family, string>;
  markers: Record<string, string>;
}

export interface TracksModel {
  rows: Row[];
  scroll: number;
  time: TimeScale;
  width: number;
  height: number;
  rate: number;
  first: number;
  last: number;
  playFirst: number;
  playLast: number;
  selected: ReadonlySet<string>;
  curve(address: string): CurveView | null;
  /** The frames of a channel's keys, rising. */
  keysOf(address: string): number[];
  /** Values of a channel at evenly spaced frames, from the engine. */
  sample(address: string, first: number, step: number, count: number): number[];
  /** What all layers together make of a channel at evenly spaced frames; null where there is one only. */
  sum(address: string, first: number, step: number, count: number): number[] | null;
  /** The sounds under the ruler. */
  sounds: readonly SoundStrip[];
  /** Scales that stay while a hand drags. */
  scales: Map<string, ValueScale>;
  box: { x0: number; y0: number; x1: number; y1: number } | null;
  range: { first: number; last: number } | null;
  /** Frames where the checks have found something. */
  findings: readonly number[];
  /** The addresses of the channels whose curves have no say. */
  muted: ReadonlySet<string>;
  markers: readonly { id: string; frame: number; name: string; color?: string }[];
  /** The large lane at the bottom in which curves lie over one another; null where there is none. */
  overlay: Overlay | null;
  lasso: readonly { x: number; y: number }[] | null;
  /** What is dragged has snapped to. */
  toward: { frame: Snapped | null; value: (Snapped & { lane: Lane }) | null } | null;
  /** How fast a channel changes at evenly spaced frames, from the engine. */
  slopes(address: string, first: number, step: number, count: number, acceleration: boolean): number[];
}

/** A sound as it lies in time. */
export interface SoundStrip {
  id: string;
  name: string;
  start: number;
  seconds: number;
  muted: boolean;
  /** The lowest and the highest between two times in seconds; null until it has come. */
  between: ((from: number, to: number) => [number, number] | null) | null;
  /** How far it goes from 0: a quiet one is drawn as high as a loud one. */
  most: number;
}

/** How high a sound is drawn, and the bar at its top that holds its name and moves it. */
export const SOUND = 44;

export const SOUND_BAR = 15;

/** Where the rows begin. */
export const bodyTop = (m: TracksModel) => HEAD + SOUND * m.sounds.length;

/** Several curves in one lane. */
export interface Overlay {
  top: number;
  height: number;
  /** How much of it, from below, is for their speed. */
  speed: number;
  channels: ChannelView[];
  /** All in one scale; null gives each its own. */
  scale: ValueScale | null;
}

/** A lane in which a curve is drawn: that of its row, or the large one. */
export interface Lane {
  address: string;
  row: ChannelRow | null;
}

export const SPEED = 72;

export function areaOf(m: TracksModel, lane: Lane): { top: number; height: number } {
  if (lane.row) return laneArea(lane.row, m.scroll);
  const o = m.overlay!;
  return { top: o.top + 12, height: o.height - o.speed - 24 };
}

export const scaleIn = (m: TracksModel, lane: Lane, curve: CurveView): ValueScale =>
  (!lane.row && m.overlay?.scale) || scaleOf(m, lane.address, curve);

export const RULER = 40;

export const HEAD = RULER + 18;

export function laneArea(row: ChannelRow, scroll: number) {
  return { top: HEAD + row.top - scroll + ROW + 4, height: row.height - ROW - 12 };
}

export function scaleOf(model: TracksModel, address: string, curve: CurveView): ValueScale {
  let scale = model.scales.get(address);
  if (!scale) model.scales.set(address, (scale = valueRange(curve)));
  return scale;
}

/** The keys that can be seen, from the first up to and without the last. */
export function seen(m: TracksModel, curve: CurveView): [number, number] {
  const first = firstAt(curve.keys, m.time.frame(-10), (k) => k.frame);
  return [first, firstAt(curve.keys, m.time.frame(m.width + 10), (k) => k.frame)];
}

/** Where the tags are that say what happens before the first and after the last key. */
export function tagAreas(m: TracksModel, curve: CurveView, top: number) {
  const width = 62;
  const left = m.time.x(curve.keys[0].frame) - width - 14;
  const right = m.time.x(curve.keys[curve.keys.length - 1].frame) + 14;
  const at = (x: number) => ({ x: Math.min(Math.max(x, 2), m.width - width - 2), y: top + 4, width, height: 18 });
  return { before: at(left), after: at(right) };
}
