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

/** Some poses that go elsewhere in time, or copies of them. */
export interface Retiming {
  /** The frames of those that a hand has taken. */
  frames: ReadonlySet<number>;
  by: number;
  copy: boolean;
  /** Those that go: with ripple all later ones as well. */
  going: Pose[];
  /** Those that are there already where these go: they are replaced. */
  replaced: Pose[];
}

/** What becomes of the others when some poses, or copies of them, go by so many frames. */
export function retiming(poses: readonly Pose[], frames: ReadonlySet<number>, by: number, copy: boolean): Retiming {
  const first = Math.min(...frames);
  const ripples = preferences.posesFollow && !copy;
  const going = poses.filter((p) => frames.has(p.frame) || (ripples && p.frame >= first));
  const left = new Set(copy ? [] : going.map((p) => p.frame));
  const to = new Set(going.map((p) => p.frame + by));
  return {
    frames,
    by,
    copy,
    going,
    replaced: by === 0 ? [] : poses.filter((p) => to.has(p.frame) && !left.has(p.frame)),
  };
}

/** Does it, as one step. */
export function retime({ by, copy, going, replaced }: Retiming): boolean {
  if (by === 0 || going.length === 0) return false;
  const keys = going.flatMap((p) => p.keys);
  const gone = replaced.length > 0 ? [newEdit('removeKeys', { keys: replaced.flatMap((p) => p.keys) })] : [];
  const label = `${copy ? 'Copy' : 'Retime'} ${going.length === 1 ? 'a pose' : `${going.length} poses`}`;
  if (!copy)
    return session.shot.commit(together(label, [...gone, newEdit('transformKeys', { keys, by: { frames: by } })]));
  const put = session.shot.engine!.copyKeys(keys);
  if (put?.kind !== 'putKeys') return false;
  for (const c of put.channels as { keys: { frame: number }[] }[]) for (const k of c.keys) k.frame += by;
  return session.shot.commit(together(label, [...gone, put]));
}

/** What it replaces, in words; empty where that is nothing. */
export const sayReplaced = ({ replaced }: Retiming) =>
  replaced.length === 0
    ? ''
    : `replaces ${replaced.length === 1 ? `the pose of ${replaced[0].frame}` : `${replaced.length} poses`}`;

/** It in words, while a hand does it. */
export function sayRetiming(now: Retiming): string {
  const { frames, by, copy } = now;
  const what = frames.size === 1 ? `the pose of frame ${[...frames][0]}` : `${frames.size} poses`;
  const where = frames.size === 1 ? `to ${[...frames][0] + by}` : `by ${by > 0 ? '+' : ''}${by} frames`;
  return [`${copy ? 'Copy' : 'Move'} ${what} ${where}`, sayReplaced(now)].filter(Boolean).join(' · ');
}
