// Shots, their files and what is brought into them.
import { type Command, needObject } from '../commands/command';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { chooseFiles, exportModel } from './import';
import { chooseReference, chooseSound } from './reference';

export const shotCommands: Command[] = [
  { id: 'library', title: 'Library of shots', group: 'Shot', keys: '$mod+o', run: () => (ui.dialog = 'library') },
  {
    id: 'shotSettings',
    title: 'Frame rate, range and resolution of the shot',
    group: 'Shot',
    run: () => (ui.dialog = 'shot'),
  },
  {
    id: 'history',
    title: 'History',
    group: 'Edit',
    keys: 'h',
    run: () => (ui.dialog = ui.dialog === 'history' ? null : 'history'),
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
    short: 'Export selection',
    title: 'Export what is selected as glTF (.glb)',
    group: 'Scene',
    run: () => needObject() || void exportModel(session.selection.ids),
  },
  { id: 'sound.add', title: 'Add a sound: WAV, FLAC, MP3 or OGG', group: 'Scene', run: chooseSound },
];
