// What all panels share: the open shot, and where the hand is in it.
import { newEdit } from '../edits/edit';
import { tick } from 'svelte';
import { api, take, type DocumentView, type OpeningView } from '../api/client';
import { boot, Engine, Opening } from '../engine/engine';
import { keep } from '../widgets/kept';
import { KeyClipboard } from './keyClipboard.svelte';
import { Findings } from './findings.svelte';
import { Messages } from './messages.svelte';
import { KeyReach } from './reach';
import { Player } from './player.svelte';
import { Renders } from './renders.svelte';
import { Selection } from './selection.svelte';
import { OpenShot } from './shot.svelte';
import { Sounds } from './sounds.svelte';
import { Sync, type SaveState } from '../sync/sync';
import { left } from '../sync/unsent';
import { comeBackIn, comeBackTo } from './whereOneWas';

export type Phase = 'set' | 'block' | 'polish' | 'deliver';
export type Tool = 'select' | 'move' | 'rotate' | 'scale';
export { keyId, type KeyRef } from './selection.svelte';

export class Session {
  /** True once the start is over, with or without a shot. Before that a shot can be seen but not changed. */
  ready = $state(false);
  /** Whether the first picture of the stage has been drawn; what lies round it may come after it. */
  seen = $state(false);
  shotId = $state<string | null>(null);
  frame = $state(0);
  phase = $state<Phase>('set');
  tool = $state<Tool>('move');
  autoKey = $state(false);
  saveState = $state<SaveState>('saved');
  unsaved = $state(0);
  readonly shot = new OpenShot({
    frame: () => this.frame,
    stepped: () => this.player.playing && this.player.stepped,
    autoKey: () => this.autoKey,
    say: (text) => this.messages.say(text),
    made: (entry) => this.sync?.push(entry),
    changed: () => {
      this.selection.follow(this.shot.history?.content ?? -1);
      this.findings.changed();
      this.sounds.changed();
      this.reach.look();
    },
  });
  readonly messages = new Messages();
  readonly selection = new Selection(this);
  readonly player = new Player(this);
  readonly renders = new Renders();
  readonly clipboard = new KeyClipboard(this);
  readonly findings = new Findings(this);
  readonly sounds = new Sounds(this);
  private readonly reach = new KeyReach(this);

  private sync: Sync | null = null;

  /** Starts with the shot of the address, or the oldest; without one when there is none. */
  async start(): Promise<void> {
    if ((await boot().shots) === null) throw new Error('The server cannot be reached: check that it is running.');
    const opening = (await boot().opening) as OpeningView | null;
    const document = (await boot().document) as DocumentView | null;
    if (document) comeBackTo(this, document.id);
    if (opening && document) {
      this.shotId = document.id;
      this.shot.showOpening(new Opening(opening));
      this.frame = this.shot.scene.playFirst;
      performance.mark('opening shown');
      await tick();
      await new Promise(requestAnimationFrame);
    }
    boot().begin();
    // The panels are made while the browser compiles the engine beside it.
    setTimeout(() => (this.seen = true));
    this.shot.engine = await Engine.load();
    performance.mark('engine ready');
    if (document) await this.open(document.id, document);
    this.ready = true;
    performance.mark('ready');
  }

  private fetch = async (id: string) =>
    (await take(api.GET('/api/shots/{id}', { params: { path: { id } } }))) as DocumentView;

  // What is being opened: the newest wish counts, and one after the other is taken up.
  private wish: { id: string; opened: Promise<void> } | null = null;
  private takingUp: Promise<unknown> = Promise.resolve();

  /** Opens a shot of the library. One that cannot be opened leaves the open one as it is; another that is asked for meanwhile goes before it. */
  open(id: string, fetched?: DocumentView): Promise<void> {
    if (this.wish?.id === id) return this.wish.opened;
    const wish = { id, opened: Promise.resolve() };
    this.wish = wish;
    wish.opened = (async () => {
      try {
        const unsent = left(id);
        const document = fetched ?? (await this.fetch(id));
        const taken = this.takingUp.then(() => (this.wish === wish ? this.takeUp(id, document, unsent) : undefined));
        this.takingUp = taken.catch(() => undefined);
        await taken;
      } finally {
        if (this.wish === wish) this.wish = null;
      }
    })();
    return wish.opened;
  }

  private async takeUp(id: string, document: DocumentView, unsent: ReturnType<typeof left>): Promise<void> {
    const before = this.sync;
    // What is not sent yet needs the engine's old shot when another window was faster.
    await before?.close();
    this.player.stop();
    const entries = document.entries.map((e) => e.entry);
    this.reach.forget();
    const refusal = this.shot.open(document.base, document.baseRevision, entries, document.revision);
    if (refusal) {
      if (before) this.watch(before.shotId, before.revision);
      throw new Error(refusal);
    }
    performance.mark('shot read');
    const isAnother = this.shotId !== id || !before;
    this.shotId = id;
    this.selection.begin(this.shot.history?.content ?? -1);
    if (isAnother) {
      this.selection.clear();
      this.findings.list = [];
      comeBackTo(this, id);
    }
    this.saveState = 'saved';
    this.watch(id, document.revision);
    this.findings.changed(true);
    if (isAnother) comeBackIn(this, id);
    this.shot.show();
    performance.mark('frame evaluated');
    history.replaceState(null, '', `#${id}`);
    // boot.js opens it the next time that the address names none.
    keep('bradymotus.open', id);
    if (document.notice) this.messages.say(document.notice);
    void this.renders.of(id);
    await this.sync!.resume(unsent);
  }

  private watch(id: string, revision: number) {
    this.sync = new Sync(this.shot.engine!, id, revision, {
      changed: () => this.shot.reread(),
      state: (state, pending) => {
        this.saveState = state;
        this.unsaved = pending;
      },
      notice: (text) => this.messages.say(text),
      render: (view) => this.renders.take(view),
      film: (render, part) => this.renders.filmed(render, part),
      reopen: () => void this.open(id).catch((e: Error) => this.messages.say(e.message)),
      reconnected: () => void this.renders.of(id),
    });
  }

  get hasUnsaved() {
    return this.sync?.hasUnsaved ?? false;
  }

  /** Waits until the server has all changes, for what it does with the shot. */
  async settled(): Promise<void> {
    for (let tries = 0; this.hasUnsaved && tries < 100; tries++) await new Promise((done) => setTimeout(done, 50));
    if (this.hasUnsaved) throw new Error('The last changes have not reached the server: check that it is running.');
  }

  /** @param quietly Without the sounds of the shot: something else is heard. */
  goTo(frame: number, quietly = false) {
    const to = Math.round(frame);
    if (to === this.frame || !Number.isFinite(to)) return;
    this.frame = to;
    const left = this.shot.leave();
    if (!this.player.playing && !quietly) this.sounds.scrub(to);
    if (left && !this.player.playing) this.offer(left);
  }

  /** What was changed and not keyed is gone from the stage when its frame is left: that is said, and can be taken back. */
  private offer(left: { frame: number; count: number }) {
    const what = left.count === 1 ? 'One change' : `${left.count} changes`;
    this.messages.say(`${what} on frame ${left.frame} had no key and did not stay.`, {
      label: 'Bring back',
      run: () => {
        this.goTo(left.frame);
        this.shot.bringBack();
      },
    });
  }

  /** The channels that K keys: what waits for a key; of the selection those that have keys, or else all of the transform. */
  keyable(): string[] {
    const { shot } = this;
    if (this.selection.channels.length > 0) return this.selection.channels;
    const all = this.selection.ids.flatMap((id) => shot.channelsOf(id));
    // What was typed elsewhere, in a material or the sky, and waits for a key is meant first.
    const own = new Set(all.map((c) => c.address));
    const elsewhere = [...shot.waiting].filter((a) => !own.has(a));
    const isTyped = all.some((c) => shot.waiting.has(c.address));
    const live = all.filter((c) => shot.keysOf(c.address).length > 0 || shot.waiting.has(c.address));
    if (elsewhere.length > 0) return isTyped ? [...live.map((c) => c.address), ...elsewhere] : elsewhere;
    const chosen =
      live.length > 0 ? live : all.filter((c) => /^transform\.(translate|rotate|quaternion|scale)/.test(c.path));
    return chosen.map((c) => c.address);
  }

  removeSelectedKeys() {
    const { keys } = this.selection;
    if (keys.length > 0) this.shot.commit(newEdit('removeKeys', { keys }));
  }
}

export const session = new Session();
