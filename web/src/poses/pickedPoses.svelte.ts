// Which poses are picked on the strip: the one at the playhead, until several are.
import { session, type KeyRef } from '../stores/session.svelte';
import { allPoses, type Pose } from './poses';

class PickedPoses {
  private frames = $state.raw<ReadonlySet<number>>(new Set());
  // They are of a shot and of what is selected in it.
  private of = $state.raw<string | null>(null);

  private here = () => `${session.shotId} ${session.selection.ids.join()}`;

  /** The frames of those that are there; the playhead's where nothing else is picked. */
  among(poses: readonly Pose[]): ReadonlySet<number> {
    const own = this.of === this.here() ? this.frames : new Set<number>();
    const there = poses.filter((p) => own.has(p.frame)).map((p) => p.frame);
    if (there.length > 1) return new Set(there);
    return new Set(poses.some((p) => p.frame === session.frame) ? [session.frame] : there);
  }

  set(frames: Iterable<number>) {
    this.frames = new Set(frames);
    this.of = this.here();
  }
}

export const pickedPoses = new PickedPoses();

/** The keys of the picked poses. */
export function pickedKeys(): KeyRef[] {
  const poses = allPoses();
  const picked = pickedPoses.among(poses);
  return poses.filter((p) => picked.has(p.frame)).flatMap((p) => p.keys);
}
