// The animation's rules live in C#, compiled to WebAssembly. This file only carries words and numbers across.
import type { JournalEntrySchema } from '../generated/formats';

export type JournalEntry = JournalEntrySchema.JournalEntry;
export type Edit = Extract<JournalEntry, { kind: 'edit' }>['edit'];

export type Family = 'move' | 'turn' | 'scale' | 'shape' | 'look';

export interface NodeView {
  id: string;
  name: string;
  parent: string | null;
  kind: 'group' | 'mesh' | 'camera' | 'sun' | 'lamp';
  index: number;
  locked: boolean;
  data: Record<string, unknown>;
}

export interface ChannelView {
  index: number;
  owner: string;
  path: string;
  label: string;
  family: Family;
  unit: string;
  default: number;
  min: number | null;
  max: number | null;
  step: number;
  stepped: boolean;
  keys: number[];
}

export interface SceneView {
  name: string;
  rate: number;
  rateNumerator: number;
  rateDenominator: number;
  first: number;
  last: number;
  playFirst: number;
  playLast: number;
  hasPlayRange: boolean;
  width: number;
  height: number;
  camera: string | null;
  nodes: NodeView[];
  materials: { id: string; name: string }[];
  channels: ChannelView[];
}

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

/** What Bradymotus.Engine exports; see Bridge.cs for the meaning of each. */
interface Bridge {
  OpenShot(shot: string, revision: number, entries: string): string;
  Rebase(shot: string, revision: number, entries: string): string;
  Commit(edit: string): string;
  Warm(): void;
  Append(entry: string): string;
  Try(edit: string): string;
  Restore(revision: number): string;
  Pose(values: string, autoKey: boolean, commit: boolean): string;
  Place(ids: string, worlds: number[], autoKey: boolean, commit: boolean): string;
  KeyNow(channels: string): string;
  Waiting(): string;
  Evaluate(frame: number): void;
  Matrices(): MemoryView;
  Seen(): MemoryView;
  Values(): MemoryView;
  MeshVersions(): MemoryView;
  Positions(node: number): MemoryView;
  Normals(node: number): MemoryView;
  Indices(node: number): MemoryView;
  Scene(): string;
  Changes(): string;
  Curve(channel: string): string;
  Sample(channel: string, first: number, step: number, count: number): number[];
  EasePicture(segment: string): number[];
  Path(node: string, first: number, last: number): number[];
  History(): string;
  CopyKeys(keys: string): string;
  ShotFile(): string;
}

type Spec = Omit<ChannelView, 'index' | 'owner' | 'keys'>;
type WireScene = Omit<SceneView, 'channels'> & {
  specs: Spec[][];
  owners: { id: string; first: number; specs: number }[];
  keys: Record<string, number[]>;
};

const none: number[] = [];

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
  return { ...scene, channels };
}

const bytesOf = (a: ArrayBufferView) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength);

/** What boot.js has started while the rest of the page was still on its way. */
export const boot = () =>
  (
    window as unknown as {
      bradymotusBoot: { engine: Promise<unknown>; shots: Promise<unknown>; document: Promise<unknown> };
    }
  ).bradymotusBoot;

/** One open shot. Buffers are refilled by every evaluation and belong to the engine. */
export class Engine {
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
    return JSON.parse(this.bridge.OpenShot(JSON.stringify(shot), revision, JSON.stringify(entries)));
  }

  rebase(shot: unknown, revision: number, entries: unknown[]): Outcome {
    return JSON.parse(this.bridge.Rebase(JSON.stringify(shot), revision, JSON.stringify(entries)));
  }

  commit = (edit: Edit): Outcome => JSON.parse(this.bridge.Commit(JSON.stringify(edit)));
  warm = () => this.bridge.Warm();
  append = (entry: unknown): Outcome => JSON.parse(this.bridge.Append(JSON.stringify(entry)));
  try = (edit: Edit | null): Outcome => JSON.parse(this.bridge.Try(edit ? JSON.stringify(edit) : ''));
  restore = (revision: number): Outcome => JSON.parse(this.bridge.Restore(revision));
  pose = (values: ChannelValue[], autoKey: boolean, commit: boolean): Outcome =>
    JSON.parse(this.bridge.Pose(JSON.stringify(values), autoKey, commit));
  place = (ids: string[], worlds: number[], autoKey: boolean, commit: boolean): Outcome =>
    JSON.parse(this.bridge.Place(JSON.stringify(ids), worlds, autoKey, commit));
  keyNow = (channels: string[]): Outcome => JSON.parse(this.bridge.KeyNow(JSON.stringify(channels)));
  waiting = (): string[] => JSON.parse(this.bridge.Waiting());
  scene = (): SceneView => unfold(JSON.parse(this.bridge.Scene()));
  changes = (): { structure: boolean; keys: Record<string, number[]> } => JSON.parse(this.bridge.Changes());
  history = (): HistoryView => JSON.parse(this.bridge.History());
  // Numbers come as typed arrays, whose map and flat keep to numbers: plain arrays are handed on.
  path = (node: string, first: number, last: number) => Array.from(this.bridge.Path(node, first, last));
  sample = (channel: string, first: number, step: number, count: number) =>
    Array.from(this.bridge.Sample(channel, first, step, count));
  copyKeys = (keys: { address: string; frame: number }[]): string =>
    this.bridge.CopyKeys(JSON.stringify({ kind: 'removeKeys', keys }));
  easePicture = (segment: Segment) => Array.from(this.bridge.EasePicture(JSON.stringify(segment)));
  shotFile = () => this.bridge.ShotFile();

  curve(channel: string): CurveView | null {
    const text = this.bridge.Curve(channel);
    return text ? JSON.parse(text) : null;
  }

  evaluate(frame: number) {
    this.bridge.Evaluate(frame);
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

  /** Copies vertices into a buffer that goes to the graphics card; makes one where the old does not fit. */
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
