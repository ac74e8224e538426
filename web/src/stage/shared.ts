import { session } from '../state/session.svelte';
import { StageView } from './view';

let shared: StageView | null = null;

/** The view that all phases show; made when the first of them asks for it. */
export function stageView(): StageView {
  if (shared) return shared;
  const canvas = document.createElement('canvas');
  canvas.className = 'block h-full w-full';
  shared = new StageView(canvas, {
    pick: (id, add) => session.select(id ? [id] : add ? session.selection : [], add && id !== null),
    place: (ids, worlds, commit) => session.place(ids, worlds, commit),
    steered: (world) => {
      if (session.scene.camera) session.place([session.scene.camera], world, true);
    },
  });
  performance.mark('stage made');
  // For measuring and for tests; nothing in the program reads it.
  Object.assign(window, { bradymotusStage: shared });
  return shared;
}
