// What changes a shot, made so that the compiler knows what each edit needs: the types come from the schema of the journal.
import type { components } from '../generated/api';
import type { Edit, Layer, NodeView, Sound } from '../engine/engine';

type Kind = Edit['kind'];
type Schemas = components['schemas'];
/** The members of an edit of a kind. */
export type Members<K extends Kind> = Omit<Extract<Edit, { kind: K }>, 'kind'>;
/** An object that is added: what kind it is, and what is not as usual. */
export interface NewNode {
  kind: string;
  id: string;
  name: string;
  [member: string]: unknown;
}
/** A material that is added. */
export interface NewMaterial {
  id: string;
  name: string;
  [member: string]: unknown;
}

/** An edit of a kind. */
export const newEdit = <K extends Kind>(kind: K, members: Members<K>): Edit =>
  ({ kind, ...members }) as unknown as Edit;

/** Several edits as one step of the history; one alone is that step. */
export const together = (label: string, edits: Edit[]): Edit =>
  edits.length === 1 ? edits[0] : newEdit('batch', { label, edits });

// What the page knows of a shot has the types of the API; the journal has stricter ones, of the same numbers and words.

/** Adds objects, with the materials that they bring. */
export const addedNodes = (nodes: NewNode[], materials: NewMaterial[] = []): Edit =>
  newEdit('addNodes', { nodes, ...(materials.length > 0 ? { materials } : {}) } as unknown as Members<'addNodes'>);

/** An object with some of what the shot file says of it changed; undefined takes a member away. */
export const changedNode = (node: NodeView, change: Record<string, unknown>): Edit =>
  newEdit('replaceNode', { node: { ...node.data, ...change } } as unknown as Members<'replaceNode'>);

export const addedMaterial = (material: NewMaterial, like?: string): Edit =>
  newEdit('addMaterial', { material, like } as unknown as Members<'addMaterial'>);

export const changedSound = (sound: Sound, change: Partial<Sound>): Edit =>
  newEdit('putSound', { sound: { ...sound, ...change } } as unknown as Members<'putSound'>);

export const changedLayer = (layer: Layer, change: Partial<Layer>): Edit =>
  newEdit('setLayer', { layer: { ...layer, ...change } } as unknown as Members<'setLayer'>);

export const changedMarker = (marker: Schemas['Marker'], change: Partial<Schemas['Marker']>): Edit =>
  newEdit('putMarker', { marker: { ...marker, ...change } } as unknown as Members<'putMarker'>);

export const changedNewKeys = (style: object, change: object): Edit =>
  newEdit('setShot', { newKeys: { ...style, ...change } } as unknown as Members<'setShot'>);

export const changedSegments = (keys: Members<'setSegments'>['keys'], segment: unknown): Edit =>
  newEdit('setSegments', { keys, segment } as Members<'setSegments'>);

/** An edit that the server or the engine has made. */
export const received = (edit: unknown): Edit => edit as Edit;
