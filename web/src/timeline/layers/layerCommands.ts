// Layers of animation.
import { newEdit } from '../../edits/edit';
import { session } from '../../stores/session.svelte';
import { viewState } from '../../stores/viewState.svelte';
import { type Command } from '../../commands/command';

export const layerCommands: Command[] = [
  {
    id: 'layers',
    title: 'Layers: show or hide their strips beside the tracks',
    group: 'View',
    keys: 'l',
    run: () => {
      const isShown = session.phase === 'polish' && (viewState.layers ?? session.shot.scene.layers.length > 0);
      viewState.layers = !isShown;
      if (viewState.layers) session.phase = 'polish';
    },
  },
  {
    id: 'layer.new',
    short: 'Additive layer',
    title: 'New layer that adds',
    group: 'Layers',
    keys: 'Shift+KeyL',
    run: () => addLayer('add'),
  },
  {
    id: 'layer.newOverride',
    short: 'Overriding layer',
    title: 'New layer that overrides',
    group: 'Layers',
    run: () => addLayer('override'),
  },
  { id: 'layer.up', title: 'Work in the layer above', group: 'Layers', keys: 'Alt+ArrowUp', run: () => stepLayer(1) },
  {
    id: 'layer.down',
    title: 'Work in the layer below',
    group: 'Layers',
    keys: 'Alt+ArrowDown',
    run: () => stepLayer(-1),
  },
  {
    id: 'layer.merge',
    title: 'Merge the layer that is worked in with what is below it',
    group: 'Layers',
    run: () => {
      const layer = chosenLayer();
      if (layer) mergeLayer(layer.id);
    },
  },
  {
    id: 'layer.bake',
    short: 'Bake all layers',
    title: 'Bake all layers into the keys of the channels',
    group: 'Layers',
    run: () => void session.shot.commit(newEdit('bakeLayers', {})),
  },
  {
    id: 'layer.remove',
    title: 'Remove the layer that is worked in, with its keys',
    group: 'Layers',
    run: () => {
      const layer = chosenLayer();
      if (layer) session.shot.commit(newEdit('removeLayer', { layer: layer.id }));
    },
  },
];

function chosenLayer() {
  const layer = session.shot.scene.layers.find((l) => l.id === session.shot.layer);
  if (!layer) session.messages.say('This is below all layers: choose a layer on its strip beside the tracks first.');
  return layer;
}

function stepLayer(by: 1 | -1) {
  const ids = [null, ...session.shot.scene.layers.map((l) => l.id)];
  const to = ids[ids.indexOf(session.shot.layer) + by];
  if (to === undefined)
    session.messages.say(
      by > 0 ? 'There is no layer above.' : 'There is nothing below: this is what all layers lie on.',
    );
  else session.shot.chooseLayer(to);
}

/** Adds a layer above the one that is worked in, and works in it. */
export function addLayer(mode: 'add' | 'override') {
  const { layers } = session.shot.scene;
  const names = new Set(layers.map((l) => l.name));
  let n = layers.length + 1;
  while (names.has(`Layer ${n}`)) n++;
  const id = `layer-${crypto.randomUUID().slice(0, 8)}`;
  const at = layers.findIndex((l) => l.id === session.shot.layer) + 1;
  const edit = newEdit('addLayer', { layer: { id, name: `Layer ${n}`, mode }, ...(at > 0 ? { at } : {}) });
  if (!session.shot.commit(edit)) return;
  viewState.layers = true;
  session.shot.chooseLayer(id);
}

/** Merges a layer into the one below it, which is worked in afterwards. */
export function mergeLayer(id: string) {
  const { layers } = session.shot.scene;
  const below = layers[layers.findIndex((l) => l.id === id) - 1];
  const { layer } = session.shot;
  if (session.shot.commit(newEdit('mergeLayer', { layer: id })) && layer === id)
    session.shot.chooseLayer(below?.id ?? null);
}
