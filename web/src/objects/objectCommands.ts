// Adding, grouping, copying, hiding objects.
import { changedNode, newEdit } from '../edits/edit';
import { newKinds, newNode } from './creation';
import { addFollowers, addInstances, hangInstances, makeReal, placeInstances } from './instances';
import { joinOutlines } from './outlines';
import { copyValues, pasteValues } from '../properties/values';
import { session } from '../stores/session.svelte';
import { copyObjects } from './objects';
import { type Command, needObject } from '../commands/command';

/** Where objects are seen. */
const OBJECTS = ['stage', 'list'] as const;

export const objectCommands: Command[] = [
  {
    id: 'removeObjects',
    short: 'Delete',
    title: 'Remove the selected objects',
    group: 'Edit',
    keys: 'Delete',
    where: OBJECTS,
    run: removeObjects,
  },
  {
    id: 'copyObjects',
    short: 'Copy',
    title: 'Copy the selected objects',
    group: 'Edit',
    keys: '$mod+c',
    where: OBJECTS,
    run: () => {
      if (needObject()) return;
      session.clipboard.clear();
      copyObjects(session.selection.ids);
    },
  },
  {
    id: 'duplicate',
    short: 'Duplicate',
    title: 'Duplicate the selected objects',
    group: 'Edit',
    keys: '$mod+d',
    run: duplicate,
  },
  {
    id: 'selectObjects',
    short: 'Select all',
    title: 'Select all objects',
    group: 'Edit',
    keys: '$mod+a',
    where: OBJECTS,
    run: () =>
      session.selection.select(session.shot.scene.nodes.filter((n) => !n.locked && !n.parent).map((n) => n.id)),
  },
  {
    id: 'copyValues',
    title: 'Copy the values of the object',
    group: 'Placing',
    run: () => needObject() || copyValues(session.shot.channelsOf(session.selection.ids.at(-1)!)),
  },
  {
    id: 'pasteValues',
    title: 'Paste values to the selected objects',
    group: 'Placing',
    run: () =>
      needObject() ||
      pasteValues(
        session.selection.ids.flatMap((id) => session.shot.channelsOf(id)),
        false,
      ),
  },
  {
    id: 'instance',
    short: 'Add instance',
    title: 'Add an instance: shape and inner motion stay shared',
    group: 'Edit',
    keys: '$mod+Shift+KeyD',
    run: () => needObject() || addInstances(),
  },
  {
    id: 'follow',
    short: 'Add follower',
    title: 'Add a copy that moves as the original',
    group: 'Edit',
    run: () => needObject() || addFollowers(),
  },
  ...(
    [
      ['on', 'Put instances of the object selected first on top of all the others, as their children'],
      ['above', 'Put instances of the object selected first above all the others, as their children'],
      ['beside', 'Put instances of the object selected first beside all the others, as their children'],
    ] as const
  ).map(([where, title]) => ({
    id: `hangInstances.${where}`,
    title,
    group: 'Placing',
    run: () => hangInstances(where),
  })),
  {
    id: 'placeInstances',
    title: 'Put instances of the object selected first where all the others stand',
    group: 'Placing',
    run: placeInstances,
  },
  { id: 'makeReal', title: 'Make it a copy of its own, that shares nothing', group: 'Edit', run: makeReal },
  {
    id: 'hide',
    short: 'Hide or show',
    title: 'Hide or show the selected objects',
    group: 'Scene',
    run: () => {
      const { nodes } = session.selection;
      const place = nodes[0] ? session.shot.scene.channels.indexOf(nodes[0].id, 'visible') : -1;
      if (nodes[0])
        setVisible(
          nodes.map((n) => n.id),
          !((session.shot.shown?.values[place] ?? 1) >= 0.5),
        );
    },
  },
  {
    id: 'lock',
    short: 'Lock or unlock',
    title: 'Lock or unlock the selected objects',
    group: 'Scene',
    run: () => {
      const { nodes } = session.selection;
      if (nodes[0])
        setLocked(
          nodes.map((n) => n.id),
          !nodes[0].locked,
        );
    },
  },
  {
    id: 'unparent',
    short: 'Unparent',
    title: 'Unparent the selected objects',
    group: 'Scene',
    run: () => unparent(true),
  },
  {
    id: 'unparentAlong',
    title: 'Unparent, with the numbers kept instead of the place',
    group: 'Scene',
    run: () => unparent(false),
  },
  ...newKinds.map(({ kind, label }) => ({
    id: `add.${kind}`,
    title: `Add: ${label.toLowerCase()}`,
    group: 'Scene',
    run: () => void newNode(kind),
  })),
  ...(
    [
      ['Union', 'Join the selected outlines to one'],
      ['Intersect', 'Keep what the selected outlines have in common'],
      ['Cut', 'Cut the selected outlines out of the one selected last'],
    ] as const
  ).map(([how, title]) => ({
    id: `outline.${how}`,
    title,
    group: 'Scene',
    run: () => void joinOutlines(how),
  })),
  {
    id: 'group',
    short: 'Group',
    title: 'Group the selected objects',
    group: 'Scene',
    keys: '$mod+g',
    run: () => group('group'),
  },
  {
    id: 'repeat',
    short: 'Repeat',
    title: 'Repeat the selected objects',
    group: 'Scene',
    keys: '$mod+Shift+KeyR',
    run: () => group('repeat'),
  },
  {
    id: 'ungroup',
    short: 'Ungroup',
    title: 'Ungroup the selected groups',
    group: 'Scene',
    keys: '$mod+Shift+KeyG',
    run: ungroup,
  },
  ...(
    [
      ['centre', 'the centre of the object'],
      ['base', 'the base of the object'],
      ['origin', 'the origin'],
    ] as const
  ).map(([where, words]) => ({
    id: `pivot.${where}`,
    short: `Pivot to ${where}`,
    title: `Move the pivot to ${words}`,
    group: 'Placing',
    run: () => needObject() || void session.shot.pivotTo(session.selection.ids, where),
  })),
  {
    id: 'pivot.object',
    title: 'Move the pivots to that of the object selected last',
    group: 'Placing',
    run: () => {
      const ids = session.selection.ids;
      if (ids.length < 2) session.messages.say('Select the objects, and last the one whose pivot they shall get.');
      else session.shot.pivotTo(ids.slice(0, -1), ids.at(-1)!);
    },
  },
];

/** A group or a repeater round the selected objects, where they hang; a group turns about their middle. */
function group(kind: 'group' | 'repeat') {
  if (needObject()) return;
  const { shot, selection } = session;
  const ids = selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length === 0) return session.messages.say('What is locked is not grouped: unlock it in the list first.');
  const parents = new Set(ids.map((id) => shot.byId.get(id)!.parent));
  // A group among its own would be a circle.
  const inside = shot.family(ids);
  let [parent] = parents.size === 1 ? [...parents] : [null];
  if (parent && inside.has(parent)) parent = null;
  const id = `${kind}-${crypto.randomUUID().slice(0, 8)}`;
  const box = kind === 'group' ? shot.engine!.bounds(ids, parent ?? '') : [];
  const middle = ['x', 'y', 'z'].map(
    (axis, i) => [`transform.pivot.${axis}`, { value: (box[i] + box[i + 3]) / 2 }] as const,
  );
  const node = {
    kind,
    id,
    name: kind === 'group' ? 'Group' : 'Repeater',
    ...(parent ? { parent } : {}),
    ...(box.length > 0 ? { channels: Object.fromEntries(middle) } : {}),
  };
  const made = shot.commit(
    newEdit('batch', {
      label: `${kind === 'group' ? 'Group' : 'Repeat'} ${ids.length === 1 ? 'an object' : `${ids.length} objects`}`,
      edits: [newEdit('addNodes', { nodes: [node] }), newEdit('reparent', { ids, parent: id, frame: session.frame })],
    }),
  );
  if (made) selection.select([id]);
}

function ungroup() {
  const { shot, selection } = session;
  const groups = selection.nodes.filter((n) => n.kind === 'group' && !n.locked);
  if (groups.length === 0) return session.messages.say('Select a group first.');
  const children = groups.flatMap((g) => (shot.children.get(g.id) ?? []).map((n) => n.id));
  const edits = groups.flatMap((g) => {
    const ids = (shot.children.get(g.id) ?? []).map((n) => n.id);
    const out = newEdit('reparent', {
      ids,
      ...(g.parent ? { parent: g.parent } : {}),
      before: g.id,
      frame: session.frame,
    });
    return [...(ids.length > 0 ? [out] : []), newEdit('removeNodes', { ids: [g.id] })];
  });
  if (shot.commit(newEdit('batch', { label: 'Ungroup', edits }))) selection.select(children);
}

export function duplicate() {
  if (!needObject()) duplicateThese(session.selection.ids);
}

export function duplicateThese(ids: string[]) {
  const prefix = crypto.randomUUID().slice(0, 8);
  if (session.shot.commit(newEdit('duplicateNodes', { ids, prefix })))
    session.selection.select(ids.map((_, i) => `${prefix}-${i}`));
}

export function setVisible(ids: string[], on: boolean) {
  session.shot.pose(
    ids.map((id) => ({ address: `${id}/visible`, value: on ? 1 : 0 })),
    true,
  );
}

export function setLocked(ids: string[], locked: boolean) {
  const edits = ids.map((id) => changedNode(session.shot.byId.get(id)!, { locked }));
  session.shot.commit(newEdit('batch', { label: locked ? 'Lock' : 'Unlock', edits }));
}

function unparent(keep: boolean) {
  const ids = session.selection.nodes.filter((n) => n.parent).map((n) => n.id);
  if (ids.length > 0) session.shot.commit(newEdit('reparent', { ids, parent: null, frame: session.frame, keep }));
}

function removeObjects() {
  const ids = session.selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length > 0) session.shot.commit(newEdit('removeNodes', { ids }));
  else if (session.selection.ids.length > 0)
    session.messages.say('What is locked is not removed: unlock it in the list first.');
}
