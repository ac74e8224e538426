// The rows of objects and channels, with their keys.
import { type CurveView } from '../../engine/engine';
import { drawSum, drawLane } from '../graph/drawLanes';
import { stamp, ring } from './drawPips';
import { firstAt, mergedPips, ROW, type ChannelRow, type HeadRow } from '../layout';
import { endKinds } from '../graph/ends.svelte';
import { type Palette, type TracksModel, laneArea, tagAreas, seen } from '../model';

export function drawHead(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, row: HeadRow, top: number) {
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

export function drawChannel(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, row: ChannelRow, top: number) {
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

function tags(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, curve: CurveView, middle: number) {
  const areas = tagAreas(m, curve, middle - ROW / 2);
  g.font = '12px "Inter Variable", sans-serif';
  for (const end of ['before', 'after'] as const) {
    const e = curve[end];
    if (e.kind === 'hold' && m.time.pixelsPerFrame < 1.2) continue;
    const a = areas[end];
    const text = `${endKinds.find((k) => k.kind === e.kind)!.tag}${e.count ? ` ${e.count}×` : ''}`;
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
