// What belongs to no feature: undo, paste, what Escape takes away.
import { type Command } from '../commands/command';
import { duplicateThese } from '../objects/objectCommands';
import { pasteObjects } from '../objects/objects';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';

export const editCommands: Command[] = [
  { id: 'undo', title: 'Undo', group: 'Edit', keys: '$mod+z', run: () => session.shot.undo() },
  {
    id: 'redo',
    title: 'Redo',
    group: 'Edit',
    keys: '$mod+y',
    also: ['$mod+Shift+KeyZ'],
    run: () => session.shot.redo(),
  },
  {
    id: 'paste',
    short: 'Paste',
    title: 'Paste, keys at the playhead',
    group: 'Edit',
    keys: '$mod+v',
    run: paste,
  },
  { id: 'leave', title: 'Select nothing', group: 'Edit', keys: 'Escape', run: leave },
  { id: 'search', title: 'Search for a command', group: 'Help', keys: '$mod+k', run: () => (ui.dialog = 'search') },
  { id: 'help', title: 'Shortcuts', group: 'Help', keys: 'Shift+?', run: () => (ui.dialog = 'help') },
];

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
