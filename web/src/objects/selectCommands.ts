// Selecting what is alike, sets that are kept, showing some objects alone, and the order of the list.
import { newEdit } from '../edits/edit';
import { session } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';
import { type Command, needObject } from '../commands/command';
import { stepPlace } from './reordering';
import { sceneLines } from './sceneLines';
import {
  selectChildren,
  selectNext,
  selectOthers,
  selectParent,
  selectSameKind,
  selectSameMaterial,
} from './selecting';
import { keepSet } from './sets';

const none = new Set<string>();
const shownRows = () => sceneLines(session.shot.children, viewState.closed ?? none, '').map((l) => l.node);

export const selectCommands: Command[] = [
  {
    id: 'select.others',
    short: 'Invert',
    title: 'Invert the selection',
    group: 'Selecting',
    keys: '$mod+i',
    run: selectOthers,
  },
  { id: 'select.children', short: 'Children', title: 'Select the children', group: 'Selecting', run: selectChildren },
  { id: 'select.parent', short: 'Parent', title: 'Select the parent', group: 'Selecting', run: selectParent },
  {
    id: 'select.sameKind',
    short: 'Same kind',
    title: 'Select all of the same kind',
    group: 'Selecting',
    run: selectSameKind,
  },
  {
    id: 'select.sameMaterial',
    short: 'Same material',
    title: 'Select all with the same material',
    group: 'Selecting',
    run: selectSameMaterial,
  },
  { id: 'set.keep', short: 'Keep as a set', title: 'Keep the selection as a set', group: 'Selecting', run: keepSet },
  {
    id: 'isolate',
    short: 'Isolate',
    title: 'Isolate the selection, or show all again',
    group: 'Selecting',
    keys: 'i',
    run: () => {
      if (viewState.isolated.length > 0) viewState.isolated = [];
      else if (!needObject()) viewState.isolated = session.selection.ids;
    },
  },
  {
    id: 'select.next',
    title: 'Select the next object of the list',
    group: 'Selecting',
    keys: 'n',
    where: ['stage'],
    run: () => selectNext(1, shownRows()),
  },
  {
    id: 'select.previous',
    title: 'Select the object before in the list',
    group: 'Selecting',
    keys: 'b',
    where: ['stage'],
    run: () => selectNext(-1, shownRows()),
  },
  {
    id: 'order.up',
    title: 'Move the selected objects up in the list',
    group: 'Selecting',
    keys: '$mod+ArrowUp',
    where: ['list'],
    run: () => reorder(-1),
  },
  {
    id: 'order.down',
    title: 'Move the selected objects down in the list',
    group: 'Selecting',
    keys: '$mod+ArrowDown',
    where: ['list'],
    run: () => reorder(1),
  },
];

/** The selected siblings go by one among their own, those at the front first, so that they stay together. */
function reorder(by: 1 | -1) {
  if (needObject()) return;
  const { nodes } = session.selection;
  const { parent } = nodes[0];
  if (nodes.some((n) => n.parent !== parent))
    return session.messages.say('Select objects that hang below the same parent: they are moved among its children.');
  const siblings = session.shot.children.get(parent) ?? [];
  const chosen = siblings.filter((n) => nodes.includes(n));
  const edge = by < 0 ? chosen[0] : chosen.at(-1)!;
  const before = stepPlace(siblings, edge.id, by);
  if (before === undefined) return;
  session.shot.commit(newEdit('reparent', { ids: chosen.map((n) => n.id), parent, before, frame: session.frame }));
}
