// Where the rows of the tracks are: a list from the top down, made from the structure of the shot. Pure.
import type { ChannelView, CurveView, Family, NodeView } from '../engine/engine';

export const ROW = 26;
/** The least height of an open lane. */
export const LANE = 170;

export interface HeadRow {
  kind: 'head';
  owner: string;
  name: string;
  top: number;
  height: number;
  channels: ChannelView[];
}

export interface ChannelRow {
  kind: 'channel';
  owner: string;
  address: string;
  channel: ChannelView;
  top: number;
  height: number;
  open: boolean;
}

export type Row = HeadRow | ChannelRow;

export interface Owner {
  id: string;
  name: string;
}

/** The rows: an object, then its animated channels. A row whose lane is open is taller; open lanes share the room that is left. The first begins a little down, where something lies before it. */
export function layoutRows(
  owners: Owner[],
  animatedOf: (id: string) => ChannelView[],
  lanes: ReadonlySet<string>,
  room = 0,
  from = 0,
): Row[] {
  const groups = owners
    .map((owner) => ({ owner, channels: animatedOf(owner.id) }))
    .filter((g) => g.channels.length > 0);
  let closed = 0;
  let opened = 0;
  for (const { channels } of groups) {
    closed += ROW * (1 + channels.length);
    for (const c of channels) if (lanes.has(c.address)) opened++;
  }
  const lane = opened === 0 ? LANE : Math.min(420, Math.max(LANE, Math.floor((room - closed) / opened)));
  const rows: Row[] = [];
  let top = from;
  for (const { owner, channels } of groups) {
    rows.push({ kind: 'head', owner: owner.id, name: owner.name, top, height: ROW, channels });
    top += ROW;
    for (const channel of channels) {
      const { address } = channel;
      const open = lanes.has(address);
      const height = open ? ROW + lane : ROW;
      rows.push({ kind: 'channel', owner: channel.owner, address, channel, top, height, open });
      top += height;
    }
  }
  return rows;
}

/** The first row that reaches below a height, by halving: rows stand one below the other. */
export function rowAt(rows: Row[], y: number): number {
  let [low, high] = [0, rows.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rows[middle].top + rows[middle].height > y) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** The first of rising numbers that is not below a bound. */
export function firstAt<T>(items: readonly T[], bound: number, of: (item: T) => number): number {
  let [low, high] = [0, items.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (of(items[middle]) >= bound) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** The animated owners: the selected ones with what hangs below them, or all when nothing animated is selected. */
export function shownOwners(
  nodes: NodeView[],
  materials: { id: string; name: string }[],
  family: ReadonlySet<string>,
  isAnimated: (id: string) => boolean,
): Owner[] {
  const looks = new Set(nodes.filter((n) => family.has(n.id)).map((n) => n.data.material as string | undefined));
  const all: Owner[] = [...nodes, ...materials, { id: 'world', name: 'Sky' }].filter((o) => isAnimated(o.id));
  const chosen = all.filter((o) => family.has(o.id) || looks.has(o.id));
  return chosen.length > 0 ? chosen : all;
}

const kinds: Record<Family, string> = {
  position: 'Position',
  rotation: 'Rotation',
  scale: 'Scale',
  shape: 'Shape',
  look: 'Look',
};

/** The same channels, those of one kind together whatever they are of. */
export function byKind(
  owners: Owner[],
  animatedOf: (id: string) => ChannelView[],
): { owners: Owner[]; channelsOf: (id: string) => ChannelView[] } {
  const groups = new Map<string, ChannelView[]>();
  for (const { id } of owners)
    for (const c of animatedOf(id)) groups.set(c.family, [...(groups.get(c.family) ?? []), c]);
  return {
    owners: (Object.keys(kinds) as Family[]).filter((f) => groups.has(f)).map((id) => ({ id, name: kinds[id] })),
    channelsOf: (id) => groups.get(id) ?? [],
  };
}

/** A pip of an object's own row: all its keys of one frame. */
export interface MergedPip {
  frame: number;
  families: Family[];
  keys: { address: string; frame: number }[];
}

// Merging is work, and the same until a key of the row is another.
const merged = new WeakMap<HeadRow, { of: number[][]; pips: MergedPip[] }>();

export function mergedPips(row: HeadRow, keysOf: (address: string) => number[]): MergedPip[] {
  const of = row.channels.map((c) => keysOf(c.address));
  const known = merged.get(row);
  if (known && known.of.every((frames, i) => frames === of[i])) return known.pips;
  const byFrame = new Map<number, MergedPip>();
  row.channels.forEach((c, i) => {
    for (const frame of of[i]) {
      let pip = byFrame.get(frame);
      if (!pip) byFrame.set(frame, (pip = { frame, families: [], keys: [] }));
      pip.keys.push({ address: c.address, frame });
      if (!pip.families.includes(c.family)) pip.families.push(c.family);
    }
  });
  const pips = [...byFrame.values()].sort((a, b) => a.frame - b.frame);
  merged.set(row, { of, pips });
  return pips;
}

/** Values up a lane: its own scale, with room above and below. */
export interface ValueScale {
  low: number;
  high: number;
}

/** The range of a curve with its handles and what its easings reach. */
export function valueRange(curve: CurveView): ValueScale {
  let low = Infinity;
  let high = -Infinity;
  const take = (v: number) => {
    low = Math.min(low, v);
    high = Math.max(high, v);
  };
  curve.keys.forEach((k, i) => {
    take(k.value);
    if (i > 0 && curve.keys[i - 1].segment === 'bezier') take(k.value + k.in[1]);
    if (i < curve.keys.length - 1 && k.segment === 'bezier') take(k.value + k.out[1]);
    k.samples?.forEach(take);
  });
  if (high - low < 1e-9) {
    const pad = Math.max(0.5, Math.abs(high) * 0.1);
    return { low: low - pad, high: high + pad };
  }
  const pad = (high - low) * 0.14;
  return { low: low - pad, high: high + pad };
}

export const yOf = (v: number, scale: ValueScale, top: number, height: number) =>
  top + height - ((v - scale.low) / (scale.high - scale.low)) * height;

export const valueOf = (y: number, scale: ValueScale, top: number, height: number) =>
  scale.low + ((top + height - y) / height) * (scale.high - scale.low);

/** Steps of a ruler of 1, 2 or 5 times a power of ten, at least so many pixels apart. */
export function niceStep(pixelsPerUnit: number, apart: number, whole: boolean): number {
  const least = apart / pixelsPerUnit;
  let step = whole ? 1 : 10 ** Math.floor(Math.log10(least));
  const factors = [2, 2.5, 2];
  for (let i = 0; step < least; i++) step *= factors[i % 3];
  return whole ? Math.max(1, Math.round(step)) : step;
}
