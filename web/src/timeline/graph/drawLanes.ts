// Curves in their lanes, over one another, and their speed.
import { type ChannelView, type CurveView } from '../../engine/engine';
import { stamp } from '../rows/drawPips';
import { verticals } from '../ruler/drawRuler';
import { niceStep, yOf, type ChannelRow, type ValueScale } from '../layout';
import {
  type Palette,
  type TracksModel,
  bodyTop,
  type Overlay,
  type Lane,
  areaOf,
  scaleIn,
  laneArea,
  scaleOf,
  seen,
} from '../model';

/** What comes of all layers together, faint behind the curve of the one that is worked in, with its own scale where the two lie far apart. */
export function drawSum(
  g: CanvasRenderingContext2D,
  m: TracksModel,
  p: Palette,
  row: ChannelRow,
  curve: CurveView | null,
) {
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

export function drawLane(
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
export function drawOverlay(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, o: Overlay) {
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
