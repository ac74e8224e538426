// What lies under the mouse in the tracks. Pure: the same data that is drawn is asked.
import { HEAD, laneArea, RULER, scaleOf, tagAreas, type TracksModel } from './draw';
import { firstAt, mergedPips, ROW, rowAt, valueOf, yOf, type ChannelRow, type Row } from './layout';

export interface KeyHit {
  address: string;
  frame: number;
}

export type Hit =
  | { kind: 'ruler' }
  | { kind: 'playRange'; end: 'first' | 'last' }
  | { kind: 'grip'; end: 'first' | 'last' | 'middle' }
  | { kind: 'keys'; keys: KeyHit[]; lane: ChannelRow | null }
  | { kind: 'handle'; key: KeyHit; side: 'in' | 'out'; row: ChannelRow }
  | { kind: 'tag'; address: string; end: 'before' | 'after'; x: number; y: number }
  | { kind: 'segment'; key: KeyHit; row: ChannelRow }
  | { kind: 'row'; row: Row }
  | { kind: 'nothing' };

const REACH = 9;

export function hitTest(m: TracksModel, x: number, y: number): Hit {
  if (y < RULER) {
    if (y < 18) {
      if (Math.abs(x - m.time.x(m.playFirst)) < 8) return { kind: 'playRange', end: 'first' };
      if (Math.abs(x - m.time.x(m.playLast)) < 8) return { kind: 'playRange', end: 'last' };
    }
    return { kind: 'ruler' };
  }
  if (y < HEAD) {
    if (m.range) {
      const [a, b] = [m.time.x(m.range.first), m.time.x(m.range.last)];
      if (Math.abs(x - b) < 9) return { kind: 'grip', end: 'last' };
      if (Math.abs(x - a) < 9) return { kind: 'grip', end: 'first' };
      if (x > a && x < b) return { kind: 'grip', end: 'middle' };
    }
    return { kind: 'ruler' };
  }
  const inside = y - HEAD + m.scroll;
  const row = inside < 0 ? undefined : m.rows[rowAt(m.rows, inside)];
  if (!row) return { kind: 'nothing' };
  const top = HEAD + row.top - m.scroll;
  if (row.kind === 'head') {
    const pip = nearest(
      near(
        m,
        mergedPips(row, (a) => m.keysOf(a)),
        x,
      ),
      (k) => Math.abs(m.time.x(k.frame) - x),
    );
    return pip ? { kind: 'keys', keys: pip.keys, lane: null } : { kind: 'row', row };
  }
  const curve = m.curve(row.address);
  if (!curve) return { kind: 'row', row };
  if (y < top + ROW) {
    const key = nearest(near(m, curve.keys, x), (k) => Math.abs(m.time.x(k.frame) - x));
    if (key) return { kind: 'keys', keys: [{ address: row.address, frame: key.frame }], lane: null };
    const tags = tagAreas(m, curve, top);
    for (const end of ['before', 'after'] as const) {
      const t = tags[end];
      if (x >= t.x && x <= t.x + t.width && y >= t.y && y <= t.y + t.height)
        return { kind: 'tag', address: row.address, end, x: t.x, y: t.y + t.height };
    }
    return segmentAt(m, row, x) ?? { kind: 'row', row };
  }
  const area = laneArea(row, m.scroll);
  const scale = scaleOf(m, row.address, curve);
  const at = (frame: number, value: number) =>
    Math.hypot(m.time.x(frame) - x, yOf(value, scale, area.top, area.height) - y);
  // Handles lie on top of keys, so that a short one can still be taken: it wins where it is nearer.
  const key = nearest(near(m, curve.keys, x), (k) => at(k.frame, k.value));
  const keyDistance = key ? at(key.frame, key.value) : Infinity;
  let best: { distance: number; hit: Hit } | null = null;
  // A handle reaches no further than its segment, so only keys about the pointer have one under it.
  const middle = firstAt(curve.keys, m.time.frame(x), (k) => k.frame);
  for (let i = Math.max(0, middle - 2); i < Math.min(curve.keys.length, middle + 2); i++) {
    const k = curve.keys[i];
    if (!m.selected.has(`${row.address}@${k.frame}`)) continue;
    const ends: ['in' | 'out', boolean][] = [
      ['in', i > 0 && curve.keys[i - 1].segment === 'bezier'],
      ['out', i < curve.keys.length - 1 && k.segment === 'bezier'],
    ];
    for (const [side, shown] of ends) {
      const d = at(k.frame + k[side][0], k.value + k[side][1]);
      if (shown && d < REACH && d < (best?.distance ?? Infinity))
        best = { distance: d, hit: { kind: 'handle', key: { address: row.address, frame: k.frame }, side, row } };
    }
  }
  const handle = best as { distance: number; hit: Hit } | null;
  if (handle && handle.distance < keyDistance) return handle.hit;
  if (key) return { kind: 'keys', keys: [{ address: row.address, frame: key.frame }], lane: row };
  return segmentAt(m, row, x) ?? { kind: 'row', row };
}

function segmentAt(m: TracksModel, row: ChannelRow, x: number): Hit | null {
  const keys = m.curve(row.address)!.keys;
  const frame = m.time.frame(x);
  const next = firstAt(keys, frame, (k) => k.frame);
  const i = keys[next]?.frame === frame ? next : next - 1;
  return i >= 0 && i < keys.length - 1
    ? { kind: 'segment', key: { address: row.address, frame: keys[i].frame }, row }
    : null;
}

/** Those within reach of the pointer along time. */
const near = <T extends { frame: number }>(m: TracksModel, items: T[], x: number): T[] =>
  items.slice(
    firstAt(items, m.time.frame(x - REACH), (k) => k.frame),
    firstAt(items, m.time.frame(x + REACH), (k) => k.frame),
  );

function nearest<T>(items: T[], distance: (item: T) => number): T | null {
  let best: T | null = null;
  let least = REACH;
  for (const item of items) {
    const d = distance(item);
    if (d < least) [best, least] = [item, d];
  }
  return best;
}

/** The keys in a rectangle, in rows and in open lanes. */
export function keysIn(m: TracksModel, box: { x0: number; y0: number; x1: number; y1: number }): KeyHit[] {
  const [left, right] = [Math.min(box.x0, box.x1), Math.max(box.x0, box.x1)];
  const [top, bottom] = [Math.min(box.y0, box.y1), Math.max(box.y0, box.y1)];
  const found: KeyHit[] = [];
  for (let i = rowAt(m.rows, top - HEAD + m.scroll); i < m.rows.length; i++) {
    const row = m.rows[i];
    if (HEAD + row.top - m.scroll > bottom) break;
    if (row.kind === 'head') continue;
    const middle = HEAD + row.top - m.scroll + ROW / 2;
    const inRow = middle >= top && middle <= bottom;
    const frames = m.keysOf(row.address);
    const area = laneArea(row, m.scroll);
    const curve = row.open && !inRow ? m.curve(row.address) : null;
    for (
      let k = firstAt(frames, m.time.frame(left), (f) => f);
      k < frames.length && m.time.x(frames[k]) <= right;
      k++
    ) {
      const y = curve ? yOf(curve.keys[k].value, scaleOf(m, row.address, curve), area.top, area.height) : NaN;
      if (inRow || (y >= top && y <= bottom)) found.push({ address: row.address, frame: frames[k] });
    }
  }
  return found;
}

/** The value at a height of an open lane. */
export function laneValue(m: TracksModel, row: ChannelRow, y: number): number {
  const area = laneArea(row, m.scroll);
  return valueOf(y, scaleOf(m, row.address, m.curve(row.address)!), area.top, area.height);
}
