// Reference pictures and films: on a plane of their own, in the world or fixed to a camera, seen in the stage and never rendered.
import { addedNodes, newEdit } from '../edits/edit';
import { freeName } from '../edits/names';
import { addFilm, addPicture, addSound } from '../materials/materials';
import { work } from '../widgets/work.svelte';
import { session } from '../stores/session.svelte';

export const isPicture = (name: string) => /\.(png|jpe?g|webp|bmp|gif)$/i.test(name);
export const isFilm = (name: string) => /\.(mp4|mov|m4v|webm|mkv|avi|mpe?g|ogv)$/i.test(name);
export const isSound = (name: string) => /\.(wav|flac|mp3|ogg|oga|opus|aiff?|m4a)$/i.test(name);
export const isSky = (name: string) => /\.hdr$/i.test(name);

/** How far before a camera a picture that is fixed to it stands, in metres. */
const BEFORE_CAMERA = 10;

/** The camera that a picture shall be fixed to: one that is selected. */
const camera = () => {
  const node = session.selection.nodes.at(-1);
  return node?.kind === 'camera' ? node : null;
};

function heightBefore(id: string): number {
  const of = (path: string) => session.shot.valueOf(session.shot.channelsOf(id).find((c) => c.path === path)!);
  const { projection, lens } = session.shot.byId.get(id)!.data;
  if (projection === 'orthographic') return of('camera.height');
  const half =
    lens === 'focal'
      ? of('camera.sensor') / 2 / of('camera.focal')
      : Math.tan((Math.min(170, Math.max(1, of('camera.fov'))) / 360) * Math.PI);
  return 2 * BEFORE_CAMERA * half;
}

/** Puts a picture or a film on a plane: two metres high on the ground, or so that it fills what a selected camera sees. */
export async function addReference(file: File) {
  const picture = isFilm(file.name)
    ? await work.run(`Importing ${file.name}`, (signal, report) => addFilm(file, signal, report))
    : await addPicture(file);
  if (!picture) return;
  const fixed = camera();
  const height = fixed ? heightBefore(fixed.id) : 2;
  const [id, look] = ['reference', 'look'].map((k) => `${k}-${crypto.randomUUID().slice(0, 8)}`);
  const plain = file.name.replace(/\.[^.]+$/, '').replaceAll('/', ' ') || 'Reference';
  const names = session.shot.scene.nodes.filter((n) => n.parent === (fixed?.id ?? null)).map((n) => n.name);
  const values = (all: Record<string, number>) =>
    Object.fromEntries(Object.entries(all).map(([path, value]) => [path, { value }]));
  const node = {
    kind: 'mesh',
    id,
    name: freeName(plain, names),
    ...(fixed ? { parent: fixed.id } : {}),
    shape: { kind: 'plane', width: (height * picture.width) / picture.height, depth: height },
    material: look,
    channels: values({
      'transform.rotate.x': 90,
      ...(fixed ? { 'transform.translate.z': -BEFORE_CAMERA } : { 'transform.translate.y': height / 2 }),
      'visible.renders': 0,
    }),
  };
  // It glows as it is, and takes no light; where the picture is not, nothing is.
  const material = {
    id: look,
    name: freeName(
      plain,
      session.shot.scene.materials.map((m) => m.name),
    ),
    channels: values({
      'look.color.r': 0,
      'look.color.g': 0,
      'look.color.b': 0,
      'look.roughness': 1,
      'look.ior': 1,
      // As bright as it is, whatever the exposure makes of light.
      'look.emission': 2 ** -session.shot.valueOf(session.shot.channelAt('world/exposure')!),
      'look.emissionColor.r': 1,
      'look.emissionColor.g': 1,
      'look.emissionColor.b': 1,
      'look.opacity': fixed ? 0.5 : 1,
      // A film begins where the playhead is.
      ...(picture.kind === 'film' ? { 'map.emission.start': session.frame } : {}),
    }),
    maps: [
      { slot: 'emission', projection: 'coordinates', source: picture },
      ...(picture.kind === 'picture'
        ? [{ slot: 'opacity', projection: 'coordinates', source: { ...picture, part: 'alpha' } }]
        : []),
    ],
  };
  const edit = addedNodes([node], [material]);
  if (session.shot.commit(edit)) session.selection.select([id]);
}

/** Gives the shot a picture of all that is around. */
export async function setSky(file: File) {
  const picture = await addPicture(file, true);
  if (!picture) return;
  const { asset, name, width, height } = picture;
  session.shot.commit(newEdit('setShot', { skyPicture: { asset, name, width, height } }));
}

/** Lays a sound under the shot, from the playhead on. */
export async function takeSound(file: File) {
  const sound = await work.run(`Importing ${file.name}`, (signal, report) => addSound(file, signal, report));
  if (!sound) return;
  const id = `sound-${crypto.randomUUID().slice(0, 8)}`;
  session.shot.commit(newEdit('putSound', { sound: { id, ...sound, start: session.frame } }));
}

/** Takes the files that are pictures, films or sounds and belong to no model among them; whether there were only such. */
export async function takePictures(files: File[]): Promise<boolean> {
  if (
    !session.shotId ||
    files.length === 0 ||
    !files.every((f) => isPicture(f.name) || isFilm(f.name) || isSky(f.name) || isSound(f.name))
  )
    return false;
  for (const file of files)
    await (isSound(file.name) ? takeSound(file) : isSky(file.name) ? setSky(file) : addReference(file));
  return true;
}

/** Lets a person choose sounds. */
export function chooseSound() {
  const input = document.createElement('input');
  Object.assign(input, { type: 'file', multiple: true, accept: 'audio/*,.flac,.ogg,.opus' });
  input.onchange = async () => {
    for (const file of input.files ?? []) await takeSound(file);
  };
  input.click();
}

/** Lets a person choose a reference picture. */
export function chooseReference() {
  const input = document.createElement('input');
  Object.assign(input, { type: 'file', multiple: true, accept: 'image/png,image/jpeg,image/webp,video/*' });
  input.onchange = () => void takePictures([...(input.files ?? [])]);
  input.click();
}
