// The animation's rules live in C#, compiled to WebAssembly. This file only carries words and numbers across.
import type { OpeningView } from '../api/client';
import type { components } from '../generated/api';
import type { JournalEntrySchema } from '../generated/formats';

export type JournalEntry = JournalEntrySchema.JournalEntry;
export type Edit = Extract<JournalEntry, { kind: 'edit' }>['edit'];

type Schemas = components['schemas'];
type WireScene = Schemas['SceneView'];

export type Family = Schemas['ChannelFamily'];

/** A node as panels show it; its data is what the shot file has of it. */
export type NodeView = Omit<Schemas['NodeView'], 'kind' | 'data'> & {
  kind: 'group' | 'mesh' | 'camera' | 'sun' | 'lamp';
  data: Record<string, unknown>;
};

/** A channel with its place among the values of a frame and the frames of its keys. */
export type ChannelView = Schemas['ChannelSpec'] & { index: number; owner: string; keys: number[] };

export type SceneView = Omit<WireScene, 'nodes' | 'specs' | 'owners' | 'keys'> & {
  nodes: NodeView[];
  channels: ChannelView[];
};

export type Ease = { ease: string; direction?: string; overshoot?: number; amplitude?: number; period?: number };
export type Segment = 'bezier' | 'linear' | 'hold' | Ease;
export type HandleKind = 'auto' | 'smooth' | 'flat' | 'straight' | 'free';
export interface Extrapolation {
  kind: 'hold' | 'linear' | 'loop' | 'loopOffset' | 'pingPong';
  count?: number;
}

export interface KeyView {
  frame: number;
  value: number;
  segment: Segment;
  inKind: { kind: HandleKind };
  outKind: { kind: HandleKind };
  joined: boolean;
  in: [number, number];
  out: [number, number];
  samples: number[] | null;
}

export interface CurveView {
  keys: KeyView[];
  before: Extrapolation;
  after: Extrapolation;
}

export interface HistoryView {
  revision: number;
  content: number;
  undo: number | null;
  undoLabel: string | null;
  redo: number | null;
  redoLabel: string | null;
  steps: { revision: number; content: number; label: string }[];
}

export interface Outcome {
  refusal: string | null;
  entry: JournalEntry | null;
}

export interface ChannelValue {
  address: string;
  value: number;
}

export const addressOf = (c: { owner: string; path: string }) => `${c.owner}/${c.path}`;

interface MemoryView {
  length: number;
  copyTo(target: ArrayBufferView): void;
}

/** JSON as bytes: turning text into the engine's own strings and back would cost it more than reading them. */
type Json = Uint8Array;
const encoder = new TextEncoder();
const decoder = new TextDecoder();
const write = (value: unknown): Json => encoder.encode(JSON.stringify(value));
const text = (json: Json) => decoder.decode(json);
const read = (json: Json) => JSON.parse(text(json));

/** What Bradymotus.Engine exports; see Bridge.cs for the meaning of each. */
interface Bridge {
  OpenShot(shot: Json, revision: number, entries: Json): Json;
  Rebase(shot: Json, revision: number, entries: Json): Json;
  Commit(edit: Json): Json;
  Warm(): void;
  Append(entry: Json): Json;
  Try(edit: Json): Json;
  Restore(revision: number): Json;
  Pose(values: Json, autoKey: boolean, commit: boolean): Json;
  Place(ids: Json, worlds: number[], autoKey: boolean, commit: boolean): Json;
  Hold(channels: Json): Json;
  KeyNow(channels: Json): Json;
  Waiting(): Json;
  Evaluate(frame: number, stepped: boolean): void;
  Matrices(): MemoryView;
  Seen(): MemoryView;
  Values(): MemoryView;
  MeshVersions(): MemoryView;
  Positions(node: number): MemoryView;
  Normals(node: number): MemoryView;
  Indices(node: number): MemoryView;
  Scene(): Json;
  Changes(): Json;
  Curve(channel: string): Json;
  Sample(channel: string, first: number, step: number, count: number): number[];
  EasePicture(segment: Json): number[];
  Path(node: string, first: number, last: number): number[];
  History(): Json;
  CopyKeys(keys: Json): Json;
}

const none: number[] = [];
const nothing = new Uint8Array();

/** Owners of one kind share their list of channels on the way; here each gets its own. */
function unfold({ specs, owners, keys, ...scene }: WireScene): SceneView {
  const channels = owners.flatMap((owner) =>
    specs[owner.specs].map((spec, i) => ({
      ...spec,
      index: owner.first + i,
      owner: owner.id,
      keys: keys[`${owner.id}/${spec.path}`] ?? none,
    })),
  );
  return { ...scene, nodes: scene.nodes as NodeView[], channels };
}

const bytesOf = (a: ArrayBufferView) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength);

type Boot = Record<'engine' | 'shots' | 'opening' | 'document', Promise<unknown>> & { begin(): void };

/** What boot.js has started while the rest of the page was still on its way. */
export const boot = () => (window as unknown as { bradymotusBoot: Boot }).bradymotusBoot;

/** An evaluated frame: what the stage and the panels show. */
export interface ShownFrame {
  readonly matrices: Float32Array;
  readonly seen: Uint8Array;
  readonly values: Float64Array;
  /** Different when the shape of a node is another than before. */
  readonly meshVersions: Int32Array;
  /** Copies vertices into a buffer that goes to the graphics card; makes one where the old does not fit. */
  positions(node: number, into?: Float32Array): Float32Array;
  normals(node: number, into?: Float32Array): Float32Array;
  indices(node: number): Uint32Array;
}

function decode(base64: string): ArrayBuffer {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

/** The first frame, evaluated by the server while the engine of the page is still starting. */
export class Opening implements ShownFrame {
  readonly scene: SceneView;
  readonly revision: number;
  readonly matrices: Float32Array;
  readonly seen: Uint8Array;
  readonly values: Float64Array;
  readonly meshVersions: Int32Array;
  private readonly meshes: Map<number, OpeningView['meshes'][number]>;

  constructor(view: OpeningView) {
    this.scene = unfold(view.scene);
    this.revision = view.revision;
    this.matrices = new Float32Array(decode(view.matrices));
    this.seen = new Uint8Array(decode(view.seen));
    this.values = new Float64Array(decode(view.values));
    // The engine counts its versions up from 0.
    this.meshVersions = new Int32Array(this.seen.length).fill(-2);
    this.meshes = new Map(view.meshes.map((m) => [m.node, m]));
  }

  positions = (node: number) => new Float32Array(decode(this.meshes.get(node)?.positions ?? ''));
  normals = (node: number) => new Float32Array(decode(this.meshes.get(node)?.normals ?? ''));
  indices = (node: number) => new Uint32Array(decode(this.meshes.get(node)?.indices ?? ''));
}

/** One open shot. Buffers are refilled by every evaluation and belong to the engine. */
export class Engine implements ShownFrame {
  matrices = new Float32Array();
  seen = new Uint8Array();
  values = new Float64Array();
  meshVersions = new Int32Array();

  private constructor(private readonly bridge: Bridge) {}

  static async load(): Promise<Engine> {
    const exports = (await boot().engine) as { Bradymotus: { Engine: { Bridge: Bridge } } };
    return new Engine(exports.Bradymotus.Engine.Bridge);
  }

  open(shot: unknown, revision: number, entries: unknown[]): Outcome {
    return read(this.bridge.OpenShot(write(shot), revision, write(entries)));
  }

  rebase(shot: unknown, revision: number, entries: unknown[]): Outcome {
    return read(this.bridge.Rebase(write(shot), revision, write(entries)));
  }

  commit = (edit: Edit): Outcome => read(this.bridge.Commit(write(edit)));
  warm = () => this.bridge.Warm();
  append = (entry: unknown): Outcome => read(this.bridge.Append(write(entry)));
  try = (edit: Edit | null): Outcome => read(this.bridge.Try(edit ? write(edit) : nothing));
  restore = (revision: number): Outcome => read(this.bridge.Restore(revision));
  pose = (values: ChannelValue[], autoKey: boolean, commit: boolean): Outcome =>
    read(this.bridge.Pose(write(values), autoKey, commit));
  place = (ids: string[], worlds: number[], autoKey: boolean, commit: boolean): Outcome =>
    read(this.bridge.Place(write(ids), worlds, autoKey, commit));
  hold = (channels: string[]): Outcome => read(this.bridge.Hold(write(channels)));
  keyNow = (channels: string[]): Outcome => read(this.bridge.KeyNow(write(channels)));
  waiting = (): string[] => read(this.bridge.Waiting());
  scene = (): SceneView => unfold(read(this.bridge.Scene()));
  changes = (): { structure: boolean; keys: Record<string, number[]> } => read(this.bridge.Changes());
  history = (): HistoryView => read(this.bridge.History());
  // Numbers come as typed arrays, whose map and flat keep to numbers: plain arrays are handed on.
  path = (node: string, first: number, last: number) => Array.from(this.bridge.Path(node, first, last));
  sample = (channel: string, first: number, step: number, count: number) =>
    Array.from(this.bridge.Sample(channel, first, step, count));
  copyKeys = (keys: { address: string; frame: number }[]): string =>
    text(this.bridge.CopyKeys(write({ kind: 'removeKeys', keys })));
  easePicture = (segment: Segment) => Array.from(this.bridge.EasePicture(write(segment)));

  curve(channel: string): CurveView | null {
    const json = this.bridge.Curve(channel);
    return json.length > 0 ? read(json) : null;
  }

  /** Stepped shows the last pose instead of what lies between two. */
  evaluate(frame: number, stepped = false) {
    this.bridge.Evaluate(frame, stepped);
    const matrices = this.bridge.Matrices();
    if (matrices.length !== this.matrices.byteLength) this.matrices = new Float32Array(matrices.length / 4);
    matrices.copyTo(bytesOf(this.matrices));
    const seen = this.bridge.Seen();
    if (seen.length !== this.seen.length) this.seen = new Uint8Array(seen.length);
    seen.copyTo(this.seen);
    const values = this.bridge.Values();
    if (values.length !== this.values.length) this.values = new Float64Array(values.length);
    values.copyTo(this.values);
    const versions = this.bridge.MeshVersions();
    if (versions.length !== this.meshVersions.length) this.meshVersions = new Int32Array(versions.length);
    versions.copyTo(this.meshVersions);
  }

  positions = (node: number, into?: Float32Array) => this.floats(this.bridge.Positions(node), into);
  normals = (node: number, into?: Float32Array) => this.floats(this.bridge.Normals(node), into);

  indices(node: number): Uint32Array {
    const view = this.bridge.Indices(node);
    const indices = new Int32Array(view.length);
    view.copyTo(indices);
    return new Uint32Array(indices.buffer);
  }

  private floats(view: MemoryView, into?: Float32Array): Float32Array {
    const target = into && into.byteLength === view.length ? into : new Float32Array(view.length / 4);
    view.copyTo(bytesOf(target));
    return target;
  }
}
