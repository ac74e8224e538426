// New objects: an edit with a fresh id and a free name.
import { addedNodes } from '../edits/edit';
import { freeName } from '../edits/names';
import { session } from '../stores/session.svelte';
import { stageHand } from '../stores/stageHand';

type Shape = Record<string, unknown>;

/** What can be added: what it is called until it is given a name, and for a mesh its shape and how high it stands on the ground. */
const kinds = {
  box: { label: 'Box', shape: {}, height: 0.5 },
  sphere: { label: 'Sphere', shape: {}, height: 0.5 },
  geodesic: { label: 'Even sphere', shape: {}, height: 0.5 },
  cylinder: { label: 'Cylinder', shape: {}, height: 0.5 },
  cone: { label: 'Cone', shape: { kind: 'cylinder', topRadius: 0 }, height: 0.5 },
  capsule: { label: 'Capsule', shape: { kind: 'cylinder', radius: 0.3, topRadius: 0.3, rounding: 0.3 }, height: 0.5 },
  torus: { label: 'Torus', shape: {}, height: 0.15 },
  plane: { label: 'Plane', shape: {} },
  disc: { label: 'Disc', shape: {}, height: 0.01 },
  helix: { label: 'Helix', shape: {}, height: 0.56 },
  tube: {
    label: 'Tube',
    shape: {
      points: [
        { x: -0.9, y: 0, z: 0.2 },
        { x: -0.3, y: 0.25, z: -0.2 },
        { x: 0.3, y: 0.25, z: 0.2 },
        { x: 0.9, y: 0, z: -0.2 },
      ],
    },
    height: 0.05,
  },
  text: { label: 'Text', shape: { kind: 'outline', text: 'Text', font: 'Sans', bevel: 0.02 } },
  group: { label: 'Group' },
  control: { label: 'Control', height: 0.5 },
  repeat: { label: 'Repeater' },
  camera: { label: 'Camera', height: 1.5 },
  sun: { label: 'Sun', height: 4 },
  lamp: { label: 'Lamp', height: 2 },
  spot: { label: 'Spot', node: { kind: 'lamp', form: 'spot' }, height: 3, turn: -90 },
  panel: { label: 'Area light', node: { kind: 'lamp', form: 'rectangle' }, height: 2.5, turn: -90 },
} satisfies Record<string, { label: string; shape?: Shape; height?: number; node?: Shape; turn?: number }>;

/** Half as wide as what is added, about. */
const RADIUS = 0.5;

export type NewKind = keyof typeof kinds;

/** All of them, in the order in which they are offered. */
export const newKinds = Object.entries(kinds).map(([kind, { label }]) => ({ kind: kind as NewKind, label }));
export const labelOf = (kind: NewKind) => kinds[kind].label;

/** Adds an object and selects it. Words come from the server as outlines. */
export async function newNode(kind: NewKind) {
  const {
    label,
    shape: wanted,
    height,
    node: own,
    turn,
  } = kinds[kind] as {
    label: string;
    shape?: Shape;
    height?: number;
    node?: Shape;
    turn?: number;
  };
  let shape: Shape | undefined = wanted && { kind, ...wanted };
  if (kind === 'text') {
    const { outlineOf } = await import('./outlines');
    const path = await outlineOf(String(shape!.text), String(shape!.font));
    if (!path) return;
    shape = { ...shape!, path };
  }
  const parent =
    session.selection.nodes.length === 1 && ['group', 'control', 'repeat'].includes(session.selection.nodes[0].kind)
      ? session.selection.nodes[0].id
      : null;
  const siblings = session.shot.scene.nodes.filter((n) => n.parent === parent);
  const name = freeName(
    label,
    siblings.map((n) => n.name),
  );
  const id = `${kind}-${crypto.randomUUID().slice(0, 8)}`;
  const material = shape ? `look-${crypto.randomUUID().slice(0, 8)}` : undefined;
  const channels: Record<string, { value: number }> = {};
  // Where one looks, on the ground, beside what is there.
  const near = stageHand()?.lookedAt() ?? [0, 0, 0];
  const [x, y, z] = session.shot.engine!.freePlace(
    near,
    shape ? RADIUS : 0.01,
    shape ? 2 * (height ?? 0.5) : 0.01,
    parent ?? '',
  );
  const place = { x, y: y + (height ?? 0), z: kind === 'camera' ? z + 6 : z };
  for (const [axis, value] of Object.entries(place))
    if (value !== 0) channels[`transform.translate.${axis}`] = { value: Math.round(value * 1e6) / 1e6 };
  if (turn) channels['transform.rotate.x'] = { value: turn };
  if (kind === 'sun') channels['transform.rotate.x'] = { value: -50 };
  const node = {
    kind: shape ? 'mesh' : kind,
    ...own,
    id,
    name,
    ...(parent ? { parent } : {}),
    ...(shape ? { shape, material } : {}),
    channels,
  };
  const look = freeName(
    name,
    session.shot.scene.materials.map((m) => m.name),
  );
  const materials = material ? [{ id: material, name: look }] : [];
  if (session.shot.commit(addedNodes([node], materials))) session.selection.select([id]);
}
