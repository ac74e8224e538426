import { gestures } from '../../widgets/gestures.svelte';
import { session } from '../../stores/session.svelte';
import { viewState } from '../../stores/viewState.svelte';
import { StageView } from './view';

let shared: StageView | null = null;

/** The view that all phases show; made when the first of them asks for it. */
export function stageView(): StageView {
  if (shared) return shared;
  const canvas = document.createElement('canvas');
  canvas.className = 'block h-full w-full';
  shared = new StageView(canvas, {
    pick: (ids, add) => {
      if (ids.length > 0 || !add) session.selection.select(ids, add);
    },
    target: (node) => session.selection.targetOf(node),
    place: (ids, worlds, commit) => session.shot.place(ids, worlds, commit),
    steered: (world) => {
      if (session.shot.scene.camera) session.shot.place([session.shot.scene.camera], world, true);
    },
    dragBegun: (hand) =>
      gestures.begin({
        commit: hand.commit,
        cancel: () => {
          hand.cancel();
          session.shot.try(null);
        },
        type: hand.type,
      }),
    dragMoved: (readout) => (gestures.readout = readout),
    dragEnded: () => gestures.end(),
    entered: (pane) => (viewState.pane = pane),
  });
  performance.mark('stage made');
  // For measuring and for tests; nothing in the program reads it.
  Object.assign(window, { bradymotusStage: shared });
  return shared;
}
