// Materials: the shelf to start from, what they are laid onto, and their maps.
import { addedMaterial, changedNode, newEdit } from '../edits/edit';
import { api, sentence, take } from '../api/client';
import type { components } from '../generated/api';
import type { Film, NodeView, Picture, SurfaceMap } from '../engine/engine';
import { freeName } from '../edits/names';
import { asJob } from '../sync/jobs';
import { takeDrops } from '../stores/drops';
import { session } from '../stores/session.svelte';

export type ShelfItem = components['schemas']['ShelfView'];
export type Slot = SurfaceMap['slot'];

export const slots: { slot: Slot; label: string }[] = [
  { slot: 'color', label: 'Colour' },
  { slot: 'roughness', label: 'Roughness' },
  { slot: 'metallic', label: 'Metal' },
  { slot: 'normal', label: 'Normal' },
  { slot: 'bump', label: 'Bump' },
  { slot: 'emission', label: 'Emission' },
  { slot: 'opacity', label: 'Opacity' },
];

/** What is dragged: the id of a material of the shot, or of one of the shelf. */
export const MATERIAL_DRAG = 'application/x-material';

let known: Promise<ShelfItem[]> | null = null;

/** The materials of the shelf. */
export const shelf = () =>
  (known ??= take(api.GET('/api/materials')).catch((e: Error) => {
    known = null;
    throw e;
  }));

const materialOf = (id: string) => session.shot.scene.materials.find((m) => m.id === id);

/** Edits that give meshes a material; an empty id takes it from them. */
export const painted = (nodes: NodeView[], id: string) =>
  nodes
    .filter((n) => n.kind === 'mesh')
    .map((n) => changedNode(n, { material: id || undefined, partMaterials: undefined }));

/** Gives meshes a material of the shot. */
export function assign(nodes: NodeView[], id: string) {
  const edits = painted(nodes, id);
  if (edits.length === 0) return;
  session.shot.commit(newEdit('batch', { label: `Material: ${materialOf(id)?.name ?? 'none'}`, edits }));
}

/** Gives meshes a material of the shelf; the shot gets it once. */
export async function assignFromShelf(nodes: NodeView[], shelfId: string) {
  const item = (await shelf()).find((m) => m.id === shelfId);
  if (!item) return;
  const same = session.shot.scene.materials.find((m) => m.name === item.name);
  if (same) return assign(nodes, same.id);
  const id = `look-${crypto.randomUUID().slice(0, 8)}`;
  const material = { name: item.name, ...(item.material as object), id };
  const edits = [addedMaterial(material), ...painted(nodes, id)];
  session.shot.commit(newEdit('batch', { label: `Material: ${item.name}`, edits }));
}

/** What is dropped on an object that is selected is for all that are. */
takeDrops(MATERIAL_DRAG, (data, node) => {
  const chosen = session.selection.nodes.some((n) => n.id === node.id) ? session.selection.nodes : [node];
  const meshes = chosen.filter((n) => n.kind === 'mesh');
  if (meshes.length === 0) return session.messages.say(`“${node.name}” has no surface: drop the material onto a mesh.`);
  const [from, id] = data.split(' ');
  if (from === 'shelf') void assignFromShelf(meshes, id).catch((e: Error) => session.messages.say(e.message));
  else if (materialOf(id)) assign(meshes, id);
});

/** A new material for meshes, as another is or plain. */
export function newMaterial(nodes: NodeView[], like?: string) {
  const name = freeName(
    (like && materialOf(like)?.name) || nodes.at(-1)!.name,
    session.shot.scene.materials.map((m) => m.name),
  );
  const id = `look-${crypto.randomUUID().slice(0, 8)}`;
  const edits = [addedMaterial({ id, name }, like), ...painted(nodes, id)];
  session.shot.commit(newEdit('batch', { label: `New material: ${name}`, edits }));
}

export const mapsOf = (material: string) => (materialOf(material)?.maps ?? []) as unknown as SurfaceMap[];

/** Gives a material a map for a slot, in the place of the one that it has there; null takes it away. */
export function setMap(material: string, slot: Slot, map: SurfaceMap | null) {
  const before = mapsOf(material);
  const isNew = before.every((m) => m.slot !== slot);
  const maps = isNew
    ? [...before, ...(map ? [map] : [])]
    : before.flatMap((m) => (m.slot !== slot ? [m] : map ? [map] : []));
  const label = slots.find((s) => s.slot === slot)!.label;
  const edits = [newEdit('setMaps', { id: material, maps })];
  // A map is multiplied by the number or colour of the material: where nobody has set that, it shall be seen as it is.
  const usual = isNew && map ? fresh(material, slot) : [];
  if (usual.length > 0) edits.push(newEdit('setValues', { values: usual }));
  session.shot.commit(
    newEdit('batch', { label: `${map ? (isNew ? 'Add' : 'Change') : 'Remove'} ${label.toLowerCase()} map`, edits }),
  );
}

function fresh(material: string, slot: Slot) {
  const paths: Partial<Record<Slot, string[]>> = {
    color: ['look.color.r', 'look.color.g', 'look.color.b'],
    roughness: ['look.roughness'],
    metallic: ['look.metallic'],
    emission: ['look.emission', 'look.emissionColor.r', 'look.emissionColor.g', 'look.emissionColor.b'],
  };
  const channels = session.shot.channelsOf(material).filter((c) => paths[slot]?.includes(c.path));
  const isPlain = (path: string) => {
    const c = channels.find((x) => x.path === path)!;
    return session.shot.keysOf(c.address).length === 0 && Math.abs(session.shot.valueOf(c) - c.default) < 1e-9;
  };
  // Of what glows the strength decides: 0 shows nothing.
  const plain = slot === 'emission' ? isPlain('look.emission') : channels.every((c) => isPlain(c.path));
  return plain ? channels.map((c) => ({ address: c.address, value: 1 })) : [];
}

/** Sends a file to be taken into the library; what is wrong with it is said. */
async function send<T>(path: string, file: File, signal?: AbortSignal): Promise<T | null> {
  try {
    const answer = await fetch(path, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
      signal,
    });
    const body: unknown = await answer.json().catch(() => null);
    if (!answer.ok) throw new Error(sentence(body));
    return body as T;
  } catch (e) {
    if (signal?.aborted) return null;
    session.messages.say(
      e instanceof TypeError ? `The server cannot be reached: ${file.name} was not taken.` : (e as Error).message,
    );
    return null;
  }
}

/**
 * Puts a picture into the library.
 * @param sky it may be of high dynamic range
 */
export async function addPicture(file: File, sky = false): Promise<Picture | null> {
  const path = `/api/pictures?name=${encodeURIComponent(file.name)}&sky=${sky}`;
  const picture = await send<Omit<Picture, 'kind'>>(path, file);
  return picture && { kind: 'picture', ...picture };
}

/** Puts a film for reference into the library. */
export async function addFilm(file: File, signal: AbortSignal, report: (part: number) => void): Promise<Film | null> {
  const film = await asJob(report, (job) =>
    send<Omit<Film, 'kind'>>(`/api/films?name=${encodeURIComponent(file.name)}&job=${job}`, file, signal),
  );
  return film && { kind: 'film', ...film };
}

/** Puts a sound into the library. */
export const addSound = (file: File, signal: AbortSignal, report: (part: number) => void) =>
  asJob(report, (job) =>
    send<{ asset: string; name: string; seconds: number }>(
      `/api/sounds?name=${encodeURIComponent(file.name)}&job=${job}`,
      file,
      signal,
    ),
  );
