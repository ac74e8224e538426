import { received } from '../edits/edit';
import { api, take } from '../api/client';
import { session } from '../stores/session.svelte';

/** Puts the rotation or the scale of the selected objects into their meshes; nothing moves. */
export async function bake(what: 'Rotation' | 'Scale' | 'Both') {
  const id = session.shotId;
  const { ids } = session.selection;
  if (!id || ids.length === 0) return session.messages.say('Select an object first.');
  try {
    // The server bakes what it has.
    await session.settled();
    const { edit } = await take(
      api.POST('/api/shots/{id}/bake', { params: { path: { id } }, body: { ids, what, frame: session.frame } }),
    );
    if (session.shotId === id) session.shot.commit(received(edit));
  } catch (e) {
    session.messages.say((e as Error).message);
  }
}
