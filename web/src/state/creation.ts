// New objects: an edit with a fresh id and a free name.
import type { Edit } from '../engine/engine';
import { session } from './session.svelte';

export type NewKind = 'box' | 'sphere' | 'cylinder' | 'torus' | 'plane' | 'group' | 'camera' | 'sun' | 'lamp';

/** What each is called until it is given a name. */
export const newNames: Record<NewKind, string> = {
  box: 'Box',
  sphere: 'Ball',
  cylinder: 'Cylinder',
  torus: 'Torus',
  plane: 'Plane',
  group: 'Group',
  camera: 'Camera',
  sun: 'Sun',
  lamp: 'Lamp',
};

// Standing on the ground, and lights and cameras where they are of use.
const heights: Partial<Record<NewKind, number>> = {
  box: 0.5,
  sphere: 0.5,
  cylinder: 0.5,
  torus: 0.15,
  lamp: 2,
  camera: 1.5,
  sun: 4,
};

/** The wanted name, or it with the first free number behind it. */
export function freeName(wanted: string, taken: Iterable<string>): string {
  const names = new Set(taken);
  let name = wanted;
  for (let i = 2; names.has(name); i++) name = `${wanted.replace(/ \d+$/, '')} ${i}`;
  return name;
}

export function newNode(kind: NewKind) {
  const parent =
    session.selection.nodes.length === 1 && session.selection.nodes[0].kind === 'group'
      ? session.selection.nodes[0].id
      : null;
  const siblings = session.shot.scene.nodes.filter((n) => n.parent === parent);
  const name = freeName(
    newNames[kind],
    siblings.map((n) => n.name),
  );
  const id = `${kind}-${crypto.randomUUID().slice(0, 8)}`;
  const isMesh = ['box', 'sphere', 'cylinder', 'torus', 'plane'].includes(kind);
  const material = isMesh ? `look-${crypto.randomUUID().slice(0, 8)}` : undefined;
  const channels: Record<string, { value: number }> = {};
  if (heights[kind]) channels['transform.translate.y'] = { value: heights[kind]! };
  if (kind === 'camera') channels['transform.translate.z'] = { value: 6 };
  if (kind === 'sun') channels['transform.rotate.x'] = { value: -50 };
  const node = {
    kind: isMesh ? 'mesh' : kind,
    id,
    name,
    ...(parent ? { parent } : {}),
    ...(isMesh ? { shape: { kind }, material } : {}),
    channels,
  };
  const look = freeName(
    name,
    session.shot.scene.materials.map((m) => m.name),
  );
  const materials = isMesh ? [{ id: material, name: look }] : undefined;
  if (session.shot.commit({ kind: 'addNodes', nodes: [node], materials } as unknown as Edit))
    session.selection.select([id]);
}
