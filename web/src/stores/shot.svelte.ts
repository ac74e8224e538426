// The open shot as the page sees it: what the engine says of it, and the way in for changes.
import { newEdit } from '../edits/edit';
import {
  baseOf,
  Channels,
  ownerOf,
  type ChannelValue,
  type ChannelView,
  type CurveView,
  type Edit,
  type Engine,
  type HistoryView,
  type JournalEntry,
  type NodeView,
  type Opening,
  type Outcome,
  type SavedPose,
  type SceneView,
  type ShownFrame,
  type TakenObjects,
} from '../engine/engine';

const emptyScene: SceneView = {
  name: '',
  rate: 24,
  rateNumerator: 24,
  rateDenominator: 1,
  first: 0,
  last: 47,
  playFirst: 0,
  playLast: 47,
  hasPlayRange: false,
  width: 1280,
  height: 720,
  camera: null,
  nodes: [],
  materials: [],
  channels: new Channels([], [], new Map(), []),
  locked: new Set(),
  muted: new Set(),
  skyPicture: null,
  background: 'sky',
  newKeys: null,
  markers: [],
  sets: [],
  meant: [],
  layers: [],
  sounds: [],
};

const none: number[] = [];

/** Whether a number is among some that rise. */
function isAmong(frames: readonly number[], frame: number): boolean {
  let [low, high] = [0, frames.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle] < frame) low = middle + 1;
    else high = middle;
  }
  return frames[low] === frame;
}

/** What the open shot has to know of the hand that works on it. */
export interface Hand {
  /** The frame under the playhead. */
  frame(): number;
  /** Shows the last pose instead of what lies between two. */
  stepped(): boolean;
  autoKey(): boolean;
  /** Something that a person should read. */
  say(text: string): void;
  /** A change has been made here, and has to go to the server. */
  made(entry: JournalEntry): void;
  /** The shot itself is another. */
  changed(): void;
}

export class OpenShot {
  engine = $state.raw<Engine | null>(null);
  /** The evaluated frame; at the start it may be there before the engine. */
  shown = $state.raw<ShownFrame | null>(null);
  scene = $state.raw<SceneView>(emptyScene);
  history = $state.raw<HistoryView | null>(null);
  /** Counts evaluations: read it to be called again when a frame has been evaluated. */
  evaluated = $state(0);
  /** Counts changes of the shown shot, tried ones included. */
  changed = $state(0);
  /** Counts changes of which channels have keys. */
  keyed = $state(0);
  /** Channels changed by hand on this frame and not keyed. */
  waiting = $state.raw<ReadonlySet<string>>(new Set());

  private curves = new Map<string, CurveView | null>();
  private keys = new Map<string, number[]>();
  private openingRevision: number | null = null;
  private readonly asked = new Set<string>();

  constructor(private readonly hand: Hand) {}

  byId = $derived(new Map(this.scene.nodes.map((n) => [n.id, n])));

  /** The children of every node, in the order of the list; those at the top under null. */
  children = $derived.by(() => {
    const map = new Map<string | null, NodeView[]>();
    for (const n of this.scene.nodes) {
      const list = map.get(n.parent);
      if (list) list.push(n);
      else map.set(n.parent, [n]);
    }
    return map;
  });

  /** The id of the layer that is worked in; null is below all layers. Channels have the addresses that they have there. */
  layer = $state<string | null>(null);

  /** Works in a layer from now on. What waits to be keyed waits there. */
  chooseLayer(id: string | null) {
    if (id === this.layer) return;
    this.layer = id;
    this.engine?.setLayer(id);
    this.waiting = this.waitingNow();
    this.changed++;
  }

  /** The same channel in the layer that is worked in. */
  here = (address: string): string => {
    const base = baseOf(address);
    const isOfLayer = this.scene.layers.some((l) => l.id === ownerOf(base));
    return this.layer === null || isOfLayer ? base : `${base}@${this.layer}`;
  };

  /** The frames that are evaluated and kept until something that they depend on is another: the first and the last of each run. */
  kept = $state.raw<number[]>([]);
  private keptVersion = -1;
  private asking = 0;

  /** How new keys are. */
  newKeys = $derived.by(() => {
    const { segment = 'bezier', handle = { kind: 'auto' } } = (this.scene.newKeys ?? {}) as {
      segment?: string;
      handle?: { kind: string };
    };
    return { segment, handle };
  });

  /** The channels that have keys in the layer that is worked in, by their owner. */
  keyedOwners = $derived.by(() => {
    void this.keyed;
    const map = new Map<string, string[]>();
    for (const address of this.keys.keys()) {
      if (this.here(address) !== address) continue;
      const list = map.get(ownerOf(address));
      if (list) list.push(address);
      else map.set(ownerOf(address), [address]);
    }
    return map;
  });

  /** The channels that have keys in whatever layer, by their owner, as addresses without one. */
  animated = $derived.by(() => {
    void this.keyed;
    const map = new Map<string, Set<string>>();
    for (const address of this.keys.keys()) {
      const set = map.get(ownerOf(address));
      if (set) set.add(baseOf(address));
      else map.set(ownerOf(address), new Set([baseOf(address)]));
    }
    return map;
  });

  /** Whether what is seen of a channel is not what the layer that is worked in has. */
  isSummed(address: string): boolean {
    const base = baseOf(address);
    return (
      (this.layer !== null && this.keys.has(base)) || this.scene.layers.some((l) => this.keys.has(`${base}@${l.id}`))
    );
  }

  /** The channels of an object, a material, a layer or the world, with their addresses in the layer that is worked in. */
  channelsOf = (owner: string): ChannelView[] => this.scene.channels.of(owner, this.layer);
  channelAt = (address: string): ChannelView | undefined => this.scene.channels.at(address);

  /** The first and the last frame that has a key; infinite where there is none. */
  reach(): { first: number; last: number } {
    let [first, last] = [Infinity, -Infinity];
    for (const frames of this.keys.values()) {
      first = Math.min(first, frames[0]);
      last = Math.max(last, frames[frames.length - 1]);
    }
    return { first, last };
  }

  /** The frames of a channel's keys, rising. */
  keysOf(address: string): number[] {
    void this.changed;
    return this.keys.get(address) ?? none;
  }

  hasKey = (address: string, frame: number) => isAmong(this.keysOf(address), frame);

  /** Those of a list of keys that are there. Neighbours in the list mostly belong to one channel. */
  present<K extends { address: string; frame: number }>(keys: readonly K[]): K[] {
    let [address, frames] = ['', none];
    return keys.filter((k) => {
      if (k.address !== address) [address, frames] = [k.address, this.keysOf(k.address)];
      return isAmong(frames, k.frame);
    });
  }

  valueOf(channel: ChannelView): number {
    void this.evaluated;
    return this.shown?.values[channel.index] ?? 0;
  }

  /** The objects and all that hangs below them. */
  family(ids: Iterable<string>): Set<string> {
    const all = new Set(ids);
    const open = [...all];
    for (let id = open.pop(); id !== undefined; id = open.pop())
      for (const child of this.children.get(id) ?? [])
        if (!all.has(child.id)) {
          all.add(child.id);
          open.push(child.id);
        }
    return all;
  }

  /** Shows the first frame, which the server has evaluated. */
  showOpening(opening: Opening) {
    this.shown = opening;
    this.scene = opening.scene;
    this.keys = new Map(Object.entries(opening.keys));
    this.openingRevision = opening.revision;
    this.keyed++;
    this.changed++;
    this.evaluated++;
  }

  /**
   * Takes over a shot in the engine. One that cannot be opened leaves the open one as it is.
   * @param revision The newest of the entries.
   * @returns Why not; null when it is open.
   */
  open(base: unknown, baseRevision: number, entries: unknown[], revision: number): string | null {
    const engine = this.engine!;
    const { refusal } = engine.open(base, baseRevision, entries);
    if (refusal) return refusal;
    this.shown = engine;
    this.layer = null;
    // At the start the server has said already what is in it.
    if (this.openingRevision === revision) engine.changes();
    this.openingRevision = null;
    this.reread();
    void this.fetchMeshes();
    return null;
  }

  /** Reads everything again that panels show. */
  reread() {
    this.history = null;
    this.refresh();
  }

  /**
   * Goes to the frame under the playhead.
   * @returns What waited on the frame that was left and had no key, or null.
   */
  leave(): { frame: number; count: number } | null {
    const waited = this.waiting.size > 0;
    if (waited) this.waiting = new Set();
    this.show();
    return waited ? (this.engine?.left() ?? null) : null;
  }

  /** Lets the values wait again that were left behind; the playhead stands on their frame. */
  bringBack() {
    this.engine!.bringBack();
    this.waiting = this.waitingNow();
    this.show();
  }

  /** Fetches the meshes that the shot refers to and the engine does not hold; each is drawn when it has come. */
  private async fetchMeshes() {
    const missing = this.engine!.missingMeshes().filter((name) => !this.asked.has(name));
    for (const name of missing) this.asked.add(name);
    await Promise.all(
      missing.map(async (name) => {
        try {
          const answer = await fetch(`/api/assets/${name}/mesh`);
          if (!answer.ok) throw new Error();
          const { refusal } = this.engine!.putMesh(name, new Uint8Array(await answer.arrayBuffer()));
          if (refusal) this.hand.say(refusal);
          this.changed++;
          this.show();
        } catch {
          this.hand.say('A mesh could not be fetched: check that the server is running, then open the shot again.');
        }
        this.asked.delete(name);
      }),
    );
  }

  private waitingNow = (): ReadonlySet<string> => new Set(this.engine?.waiting().map((a) => this.here(a)) ?? []);

  /** Evaluates the frame under the playhead. */
  show() {
    this.engine?.evaluate(this.hand.frame(), this.hand.stepped());
    this.evaluated++;
    if (this.engine && !this.asking && this.engine.keptVersion() !== this.keptVersion)
      this.asking = window.setTimeout(this.askKept, 120);
  }

  /** Asked now and then only: while a range plays for the first time there is another frame with every picture. */
  private askKept = () => {
    this.asking = 0;
    this.keptVersion = this.engine!.keptVersion();
    this.kept = this.engine!.keptRuns(this.scene.first, this.scene.last);
  };

  curve(address: string): CurveView | null {
    let curve = this.curves.get(address);
    if (curve === undefined) {
      curve = this.engine?.curve(address) ?? null;
      this.curves.set(address, curve);
    }
    return curve;
  }

  /** Shows a change while a hand drags. */
  try(edit: Edit | null) {
    const outcome = this.engine!.try(edit);
    if (!outcome.refusal) this.refreshTried();
    return outcome;
  }

  /** Makes a change: applied here at once, then sent to the server. */
  commit(edit: Edit): boolean {
    return this.made(this.engine!.commit(edit));
  }

  undo() {
    if (this.history?.undoLabel != null) this.made(this.engine!.undo());
  }

  redo() {
    if (this.history?.redoLabel != null) this.made(this.engine!.redo());
  }

  restore(revision: number) {
    this.made(this.engine!.restore(revision));
  }

  /** Sets channels by hand. With commit false it is only shown. */
  pose(values: ChannelValue[], commit: boolean) {
    return this.posed(this.engine!.pose(values, this.hand.autoKey(), commit), commit);
  }

  /** Begins to put a pose onto objects; why it cannot be put is said. */
  beginPose(pose: SavedPose, targets: string[], mirror: boolean): boolean {
    const { refusal } = this.engine!.beginPose(pose, targets, mirror);
    if (refusal) this.hand.say(refusal);
    return !refusal;
  }

  /** Puts it: 0 is how it was, 1 the pose. With commit false it is only shown. */
  putPose(share: number, commit: boolean) {
    return this.posed(this.engine!.putPose(share, this.hand.autoKey(), commit), commit);
  }

  /** Puts objects somewhere in the world. */
  place(ids: string[], worlds: number[], commit: boolean) {
    return this.posed(this.engine!.place(ids, worlds, this.hand.autoKey(), commit), commit);
  }

  /** Puts objects in order on this frame: along an axis, or down to what is below. */
  arrange(ids: string[], how: 'align' | 'distribute' | 'drop', axis = 0, side = 0) {
    return this.posed(this.engine!.arrange(ids, how, axis, side, this.hand.autoKey()), true);
  }

  /** Hangs instances of an object below others, on, above or beside them. */
  hangInstances(of: string, on: string[], where: 'on' | 'above' | 'beside', prefix: string) {
    return this.made(this.engine!.hangInstances(of, on, where, prefix));
  }

  /** Moves pivots without moving the objects: to their centre or base, the origin, or the pivot of another object. */
  pivotTo(ids: string[], where: string) {
    return this.made(this.engine!.pivotTo(ids, where));
  }

  /** Keys channels with the values they have now. */
  keyNow(addresses: string[]) {
    if (addresses.length > 0) this.made(this.engine!.keyNow(addresses));
  }

  /** Keeps the pose before until this frame. */
  hold(addresses: string[]) {
    if (addresses.length === 0) return;
    const typed = [...this.waiting];
    if (typed.length === 0) return void this.made(this.engine!.hold(addresses));
    // What was changed here and has no key is the pose that begins here: it is keyed, and the one before stays until then.
    this.keyNow(typed);
    const frame = this.hand.frame();
    const before = typed.flatMap((address) => {
      const last = this.keysOf(address).findLast((f) => f < frame);
      return last === undefined ? [] : [{ address, frame: last }];
    });
    const channels = addresses.filter((a) => !typed.includes(a));
    const edits = [
      ...(before.length > 0 ? [newEdit('setSegments', { keys: before, segment: 'hold' })] : []),
      ...(channels.length > 0 ? [newEdit('holdUntil', { frame, channels })] : []),
    ];
    if (edits.length > 0) this.commit(newEdit('batch', { label: 'Hold the pose before until here', edits }));
  }

  /** Keys a pose between the one before and the one after the playhead; past them below 0 and above 1. */
  between(addresses: string[], share: number, commit: boolean): Outcome {
    const outcome = this.engine!.between(addresses, share, commit);
    if (outcome.refusal) return outcome;
    if (commit) this.made(outcome);
    else this.refreshTried();
    return outcome;
  }

  /** Moves something of the motion path of an object. */
  movePath(
    what: 'key' | 'in' | 'out' | 'tick',
    node: string,
    frame: number,
    to: [number, number, number],
    commit: boolean,
  ) {
    const outcome = this.engine!.moveOnPath(what, node, frame, to, commit);
    if (commit) return this.made(outcome);
    if (!outcome.refusal) this.refreshTried();
    return !outcome.refusal;
  }

  /** Gives the segments after keys an easing as style sheets write it. */
  shape(keys: { address: string; frame: number }[], easing: string) {
    return this.made(this.engine!.shapeSegments(keys, easing));
  }

  /** Puts objects of another shot in. */
  putObjects(objects: TakenObjects, prefix: string) {
    return this.made(this.engine!.putObjects(objects, prefix));
  }

  /** Mends what checks have found, by the places in the list, as one step. */
  mend(findings: number[]) {
    return this.made(this.engine!.mend(findings));
  }

  private posed(outcome: Outcome, commit: boolean) {
    if (commit && outcome.entry) return this.made(outcome);
    if (outcome.refusal) {
      if (commit) this.hand.say(outcome.refusal);
      return false;
    }
    this.waiting = this.waitingNow();
    this.refreshTried();
    return true;
  }

  private made(outcome: Outcome): boolean {
    if (outcome.refusal) {
      this.engine!.try(null);
      this.refreshTried();
      this.hand.say(outcome.refusal);
      return false;
    }
    if (outcome.entry) this.hand.made(outcome.entry);
    this.refresh();
    return true;
  }

  /** The shot itself is another: panels read everything again. */
  private refresh() {
    // Only the steps that are new come over.
    const known = this.history?.steps ?? [];
    const { steps, ...head } = this.engine!.history(known.at(-1)?.revision ?? -1);
    this.history = { ...head, steps: known.length > 0 ? [...known, ...steps] : steps };
    this.waiting = this.waitingNow();
    this.refreshTried();
    this.hand.changed();
  }

  private refreshTried() {
    const { structure, head, nodes, keys } = this.engine!.changes();
    if (structure) {
      this.curves.clear();
      const { scene, keys: all } = this.engine!.scene();
      this.scene = scene;
      this.keys = new Map(Object.entries(all));
      this.keyed++;
      // A layer that is gone is worked in no longer.
      if (this.layer !== null && !scene.layers.some((l) => l.id === this.layer)) this.chooseLayer(null);
    } else {
      if (head) this.scene = { ...this.scene, ...head };
      if (nodes.length > 0) {
        const different = new Map(nodes.map((n) => [n.id, n]));
        this.scene = { ...this.scene, nodes: this.scene.nodes.map((n) => different.get(n.id) ?? n) };
      }
      let others = false;
      for (const [address, frames] of Object.entries(keys)) {
        this.curves.delete(address);
        others ||= frames.length > 0 !== this.keys.has(address);
        if (frames.length > 0) this.keys.set(address, frames);
        else this.keys.delete(address);
      }
      if (others) this.keyed++;
    }
    this.changed++;
    this.show();
    if (structure || nodes.length > 0) void this.fetchMeshes();
  }
}
