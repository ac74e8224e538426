// The open shot, its selection and its playhead: what all panels share.
import { tick } from 'svelte';
import { api, take, type DocumentView, type OpeningView, type RenderView } from '../api/client';
import {
  addressOf,
  boot,
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
import { Player } from './player.svelte';
import { Sync, type SaveState } from './sync';

export type Phase = 'set' | 'block' | 'polish' | 'deliver';
export type Tool = 'pick' | 'move' | 'turn' | 'scale';
export interface KeyRef {
  address: string;
  frame: number;
}

export const keyId = (k: KeyRef) => `${k.address}@${k.frame}`;

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
  channels: [],
};

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
  frame = $state(0);
  phase = $state<Phase>('set');
  tool = $state<Tool>('move');
  autoKey = $state(false);
  selection = $state.raw<string[]>([]);
  selectedKeys = $state.raw<KeyRef[]>([]);
  /** Channels changed by hand on this frame and not keyed. */
  waiting = $state.raw<ReadonlySet<string>>(new Set());
  saveState = $state<SaveState>('saved');
  unsaved = $state(0);
  notice = $state<{ text: string; undo?: () => void } | null>(null);
  renders = $state.raw<RenderView[]>([]);
  clipboard = $state.raw<{ edit: Edit; first: number } | null>(null);
  readonly player = new Player(this);

  private sync: Sync | null = null;
  private curves = new Map<string, CurveView | null>();
  private noticeTimer = 0;

  byId = $derived(new Map(this.scene.nodes.map((n) => [n.id, n])));
  channelsByOwner = $derived.by(() => {
    const map = new Map<string, ChannelView[]>();
    for (const c of this.scene.channels) {
      const list = map.get(c.owner);
      if (list) list.push(c);
      else map.set(c.owner, [c]);
    }
    return map;
  });
  channel = $derived(new Map(this.scene.channels.map((c) => [addressOf(c), c])));
  selectedNodes = $derived(this.selection.map((id) => this.byId.get(id)).filter((n): n is NodeView => !!n));

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
      this.frame = this.scene.playFirst;
      this.changed++;
      this.evaluated++;
      performance.mark('opening shown');
      await tick();
      await new Promise(requestAnimationFrame);
    }
    this.seen = true;
    boot().begin();
    this.engine = await Engine.load();
    performance.mark('engine ready');
    if (document)
      await this.open(document.id, document, first?.revision === document.revision ? first!.scene : undefined);
    this.ready = true;
    performance.mark('ready');
  }

  private fetch = async (id: string) =>
    (await take(api.GET('/api/shots/{id}', { params: { path: { id } } }))) as DocumentView;

  /** Opens a shot of the library; what is known of it already is not asked for again. */
  async open(id: string, fetched?: DocumentView, scene?: SceneView): Promise<void> {
    const document = fetched ?? (await this.fetch(id));
    await this.sync?.close();
    this.player.stop();
    const engine = this.engine!;
    const outcome = engine.open(
      document.base,
      document.baseRevision,
      document.entries.map((e) => e.entry),
    );
    if (outcome.refusal) throw new Error(outcome.refusal);
    this.shown = engine;
    performance.mark('shot read');
    this.sync = new Sync(engine, id, document.base, document.baseRevision, document.entries, {
      changed: () => this.refresh(),
      state: (state, pending) => {
        this.saveState = state;
        this.unsaved = pending;
      },
      notice: (text) => this.say(text),
      render: (view) => this.takeRender(view),
    });
    this.shotId = id;
    this.selection = [];
    this.selectedKeys = [];
    this.saveState = 'saved';
    this.refresh(scene);
    this.frame = this.scene.playFirst;
    this.show();
    performance.mark('frame evaluated');
    history.replaceState(null, '', `#${id}`);
    void take(api.GET('/api/renders', { params: { query: { shot: id } } })).then((renders) => (this.renders = renders));
  }

  get hasUnsaved() {
    return this.sync?.hasUnsaved ?? false;
  }

  takeRender(view: RenderView) {
    if (view.shotId !== this.shotId) return;
    const at = this.renders.findIndex((r) => r.id === view.id);
    this.renders = at < 0 ? [view, ...this.renders] : this.renders.with(at, view);
  }

  /** Shows one sentence for a while. */
  say(text: string, undo?: () => void) {
    this.notice = { text, undo };
    clearTimeout(this.noticeTimer);
    this.noticeTimer = window.setTimeout(() => (this.notice = null), undo ? 12000 : 7000);
  }

  /** Evaluates the frame under the playhead. */
  show() {
    this.engine?.evaluate(this.frame, this.player.playing && this.player.stepped);
    this.evaluated++;
  }

  goTo(frame: number) {
    const to = Math.round(frame);
    if (to === this.frame) return;
    this.frame = to;
    if (this.waiting.size > 0) this.waiting = new Set();
    this.show();
  }

  select(ids: string[], add = false) {
    const next = add
      ? [...this.selection.filter((id) => !ids.includes(id)), ...ids.filter((id) => !this.selection.includes(id))]
      : ids;
    this.selection = next;
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
    const to = this.history?.undo;
    if (to !== null && to !== undefined) this.made(this.engine!.restore(to));
  }

  redo() {
    const to = this.history?.redo;
    if (to !== null && to !== undefined) this.made(this.engine!.restore(to));
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
    const all = this.selection.flatMap((id) => this.channelsByOwner.get(id) ?? []);
    const live = all.filter((c) => c.keys.length > 0 || this.waiting.has(addressOf(c)));
    const chosen = live.length > 0 ? live : all.filter((c) => /^transform\.(translate|rotate|scale)/.test(c.path));
    return chosen.map(addressOf);
  }

  curve(address: string): CurveView | null {
    let curve = this.curves.get(address);
    if (curve === undefined) {
      curve = this.engine!.curve(address);
      this.curves.set(address, curve);
    }
    return curve;
  }

  removeSelectedKeys() {
    if (this.selectedKeys.length === 0) return;
    const keys = this.selectedKeys;
    this.selectedKeys = [];
    this.commit({ kind: 'removeKeys', keys });
  }

  copyKeys() {
    if (this.selectedKeys.length === 0) return;
    const edit = JSON.parse(this.engine!.copyKeys(this.selectedKeys)) as Edit;
    this.clipboard = { edit, first: Math.min(...this.selectedKeys.map((k) => k.frame)) };
    this.say(`${this.selectedKeys.length === 1 ? 'One key' : `${this.selectedKeys.length} keys`} copied.`);
  }

  /** Puts the copied keys in so that the first lands under the playhead. */
  pasteKeys() {
    if (!this.clipboard || this.clipboard.edit.kind !== 'putKeys') return;
    const by = this.frame - this.clipboard.first;
    const channels = this.clipboard.edit.channels as { address: string; keys: { frame: number }[] }[];
    const moved = channels
      .filter((c) => this.channel.has(c.address))
      .map((c) => ({ ...c, keys: c.keys.map((k) => ({ ...k, frame: k.frame + by })) }));
    if (moved.length === 0) return this.say('The objects that these keys belong to are not in this shot.');
    if (this.commit({ kind: 'putKeys', channels: moved } as unknown as Edit)) {
      this.selectedKeys = moved.flatMap((c) => c.keys.map((k) => ({ address: c.address, frame: k.frame })));
    }
  }

  private posed(outcome: Outcome, commit: boolean) {
    if (commit && outcome.entry) return this.made(outcome);
    if (outcome.refusal) {
      if (commit) this.say(outcome.refusal);
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
      this.say(outcome.refusal);
      return false;
    }
    if (outcome.entry) this.sync?.push(outcome.entry as JournalEntry);
    this.refresh();
    return true;
  }

  /** The shot itself is another: panels read everything again. */
  private refresh(scene?: SceneView) {
    this.history = this.engine!.history();
    this.waiting = new Set(this.engine!.waiting());
    this.refreshTried(scene);
    // What is gone is not selected any more; the rest of the selection stays.
    const nodes = new Set(this.scene.nodes.map((n) => n.id));
    if (this.selection.some((id) => !nodes.has(id))) this.selection = this.selection.filter((id) => nodes.has(id));
    const keys = this.selectedKeys.filter((k) => this.channel.get(k.address)?.keys.includes(k.frame));
    if (keys.length !== this.selectedKeys.length) this.selectedKeys = keys;
  }

  private refreshTried(scene?: SceneView) {
    const { structure, keys } = this.engine!.changes();
    if (structure) {
      this.curves.clear();
      this.scene = scene ?? this.engine!.scene();
    } else {
      const changed = Object.keys(keys);
      for (const address of changed) this.curves.delete(address);
      if (changed.length > 0) {
        const channels = this.scene.channels.map((c) => {
          const frames = keys[addressOf(c)];
          return frames ? { ...c, keys: frames } : c;
        });
        this.scene = { ...this.scene, channels };
      }
    }
    this.changed++;
    this.show();
  }
}

export const session = new Session();
