// Poses: the frames on which something of the selection, or of everything, is keyed. What is done with several of them.
import { newEdit, together } from '../edits/edit';
import { preferences } from '../stores/preferences.svelte';
import { session, type KeyRef } from '../stores/session.svelte';

export interface Pose {
  frame: number;
  keys: KeyRef[];
}

/** Whose keys make up poses. */
export function posedOwners(): string[] {
  const { ids } = session.selection;
  return ids.length > 0 ? [...session.shot.family(ids)] : [...session.shot.keyedOwners.keys()];
}

/** All poses, the earliest first. */
export function allPoses(): Pose[] {
  const byFrame = new Map<number, Pose>();
  for (const id of posedOwners())
    for (const address of session.shot.keyedOwners.get(id) ?? [])
      for (const frame of session.shot.keysOf(address)) {
        const pose = byFrame.get(frame);
        if (pose) pose.keys.push({ address, frame });
        else byFrame.set(frame, { frame, keys: [{ address, frame }] });
      }
  return [...byFrame.values()].sort((a, b) => a.frame - b.frame);
}

/** What becomes of the others when some poses move by some frames: which move along, and which are replaced. */
export function movedPoses(poses: readonly Pose[], moving: ReadonlySet<number>, by: number, ripple: boolean) {
  const first = Math.min(...moving);
  const along = poses.filter((p) => moving.has(p.frame) || (ripple && p.frame >= first));
  const goes = new Set(along.map((p) => p.frame));
  const to = new Set(along.map((p) => p.frame + by));
  return { along, replaced: poses.filter((p) => !goes.has(p.frame) && to.has(p.frame)) };
}

/** Moves poses in time, as one step. A pose that another comes to lie on is replaced by it. */
export function retimePoses(poses: readonly Pose[], moving: ReadonlySet<number>, by: number): boolean {
  if (by === 0 || moving.size === 0) return false;
  const { along, replaced } = movedPoses(poses, moving, by, preferences.posesFollow);
  const edits = [
    ...(replaced.length > 0 ? [newEdit('removeKeys', { keys: replaced.flatMap((p) => p.keys) })] : []),
    newEdit('transformKeys', { keys: along.flatMap((p) => p.keys), by: { frames: by } }),
  ];
  return session.shot.commit(together(moving.size === 1 ? 'Retime a pose' : `Retime ${moving.size} poses`, edits));
}

/** Puts copies of poses some frames later, as one step. What lies where they go is replaced. */
export function copyPoses(poses: readonly Pose[], copied: ReadonlySet<number>, by: number): boolean {
  const those = poses.filter((p) => copied.has(p.frame));
  const put = by !== 0 && session.shot.engine!.copyKeys(those.flatMap((p) => p.keys));
  if (!put || put.kind !== 'putKeys') return false;
  for (const c of put.channels as { keys: { frame: number }[] }[]) for (const k of c.keys) k.frame += by;
  const to = new Set(those.map((p) => p.frame + by));
  const replaced = poses.filter((p) => to.has(p.frame));
  const edits = [
    ...(replaced.length > 0 ? [newEdit('removeKeys', { keys: replaced.flatMap((p) => p.keys) })] : []),
    put,
  ];
  return session.shot.commit(together(those.length === 1 ? 'Copy a pose' : `Copy ${those.length} poses`, edits));
}

/** A retiming in words, while a hand does it. */
export function sayRetime(poses: readonly Pose[], moving: ReadonlySet<number>, by: number, copy: boolean): string {
  const [frame] = [...moving].sort((a, b) => a - b);
  const what = moving.size === 1 ? `the pose of frame ${frame}` : `${moving.size} poses`;
  const where = moving.size === 1 ? `to ${frame + by}` : `by ${by > 0 ? '+' : ''}${by} frames`;
  const { replaced } = movedPoses(poses, moving, by, !copy && preferences.posesFollow);
  const gone = by !== 0 ? replaced.map((p) => p.frame) : [];
  const replaces =
    gone.length === 0
      ? ''
      : gone.length === 1
        ? ` · replaces the pose of ${gone[0]}`
        : ` · replaces ${gone.length} poses`;
  return `${copy ? 'Copy' : 'Move'} ${what} ${where}${replaces}`;
}
