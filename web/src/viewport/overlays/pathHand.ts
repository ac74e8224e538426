// The motion path under the hand: its keys are dragged in space, their handles bend it, and the frames between two keys slide along it.
import { gestures, type Hand } from '../../widgets/gestures.svelte';
import type { Session } from '../../stores/session.svelte';

export type Point = [number, number, number];

/** A motion path as it is drawn. */
export interface PathView {
  node: string;
  /** The frame of the first point. */
  first: number;
  /** x, y, z for each frame. */
  points: number[];
  /** The frames of keys, rising. */
  keys: number[];
  /** The ends of the handles of the key under the playhead. */
  handles: { frame: number; in: Point | null; out: Point | null } | null;
}

export type PathHit = { kind: 'key' | 'in' | 'out' | 'tick'; frame: number; at: Point };

/** What of the view a hand needs. */
export interface Space {
  /** Where a point of the world lies in the page. */
  project(x: number, y: number, z: number): { x: number; y: number };
  /** The point below a point of the page on the plane through a point of the world that faces the eye. */
  onPlane(x: number, y: number, through: Point): Point;
}

const REACH = 8;

export const placeOf = (path: PathView, frame: number): Point => {
  const at = 3 * Math.round(frame - path.first);
  return [path.points[at], path.points[at + 1], path.points[at + 2]];
};

/** What of the path lies under the pointer: handles before keys, keys before frames. */
export function hitPath(space: Space, path: PathView, x: number, y: number): PathHit | null {
  const distance = (at: Point) => {
    const p = space.project(...at);
    return Math.hypot(p.x - x, p.y - y);
  };
  for (const kind of ['in', 'out'] as const) {
    const at = path.handles?.[kind];
    // One without a length would lie on its key, and be taken for it.
    if (at && distance(at) < REACH && distance(at) < distance(placeOf(path, path.handles!.frame)))
      return { kind, frame: path.handles!.frame, at };
  }
  const last = path.first + path.points.length / 3 - 1;
  let best: { hit: PathHit; distance: number } | null = null;
  const take = (kind: 'key' | 'tick', frame: number, reach: number) => {
    if (frame < path.first || frame > last) return;
    const at = placeOf(path, frame);
    const d = distance(at);
    if (d < reach && d < (best?.distance ?? Infinity)) best = { hit: { kind, frame, at }, distance: d };
  };
  for (const frame of path.keys) take('key', frame, REACH);
  const keyed = new Set(path.keys);
  if (!best && path.keys.length > 1)
    for (let f = Math.ceil(Math.max(path.first, path.keys[0])); f <= Math.min(last, path.keys.at(-1)!); f++)
      if (!keyed.has(f)) take('tick', f, REACH - 2);
  return (best as { hit: PathHit } | null)?.hit ?? null;
}

/** The frame, with its part, whose place on the path between two frames is nearest to the pointer. */
export function nearestOn(space: Space, path: PathView, from: number, to: number, x: number, y: number): number {
  let [best, least] = [from, Infinity];
  for (let f = Math.floor(from); f < to; f++) {
    const [a, b] = [space.project(...placeOf(path, f)), space.project(...placeOf(path, f + 1))];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(1, Math.max(0, ((x - a.x) * dx + (y - a.y) * dy) / length)) : 0;
    const d = Math.hypot(a.x + t * dx - x, a.y + t * dy - y);
    if (d < least) [best, least] = [f + t, d];
  }
  return best;
}

/** Follows a hand that has taken something of the path. */
export function pathHand(session: Session, space: Space, path: PathView, hit: PathHit, down: PointerEvent): Hand {
  const { shot } = session;
  const { kind, frame, at } = hit;
  let last: Point | null = null;
  let what: PathHit['kind'] = kind;
  // With Alt a key gives its handles, also those that have no length yet.
  if (kind === 'key' && down.altKey) what = frame === path.keys.at(-1) ? 'in' : 'out';
  const start = space.onPlane(down.clientX, down.clientY, at);
  const before = path.keys.findLast((f) => f < frame) ?? frame;
  const after = path.keys.find((f) => f > frame) ?? frame;
  const show = (to: Point) => {
    last = to;
    shot.movePath(what, path.node, frame, to, false);
  };
  return {
    move: (e) => {
      if (!last && Math.hypot(e.clientX - down.clientX, e.clientY - down.clientY) < 4) return;
      if (what === 'tick') {
        const place = nearestOn(space, path, before, after, e.clientX, e.clientY);
        const from = Math.min(after - 0.25, Math.max(before + 0.25, Math.round(place * 100) / 100));
        gestures.readout = `Frame ${frame} gets the place of ${from}`;
        return show([from, 0, 0]);
      }
      const to = space.onPlane(e.clientX, e.clientY, at);
      const moved = to.map((v, i) => at[i] + v - start[i]) as Point;
      const by = moved.map((v, i) => Math.round((v - at[i]) * 1000) / 1000);
      gestures.readout = `${what === 'key' ? `Key ${frame}` : `Handle of ${frame}`}: ${by.join(', ')}`;
      show(moved);
    },
    commit: () => {
      if (last) shot.movePath(what, path.node, frame, last, true);
      else session.goTo(frame);
    },
    cancel: () => void shot.try(null),
  };
}
