// The open shot and its playhead: what all panels share.
import { tick } from 'svelte';
import { api, take, type DocumentView, type OpeningView, type RenderView } from '../api/client';
import {
  boot,
  Channels,
  Engine,
  type ChannelValue,
  type ChannelView,
  type CurveView,
  type Edit,
  type HistoryView,
  type JournalEntry,
  type NodeView,
  Opening,
  type Outcome,
  type SceneView,
  type ShownFrame,
} from '../engine/engine';
import { Messages } from './messages.svelte';
import { Player } from './player.svelte';
import { Selection } from './selection.svelte';
import { Sync, type SaveState } from './sync';
import { left } from './unsent';

export type Phase = 'set' | 'block' | 'polish' | 'deliver';
export type Tool = 'select' | 'move' | 'rotate' | 'scale';
export { keyId, type KeyRef } from './selection.svelte';

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
  channels: new Channels([], []),
};

const none: number[] = [];

export class Session {
  engine = $state.raw<Engine | null>(null);
  /** The evaluated frame; at the start it may be there before the engine. */
  shown = $state.raw<ShownFrame | null>(null);
  /** True once the start is over, with or without a shot. Before that a shot can be seen but not changed. */
  ready = $state(false);
  /** Whether the first picture of the stage has been drawn; what lies round it may come after it. */
  seen = $state(false);
  shotId = $state<string | null>(null);
  scene = $state.raw<SceneView>(emptyScene);
  history = $state.raw<HistoryView | null>(null);
  /** Counts evaluations: read it to be called again when a frame has been evaluated. */
  evaluated = $state(0);
  /** Counts changes of the shown shot, tried ones included. */
  changed = $state(0);
  /** Counts changes of which channels have keys. */
  keyed = $state(0);
  frame = $state(0);
  phase = $state<Phase>('set');
  tool = $state<Tool>('move');
  autoKey = $state(false);
  /** Channels changed by hand on this frame and not keyed. */
  waiting = $state.raw<ReadonlySet<string>>(new Set());
  saveState = $state<SaveState>('saved');
  unsaved = $state(0);
  renders = $state.raw<RenderView[]>([]);
  clipboard = $state.raw<{ edit: Edit; first: number } | null>(null);
  readonly messages = new Messages();
  readonly selection = new Selection(this);
  readonly player = new Player(this);

  private sync: Sync | null = null;
  private curves = new Map<string, CurveView | null>();
  private keys = new Map<string, number[]>();

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

  /** The channels that have keys, by their owner. */
  keyedOwners = $derived.by(() => {
    void this.keyed;
    const map = new Map<string, string[]>();
    for (const address of this.keys.keys()) {
      const owner = address.slice(0, address.indexOf('/'));
      const list = map.get(owner);
      if (list) list.push(address);
      else map.set(owner, [address]);
    }
    return map;
  });

  /** The channels of an object, a material or the world. */
  channelsOf = (owner: string): ChannelView[] => this.scene.channels.of(owner);
  channelAt = (address: string): ChannelView | undefined => this.scene.channels.at(address);

  /** The frames of a channel's keys, rising. */
  keysOf(address: string): number[] {
    void this.changed;
    return this.keys.get(address) ?? none;
  }

  hasKey = (address: string, frame: number) => this.keysOf(address).includes(frame);

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

  /** Starts with the shot of the address, or the oldest; without one when there is none. */
  async start(): Promise<void> {
    if ((await boot().shots) === null) throw new Error('The server cannot be reached: check that it is running.');
    const opening = (await boot().opening) as OpeningView | null;
    const document = (await boot().document) as DocumentView | null;
    const first = opening && document ? new Opening(opening) : null;
    if (first) {
      this.shotId = document!.id;
      this.shown = first;
      this.scene = first.scene;
      this.keys = new Map(Object.entries(first.keys));
      this.keyed++;
      this.frame = this.scene.playFirst;
      this.changed++;
      this.evaluated++;
      performance.mark('opening shown');
      await tick();
      await new Promise(requestAnimationFrame);
    }
    boot().begin();
    // The panels are made while the browser compiles the engine beside it.
    setTimeout(() => (this.seen = true));
    this.engine = await Engine.load();
    performance.mark('engine ready');
    if (document) await this.open(document.id, document);
    this.ready = true;
    performance.mark('ready');
  }

  private fetch = async (id: string) =>
    (await take(api.GET('/api/shots/{id}', { params: { path: { id } } }))) as DocumentView;

  /** Opens a shot of the library. One that cannot be opened leaves the open one as it is. */
  async open(id: string, fetched?: DocumentView): Promise<void> {
    const unsent = left(id);
    const document = fetched ?? (await this.fetch(id));
    const before = this.sync;
    // At the start the server has said all this already.
    const isKnown = this.shown instanceof Opening && this.shown.revision === document.revision;
    // What is not sent yet needs the engine's old shot when another window was faster.
    await before?.close();
    this.player.stop();
    const engine = this.engine!;
    const outcome = engine.open(
      document.base,
      document.baseRevision,
      document.entries.map((e) => e.entry),
    );
    if (outcome.refusal) {
      if (before) this.watch(before.shotId, before.revision);
      throw new Error(outcome.refusal);
    }
    this.shown = engine;
    performance.mark('shot read');
    const isAnother = this.shotId !== id || !before;
    this.shotId = id;
    if (isAnother) this.selection.clear();
    this.saveState = 'saved';
    this.watch(id, document.revision);
    this.history = null;
    if (isKnown) engine.changes();
    this.refresh();
    if (isAnother) this.frame = this.scene.playFirst;
    this.show();
    performance.mark('frame evaluated');
    history.replaceState(null, '', `#${id}`);
    if (document.notice) this.messages.say(document.notice);
    void this.askForRenders();
    await this.sync!.resume(unsent);
  }

  private watch(id: string, revision: number) {
    this.sync = new Sync(this.engine!, id, revision, {
      changed: () => {
        this.history = null;
        this.refresh();
      },
      state: (state, pending) => {
        this.saveState = state;
        this.unsaved = pending;
      },
      notice: (text) => this.messages.say(text),
      render: (view) => this.takeRender(view),
      renderRemoved: (render) => this.dropRender(render),
      reopen: () => void this.open(id).catch((e: Error) => this.messages.say(e.message)),
      reconnected: () => void this.askForRenders(),
    });
  }

  private async askForRenders() {
    const id = this.shotId!;
    const renders = await take(api.GET('/api/renders', { params: { query: { shot: id } } })).catch(() => null);
    if (renders && this.shotId === id) this.renders = renders;
  }

  get hasUnsaved() {
    return this.sync?.hasUnsaved ?? false;
  }

  takeRender(view: RenderView) {
    if (view.shotId !== this.shotId) return;
    const at = this.renders.findIndex((r) => r.id === view.id);
    this.renders =
      at < 0 ? [view, ...this.renders].sort((a, b) => b.created.localeCompare(a.created)) : this.renders.with(at, view);
  }

  dropRender(id: string) {
    this.renders = this.renders.filter((r) => r.id !== id);
  }

  /** Evaluates the frame under the playhead. */
  show() {
    this.engine?.evaluate(this.frame, this.player.playing && this.player.stepped);
    this.evaluated++;
  }

  goTo(frame: number) {
    const to = Math.round(frame);
    if (to === this.frame || !Number.isFinite(to)) return;
    this.frame = to;
    const left = this.waiting.size > 0;
    if (left) this.waiting = new Set();
    this.show();
    if (left && !this.player.playing) this.offerLeft();
  }

  /** What was changed and not keyed is gone from the stage when its frame is left: that is said, and can be taken back. */
  private offerLeft() {
    const left = this.engine?.left();
    if (!left) return;
    const what = left.count === 1 ? 'One change' : `${left.count} changes`;
    this.messages.say(`${what} on frame ${left.frame} had no key and did not stay.`, {
      label: 'Bring back',
      run: () => {
        this.goTo(left.frame);
        this.engine!.bringBack();
        this.waiting = new Set(this.engine!.waiting());
        this.show();
      },
    });
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
    return this.posed(this.engine!.pose(values, this.autoKey, commit), commit);
  }

  /** Puts objects somewhere in the world. */
  place(ids: string[], worlds: number[], commit: boolean) {
    return this.posed(this.engine!.place(ids, worlds, this.autoKey, commit), commit);
  }

  /** Keys channels with the values they have now. */
  keyNow(addresses: string[]) {
    if (addresses.length > 0) this.made(this.engine!.keyNow(addresses));
  }

  /** Keeps the pose before until this frame. */
  hold(addresses: string[]) {
    if (addresses.length > 0) this.made(this.engine!.hold(addresses));
  }

  /** The channels that K keys: those of the selection that have keys, or wait for one, or else all of the transform. */
  keyable(): string[] {
    const all = this.selection.ids.flatMap((id) => this.channelsOf(id));
    const live = all.filter((c) => this.keysOf(c.address).length > 0 || this.waiting.has(c.address));
    const chosen = live.length > 0 ? live : all.filter((c) => /^transform\.(translate|rotate|scale)/.test(c.path));
    return chosen.map((c) => c.address);
  }

  curve(address: string): CurveView | null {
    let curve = this.curves.get(address);
    if (curve === undefined) {
      curve = this.engine?.curve(address) ?? null;
      this.curves.set(address, curve);
    }
    return curve;
  }

  removeSelectedKeys() {
    const { keys } = this.selection;
    if (keys.length === 0) return;
    this.selection.keys = [];
    this.commit({ kind: 'removeKeys', keys });
  }

  copyKeys() {
    const { keys } = this.selection;
    const edit = keys.length > 0 ? this.engine!.copyKeys(keys) : null;
    if (!edit) return;
    this.clipboard = { edit, first: keys.reduce((f, k) => Math.min(f, k.frame), Infinity) };
    this.messages.say(`${keys.length === 1 ? 'One key' : `${keys.length} keys`} copied.`);
  }

  /** Puts the copied keys in so that the first lands under the playhead. */
  pasteKeys() {
    if (!this.clipboard || this.clipboard.edit.kind !== 'putKeys') return;
    const by = this.frame - this.clipboard.first;
    const channels = this.clipboard.edit.channels as { address: string; keys: { frame: number }[] }[];
    const moved = this.retargeted(channels)
      .filter((c) => this.channelAt(c.address))
      .map((c) => ({ ...c, keys: c.keys.map((k) => ({ ...k, frame: k.frame + by })) }));
    if (moved.length === 0)
      return this.messages.say('These keys fit nothing here: select the object that shall get them, and paste again.');
    if (this.commit({ kind: 'putKeys', channels: moved } as unknown as Edit)) {
      this.selection.keys = moved.flatMap((c) => c.keys.map((k) => ({ address: c.address, frame: k.frame })));
    }
  }

  /** Keys of one object go to the selected one, where that is another; keys of several stay with theirs. */
  private retargeted<T extends { address: string }>(channels: T[]): T[] {
    const owners = new Set(channels.map((c) => c.address.slice(0, c.address.indexOf('/'))));
    const { ids } = this.selection;
    if (owners.size !== 1 || ids.length === 0 || ids.some((id) => owners.has(id))) return channels;
    return ids.flatMap((id) =>
      channels.map((c) => ({ ...c, address: `${id}${c.address.slice(c.address.indexOf('/'))}` })),
    );
  }

  private posed(outcome: Outcome, commit: boolean) {
    if (commit && outcome.entry) return this.made(outcome);
    if (outcome.refusal) {
      if (commit) this.messages.say(outcome.refusal);
      return false;
    }
    this.waiting = new Set(this.engine!.waiting());
    this.refreshTried();
    return true;
  }

  private made(outcome: Outcome): boolean {
    if (outcome.refusal) {
      this.engine!.try(null);
      this.refreshTried();
      this.messages.say(outcome.refusal);
      return false;
    }
    if (outcome.entry) this.sync?.push(outcome.entry as JournalEntry);
    this.refresh();
    return true;
  }

  /** The shot itself is another: panels read everything again. */
  private refresh() {
    // Only the steps that are new come over.
    const known = this.history?.steps ?? [];
    const { steps, ...head } = this.engine!.history(known.at(-1)?.revision ?? -1);
    this.history = { ...head, steps: known.length > 0 ? [...known, ...steps] : steps };
    this.waiting = new Set(this.engine!.waiting());
    this.refreshTried();
    this.selection.forgetGone();
  }

  private refreshTried() {
    const { structure, nodes, keys } = this.engine!.changes();
    if (structure) {
      this.curves.clear();
      const { scene, keys: all } = this.engine!.scene();
      this.scene = scene;
      this.keys = new Map(Object.entries(all));
      this.keyed++;
    } else {
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
  }
}

export const session = new Session();
