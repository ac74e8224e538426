// Things that are drawn once more, or move as others do: instances, repeaters, followers.
import { newEdit } from '../edits/edit';
import type { Edit } from '../engine/engine';
import { session } from '../stores/session.svelte';

const fresh = () => crypto.randomUUID().slice(0, 8);
const commit = (edit: Edit) => session.shot.commit(edit);

/** Instances of the selected objects beside them: mesh and inner motion are shared, the place is their own. */
export function addInstances() {
  const { ids } = session.selection;
  const prefix = fresh();
  if (commit(newEdit('addInstances', { ids, prefix }))) session.selection.select(ids.map((_, i) => `${prefix}-${i}`));
}

/** Copies with shapes of their own that move as the originals do. */
export function addFollowers() {
  const { ids } = session.selection;
  const prefix = fresh();
  if (commit(newEdit('duplicateNodes', { ids, prefix, follow: true })))
    session.selection.select(ids.map((_, i) => `${prefix}-${i}`));
}

/** Instances of the object selected first, on, above or beside each of the others, as its children. */
export function hangInstances(where: 'on' | 'above' | 'beside') {
  const [of, ...on] = session.selection.ids;
  if (on.length === 0)
    return session.messages.say('Select what is to be put, and then the objects that it is to be put on.');
  const prefix = fresh();
  if (session.shot.hangInstances(of, on, where, prefix))
    session.selection.select([of, ...on.map((_, i) => `${prefix}-${i}`)]);
}

/** Instances of the object selected first, where each of the others stands. */
export function placeInstances() {
  const [of, ...on] = session.selection.ids;
  if (on.length === 0)
    return session.messages.say('Select what is to be put, and then the objects that it is to be put on.');
  const prefix = fresh();
  if (commit(newEdit('placeInstances', { of, on, prefix })))
    session.selection.select([of, ...on.map((_, i) => `${prefix}-${i}`)]);
}

/** Makes instances and repeaters into objects of their own. */
export function makeReal() {
  const ids = session.selection.nodes.filter((n) => n.kind === 'instance' || n.kind === 'repeat').map((n) => n.id);
  const following = session.selection.nodes.filter((n) => n.data.follows);
  if (ids.length === 0 && following.length === 0)
    return session.messages.say('Select an instance, a repeater, or an object that follows another.');
  if (ids.length > 0) commit(newEdit('makeReal', { ids, prefix: `c${fresh()}`, frame: session.frame }));
  if (following.length > 0) commit(newEdit('unfollow', { ids: following.map((n) => n.id) }));
}
