// What belongs to no panel: undo, copy and paste, dialogs, files.
import { chooseFiles, exportModel } from '../import';
import { copyObjects, forgetObjects, pasteObjects } from '../objects';
import { chooseReference } from '../reference';
import { session } from '../session.svelte';
import { ui } from '../ui.svelte';
import { copyValues, pasteValues } from '../values';
import { type Command, needObject, keyedChannels, keysAreMeant } from './command';
import { duplicate, duplicateThese } from './objects';

export const editCommands: Command[] = [
  { id: 'undo', title: 'Undo', group: 'Edit', keys: '$mod+z', run: () => session.shot.undo() },
  { id: 'redo', title: 'Redo', group: 'Edit', keys: '$mod+y', run: () => session.shot.redo() },
  { id: 'remove', title: 'Remove the selected keys or objects', group: 'Edit', keys: 'Delete', run: remove },
  { id: 'copy', title: 'Copy', group: 'Edit', keys: '$mod+c', run: copy },
  {
    id: 'paste',
    title: 'Paste, keys at the playhead',
    group: 'Edit',
    keys: '$mod+v',
    run: paste,
  },
  { id: 'duplicate', title: 'Duplicate the selected objects', group: 'Edit', keys: '$mod+d', run: duplicate },
  {
    id: 'selectAll',
    title: 'Select all: objects, or keys in the tracks',
    group: 'Edit',
    keys: '$mod+a',
    run: selectAll,
  },
  {
    id: 'cut',
    title: 'Cut the selected keys',
    group: 'Edit',
    keys: '$mod+x',
    run: () => {
      if (!keysAreMeant()) return session.messages.say('Select some keys first: click them in the tracks.');
      copy();
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

function remove() {
  if (keysAreMeant()) return session.removeSelectedKeys();
  const ids = session.selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length > 0) session.shot.commit({ kind: 'removeNodes', ids });
  else if (session.selection.ids.length > 0)
    session.messages.say('What is locked is not removed: unlock it in the list first.');
}

function copy() {
  if (keysAreMeant()) {
    forgetObjects();
    return session.clipboard.copy();
  }
  if (needObject()) return;
  session.clipboard.clear();
  copyObjects(session.selection.ids);
}

function paste() {
  if (session.clipboard.isEmpty) pasteObjects(duplicateThese);
  else session.clipboard.paste();
}

function selectAll() {
  if (session.phase === 'polish' && ui.over === 'tracks')
    session.selection.keys = keyedChannels().flatMap((address) =>
      session.shot.keysOf(address).map((frame) => ({ address, frame })),
    );
  else session.selection.select(session.shot.scene.nodes.filter((n) => !n.locked && !n.parent).map((n) => n.id));
}

/** Escape takes away what is open, then what is selected. */
function leave() {
  if (ui.dialog === 'history' || ui.dialog === 'findings') ui.dialog = null;
  else if (session.selection.keys.length > 0) session.selection.keys = [];
  else if (session.selection.channels.length > 0) session.selection.choose([]);
  else session.selection.clear();
}
