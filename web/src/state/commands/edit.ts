// What belongs to no panel: undo, copy and paste, dialogs, files.
import type { Edit } from '../../engine/engine';
import { chooseFiles, exportModel } from '../import';
import { copyObjects, forgetObjects, pasteObjects } from '../objects';
import { poseAt } from '../poses';
import { chooseReference } from '../reference';
import { session, type KeyRef } from '../session.svelte';
import { ui } from '../ui.svelte';
import { copyValues, pasteValues } from '../values';
import { type Command, needKey, needObject, keyedChannels } from './command';
import { duplicate, duplicateThese } from './objects';

/** Where objects are seen. */
const OBJECTS = ['stage', 'list'] as const;

export const editCommands: Command[] = [
  { id: 'undo', title: 'Undo', group: 'Edit', keys: '$mod+z', run: () => session.shot.undo() },
  { id: 'redo', title: 'Redo', group: 'Edit', keys: '$mod+y', run: () => session.shot.redo() },
  {
    id: 'removeObjects',
    title: 'Remove the selected objects',
    group: 'Edit',
    keys: 'Delete',
    where: OBJECTS,
    run: removeObjects,
  },
  {
    id: 'removeKeys',
    title: 'Remove the selected keys',
    group: 'Edit',
    keys: 'Delete',
    where: ['tracks'],
    run: () => needKey() || session.removeSelectedKeys(),
  },
  {
    id: 'removePose',
    title: 'Remove the pose at the playhead',
    group: 'Edit',
    keys: 'Delete',
    where: ['poses'],
    run: () => withPose((keys) => session.shot.commit({ kind: 'removeKeys', keys } as unknown as Edit)),
  },
  {
    id: 'copyObjects',
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
    id: 'copyKeys',
    title: 'Copy the selected keys',
    group: 'Edit',
    keys: '$mod+c',
    where: ['tracks'],
    run: () => needKey() || copyKeys(),
  },
  {
    id: 'copyPose',
    title: 'Copy the pose at the playhead',
    group: 'Edit',
    keys: '$mod+c',
    where: ['poses'],
    run: () =>
      withPose((keys) => {
        const { selection } = session;
        const before = selection.keys;
        selection.keys = keys;
        copyKeys();
        selection.keys = before;
      }),
  },
  {
    id: 'paste',
    title: 'Paste, keys at the playhead',
    group: 'Edit',
    keys: '$mod+v',
    run: paste,
  },
  { id: 'duplicate', title: 'Duplicate the selected objects', group: 'Edit', keys: '$mod+d', run: duplicate },
  {
    id: 'selectObjects',
    title: 'Select all objects',
    group: 'Edit',
    keys: '$mod+a',
    where: OBJECTS,
    run: () =>
      session.selection.select(session.shot.scene.nodes.filter((n) => !n.locked && !n.parent).map((n) => n.id)),
  },
  {
    id: 'selectKeys',
    title: 'Select all keys of the selected objects, or of everything',
    group: 'Edit',
    keys: '$mod+a',
    where: ['tracks'],
    run: () =>
      (session.selection.keys = keyedChannels().flatMap((address) =>
        session.shot.keysOf(address).map((frame) => ({ address, frame })),
      )),
  },
  {
    id: 'cut',
    title: 'Cut the selected keys',
    group: 'Edit',
    keys: '$mod+x',
    where: ['tracks'],
    run: () => {
      if (needKey()) return;
      copyKeys();
      session.removeSelectedKeys();
    },
  },
  { id: 'leave', title: 'Select nothing', group: 'Edit', keys: 'Escape', run: leave },
  { id: 'search', title: 'Search for a command', group: 'Help', keys: '$mod+k', run: () => (ui.dialog = 'search') },
  { id: 'library', title: 'Library of shots', group: 'Shot', keys: '$mod+o', run: () => (ui.dialog = 'library') },
  {
    id: 'history',
    title: 'History',
    group: 'Edit',
    keys: 'h',
    run: () => (ui.dialog = ui.dialog === 'history' ? null : 'history'),
  },
  { id: 'help', title: 'Shortcuts', group: 'Help', keys: 'Shift+?', run: () => (ui.dialog = 'help') },
  {
    id: 'shotSettings',
    title: 'Frame rate, range and resolution of the shot',
    group: 'Shot',
    run: () => (ui.dialog = 'shot'),
  },
  {
    id: 'import',
    title: 'Import a file into the shot: .glb, .gltf, .obj, .stl, .ply or .svg',
    group: 'Scene',
    keys: 'Shift+KeyI',
    run: chooseFiles,
  },
  {
    id: 'reference',
    title: 'Reference picture or film: on a plane, or fixed to the selected camera',
    group: 'Scene',
    run: chooseReference,
  },
  { id: 'export', title: 'Export the shot as glTF (.glb)', group: 'Shot', run: () => void exportModel([]) },
  {
    id: 'exportSelection',
    title: 'Export what is selected as glTF (.glb)',
    group: 'Scene',
    run: () => needObject() || void exportModel(session.selection.ids),
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
];

function removeObjects() {
  const ids = session.selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length > 0) session.shot.commit({ kind: 'removeNodes', ids });
  else if (session.selection.ids.length > 0)
    session.messages.say('What is locked is not removed: unlock it in the list first.');
}

function copyKeys() {
  forgetObjects();
  session.clipboard.copy();
}

function withPose(use: (keys: KeyRef[]) => void) {
  const keys = poseAt(session.frame);
  if (keys.length === 0)
    return session.messages.say('There is no pose on this frame: click one of the pictures, or key one with K.');
  use(keys);
}

function paste() {
  if (session.clipboard.isEmpty) pasteObjects(duplicateThese);
  else session.clipboard.paste();
}

/** Escape takes away what is open, then what is selected. */
function leave() {
  if (ui.dialog === 'history' || ui.dialog === 'findings') ui.dialog = null;
  else if (session.selection.keys.length > 0) session.selection.keys = [];
  else if (session.selection.channels.length > 0) session.selection.choose([]);
  else session.selection.clear();
}
