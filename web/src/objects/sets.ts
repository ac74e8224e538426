// Sets of objects that are kept under a name.
import { newEdit, type Members } from '../edits/edit';
import { freeName } from '../edits/names';
import { session } from '../stores/session.svelte';

export type ObjectSet = Members<'putSet'>['set'];

/** The objects of a set that are there. */
export const objectsOf = (set: ObjectSet) => set.nodes.filter((id) => session.shot.byId.has(id));

/** Keeps what is selected as a set; it is given a name at once, and another when one wants. */
export function keepSet() {
  const { ids, nodes } = session.selection;
  if (ids.length === 0) return session.messages.say('Select the objects that the set shall hold first.');
  const taken = session.shot.scene.sets.map((s) => s.name);
  const name = freeName(nodes.length === 1 ? nodes[0].name : 'Set', taken);
  const set = { id: `set-${crypto.randomUUID().slice(0, 8)}`, name, nodes: ids };
  if (session.shot.commit(newEdit('putSet', { set })))
    session.messages.say(`The set “${name}” is kept above the list of objects. With the right button it is renamed.`);
}

export const changeSet = (set: ObjectSet, change: Partial<ObjectSet>) =>
  session.shot.commit(newEdit('putSet', { set: { ...set, ...change } }));

/** Selects what is in a set; with add beside what is selected. */
export function selectSet(set: ObjectSet, add = false) {
  const ids = objectsOf(set);
  if (ids.length === 0)
    return session.messages.say(`Nothing of the set “${set.name}” is there any more.`, {
      label: 'Remove the set',
      run: () => session.shot.commit(newEdit('removeSets', { ids: [set.id] })),
    });
  const { selection } = session;
  selection.select(add ? [...selection.ids.filter((id) => !ids.includes(id)), ...ids] : ids);
}
