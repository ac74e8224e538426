// Which objects are alike: of a kind, of a material.
import type { NodeView } from '../engine/engine';
import { session } from '../stores/session.svelte';

export const kindWords: Record<NodeView['kind'], string> = {
  mesh: 'Meshes',
  group: 'Groups',
  control: 'Controls',
  joint: 'Joints',
  camera: 'Cameras',
  sun: 'Suns',
  lamp: 'Lamps',
  instance: 'Instances',
  repeat: 'Repeaters',
};

/** The materials of an object: its own and those of its parts. */
export const materialsOf = (node: NodeView): string[] =>
  [node.data.material, ...((node.data.partMaterials as string[] | undefined) ?? [])].filter(
    (m): m is string => typeof m === 'string' && m !== '',
  );

const selectWhere = (is: (node: NodeView) => boolean) =>
  session.selection.select(session.shot.scene.nodes.filter((n) => !n.locked && is(n)).map((n) => n.id));

export const selectKind = (kind: NodeView['kind']) => selectWhere((n) => n.kind === kind);
export const selectMaterial = (id: string) => selectWhere((n) => materialsOf(n).includes(id));

/** All that is of the kinds of what is selected. */
export function selectSameKind() {
  const kinds = new Set(session.selection.nodes.map((n) => n.kind));
  if (kinds.size === 0) return session.messages.say('Select an object of the kind first.');
  selectWhere((n) => kinds.has(n.kind));
}

/** All that has a material of what is selected. */
export function selectSameMaterial() {
  const materials = new Set(session.selection.nodes.flatMap(materialsOf));
  if (materials.size === 0) return session.messages.say('Select an object that has a material first.');
  selectWhere((n) => materialsOf(n).some((m) => materials.has(m)));
}

/** What is not selected, instead of what is; what hangs below something that is selected belongs to that. */
export function selectOthers() {
  const chosen = session.shot.family(session.selection.ids);
  const above = new Set<string>();
  for (const id of session.selection.ids)
    for (let n = session.shot.byId.get(id); n?.parent; n = session.shot.byId.get(n.parent)) above.add(n.parent);
  // Of a group that is not concerned the group itself; of one that is, the rest of what is in it.
  selectWhere((n) => !chosen.has(n.id) && !above.has(n.id) && (!n.parent || above.has(n.parent)));
}

export function selectChildren() {
  const ids = session.selection.ids.flatMap((id) => (session.shot.children.get(id) ?? []).map((n) => n.id));
  if (ids.length === 0) return session.messages.say('Nothing hangs below what is selected.');
  session.selection.select(ids);
}

export function selectParent() {
  const ids = [...new Set(session.selection.nodes.flatMap((n) => (n.parent ? [n.parent] : [])))];
  if (ids.length === 0) return session.messages.say('What is selected hangs below nothing.');
  session.selection.select(ids);
}

/** The next object of the list, or the one before; groups that are closed are one. */
export function selectNext(by: 1 | -1, order: readonly NodeView[]) {
  const open = order.filter((n) => !n.locked);
  if (open.length === 0) return;
  const at = open.findIndex((n) => n.id === session.selection.ids.at(-1));
  const to = at < 0 ? (by > 0 ? 0 : open.length - 1) : (at + by + open.length) % open.length;
  session.selection.select([open[to].id]);
}
