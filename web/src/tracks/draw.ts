// Draws the tracks on a canvas. Takes data and a context, keeps nothing, works out no value of the animation:
// Bézier segments are drawn from control points, everything else from samples, and both come from the engine.
import type { ChannelView, CurveView, Family, KeyView, Segment } from '../engine/engine';
import {
  firstAt,
  mergedPips,
  niceStep,
  ROW,
  rowAt,
  TimeScale,
  valueRange,
  yOf,
  type ChannelRow,
  type HeadRow,
  type Row,
  type ValueScale,
} from './layout';

export interface Palette {
  text: string;
  faint: string;
  line: string;
  back: string;
  /** Of the dots where something was found. */
  warning: string;
  lane: string;
  accent: string;
  /** Of the frames that are kept. */
  kept: string;
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
  frame: number;
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
  /** The frames that are evaluated and kept: the first and the last of each run. */
  kept: readonly number[];
  markers: readonly { id: string; frame: number; name: string; color?: string }[];
  /** The large lane at the bottom in which curves lie over one another; null where there is none. */
  overlay: Overlay | null;
  lasso: readonly { x: number; y: number }[] | null;
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

export function drawTracks(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.clearRect(0, 0, m.width, m.height);
  g.fillStyle = p.back;
  g.fillRect(0, 0, m.width, m.height);
  g.save();
  g.beginPath();
  g.rect(0, bodyTop(m), m.width, (m.overlay?.top ?? m.height) - bodyTop(m));
  g.clip();
  shadeOutside(g, m, p);
  verticals(g, m, p);
  for (let i = rowAt(m.rows, m.scroll); i < m.rows.length; i++) {
    const row = m.rows[i];
    const top = HEAD + row.top - m.scroll;
    if (top > (m.overlay?.top ?? m.height)) break;
    g.strokeStyle = p.line;
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(0, Math.round(top + row.height) - 0.5);
    g.lineTo(m.width, Math.round(top + row.height) - 0.5);
    g.stroke();
    if (row.kind === 'head') drawHead(g, m, p, row, top);
    else drawChannel(g, m, p, row, top);
  }
  g.restore();
  if (m.overlay) drawOverlay(g, m, p, m.overlay);
  m.sounds.forEach((sound, i) => drawSound(g, m, p, sound, HEAD + i * SOUND));
  ruler(g, m, p);
  playhead(g, m, p);
  if (m.lasso && m.lasso.length > 1) {
    g.strokeStyle = p.accent;
    g.fillStyle = p.accent + '22';
    g.beginPath();
    for (const at of m.lasso) g.lineTo(at.x, at.y);
    g.closePath();
    g.fill();
    g.stroke();
  }
  if (m.box) {
    g.strokeStyle = p.accent;
    g.fillStyle = p.accent + '22';
    const { x0, y0, x1, y1 } = m.box;
    g.fillRect(x0, y0, x1 - x0, y1 - y0);
    g.strokeRect(x0 + 0.5, y0 + 0.5, x1 - x0, y1 - y0);
  }
}

function shadeOutside(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.fillStyle = p.line;
  g.globalAlpha = 0.35;
  const [left, right] = [m.time.x(m.first), m.time.x(m.last)];
  if (left > 0) g.fillRect(0, HEAD, left, m.height);
  if (right < m.width) g.fillRect(right, HEAD, m.width - right, m.height);
  g.globalAlpha = 1;
}

function verticals(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  const step = niceStep(m.time.pixelsPerFrame, 60, true);
  g.strokeStyle = p.line;
  g.globalAlpha = 0.6;
  g.beginPath();
  for (let f = Math.ceil(m.time.frame(0) / step) * step; m.time.x(f) < m.width; f += step) {
    const x = Math.round(m.time.x(f)) + 0.5;
    g.moveTo(x, HEAD);
    g.lineTo(x, m.height);
  }
  g.stroke();
  g.globalAlpha = 1;
}

function ruler(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.fillStyle = p.lane;
  g.fillRect(0, 0, m.width, HEAD);
  // The range that plays is a bracket.
  const [left, right] = [m.time.x(m.playFirst), m.time.x(m.playLast)];
  g.fillStyle = p.accent;
  g.globalAlpha = 0.16;
  g.fillRect(left, 0, right - left, RULER);
  g.globalAlpha = 1;
  for (const [x, side] of [
    [left, 1],
    [right, -1],
  ]) {
    g.fillRect(Math.round(x) - (side > 0 ? 0 : 3), 0, 3, 14);
    g.fillRect(Math.round(x) - (side > 0 ? 0 : 9), 0, 9, 3);
  }
  g.font = '12px "Inter Variable", sans-serif';
  g.textBaseline = 'alphabetic';
  const step = niceStep(m.time.pixelsPerFrame, 54, true);
  const small = step % 5 === 0 ? step / 5 : step / 2;
  g.strokeStyle = p.faint;
  g.beginPath();
  for (let f = Math.ceil(m.time.frame(0) / small) * small; m.time.x(f) < m.width; f += small) {
    const x = Math.round(m.time.x(f)) + 0.5;
    g.moveTo(x, f % step === 0 ? RULER - 9 : RULER - 5);
    g.lineTo(x, RULER);
  }
  g.stroke();
  for (let f = Math.ceil(m.time.frame(-30) / step) * step; m.time.x(f) < m.width; f += step) {
    const x = m.time.x(f);
    g.fillStyle = p.text;
    g.fillText(String(f), x + 4, RULER - 13);
    if (step * m.time.pixelsPerFrame > 80) {
      g.fillStyle = p.faint;
      g.fillText(`${(f / m.rate).toFixed(2)} s`, x + 4 + g.measureText(String(f)).width + 6, RULER - 13);
    }
  }
  // What is evaluated and kept.
  g.fillStyle = p.kept;
  for (let i = 0; i < m.kept.length; i += 2) {
    const x = m.time.x(m.kept[i] - 0.5);
    g.fillRect(x, RULER - 2, m.time.x(m.kept[i + 1] + 0.5) - x, 2);
  }
  // Markers hang from the top, with their names.
  for (const marker of m.markers) {
    const x = m.time.x(marker.frame);
    if (x < -120 || x > m.width + 10) continue;
    const colour = p.markers[marker.color ?? 'amber'] ?? p.accent;
    g.fillStyle = colour;
    g.beginPath();
    g.moveTo(x - 5, RULER - 1);
    g.lineTo(x + 5, RULER - 1);
    g.lineTo(x + 5, RULER + 6);
    g.lineTo(x, RULER + 11);
    g.lineTo(x - 5, RULER + 6);
    g.fill();
    if (marker.name) {
      g.font = '12px "Inter Variable", sans-serif';
      g.fillText(marker.name.length > 24 ? `${marker.name.slice(0, 23)}…` : marker.name, x + 8, RULER + 11);
    }
  }
  // A dot where the checks have found something.
  for (let i = firstAt(m.findings, m.time.frame(-5), (f) => f); i < m.findings.length; i++) {
    const x = m.time.x(m.findings[i]);
    if (x > m.width + 5) break;
    g.fillStyle = p.warning;
    g.beginPath();
    g.arc(x, RULER + 2, 4, 0, 2 * Math.PI);
    g.fill();
    g.strokeStyle = p.lane;
    g.stroke();
  }
  // Under the ruler: the span of the selected keys, with a grip at each end.
  if (m.range) {
    const [a, b] = [m.time.x(m.range.first), m.time.x(m.range.last)];
    g.fillStyle = p.accent;
    g.globalAlpha = 0.35;
    g.fillRect(a, RULER + 5, b - a, 8);
    g.globalAlpha = 1;
    for (const x of [a, b]) {
      g.beginPath();
      g.roundRect(x - 5, RULER + 2, 10, 14, 4);
      g.fill();
    }
  }
  g.fillStyle = p.line;
  g.fillRect(0, HEAD - 1, m.width, 1);
}

function drawSound(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, sound: SoundStrip, top: number) {
  g.fillStyle = p.lane;
  g.fillRect(0, top, m.width, SOUND);
  const [left, right] = [m.time.x(sound.start), m.time.x(sound.start + sound.seconds * m.rate)];
  const [from, to] = [Math.max(0, Math.floor(left)), Math.min(m.width, Math.ceil(right))];
  if (to > from) {
    g.globalAlpha = sound.muted ? 0.35 : 1;
    const colour = p.markers.moss;
    g.fillStyle = `color-mix(in srgb, ${colour} 22%, ${p.back})`;
    g.fillRect(from, top + 1, to - from, SOUND - 2);
    g.fillStyle = `color-mix(in srgb, ${colour} 45%, ${p.back})`;
    g.fillRect(from, top + 1, to - from, SOUND_BAR - 1);
    g.fillStyle = colour;
    const middle = top + SOUND_BAR + (SOUND - SOUND_BAR) / 2;
    const unit = ((SOUND - SOUND_BAR) / 2 - 2) / (sound.most || 1);
    for (let x = from; sound.between && x < to; x++) {
      const at = (px: number) => (m.time.frame(px) - sound.start) / m.rate;
      const range = sound.between(at(x), at(x + 1));
      if (!range) continue;
      g.fillRect(x, middle - range[1] * unit, 1, Math.max(1, (range[1] - range[0]) * unit));
    }
    g.save();
    g.beginPath();
    g.rect(from, top, to - from, SOUND_BAR);
    g.clip();
    g.fillStyle = p.text;
    g.font = '12px "Inter Variable", sans-serif';
    const state = sound.muted ? ' (muted)' : sound.between ? '' : ' (coming…)';
    g.fillText(sound.name + state, from + 6, top + SOUND_BAR - 3);
    g.restore();
    g.globalAlpha = 1;
  }
  g.fillStyle = p.line;
  g.fillRect(0, top + SOUND - 1, m.width, 1);
}

function playhead(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  const x = Math.round(m.time.x(m.frame));
  g.fillStyle = p.accent;
  g.fillRect(x - 1, 0, 2, m.height);
  const text = String(m.frame);
  g.font = '600 12px "Inter Variable", sans-serif';
  const w = Math.max(24, g.measureText(text).width + 12);
  g.beginPath();
  g.roundRect(x - w / 2, 1, w, 18, 6);
  g.fill();
  g.fillStyle = p.back;
  g.textAlign = 'center';
  g.fillText(text, x, 14.5);
  g.textAlign = 'start';
}

function drawHead(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, row: HeadRow, top: number) {
  g.fillStyle = p.lane;
  g.globalAlpha = 0.7;
  g.fillRect(0, top, m.width, row.height - 1);
  g.globalAlpha = 1;
  const pips = mergedPips(row, (a) => m.keysOf(a));
  let previous = -Infinity;
  for (let i = firstAt(pips, m.time.frame(-10), (p) => p.frame); i < pips.length; i++) {
    const pip = pips[i];
    const x = m.time.x(pip.frame);
    if (x > m.width + 10) break;
    // What would lie on the same pixel is there already.
    if (x - previous < 1) continue;
    // Zoomed out, pips that would lie on one another become a thin line each.
    const tight = x - previous < 5;
    previous = x;
    const chosen = pip.keys.every((k) => m.selected.has(`${k.address}@${k.frame}`));
    const h = 18;
    if (tight) {
      g.fillStyle = p.family[pip.families[0]];
      g.fillRect(x - 1, top + 4, 2, h);
      continue;
    }
    const each = h / pip.families.length;
    g.save();
    g.beginPath();
    g.roundRect(x - 5, top + 4, 10, h, 5);
    if (chosen) ring(g, p);
    g.clip();
    pip.families.forEach((family, i) => {
      g.fillStyle = p.family[family];
      g.globalAlpha = chosen ? 1 : 0.75;
      g.fillRect(x - 5, top + 4 + i * each, 10, each);
    });
    g.restore();
  }
}

function ring(g: CanvasRenderingContext2D, p: Palette) {
  g.strokeStyle = p.text;
  g.lineWidth = 4;
  g.stroke();
  g.lineWidth = 1;
}

function drawChannel(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, row: ChannelRow, top: number) {
  const curve = m.curve(row.address);
  const colour = p.family[row.channel.family];
  if (row.open) {
    const { top: laneTop, height } = laneArea(row, m.scroll);
    g.fillStyle = p.lane;
    g.globalAlpha = 0.45;
    g.fillRect(0, laneTop - 4, m.width, height + 8);
    g.globalAlpha = 1;
    drawSum(g, m, p, row, curve);
  }
  if (!curve) return;
  const middle = top + ROW / 2;
  drawKeys(g, m, p, row, curve, colour, middle);
  // What has no say lies behind a veil.
  if (!m.muted.has(row.address)) return;
  g.globalAlpha = 0.6;
  g.fillStyle = p.back;
  g.fillRect(0, top, m.width, row.height - 1);
  g.globalAlpha = 1;
}

function drawKeys(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  p: Palette,
  row: ChannelRow,
  curve: CurveView,
  colour: string,
  middle: number,
) {
  spans(g, m, curve, colour, middle);
  tags(g, m, p, curve, middle);
  if (row.open) drawLane(g, m, p, { address: row.address, row }, curve, colour);
  let previous = -Infinity;
  const [first, last] = seen(m, curve);
  const [ticks, chosenTicks] = [new Path2D(), new Path2D()];
  for (let i = first; i < last; i++) {
    const key = curve.keys[i];
    const x = m.time.x(key.frame);
    const chosen = m.selected.has(`${row.address}@${key.frame}`);
    if (x - previous < 1 && !chosen) continue;
    // Where keys lie so close that one would cover the next, each is a line; a chosen one a longer one that can be told from it.
    if (x - previous < 6 && (!chosen || nextIsNear(m, curve, i, x))) {
      if (chosen) chosenTicks.rect(Math.round(x) - 1, middle - 8, 2, 16);
      else ticks.rect(Math.round(x) - 1, middle - 6, 2, 12);
    } else {
      stamp(g, p, x, middle, i > 0 ? curve.keys[i - 1] : null, key, chosen, colour);
    }
    previous = x;
  }
  g.fillStyle = colour;
  g.fill(ticks);
  g.fillStyle = p.text;
  g.fill(chosenTicks);
}

const nextIsNear = (m: TracksModel, curve: CurveView, i: number, x: number) =>
  i + 1 >= curve.keys.length || m.time.x(curve.keys[i + 1].frame) - x < 6;

/** The keys that can be seen, from the first up to and without the last. */
function seen(m: TracksModel, curve: CurveView): [number, number] {
  const first = firstAt(curve.keys, m.time.frame(-10), (k) => k.frame);
  return [first, firstAt(curve.keys, m.time.frame(m.width + 10), (k) => k.frame)];
}

/** A line from key to key: solid where the value holds still by a hold, thin where it moves. */
function spans(g: CanvasRenderingContext2D, m: TracksModel, curve: CurveView, colour: string, y: number) {
  g.fillStyle = colour;
  const [first, last] = seen(m, curve);
  // What looks alike and follows on one another is one piece: a row may have hundreds.
  let from = NaN;
  let to = NaN;
  let wasStill = false;
  const draw = () => {
    if (!(to > from)) return;
    const height = wasStill ? 6 : 1.5;
    g.globalAlpha = wasStill ? 0.2 : 0.5;
    g.fillRect(from, y - height / 2, to - from, height);
  };
  for (let i = Math.max(0, first - 1); i < Math.min(last, curve.keys.length - 1); i++) {
    const [a, b] = [curve.keys[i], curve.keys[i + 1]];
    const end = m.time.x(b.frame);
    // Zoomed out, many stretches lie on one pixel.
    if (end - to < 1) continue;
    const still = a.segment === 'hold' || (a.value === b.value && a.out[1] === 0 && b.in[1] === 0);
    if (still !== wasStill || Number.isNaN(from)) {
      draw();
      from = Number.isNaN(from) ? m.time.x(a.frame) : to;
      wasStill = still;
    }
    to = end;
  }
  draw();
  g.globalAlpha = 1;
}

type Edge = 'round' | 'point' | 'square' | 'wave';

const edgeOf = (segment: Segment | null, handle: string): Edge =>
  segment === null
    ? 'round'
    : segment === 'hold'
      ? 'square'
      : segment === 'linear'
        ? 'point'
        : segment === 'bezier'
          ? handle === 'straight'
            ? 'point'
            : 'round'
          : 'wave';

/** A capsule in two halves: how the curve arrives, and how it leaves. */
export function pip(
  g: CanvasRenderingContext2D,
  p: Palette,
  x: number,
  y: number,
  before: KeyView | null,
  key: KeyView,
  chosen: boolean,
  colour: string,
  back: string,
) {
  const [w, h] = [7, 7];
  g.beginPath();
  g.moveTo(x, y - h);
  side(g, x, y, w, h, edgeOf(key.segment, key.outKind.kind), 1);
  side(g, x, y, w, h, edgeOf(before?.segment ?? null, key.inKind.kind), -1);
  g.closePath();
  if (chosen) ring(g, p);
  g.fillStyle = chosen ? colour : back;
  g.fill();
  g.strokeStyle = colour;
  g.lineWidth = 2;
  g.stroke();
  g.lineWidth = 1;
  g.beginPath();
  g.moveTo(x, y - h + 2);
  g.lineTo(x, y + h - 2);
  g.strokeStyle = chosen ? back : colour;
  g.stroke();
}

// The pips of one look are drawn once and then stamped.
const stamps = new Map<string, HTMLCanvasElement | null>();
const STAMP = 28;

function stamp(
  g: CanvasRenderingContext2D,
  p: Palette,
  x: number,
  y: number,
  before: KeyView | null,
  key: KeyView,
  chosen: boolean,
  colour: string,
) {
  const looks = [
    edgeOf(before?.segment ?? null, key.inKind.kind),
    edgeOf(key.segment, key.outKind.kind),
    chosen,
    colour,
    p.back,
    p.text,
    globalThis.devicePixelRatio ?? 1,
  ].join();
  let made = stamps.get(looks);
  if (made === undefined) {
    made = null;
    const ratio = globalThis.devicePixelRatio ?? 1;
    const canvas = typeof document === 'undefined' ? null : document.createElement('canvas');
    // In the same memory as what it is put on.
    const { willReadFrequently } = g.getContextAttributes?.() ?? {};
    const own = canvas?.getContext?.('2d', { willReadFrequently });
    if (canvas && own) {
      [canvas.width, canvas.height] = [STAMP * ratio, STAMP * ratio];
      own.scale(ratio, ratio);
      pip(own, p, STAMP / 2, STAMP / 2, before, key, chosen, colour, p.back);
      made = canvas;
    }
    if (stamps.size > 500) stamps.clear();
    stamps.set(looks, made);
  }
  if (made) g.drawImage(made, x - STAMP / 2, y - STAMP / 2, STAMP, STAMP);
  else pip(g, p, x, y, before, key, chosen, colour, p.back);
}

// Down the right side for direction 1, up the left side for −1.
function side(g: CanvasRenderingContext2D, x: number, y: number, w: number, h: number, edge: Edge, d: 1 | -1) {
  const [from, to] = d > 0 ? [y - h, y + h] : [y + h, y - h];
  if (edge === 'round') g.bezierCurveTo(x + d * w * 1.35, from, x + d * w * 1.35, to, x, to);
  else if (edge === 'point') {
    g.lineTo(x + d * w, y);
    g.lineTo(x, to);
  } else if (edge === 'square') {
    g.lineTo(x + d * (w - 1), from);
    g.lineTo(x + d * (w - 1), to);
    g.lineTo(x, to);
  } else {
    const s = (to - from) / 4;
    g.lineTo(x + d * 3, from);
    for (let i = 0; i < 4; i++)
      g.quadraticCurveTo(x + d * (i % 2 ? 2 : 9), from + (i + 0.5) * s, x + d * 4, from + (i + 1) * s);
    g.lineTo(x, to);
  }
}

export const extrapolationWords: Record<string, string> = {
  hold: 'hold',
  linear: 'linear',
  loop: 'loop',
  loopOffset: 'offset',
  pingPong: 'ping-pong',
};

/** Where the tags are that say what happens before the first and after the last key. */
export function tagAreas(m: TracksModel, curve: CurveView, top: number) {
  const width = 62;
  const left = m.time.x(curve.keys[0].frame) - width - 14;
  const right = m.time.x(curve.keys[curve.keys.length - 1].frame) + 14;
  const at = (x: number) => ({ x: Math.min(Math.max(x, 2), m.width - width - 2), y: top + 4, width, height: 18 });
  return { before: at(left), after: at(right) };
}

function tags(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, curve: CurveView, middle: number) {
  const areas = tagAreas(m, curve, middle - ROW / 2);
  g.font = '12px "Inter Variable", sans-serif';
  for (const end of ['before', 'after'] as const) {
    const e = curve[end];
    if (e.kind === 'hold' && m.time.pixelsPerFrame < 1.2) continue;
    const a = areas[end];
    const text = `${extrapolationWords[e.kind]}${e.count ? ` ${e.count}×` : ''}`;
    g.globalAlpha = e.kind === 'hold' ? 0.35 : 0.95;
    g.strokeStyle = p.faint;
    g.fillStyle = p.lane;
    g.beginPath();
    g.roundRect(a.x, a.y, a.width, a.height, 9);
    g.fill();
    g.stroke();
    g.fillStyle = p.text;
    g.textAlign = 'center';
    g.fillText(text, a.x + a.width / 2, a.y + 13.5);
    g.textAlign = 'start';
    g.globalAlpha = 1;
  }
}

/** What comes of all layers together, faint behind the curve of the one that is worked in, with its own scale where the two lie far apart. */
function drawSum(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, row: ChannelRow, curve: CurveView | null) {
  const [from, to] = [m.time.frame(0), m.time.frame(m.width)];
  const count = Math.min(800, Math.max(2, Math.ceil(m.width / 2)));
  const step = (to - from) / (count - 1);
  const sum = m.sum(row.address, from, step, count);
  if (!sum) return;
  const { top, height } = laneArea(row, m.scroll);
  let [low, high] = [Infinity, -Infinity];
  for (const v of sum) [low, high] = [Math.min(low, v), Math.max(high, v)];
  const pad = Math.max(1e-3, (high - low) * 0.14);
  const own = curve && scaleOf(m, row.address, curve);
  const fits = own && low >= own.low - (own.high - own.low) && high <= own.high + (own.high - own.low);
  const scale = fits ? own : { low: low - pad, high: high + pad };
  g.save();
  g.beginPath();
  g.rect(0, Math.max(bodyTop(m), top - 4), m.width, height + 8);
  g.clip();
  g.strokeStyle = p.text;
  g.globalAlpha = 0.34;
  g.lineWidth = 3;
  g.beginPath();
  sum.forEach((v, i) => g.lineTo(m.time.x(from + i * step), yOf(v, scale, top, height)));
  g.stroke();
  g.globalAlpha = 1;
  g.fillStyle = p.faint;
  g.font = '12px "Inter Variable", sans-serif';
  g.textAlign = 'end';
  g.fillText(fits ? 'sum of all layers' : 'sum of all layers, in its own scale', m.width - 8, top + height - 2);
  g.restore();
}

function drawLane(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  p: Palette,
  lane: Lane,
  curve: CurveView,
  colour: string,
) {
  const { top, height } = areaOf(m, lane);
  const scale = scaleIn(m, lane, curve);
  g.save();
  g.beginPath();
  g.rect(0, Math.max(bodyTop(m), top - 8), m.width, height + 16);
  g.clip();
  if (lane.row) {
    values(g, m, p, scale, top, height);
  }
  const x = m.time.x;
  const y = (v: number) => yOf(v, scale, top, height);
  continuation(g, m, lane.address, curve, colour, y);

  g.strokeStyle = colour;
  g.lineWidth = 2;
  g.beginPath();
  const [first, last] = seen(m, curve);
  const start = curve.keys[Math.max(0, first - 1)];
  g.moveTo(x(start.frame), y(start.value));
  let drawn = -Infinity;
  for (let i = Math.max(0, first - 1); i < Math.min(last, curve.keys.length - 1); i++) {
    const [a, b] = [curve.keys[i], curve.keys[i + 1]];
    // Closer than half a pixel a straight line is all that can be seen.
    if (x(b.frame) - drawn < 0.5) continue;
    if (x(b.frame) - x(a.frame) < 0.5) {
      drawn = x(b.frame);
      g.lineTo(x(b.frame), y(b.value));
      continue;
    }
    drawn = x(b.frame);
    const [bx, by] = [x(b.frame), y(b.value)];
    if (a.segment === 'bezier') {
      g.bezierCurveTo(x(a.frame + a.out[0]), y(a.value + a.out[1]), x(b.frame + b.in[0]), y(b.value + b.in[1]), bx, by);
    } else if (a.segment === 'hold') {
      g.lineTo(bx, y(a.value));
      g.lineTo(bx, by);
    } else if (a.samples) {
      const step = (b.frame - a.frame) / (a.samples.length - 1);
      a.samples.forEach((v, n) => g.lineTo(x(a.frame + n * step), y(v)));
    } else g.lineTo(bx, by);
  }
  g.stroke();
  g.lineWidth = 1;

  let previous = -Infinity;
  for (let i = first; i < last; i++) {
    const key = curve.keys[i];
    const chosen = m.selected.has(`${lane.address}@${key.frame}`);
    if (x(key.frame) - previous < 2 && !chosen) continue;
    previous = x(key.frame);
    const [kx, ky] = [x(key.frame), y(key.value)];
    if (chosen) {
      for (const [end, shown] of [
        [key.in, i > 0 && curve.keys[i - 1].segment === 'bezier'],
        [key.out, i < curve.keys.length - 1 && key.segment === 'bezier'],
      ] as [[number, number], boolean][]) {
        if (!shown) continue;
        const [hx, hy] = [x(key.frame + end[0]), y(key.value + end[1])];
        g.strokeStyle = p.text;
        g.globalAlpha = 0.6;
        g.beginPath();
        g.moveTo(kx, ky);
        g.lineTo(hx, hy);
        g.stroke();
        g.globalAlpha = 1;
        g.fillStyle = p.back;
        g.lineWidth = 2;
        g.beginPath();
        g.arc(hx, hy, 5, 0, 2 * Math.PI);
        g.fill();
        g.stroke();
        g.lineWidth = 1;
      }
    }
    stamp(g, p, kx, ky, i > 0 ? curve.keys[i - 1] : null, key, chosen, colour);
  }
  g.restore();
}

/** Several curves over one another, and their speed below. */
function drawOverlay(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, o: Overlay) {
  g.save();
  g.beginPath();
  g.rect(0, o.top, m.width, o.height);
  g.clip();
  g.fillStyle = p.lane;
  g.fillRect(0, o.top, m.width, o.height);
  g.fillStyle = p.back;
  g.globalAlpha = 0.55;
  g.fillRect(0, o.top, m.width, o.height);
  g.globalAlpha = 1;
  verticals(g, m, p);
  g.fillStyle = p.line;
  g.fillRect(0, o.top, m.width, 2);
  const curves = o.channels.flatMap((c) => {
    const curve = m.curve(c.address);
    return curve ? [{ channel: c, curve, lane: { address: c.address, row: null } }] : [];
  });
  const first = curves[0];
  if (first) {
    const { top, height } = areaOf(m, first.lane);
    if (o.scale || curves.length === 1) values(g, m, p, scaleIn(m, first.lane, first.curve), top, height);
  }
  curves.forEach(({ channel, curve, lane }, i) => {
    drawLane(g, m, p, lane, curve, shadeOf(p, channel, i, curves.length));
  });
  g.restore();
  if (o.speed > 0) drawSpeed(g, m, p, o, curves);
}

/** Curves of one family are told apart by how bright they are, and by their dashes in the key at the side. */
export function shadeOf(p: Palette, channel: ChannelView, i: number, count: number) {
  const axis = /\.([xyzw])$/.exec(channel.path)?.[1] ?? 'x';
  const lighter = { x: 0, y: 26, z: 52, w: 68 }[axis] ?? (count > 1 ? (60 * i) / count : 0);
  return lighter === 0
    ? p.family[channel.family]
    : `color-mix(in oklab, ${p.family[channel.family]}, ${p.text} ${lighter}%)`;
}

// Working them out is the engine's, and the same until the curve or the part of time is another.
const speeds = new WeakMap<CurveView, { of: string; speed: number[]; acceleration: number[] }>();

function speedOf(m: TracksModel, curve: CurveView, address: string, from: number, step: number, count: number) {
  const of = `${from} ${step} ${count}`;
  let known = speeds.get(curve);
  if (known?.of !== of) {
    const slopes = (acceleration: boolean) => m.slopes(address, from, step, count, acceleration);
    speeds.set(curve, (known = { of, speed: slopes(false), acceleration: slopes(true) }));
  }
  return known;
}

function drawSpeed(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  p: Palette,
  o: Overlay,
  curves: { channel: ChannelView; curve: CurveView; lane: Lane }[],
) {
  const [top, height] = [o.top + o.height - o.speed, o.speed];
  g.save();
  g.beginPath();
  g.rect(0, top, m.width, height);
  g.clip();
  g.fillStyle = p.line;
  g.fillRect(0, top, m.width, 1);
  const count = Math.min(800, Math.max(2, Math.ceil(m.width / 3)));
  const [from, to] = [m.time.frame(0), m.time.frame(m.width)];
  const step = (to - from) / (count - 1);
  const line = (values: number[], most: number, colour: string, width: number, alpha: number) => {
    g.strokeStyle = colour;
    g.lineWidth = width;
    g.globalAlpha = alpha;
    g.beginPath();
    values.forEach((v, n) => g.lineTo(m.time.x(from + n * step), top + height / 2 - (v / most) * (height / 2 - 6)));
    g.stroke();
    g.globalAlpha = 1;
  };
  g.strokeStyle = p.line;
  g.lineWidth = 1;
  g.beginPath();
  g.moveTo(0, top + height / 2);
  g.lineTo(m.width, top + height / 2);
  g.stroke();
  curves.forEach(({ channel, curve, lane }, i) => {
    const colour = shadeOf(p, channel, i, curves.length);
    const { speed, acceleration } = speedOf(m, curve, lane.address, from, step, count);
    const most = (values: number[]) => values.reduce((a, v) => Math.max(a, Math.abs(v)), 1e-12);
    g.setLineDash([2, 3]);
    line(acceleration, most(acceleration), colour, 1, 0.55);
    g.setLineDash([]);
    line(speed, most(speed), colour, 1.5, 1);
  });
  g.fillStyle = p.faint;
  g.font = '12px "Inter Variable", sans-serif';
  g.fillText('speed, dotted: acceleration', 6, top + 14);
  g.restore();
  g.lineWidth = 1;
}

function values(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  p: Palette,
  scale: ValueScale,
  top: number,
  height: number,
) {
  const step = niceStep(height / (scale.high - scale.low), 34, false);
  g.font = '12px "Inter Variable", sans-serif';
  const digits = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  for (let v = Math.ceil(scale.low / step) * step; v <= scale.high; v += step) {
    const y = Math.round(yOf(v, scale, top, height)) + 0.5;
    g.strokeStyle = p.line;
    g.beginPath();
    g.moveTo(0, y);
    g.lineTo(m.width, y);
    g.stroke();
    g.fillStyle = p.faint;
    g.fillText(v.toFixed(digits), 6, y - 3);
  }
}

/** What comes before the first and after the last key, faint. */
function continuation(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  address: string,
  curve: CurveView,
  colour: string,
  y: (v: number) => number,
) {
  const draw = (from: number, to: number) => {
    if (to <= from) return;
    const count = Math.min(600, Math.max(2, Math.ceil(((to - from) * m.time.pixelsPerFrame) / 2)));
    const step = (to - from) / (count - 1);
    g.beginPath();
    m.sample(address, from, step, count).forEach((v, i) => g.lineTo(m.time.x(from + i * step), y(v)));
    g.stroke();
  };
  g.strokeStyle = colour;
  g.globalAlpha = 0.4;
  g.setLineDash([5, 4]);
  g.lineWidth = 1.5;
  draw(m.time.frame(0), curve.keys[0].frame - 1e-6);
  draw(curve.keys[curve.keys.length - 1].frame, m.time.frame(m.width));
  g.setLineDash([]);
  g.globalAlpha = 1;
  g.lineWidth = 1;
}
