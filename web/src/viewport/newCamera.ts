// Cameras: made from what is seen, and focused on what is selected.
import { addedNodes, newEdit } from '../edits/edit';
import { freeName } from '../edits/names';
import { session } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';

const PLACES = ['translate', 'rotate', 'scale'].flatMap((what) =>
  ['x', 'y', 'z'].map((axis) => `transform.${what}.${axis}`),
);

/** A camera that sees what the free view sees; the shot is rendered through it from now on. */
export async function cameraFromView() {
  const { stageView } = await import('./view/shared');
  const { world, fov } = stageView().seen();
  const id = `camera-${crypto.randomUUID().slice(0, 8)}`;
  const taken = session.shot.scene.nodes.filter((n) => !n.parent).map((n) => n.name);
  const numbers = session.shot.engine!.transformAt(world);
  const channels = Object.fromEntries(PLACES.map((path, i) => [path, { value: numbers[i] }]));
  const node = {
    kind: 'camera',
    id,
    name: freeName('Camera', taken),
    channels: { ...channels, 'camera.fov': { value: fov } },
  };
  const edits = [addedNodes([node]), newEdit('setShot', { camera: id })];
  if (!session.shot.commit(newEdit('batch', { label: 'Camera from the view', edits }))) return;
  session.selection.select([id]);
  viewState.throughCamera = true;
}

/** The camera of the shot is sharp where the selected object is. */
export function focusOnSelected() {
  const { camera } = session.shot.scene;
  const id = session.selection.ids.findLast((i) => i !== camera);
  if (!camera || !id) return session.messages.say('Select the object that shall be sharp; the shot needs a camera.');
  const depth = session.shot.engine!.depth(camera, id);
  if (!(depth > 0)) return session.messages.say('What is selected lies behind the camera.');
  const values = [{ address: `${camera}/camera.focus`, value: Math.round(depth * 1e4) / 1e4 }];
  const stop = session.shot.channelAt(`${camera}/camera.fstop`);
  // All is sharp until there is an opening: one that shows.
  if (stop && session.shot.valueOf(stop) === 0) values.push({ address: stop.address, value: 2.8 });
  session.shot.pose(values, true);
}
