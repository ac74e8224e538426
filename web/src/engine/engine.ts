// The animation's rules live in C#, compiled to WebAssembly. This file only carries words and numbers across.
import { decode, encode } from '@msgpack/msgpack';
import type { OpeningView } from '../api/client';
import type { components } from '../generated/api';
import type { JournalEntrySchema, SavedSchema } from '../generated/formats';

export type JournalEntry = JournalEntrySchema.JournalEntry;
/** A pose or a motion that is kept apart from any shot. */
export type Saved = SavedSchema.Saved;
export type SavedPose = Extract<Saved, { kind: 'pose' }>;
export type SavedMotion = Extract<Saved, { kind: 'motion' }>;
export type Edit = Extract<JournalEntry, { kind: 'edit' }>['edit'];

/** Keys by channel, as they are put. */
export type CopiedKeys = Extract<Edit, { kind: 'putKeys' }>;

type Schemas = components['schemas'];
type WireScene = Schemas['SceneView'];

export type Family = Schemas['ChannelFamily'];

/** A node as panels show it; its data is what the shot file has of it. */
export type NodeView = Omit<Schemas['NodeView'], 'data'> & {
  kind: 'group' | 'mesh' | 'camera' | 'sun' | 'lamp' | 'joint' | 'control' | 'instance' | 'repeat';
  data: Record<string, unknown>;
};

/** A sound that is heard with the shot. */
export type Sound = Schemas['Sound'];

/** Animation laid over that of the channels. */
export type Layer = Schemas['Layer'];

export type MaterialView = Schemas['MaterialView'];
/** What a map shows when it is a picture. */
export type Picture = Omit<Schemas['MapSourcePictureSource'], '$type'> & { kind: 'picture' };
/** What a map shows when it is a film. */
export type Film = Omit<Schemas['MapSourceClipSource'], 'kind'> & { kind: 'film' };
/** A picture or a pattern on a surface, as the shot file has it. */
export type SurfaceMap = Omit<Schemas['SurfaceMap'], 'source' | 'projection'> & {
  source: Picture | Film | { kind: 'wood' | 'checks' | 'bricks' | 'noise' };
  projection: NonNullable<Schemas['SurfaceMap']['projection']>;
};

/** A channel with its place among the values of a frame. */
export type ChannelView = Schemas['ChannelSpec'] & { index: number; owner: string; address: string };

/** What a shot has besides its objects, materials, layers and sounds. */
export type HeadView = WireScene['head'];

export type SceneView = HeadView &
  Omit<WireScene, 'head' | 'nodes' | 'specs' | 'owners' | 'keys' | 'locked' | 'muted'> & {
    locked: ReadonlySet<string>;
    /** The addresses of the channels whose curves have no say. */
    muted: ReadonlySet<string>;
    nodes: NodeView[];
    channels: Channels;
  };

/** A number that a shape brings itself. */
function standardOf(shape: unknown, path: string): number | undefined {
  const [what, name, axis] = path.split('.');
  if (what !== 'shape' || !shape) return undefined;
  const numbers = shape as Record<string, number> & { points?: Record<string, number>[] };
  return axis ? numbers.points?.[Number(name.replace('point', '')) - 1]?.[axis] : numbers[name];
}

/** The id before the slash of an address. */
export const ownerOf = (address: string) => address.slice(0, address.indexOf('/'));

/** The id of the layer that an address is in, or null. */
export const layerOf = (address: string) => (address.includes('@') ? address.slice(address.indexOf('@') + 1) : null);

/** The address of the channel itself, below all layers. */
export const baseOf = (address: string) => (address.includes('@') ? address.slice(0, address.indexOf('@')) : address);

/** What comes after the owner in an address: its channel, below all layers. */
export const pathOf = (address: string) => baseOf(address).slice(address.indexOf('/') + 1);

/** The channels of all owners. Owners of one kind share what they have; a list is made when somebody asks for it. */
export class Channels {
  private readonly lists = new Map<string, ChannelView[]>();
  private readonly owners: Map<string, WireScene['owners'][number]>;
  private readonly layers: ReadonlySet<string>;

  constructor(
    private readonly specs: WireScene['specs'],
    owners: WireScene['owners'],
    private readonly nodes: Map<string, { data: Record<string, unknown> }>,
    layers: { id: string }[],
  ) {
    this.layers = new Set(layers.map((l) => l.id));
    this.owners = new Map(owners.map((o) => [o.id, o]));
  }

  /**
   * Of one owner, in the order in which they are shown; none where there is no such owner.
   * @param layer With the addresses that they have in a layer; those of a layer itself are in none.
   */
  of(id: string, layer: string | null = null): ChannelView[] {
    if (layer !== null && !this.layers.has(id)) {
      const key = `${id}@${layer}`;
      let list = this.lists.get(key);
      if (!list) this.lists.set(key, (list = this.of(id).map((c) => ({ ...c, address: `${c.address}@${layer}` }))));
      return list;
    }
    let list = this.lists.get(id);
    if (!list) {
      const owner = this.owners.get(id);
      list = owner
        ? this.specs[owner.specs].map((spec, i) => ({
            ...spec,
            default: standardOf(this.nodes.get(id)?.data.shape, spec.path) ?? spec.default,
            index: owner.first + i,
            owner: id,
            address: `${id}/${spec.path}`,
          }))
        : [];
      this.lists.set(id, list);
    }
    return list;
  }

  at(address: string): ChannelView | undefined {
    return this.of(ownerOf(address), layerOf(address)).find((c) => c.address === address);
  }

  /** The place of a channel among the values of a frame, or −1. */
  indexOf(owner: string, path: string): number {
    return this.of(owner).find((c) => c.path === path)?.index ?? -1;
  }
}

export type Ease = { ease: string; direction?: string; overshoot?: number; amplitude?: number; period?: number };
export type Segment = 'bezier' | 'linear' | 'hold' | Ease;
export type HandleKind = 'auto' | 'smooth' | 'flat' | 'straight' | 'free';
export interface Extrapolation {
  kind: 'hold' | 'linear' | 'loop' | 'loopOffset' | 'pingPong';
  count?: number;
  /** The frame up to which it goes on so. */
  until?: number | null;
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

/** A curve as it comes from the engine: the numbers of its keys come apart. */
interface WireCurve {
  looks: Pick<KeyView, 'segment' | 'inKind' | 'outKind' | 'joined'>[];
  eases: { key: number; values: number[] }[];
  before: Extrapolation;
  after: Extrapolation;
}

export interface HistoryView {
  revision: number;
  content: number;
  /** What undo takes back; null where there is nothing to take back. */
  undoLabel: string | null;
  redoLabel: string | null;
  steps: { revision: number; content: number; label: string }[];
}

export interface Outcome {
  refusal: string | null;
  entry: JournalEntry | null;
}

/** What is left to be sent after lines of others were put in. */
export interface Merged {
  refusal: string | null;
  pending: JournalEntry[];
  dropped: number;
}

export interface ChangesView {
  structure: boolean;
  /** Where the structure is the same, and something else of the shot is not. */
  head: HeadView | null;
  nodes: NodeView[];
  keys: Record<string, number[]>;
}

/** Objects that are on their way from one shot to another: a shot of their own. */
export interface TakenObjects {
  nodes: { id: string; parent?: string | null }[];
}

/** A mesh with traced vertices. */
export interface TraceView {
  node: string;
  /** Another number whenever one of its paths is another. */
  version: number;
  first: number;
  vertices: number[];
  /** Frames with a key of anything that moves them. */
  keys: number[];
}

/** With x, y, z for each frame of each vertex, not-a-number where it is not known yet. */
export type TracedMesh = TraceView & { points: number[][] };

/** Something in the motion that is probably not meant. */
export interface Finding {
  kind: Schemas['MeantFinding']['kind'];
  nodes: string[];
  channels: string[];
  first: number;
  last: number;
  sentence: string;
  /** What a click would do; null where a person has to. */
  mend: string | null;
}

export interface ChannelValue {
  address: string;
  value: number;
}

interface MemoryView {
  length: number;
  copyTo(target: ArrayBufferView): void;
}

/** What can be said in JSON, as MessagePack: the engine reads that many times faster than text. */
type Packed = Uint8Array;
const write = (value: unknown): Packed => encode(value, { ignoreUndefined: true });
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const read = (packed: Packed): any => decode(packed);

/** What Bradymotus.Engine exports; see Bridge.cs for the meaning of each. */
interface Bridge {
  OpenShot(shot: Packed, revision: number, entries: Packed): Packed;
  Resume(after: number, entries: Packed): Packed;
  Merge(confirmed: number, missed: Packed): Packed;
  Drop(confirmed: number): Packed;
  Commit(edit: Packed, id: string): Packed;
  Try(edit: Packed): Packed;
  Restore(revision: number, id: string): Packed;
  Undo(id: string): Packed;
  Redo(id: string): Packed;
  Pose(values: Packed, autoKey: boolean, commit: boolean, id: string): Packed;
  Place(ids: Packed, worlds: number[], autoKey: boolean, commit: boolean, id: string): Packed;
  Arrange(ids: Packed, how: string, axis: number, side: number, autoKey: boolean, id: string): Packed;
  PivotTo(ids: Packed, where: string, id: string): Packed;
  HangInstances(of: string, on: Packed, where: string, prefix: string, id: string): Packed;
  BoundsOf(ids: Packed, within: string): number[];
  FreePlace(near: number[], radius: number, height: number, within: string): number[];
  CountsOf(ids: Packed): number[];
  FlatMapsOf(ids: Packed): number[];
  TransformAt(world: number[]): number[];
  DepthOf(camera: string, id: string): number;
  Hold(channels: Packed, id: string): Packed;
  KeyNow(channels: Packed, id: string): Packed;
  Between(channels: Packed, share: number, commit: boolean, id: string): Packed;
  ShapeSegments(keys: Packed, easing: string, id: string): Packed;
  EasingOf(channel: string, frame: number): string;
  EasingPicture(easing: string): number[];
  BeginChecks(): void;
  Check(milliseconds: number): boolean;
  Findings(): Packed;
  Mend(findings: number[], id: string): Packed;
  Waiting(): Packed;
  Left(): Packed;
  BringBack(): Packed;
  Evaluate(frame: number, stepped: boolean): void;
  KeptVersion(): number;
  KeptRuns(first: number, last: number): Int32Array;
  EvaluateAside(frame: number): void;
  Matrices(aside: boolean): MemoryView;
  Seen(aside: boolean): MemoryView;
  Values(aside: boolean): MemoryView;
  MeshVersions(aside: boolean): MemoryView;
  Positions(node: number, aside: boolean): MemoryView;
  Normals(node: number, aside: boolean): MemoryView;
  Indices(node: number, aside: boolean): MemoryView;
  Rest(node: number, aside: boolean): number;
  TexCoords(node: number, aside: boolean): MemoryView;
  Colors(node: number, aside: boolean): MemoryView;
  Undeformed(node: number, aside: boolean): MemoryView;
  CopyNodes(aside: boolean): MemoryView;
  CopyMatrices(aside: boolean): MemoryView;
  CopyVersion(aside: boolean): number;
  CopyPositions(copy: number, aside: boolean): MemoryView;
  CopyValue(copy: number, path: string, aside: boolean): number;
  BlackBody(kelvin: number): number[];
  SkyPicture(aside: boolean): MemoryView;
  SunAt(latitude: number, longitude: number, year: number, month: number, day: number, hours: number): number[];
  CopyNormals(copy: number, aside: boolean): MemoryView;
  CopyIndices(copy: number, aside: boolean): MemoryView;
  Parts(node: number, aside: boolean): MemoryView;
  MissingMeshes(): Packed;
  PutMesh(name: string, mesh: Packed): Packed;
  Scene(): Packed;
  Changes(): Packed;
  Curve(channel: string): Packed;
  CurveNumbers(): MemoryView;
  ChangedFrames(): MemoryView;
  Sample(channel: string, first: number, step: number, count: number): number[];
  SampleSum(channel: string, first: number, step: number, count: number): number[];
  SetLayer(layer: string): void;
  ValuesNow(channels: Packed): number[];
  Slopes(channel: string, first: number, step: number, count: number, acceleration: boolean): number[];
  EasePicture(segment: Packed): number[];
  Path(node: string, first: number, last: number): number[];
  PathVersion(node: string, first: number, last: number): number;
  Trace(first: number, last: number, near: number, milliseconds: number): boolean;
  Traces(): Packed;
  HoldKeys(keys: Packed): number;
  DropKeys(): void;
  CopyObjects(ids: Packed, frame: number): Packed;
  PutObjects(objects: Packed, prefix: string, id: string): Packed;
  CommitHeld(edit: Packed, held: number[], id: string): Packed;
  TryHeld(edit: Packed, held: number[]): Packed;
  TracePoints(node: string, vertex: number): number[];
  PathHandles(node: string, frame: number): number[];
  MoveOnPath(
    what: string,
    node: string,
    frame: number,
    x: number,
    y: number,
    z: number,
    commit: boolean,
    id: string,
  ): Packed;
  History(after: number): Packed;
  CopyMotion(ids: Packed, first: number, last: number): Packed;
  CopyPose(ids: Packed): Packed;
  RetimePicture(edit: Packed): Float64Array;
  BeginPose(pose: Packed, targets: Packed, mirror: boolean): Packed;
  PoseReport(): Packed;
  PutPose(share: number, autoKey: boolean, commit: boolean, id: string): Packed;
  MotionReport(edit: Packed): Packed;
  CopyKeys(keys: Packed): Packed;
}

const nothing = new Uint8Array();

/** The identity of a line of the journal: sent twice it is taken once. */
const newId = () => crypto.randomUUID();

/** The kind of a node is said in its data. */
function withKind(nodes: WireScene['nodes']): NodeView[] {
  const views = nodes as unknown as NodeView[];
  for (const node of views) node.kind = node.data.kind as NodeView['kind'];
  return views;
}

const plainLayer = { mode: 'add', muted: false, solo: false, locked: false } as const;
const plainSound = { start: 0, muted: false };

function unfold({ head, specs, owners, keys, locked, muted, ...scene }: WireScene): {
  scene: SceneView;
  keys: Record<string, number[]>;
} {
  const nodes = withKind(scene.nodes);
  const channels = new Channels(specs, owners, new Map(nodes.map((n) => [n.id, n])), scene.layers);
  // What is as it usually is does not come over.
  const layers = scene.layers.map((l) => ({ ...plainLayer, ...l }));
  const sounds = scene.sounds.map((s) => ({ ...plainSound, ...s }));
  return {
    scene: { ...head, ...scene, nodes, channels, layers, sounds, locked: new Set(locked), muted: new Set(muted) },
    keys,
  };
}

// Lists of keys from this length on are held by the engine while a hand drags them; with so many it lets go of all of them.
const LONG = 100;
const HELD = 4;

const bytesOf = (a: ArrayBufferView) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength);

type Boot = Record<'engine' | 'shots' | 'opening' | 'document', Promise<unknown>> & { begin(): void };

/** What boot.js has started while the rest of the page was still on its way. */
export const boot = () => (window as unknown as { bradymotusBoot: Boot }).bradymotusBoot;

/** An evaluated frame: what the stage and the panels show. */
export interface ShownFrame {
  /** Which frame of the shot it is. */
  readonly at: number;
  readonly matrices: Float32Array;
  readonly seen: Uint8Array;
  readonly values: Float64Array;
  /** Different when the shape of a node is another than before. */
  readonly meshVersions: Int32Array;
  /** Copies vertices into a buffer that goes to the graphics card; makes one where the old does not fit. */
  positions(node: number, into?: Float32Array): Float32Array;
  normals(node: number, into?: Float32Array): Float32Array;
  indices(node: number): Uint32Array;
  /** The number of its triangles: its version where its vertices are at rest, so that all nodes of this version can share them. */
  rest(node: number): number;
  /** Two numbers a vertex; none where the shape has no texture coordinates. */
  texCoords(node: number): Float32Array;
  /** Red, green, blue and opacity of each vertex; none where it has no colours. */
  colors(node: number): Float32Array;
  /** The vertices before anything bends them. */
  undeformed(node: number, into?: Float32Array): Float32Array;
  /** What is drawn once more, four numbers each: what it is of, what draws it, the version of its shape, and its number. */
  readonly copyNodes: Int32Array;
  /** Where it stands, sixteen numbers each. */
  readonly copyMatrices: Float32Array;
  /** Another number whenever the copies are others. */
  readonly copyVersion: number;
  /** The vertices of a copy by its number. */
  copyVertices(copy: number): { positions: Float32Array; normals: Float32Array; indices: () => Uint32Array };
  /** The daylight sky, 128 × 64 pixels of red, green and blue from straight up to straight down; null where the sky is painted. */
  skyPicture(): Float32Array | null;
  /** The colour of what glows by its heat: linear red, green, blue of luminance 1. */
  blackBody(kelvin: number): number[];
  /** A value of what is copied, as the copy has it. */
  copyValue(copy: number, path: string): number;
  /** The triangle where each part begins that can have a material of its own. */
  parts(node: number): Int32Array;
}

function fromBase64(base64: string): ArrayBuffer {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

/** The first frame, evaluated by the server while the engine of the page is still starting. */
export class Opening implements ShownFrame {
  readonly scene: SceneView;
  readonly keys: Record<string, number[]>;
  readonly revision: number;
  readonly at = 0;
  readonly matrices: Float32Array;
  readonly seen: Uint8Array;
  readonly values: Float64Array;
  readonly meshVersions: Int32Array;
  private readonly meshes: Map<number, OpeningView['meshes'][number]>;

  constructor(view: OpeningView) {
    ({ scene: this.scene, keys: this.keys } = unfold(view.scene));
    this.revision = view.revision;
    this.matrices = new Float32Array(fromBase64(view.matrices));
    this.seen = new Uint8Array(fromBase64(view.seen));
    this.values = new Float64Array(fromBase64(view.values));
    // The engine counts its versions up from 1.
    this.meshVersions = new Int32Array(this.seen.length).fill(-2);
    this.meshes = new Map(view.meshes.map((m) => [m.node, m]));
  }

  positions = (node: number) => new Float32Array(fromBase64(this.meshes.get(node)?.positions ?? ''));
  normals = (node: number) => new Float32Array(fromBase64(this.meshes.get(node)?.normals ?? ''));
  indices = (node: number) => new Uint32Array(fromBase64(this.meshes.get(node)?.indices ?? ''));
  rest = () => 0;
  texCoords = () => new Float32Array();
  colors = () => new Float32Array();
  undeformed = () => new Float32Array();
  // They come with the engine.
  readonly copyNodes = new Int32Array();
  readonly copyMatrices = new Float32Array();
  readonly copyVersion = 0;
  skyPicture = () => null;
  blackBody = () => [1, 1, 1];
  copyValue = () => 0;
  copyVertices = () => ({
    positions: new Float32Array(),
    normals: new Float32Array(),
    indices: () => new Uint32Array(),
  });
  parts = (node: number) => new Int32Array(fromBase64(this.meshes.get(node)?.parts ?? ''));
}

/** A frame in the engine: the one that is shown, or the one beside it. Buffers are refilled by every evaluation. */
class EngineFrame implements ShownFrame {
  at = 0;
  matrices = new Float32Array();
  seen = new Uint8Array();
  values = new Float64Array();
  meshVersions = new Int32Array();
  copyNodes = new Int32Array();
  copyMatrices = new Float32Array();
  copyVersion = 0;

  constructor(
    protected readonly bridge: Bridge,
    private readonly aside: boolean,
  ) {}

  /** Takes over what has been evaluated. */
  protected take() {
    const matrices = this.bridge.Matrices(this.aside);
    if (matrices.length !== this.matrices.byteLength) this.matrices = new Float32Array(matrices.length / 4);
    matrices.copyTo(bytesOf(this.matrices));
    const seen = this.bridge.Seen(this.aside);
    if (seen.length !== this.seen.length) this.seen = new Uint8Array(seen.length);
    seen.copyTo(this.seen);
    const values = this.bridge.Values(this.aside);
    if (values.length !== this.values.length) this.values = new Float64Array(values.length);
    values.copyTo(this.values);
    const versions = this.bridge.MeshVersions(this.aside);
    if (versions.length !== this.meshVersions.length) this.meshVersions = new Int32Array(versions.length);
    versions.copyTo(this.meshVersions);
    const copies = this.bridge.CopyVersion(this.aside);
    if (copies === this.copyVersion) return;
    this.copyVersion = copies;
    const nodes = this.bridge.CopyNodes(this.aside);
    if (nodes.length !== this.copyNodes.length) {
      this.copyNodes = new Int32Array(nodes.length);
      this.copyMatrices = new Float32Array(4 * nodes.length);
    }
    nodes.copyTo(this.copyNodes);
    this.bridge.CopyMatrices(this.aside).copyTo(bytesOf(this.copyMatrices));
  }

  skyPicture = () => {
    const view = this.bridge.SkyPicture(this.aside);
    return view.length > 0 ? this.floats(view) : null;
  };

  blackBody = (kelvin: number): number[] => Array.from(this.bridge.BlackBody(kelvin));
  copyValue = (copy: number, path: string) => this.bridge.CopyValue(copy, path, this.aside);

  copyVertices = (copy: number) => ({
    positions: this.floats(this.bridge.CopyPositions(copy, this.aside)),
    normals: this.floats(this.bridge.CopyNormals(copy, this.aside)),
    indices: () => this.whole(this.bridge.CopyIndices(copy, this.aside)),
  });

  positions = (node: number, into?: Float32Array) => this.floats(this.bridge.Positions(node, this.aside), into);
  normals = (node: number, into?: Float32Array) => this.floats(this.bridge.Normals(node, this.aside), into);

  indices(node: number): Uint32Array {
    return this.whole(this.bridge.Indices(node, this.aside));
  }

  private whole(view: MemoryView): Uint32Array {
    const numbers = new Int32Array(view.length);
    view.copyTo(numbers);
    return new Uint32Array(numbers.buffer);
  }

  rest = (node: number) => this.bridge.Rest(node, this.aside);
  texCoords = (node: number) => this.floats(this.bridge.TexCoords(node, this.aside));
  colors = (node: number) => this.floats(this.bridge.Colors(node, this.aside));
  undeformed = (node: number, into?: Float32Array) => this.floats(this.bridge.Undeformed(node, this.aside), into);

  parts(node: number): Int32Array {
    const view = this.bridge.Parts(node, this.aside);
    const parts = new Int32Array(view.length);
    view.copyTo(parts);
    return parts;
  }

  private floats(view: MemoryView, into?: Float32Array): Float32Array {
    const target = into && into.byteLength === view.length ? into : new Float32Array(view.length / 4);
    view.copyTo(bytesOf(target));
    return target;
  }
}

/** A frame for small pictures: evaluating it leaves the shown one as it is. */
class AsideFrame extends EngineFrame {
  constructor(bridge: Bridge) {
    super(bridge, true);
  }

  evaluate(frame: number) {
    this.at = frame;
    this.bridge.EvaluateAside(frame);
    this.take();
  }
}

/** One open shot, and its evaluated frame. */
export class Engine extends EngineFrame {
  readonly beside: AsideFrame;
  // What has been drawn of motion paths, for as long as it is the same.
  private readonly paths = new Map<string, { version: number; points: number[] }>();
  private readonly traced = new Map<string, TracedMesh>();
  // Lists of keys that the engine holds, with their numbers.
  private readonly held = new Map<unknown, number>();

  private constructor(bridge: Bridge) {
    super(bridge, false);
    this.beside = new AsideFrame(bridge);
  }

  static async load(): Promise<Engine> {
    const exports = (await boot().engine) as { Bradymotus: { Engine: { Bridge: Bridge } } };
    return new Engine(exports.Bradymotus.Engine.Bridge);
  }

  open(shot: unknown, revision: number, entries: unknown[]): Outcome {
    this.paths.clear();
    this.traced.clear();
    this.held.clear();
    return read(this.bridge.OpenShot(write(shot), revision, write(entries)));
  }

  /** Takes up lines again that were made after a revision and not acknowledged. */
  resume = (after: number, entries: JournalEntry[]): Merged => read(this.bridge.Resume(after, write(entries)));
  /** Puts lines of others before this window's newest ones. */
  merge = (confirmed: number, missed: unknown[]): Merged => read(this.bridge.Merge(confirmed, write(missed)));
  drop = (confirmed: number): Outcome => read(this.bridge.Drop(confirmed));
  commit(edit: Edit): Outcome {
    const lists: number[] = [];
    const short = this.withoutHeld(edit, lists, true);
    if (!lists.some((i) => i >= 0)) return read(this.bridge.Commit(write(edit), newId()));
    const outcome: Outcome = read(this.bridge.CommitHeld(write(short), lists, newId()));
    // What is on record is the edit with its lists, which are here.
    return outcome.entry?.kind === 'edit' ? { ...outcome, entry: { ...outcome.entry, edit } } : outcome;
  }
  try(edit: Edit | null): Outcome {
    if (!edit) return read(this.bridge.Try(nothing));
    const lists: number[] = [];
    // Between two edits only: one may have many lists.
    if (this.held.size >= HELD) {
      this.bridge.DropKeys();
      this.held.clear();
    }
    const short = this.withoutHeld(edit, lists);
    return read(lists.some((i) => i >= 0) ? this.bridge.TryHeld(write(short), lists) : this.bridge.Try(write(edit)));
  }

  /**
   * The edit without its long lists of keys, which the engine holds from the first time on: a hand that drags thousands tries them at every step.
   * @param known Only those that it holds already.
   */
  private withoutHeld(edit: Edit, lists: number[], known = false): Edit {
    if (edit.kind === 'batch') return { ...edit, edits: edit.edits.map((e) => this.withoutHeld(e, lists, known)) };
    if (edit.kind !== 'transformKeys') return edit;
    const { keys } = edit;
    if (keys.length < LONG || (known && !this.held.has(keys))) {
      lists.push(-1);
      return edit;
    }
    if (!this.held.has(keys)) this.held.set(keys, this.bridge.HoldKeys(write(edit)));
    const number = this.held.get(keys)!;
    lists.push(number);
    return number < 0 ? edit : { ...edit, keys: [] };
  }

  restore = (revision: number): Outcome => read(this.bridge.Restore(revision, newId()));
  undo = (): Outcome => read(this.bridge.Undo(newId()));
  redo = (): Outcome => read(this.bridge.Redo(newId()));
  pose = (values: ChannelValue[], autoKey: boolean, commit: boolean): Outcome =>
    read(this.bridge.Pose(write(values), autoKey, commit, newId()));
  place = (ids: string[], worlds: number[], autoKey: boolean, commit: boolean): Outcome =>
    read(this.bridge.Place(write(ids), worlds, autoKey, commit, newId()));
  arrange = (ids: string[], how: string, axis: number, side: number, autoKey: boolean): Outcome =>
    read(this.bridge.Arrange(write(ids), how, axis, side, autoKey, newId()));
  /** Instances of an object on, above or beside others, as their children. */
  hangInstances = (of: string, on: string[], where: 'on' | 'above' | 'beside', prefix: string): Outcome =>
    read(this.bridge.HangInstances(of, write(on), where, prefix, newId()));
  pivotTo = (ids: string[], where: string): Outcome => read(this.bridge.PivotTo(write(ids), where, newId()));
  /** Where a new object of a size stands near a point, beside what is there: in the space of an object, or of the world. */
  freePlace = (near: number[], radius: number, height: number, within: string): number[] => {
    const place = Array.from(this.bridge.FreePlace(near, radius, height, within));
    return place.length === 3 ? place : [0, 0, 0];
  };
  /** Least and most x, y, z of the box round objects, in the space of a node or the world; empty where there is no shape. */
  bounds = (ids: string[], within = ''): number[] => Array.from(this.bridge.BoundsOf(write(ids), within));
  /** The rotation of a sun over a place at a moment of universal time, and its altitude; throws where there is none. */
  sunAt = (latitude: number, longitude: number, at: Date): number[] =>
    Array.from(
      this.bridge.SunAt(
        latitude,
        longitude,
        at.getUTCFullYear(),
        at.getUTCMonth() + 1,
        at.getUTCDate(),
        at.getUTCHours() + at.getUTCMinutes() / 60,
      ),
    );
  /** Position, rotation (XYZ) and scale of a place in the world. */
  transformAt = (world: number[]): number[] => Array.from(this.bridge.TransformAt(world));
  /** How far from a camera the pivot of an object is, along its axis. */
  depth = (camera: string, id: string): number => this.bridge.DepthOf(camera, id);
  /** How flat objects lie in the space of the first: six numbers for each. */
  flatMaps = (ids: string[]): number[] => Array.from(this.bridge.FlatMapsOf(write(ids)));
  /** How many vertices and triangles each of some objects has. */
  counts(ids: string[]): { vertices: number; triangles: number }[] {
    const numbers = this.bridge.CountsOf(write(ids));
    return ids.map((_, i) => ({ vertices: numbers[2 * i], triangles: numbers[2 * i + 1] }));
  }

  hold = (channels: string[]): Outcome => read(this.bridge.Hold(write(channels), newId()));
  /** Where the handles of a key on a motion path end: of the way in and of the way out, three numbers each. */
  pathHandles = (node: string, frame: number): number[] => Array.from(this.bridge.PathHandles(node, frame));
  /** Moves a key of a motion path, one of its handles, or a frame between two keys, which gets the place of another. */
  moveOnPath = (
    what: 'key' | 'in' | 'out' | 'tick',
    node: string,
    frame: number,
    to: [number, number, number],
    commit: boolean,
  ): Outcome => read(this.bridge.MoveOnPath(what, node, frame, ...to, commit, newId()));
  between = (channels: string[], share: number, commit: boolean): Outcome =>
    read(this.bridge.Between(write(channels), share, commit, newId()));
  /** Gives segments an easing that is written as style sheets write it. */
  shapeSegments = (keys: { address: string; frame: number }[], easing: string): Outcome =>
    read(this.bridge.ShapeSegments(write({ kind: 'removeKeys', keys }), easing, newId()));
  easingOf = (channel: string, frame: number): string => this.bridge.EasingOf(channel, frame);
  easingPicture = (easing: string): number[] => Array.from(this.bridge.EasingPicture(easing));
  beginChecks = () => this.bridge.BeginChecks();
  /** Goes on with the checks for about so many milliseconds; true when they are done. */
  check = (milliseconds: number): boolean => this.bridge.Check(milliseconds);
  findings = (): Finding[] => read(this.bridge.Findings());
  mend = (findings: number[]): Outcome => read(this.bridge.Mend(findings, newId()));
  keyNow = (channels: string[]): Outcome => read(this.bridge.KeyNow(write(channels), newId()));
  waiting = (): string[] => read(this.bridge.Waiting());
  bringBack = (): Outcome => read(this.bridge.BringBack());
  scene = () => unfold(read(this.bridge.Scene()));
  changes(): ChangesView {
    const changes = read(this.bridge.Changes());
    const frames = this.doubles(this.bridge.ChangedFrames());
    const keys: Record<string, number[]> = {};
    let at = 0;
    for (const [address, count] of Object.entries(changes.keys as Record<string, number>))
      keys[address] = Array.from(frames.subarray(at, (at += count)));
    return { ...changes, nodes: withKind(changes.nodes), keys };
  }

  /** The meshes that the shot refers to and that the engine does not hold yet. */
  missingMeshes = (): string[] => read(this.bridge.MissingMeshes());
  putMesh = (name: string, mesh: Packed): Outcome => read(this.bridge.PutMesh(name, mesh));

  /** With the steps after a revision only. */
  history = (after: number): HistoryView => read(this.bridge.History(after));
  // Numbers come as typed arrays, whose map and flat keep to numbers: plain arrays are handed on.
  path(node: string, first: number, last: number): number[] {
    const version = this.bridge.PathVersion(node, first, last);
    let held = this.paths.get(node);
    if (held?.version !== version) {
      held = { version, points: Array.from(this.bridge.Path(node, first, last)) };
      this.paths.set(node, held);
    }
    return held.points;
  }

  /** Goes on with the motion paths of traced vertices for about so many milliseconds, from a frame outwards; true when they are done. */
  trace = (first: number, last: number, near: number, milliseconds: number): boolean =>
    this.bridge.Trace(first, last, near, milliseconds);
  /** The meshes with traced vertices, as far as their paths are known. */
  traces = (): TracedMesh[] =>
    (read(this.bridge.Traces()) as TraceView[]).map((view) => {
      const held = this.traced.get(view.node);
      if (held?.version === view.version) return held;
      const points = view.vertices.map((_, i) => Array.from(this.bridge.TracePoints(view.node, i)));
      const mesh = { ...view, points };
      this.traced.set(view.node, mesh);
      return mesh;
    });
  sample = (channel: string, first: number, step: number, count: number) =>
    Array.from(this.bridge.Sample(channel, first, step, count));
  /** Of a channel with all layers. */
  sampleSum = (channel: string, first: number, step: number, count: number): number[] =>
    Array.from(this.bridge.SampleSum(channel, first, step, count));
  /** Says which layer takes what is posed from now on; null is below all layers. */
  setLayer = (layer: string | null) => this.bridge.SetLayer(layer ?? '');
  /** What channels have to be keyed with so that what is seen now is kept, in the layers that they are in. */
  valuesNow = (channels: string[]): number[] => Array.from(this.bridge.ValuesNow(write(channels)));
  /** How fast a channel changes, in value per frame; or how fast that changes. */
  slopes = (channel: string, first: number, step: number, count: number, acceleration = false): number[] =>
    Array.from(this.bridge.Slopes(channel, first, step, count, acceleration));
  easePicture = (segment: Segment) => Array.from(this.bridge.EasePicture(write(segment)));

  /** The animation of objects with all below them, of a range of frames; null where they have none. */
  /** Objects as a shot of their own; throws with a sentence where they cannot go alone. */
  copyObjects = (ids: string[], frame: number): TakenObjects => read(this.bridge.CopyObjects(write(ids), frame));
  putObjects = (objects: TakenObjects, prefix: string): Outcome =>
    read(this.bridge.PutObjects(write(objects), prefix, newId()));

  copyMotion(ids: string[], first = -Infinity, last = Infinity): SavedMotion | null {
    const packed = this.bridge.CopyMotion(write(ids), first, last);
    return packed.length > 0 ? read(packed) : null;
  }

  /** What objects have on the evaluated frame, with all below them; null where there are none. */
  copyPose(ids: string[]): SavedPose | null {
    const packed = this.bridge.CopyPose(write(ids));
    return packed.length > 0 ? read(packed) : null;
  }

  /** The time that a range gets of its own: the frame that is shown at evenly spaced frames. */
  retimePicture = (edit: Edit): number[] => Array.from(this.bridge.RetimePicture(write(edit)));

  /** Begins to put a pose onto objects, whole or in part. */
  beginPose = (pose: SavedPose, targets: string[], mirror: boolean): Outcome =>
    read(this.bridge.BeginPose(write(pose), write(targets), mirror));
  /** What of it fits, and what found no place, a sentence each. */
  poseReport = (): string[] => read(this.bridge.PoseReport());
  putPose = (share: number, autoKey: boolean, commit: boolean): Outcome =>
    read(this.bridge.PutPose(share, autoKey, commit, newId()));

  /** What of it fits, and what found no place, a sentence each. */
  motionReport = (edit: Edit): string[] => read(this.bridge.MotionReport(write(edit)));

  copyKeys(keys: { address: string; frame: number }[]): CopiedKeys | null {
    const packed = this.bridge.CopyKeys(write({ kind: 'removeKeys', keys }));
    return packed.length > 0 ? read(packed) : null;
  }

  /** What waited to be keyed on the frame that was left last. */
  left(): { frame: number; count: number } | null {
    const packed = this.bridge.Left();
    return packed.length > 0 ? read(packed) : null;
  }

  private doubles(view: MemoryView): Float64Array {
    const numbers = new Float64Array(view.length / 8);
    if (numbers.length > 0) view.copyTo(bytesOf(numbers));
    return numbers;
  }

  curve(channel: string): CurveView | null {
    const packed = this.bridge.Curve(channel);
    if (packed.length === 0) return null;
    const { looks, eases, before, after } = read(packed) as WireCurve;
    const n = this.doubles(this.bridge.CurveNumbers());
    const keys: KeyView[] = [];
    for (let i = 0; i < n.length; i += 7) {
      const { segment, inKind, outKind, joined } = looks[n[i + 6]];
      keys.push({
        frame: n[i],
        value: n[i + 1],
        segment,
        inKind,
        outKind,
        joined,
        in: [n[i + 2], n[i + 3]],
        out: [n[i + 4], n[i + 5]],
        samples: null,
      });
    }
    for (const { key, values } of eases) keys[key].samples = values;
    return { keys, before, after };
  }

  /** Another number whenever other frames are kept. */
  keptVersion = (): number => this.bridge.KeptVersion();
  /** The frames of a range that are evaluated and kept: the first and the last of each run. */
  keptRuns = (first: number, last: number): number[] => Array.from(this.bridge.KeptRuns(first, last));

  /** Stepped shows the last pose instead of what lies between two. */
  evaluate(frame: number, stepped = false) {
    this.at = frame;
    this.bridge.Evaluate(frame, stepped);
    this.take();
  }
}
