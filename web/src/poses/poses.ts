// Poses: the frames on which something of the selection, or of everything, is keyed.
import { session, type KeyRef } from '../stores/session.svelte';

/** Whose keys make up poses. */
export function posedOwners(): string[] {
  const { ids } = session.selection;
  return ids.length > 0 ? [...session.shot.family(ids)] : [...session.shot.keyedOwners.keys()];
}

/** The keys of the pose on a frame; none where there is no pose. */
export const poseAt = (frame: number): KeyRef[] =>
  posedOwners()
    .flatMap((id) => session.shot.keyedOwners.get(id) ?? [])
    .filter((address) => session.shot.keysOf(address).includes(frame))
    .map((address) => ({ address, frame }));
