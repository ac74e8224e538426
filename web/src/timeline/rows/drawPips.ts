// The pips of keys.
import { type KeyView, type Segment } from '../../engine/engine';
import { type Palette } from '../model';

export function ring(g: CanvasRenderingContext2D, p: Palette) {
  g.strokeStyle = p.text;
  g.lineWidth = 4;
  g.stroke();
  g.lineWidth = 1;
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
function pip(
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

export function stamp(
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
