// What lies under the mouse in the tracks. Pure: the same data that is drawn is asked.
import {
  areaOf,
  bodyTop,
  HEAD,
  RULER,
  scaleIn,
  SOUND,
  SOUND_BAR,
  tagAreas,
  type Lane,
  type TracksModel,
} from './model';
import { firstAt, mergedPips, ROW, rowAt, valueOf, yOf, type Row } from './layout';

export interface KeyHit {
  address: string;
  frame: number;
}

export type Hit =
  | { kind: 'ruler' }
  | { kind: 'playRange'; end: 'first' | 'last' }
  | { kind: 'grip'; end: 'first' | 'last' | 'middle' }
  | { kind: 'marker'; id: string }
  | { kind: 'sound'; id: string }
  | { kind: 'keys'; keys: KeyHit[]; lane: Lane | null }
  | { kind: 'handle'; key: KeyHit; side: 'in' | 'out'; lane: Lane }
  | { kind: 'tag'; address: string; end: 'before' | 'after'; x: number; y: number }
  | { kind: 'segment'; key: KeyHit }
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
    const marker = m.markers.findLast((k) => Math.abs(x - m.time.x(k.frame)) < 8);
    if (marker && y < RULER + 13) return { kind: 'marker', id: marker.id };
    if (m.range) {
      const [a, b] = [m.time.x(m.range.first), m.time.x(m.range.last)];
      if (Math.abs(x - b) < 9) return { kind: 'grip', end: 'last' };
      if (Math.abs(x - a) < 9) return { kind: 'grip', end: 'first' };
      if (x > a && x < b) return { kind: 'grip', end: 'middle' };
    }
    return { kind: 'ruler' };
  }
  if (y < bodyTop(m)) {
    // By its bar a sound is moved; elsewhere in its strip one scrubs.
    const sound = m.sounds[Math.floor((y - HEAD) / SOUND)];
    const isOnBar = (y - HEAD) % SOUND < SOUND_BAR;
    const [a, b] = [m.time.x(sound.start), m.time.x(sound.start + sound.seconds * m.rate)];
    return isOnBar && x >= a && x <= b ? { kind: 'sound', id: sound.id } : { kind: 'ruler' };
  }
  if (m.overlay && y >= m.overlay.top) return hitOverlay(m, x, y);
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
    return segmentAt(m, row.address, x) ?? { kind: 'row', row };
  }
  return hitLane(m, { address: row.address, row }, x, y)?.hit ?? segmentAt(m, row.address, x) ?? { kind: 'row', row };
}

/** Of curves that lie over one another the nearest key or handle; else the segment of the nearest curve. */
function hitOverlay(m: TracksModel, x: number, y: number): Hit {
  let best: { distance: number; hit: Hit } | null = null;
  for (const c of m.overlay!.channels) {
    const found = m.curve(c.address) ? hitLane(m, { address: c.address, row: null }, x, y) : null;
    if (found && found.distance < (best?.distance ?? Infinity)) best = found;
  }
  if (best) return best.hit;
  const only = m.overlay!.channels.length === 1 ? m.overlay!.channels[0] : null;
  return (only && m.curve(only.address) && segmentAt(m, only.address, x)) || { kind: 'nothing' };
}

/** The key or the handle in a lane that lies under the pointer. */
function hitLane(m: TracksModel, lane: Lane, x: number, y: number): { distance: number; hit: Hit } | null {
  const { address } = lane;
  const curve = m.curve(address)!;
  const area = areaOf(m, lane);
  const scale = scaleIn(m, lane, curve);
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
    if (!m.selected.has(`${address}@${k.frame}`)) continue;
    const ends: ['in' | 'out', boolean][] = [
      ['in', i > 0 && curve.keys[i - 1].segment === 'bezier'],
      ['out', i < curve.keys.length - 1 && k.segment === 'bezier'],
    ];
    for (const [side, shown] of ends) {
      const d = at(k.frame + k[side][0], k.value + k[side][1]);
      if (shown && d < REACH && d < (best?.distance ?? Infinity))
        best = { distance: d, hit: { kind: 'handle', key: { address, frame: k.frame }, side, lane } };
    }
  }
  const handle = best as { distance: number; hit: Hit } | null;
  if (handle && handle.distance < keyDistance) return handle;
  return key ? { distance: keyDistance, hit: { kind: 'keys', keys: [{ address, frame: key.frame }], lane } } : null;
}

function segmentAt(m: TracksModel, address: string, x: number): Hit | null {
  const keys = m.curve(address)!.keys;
  const frame = m.time.frame(x);
  const next = firstAt(keys, frame, (k) => k.frame);
  const i = keys[next]?.frame === frame ? next : next - 1;
  return i >= 0 && i < keys.length - 1 ? { kind: 'segment', key: { address, frame: keys[i].frame } } : null;
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
export const keysIn = (m: TracksModel, box: { x0: number; y0: number; x1: number; y1: number }): KeyHit[] =>
  keysWhere(m, box, () => true);

/** The keys that a line drawn by hand goes round. */
export function keysAround(m: TracksModel, line: readonly { x: number; y: number }[]): KeyHit[] {
  if (line.length < 3) return [];
  const box = { x0: Infinity, y0: Infinity, x1: -Infinity, y1: -Infinity };
  for (const { x, y } of line) {
    [box.x0, box.x1] = [Math.min(box.x0, x), Math.max(box.x1, x)];
    [box.y0, box.y1] = [Math.min(box.y0, y), Math.max(box.y1, y)];
  }
  return keysWhere(m, box, (x, y) => {
    let inside = false;
    for (let i = 0, j = line.length - 1; i < line.length; j = i++) {
      const [a, b] = [line[i], line[j]];
      if (a.y > y !== b.y > y && x < a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)) inside = !inside;
    }
    return inside;
  });
}

function keysWhere(
  m: TracksModel,
  box: { x0: number; y0: number; x1: number; y1: number },
  isIn: (x: number, y: number) => boolean,
): KeyHit[] {
  const [left, right] = [Math.min(box.x0, box.x1), Math.max(box.x0, box.x1)];
  const [top, bottom] = [Math.min(box.y0, box.y1), Math.max(box.y0, box.y1)];
  const found: KeyHit[] = [];
  const take = (address: string, yAt: (key: number) => number[]) => {
    const frames = m.keysOf(address);
    for (let k = firstAt(frames, m.time.frame(left), (f) => f); k < frames.length && m.time.x(frames[k]) <= right; k++)
      if (yAt(k).some((y) => y >= top && y <= bottom && isIn(m.time.x(frames[k]), y)))
        found.push({ address, frame: frames[k] });
  };
  const inLane = (lane: Lane) => {
    const curve = m.curve(lane.address)!;
    const [area, scale] = [areaOf(m, lane), scaleIn(m, lane, curve)];
    return (key: number) => yOf(curve.keys[key].value, scale, area.top, area.height);
  };
  const end = m.overlay?.top ?? Infinity;
  for (let i = rowAt(m.rows, top - HEAD + m.scroll); i < m.rows.length && top < end; i++) {
    const row = m.rows[i];
    const middle = HEAD + row.top - m.scroll + ROW / 2;
    if (HEAD + row.top - m.scroll > Math.min(bottom, end)) break;
    if (row.kind === 'head') continue;
    const lane = row.open && m.curve(row.address) ? inLane({ address: row.address, row }) : null;
    take(row.address, (k) => (lane ? [middle, lane(k)] : [middle]));
  }
  if (m.overlay && bottom > m.overlay.top) {
    const known = new Set(found.map((k) => `${k.address}@${k.frame}`));
    const before = found.length;
    for (const c of m.overlay.channels)
      if (m.curve(c.address)) {
        const lane = inLane({ address: c.address, row: null });
        take(c.address, (k) => [lane(k)]);
      }
    return [...found.slice(0, before), ...found.slice(before).filter((k) => !known.has(`${k.address}@${k.frame}`))];
  }
  return found;
}

/** The value at a height of a lane. */
export function laneValue(m: TracksModel, lane: Lane, y: number): number {
  const area = areaOf(m, lane);
  return valueOf(y, scaleIn(m, lane, m.curve(lane.address)!), area.top, area.height);
}

/** Where a key lies, or the end of one of its handles: in its row, or in its lane; null where it is not shown. */
export function place(m: TracksModel, address: string, frame: number, inLane: boolean, side?: 'in' | 'out') {
  const row = m.rows.find((r) => r.kind === 'channel' && r.address === address);
  const curve = m.curve(address);
  const key = curve?.keys.find((k) => k.frame === frame);
  if (row?.kind !== 'channel' || !curve || !key) return null;
  const [df, dv] = side ? key[side] : [0, 0];
  const x = m.time.x(frame + df);
  if (!inLane) return { x, y: HEAD + row.top - m.scroll + ROW / 2 };
  const lane: Lane = { address, row: m.overlay ? null : row };
  const area = areaOf(m, lane);
  return { x, y: yOf(key.value + dv, scaleIn(m, lane, curve), area.top, area.height) };
}
