// What the right button offers in the stage, and the list of what lies one behind the other under a point.
import type { NodeView } from '../engine/engine';
import { session } from '../stores/session.svelte';
import { contextMenu, type MenuItem } from '../widgets/contextMenu.svelte';
import type { StageView } from './view/view';

/** So many of what lies under a point are listed. */
const MOST = 8;

/**
 * What can be done at a point of the page.
 * @param onObject an object lies there
 * @param trace draws the motion path of the point of the surface there
 */
export function stageMenu(
  view: StageView | null,
  x: number,
  y: number,
  onObject: boolean,
  trace: () => void,
): (MenuItem | null)[] {
  const ofObjects = [
    { command: 'key' },
    { command: 'hold' },
    null,
    { command: 'duplicate' },
    { command: 'copyObjects' },
    { command: 'paste' },
    { command: 'removeObjects' },
    null,
    { command: 'isolate' },
    { command: 'hide' },
    { command: 'lock' },
    { command: 'drop' },
    null,
    { title: 'Path of the point here', run: trace },
  ];
  const ofNothing = [
    { command: 'paste' },
    { command: 'selectObjects' },
    null,
    { command: 'camera' },
    { command: 'grid' },
    { command: 'isolate' },
  ];
  const under = underMenu(view, x, y);
  return [
    ...(onObject || session.selection.ids.length > 0 ? ofObjects : ofNothing),
    { command: 'fit' },
    ...(under.length > 1 ? [null, ...under] : []),
  ];
}

/** The objects under a point, each to be selected, with the groups that it is in. */
function underMenu(view: StageView | null, x: number, y: number): MenuItem[] {
  const { selection } = session;
  const nameOf = (node: NodeView) => view!.picking.chain(node).map((n) => n.name);
  return (view?.picking.nodesAt(x, y) ?? []).slice(0, MOST).map((node) => ({
    title: `Select ${nameOf(node).slice(-3).join(' › ')}`,
    checked: selection.ids.includes(node.id),
    run: () => selection.select([node.id]),
  }));
}

/** Lists what lies under a point; where that is one object it is selected. */
export function listUnder(view: StageView | null, x: number, y: number) {
  const items = underMenu(view, x, y);
  if (items.length > 1) contextMenu.at(x, y, items);
  else if (items.length === 1) items[0].run!();
  else session.messages.say('Point at objects first: those that lie one behind the other are listed.');
}
