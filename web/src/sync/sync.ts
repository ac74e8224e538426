// Sends what has been done to the server, in order, and takes over what other windows have done.
import { HubConnectionBuilder, LogLevel, type HubConnection } from '@microsoft/signalr';
import { api, sentence, type EntryView, type Missed, type RenderView } from '../api/client';
import type { Engine, JournalEntry, Merged } from '../engine/engine';
import { hearOfJob } from './jobs';
import { forget, keep, keepRefused, left, type Unsent } from './unsent';

export type SaveState = 'saved' | 'saving' | 'waiting';

export interface SyncListener {
  /** The shown shot has changed because of another window. */
  changed(): void;
  state(state: SaveState, pending: number): void;
  /** Something that a person should read. */
  notice(text: string): void;
  render(view: RenderView): void;
  /** So much of the film of a render is made, from 0 to 1. */
  film(render: string, part: number): void;
  /** What others have done cannot be applied here: the shot has to be opened again. */
  reopen(): void;
  /** The server can be reached again. */
  reconnected(): void;
}

/** A connection for all shots, made once. What it hears goes to the shot that is open. */
let hub: HubConnection | null = null;
let listening: Sync | null = null;

const hearWith = (sync: Sync) => (listening = sync);

function connection(): HubConnection {
  if (hub) return hub;
  hub = new HubConnectionBuilder()
    .withUrl('/live')
    .withAutomaticReconnect({ nextRetryDelayInMilliseconds: (c) => Math.min(5000, 250 * 2 ** c.previousRetryCount) })
    .configureLogging(LogLevel.None)
    .build();
  hub.on('journal', (id: string, revision: number) => listening?.hear(id, revision));
  hub.on('render', (view: RenderView) => listening?.listener.render(view));
  hub.on('film', (id: string, part: number) => listening?.listener.film(id, part));
  hub.on('job', hearOfJob);
  hub.onreconnected(() => void listening?.reconnected());
  return hub;
}

export class Sync {
  private pending: JournalEntry[] = [];
  private sending: Promise<void> | null = null;
  private closed = false;
  private newest: number;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | 0 = 0;

  /** @param confirmed The newest revision that the server has and we know. */
  constructor(
    private engine: Engine | null,
    readonly shotId: string,
    private confirmed: number,
    readonly listener: SyncListener,
  ) {
    this.newest = confirmed;
    hearWith(this);
    void this.listen();
  }

  get revision() {
    return this.confirmed;
  }

  get hasUnsaved() {
    return this.pending.length > 0;
  }

  /** Takes up what an earlier page has left unsent. Before anything else is done here. */
  async resume(found: Promise<Map<string, Unsent>> = left(this.shotId)) {
    const unsent = await found;
    if (unsent.size === 0) return;
    for (const { after, entries } of unsent.values()) {
      if (!this.engine || entries.length === 0) continue;
      const merged = this.engine.resume(after, entries);
      if (merged.refusal) {
        void keepRefused(this.shotId, entries, merged.refusal);
        this.listener.notice(
          `Changes of this browser that had not reached the server do not fit this shot any more; a copy is kept in the browser. ${merged.refusal}`,
        );
        continue;
      }
      this.take(merged, 'Changes of this browser that had not reached the server were put in again.');
    }
    this.kept();
    void forget(this.shotId, unsent.keys());
    if (this.pending.length > 0) void this.flush();
  }

  /** Queues an entry that the engine has applied already. */
  push(entry: JournalEntry) {
    this.pending.push(entry);
    this.kept();
    // While the server cannot be reached, one clock asks again; more changes do not make more of them.
    if (this.timer) this.report(true);
    else {
      this.report();
      void this.flush();
    }
  }

  /** Sends what is left, for a short while at most; what cannot be sent is kept and goes on being tried without the engine. */
  async close(patience = 2000) {
    clearTimeout(this.timer);
    this.timer = 0;
    await Promise.race([this.flush(), new Promise((done) => setTimeout(done, patience))]);
    this.closed = true;
    this.engine = null;
    if (listening === this) listening = null;
    if (hub?.state === 'Connected') await hub.invoke('Unwatch', this.shotId).catch(() => undefined);
    if (this.pending.length > 0) this.later();
  }

  hear(id: string, revision: number) {
    if (id !== this.shotId) return;
    this.newest = Math.max(this.newest, revision);
    if (!this.sending) void this.fetchMissed();
  }

  async reconnected() {
    await this.watch();
    clearTimeout(this.timer);
    this.timer = 0;
    this.listener.reconnected();
    await this.flush();
  }

  private kept() {
    void keep(this.shotId, { after: this.confirmed, entries: this.pending.slice() });
  }

  private report(waiting = false) {
    if (this.closed) return;
    this.listener.state(this.pending.length === 0 ? 'saved' : waiting ? 'waiting' : 'saving', this.pending.length);
  }

  private flush(): Promise<void> {
    this.sending ??= this.send().finally(() => {
      this.sending = null;
      if (!this.timer && this.newest > this.confirmed) void this.fetchMissed();
    });
    return this.sending;
  }

  private async send() {
    // After a refusal one at a time, to find the line that is meant.
    let most = Infinity;
    try {
      while (this.pending.length > 0) {
        const batch = this.pending.slice(0, most);
        const answer = await api.POST('/api/shots/{id}/journal', {
          params: { path: { id: this.shotId } },
          body: { revision: this.confirmed, entries: batch },
        });
        const { status } = answer.response;
        if (status === 409) {
          // Without the engine there is nothing to put together: who opens the shot next does it.
          if (!this.engine) return;
          this.takeOver(answer.error as Missed);
        } else if (status === 400 || status === 413 || status === 422) {
          if (batch.length > 1) most = 1;
          else {
            most = Infinity;
            this.refuse(batch[0], sentence(answer.error));
          }
        } else if (answer.error !== undefined) {
          throw new Error(sentence(answer.error));
        } else {
          this.confirmed = answer.data.revision;
          this.newest = Math.max(this.newest, this.confirmed);
          this.pending.splice(0, batch.length);
        }
        this.failures = 0;
        this.kept();
        this.report();
      }
    } catch {
      // No answer, or the server cannot keep it now: everything is kept here and sent again.
      this.report(true);
      this.later();
    }
  }

  private later() {
    this.failures = Math.min(this.failures + 1, 6);
    clearTimeout(this.timer);
    this.timer = setTimeout(
      () => {
        this.timer = 0;
        void this.flush();
      },
      250 * 2 ** this.failures,
    );
  }

  private async fetchMissed(anyway = false) {
    if ((this.newest <= this.confirmed && !anyway) || this.sending || this.closed) return;
    try {
      const answer = await api.GET('/api/shots/{id}/journal', {
        params: { path: { id: this.shotId }, query: { after: this.confirmed } },
      });
      // Meanwhile something may have been done here; then sending it brings what was missed.
      if (!answer.data || this.closed || this.sending || this.pending.length > 0) return;
      const entries = answer.data.filter((e) => e.revision > this.confirmed);
      if (entries.length > 0) this.takeOver({ revision: entries.at(-1)!.revision, entries });
    } catch {
      // Coming back, the connection asks again.
    }
  }

  /** What others have done comes first, ours again after it; what of ours has arrived already is not done twice. */
  private takeOver({ revision, entries }: Missed) {
    const missed = entries.filter((e: EntryView) => e.revision > this.confirmed).map((e) => e.entry as JournalEntry);
    const ours = new Set(this.pending.map((e) => e.id));
    const hadPending = this.pending.length > 0;
    const foreign = missed.some((e) => !e.id || !ours.has(e.id));
    // A journal that is shorter than what it has acknowledged is another one.
    if (revision < this.confirmed) return this.listener.reopen();
    const merged = this.engine!.merge(this.confirmed, missed);
    // What cannot be put together stays as it was kept: its lines speak of revisions after the one that they were made on.
    if (merged.refusal) {
      this.engine = null;
      return this.listener.reopen();
    }
    this.confirmed = revision;
    this.newest = Math.max(this.newest, revision);
    this.take(
      merged,
      foreign && hadPending ? 'This shot was changed in another window; your changes were put on top.' : null,
    );
  }

  private take({ pending, dropped }: Merged, put: string | null) {
    this.pending = pending;
    const lost =
      dropped === 1
        ? 'one of your changes no longer fits and was left out'
        : `${dropped} of your changes no longer fit and were left out`;
    if (dropped > 0) this.listener.notice(`This shot was changed in another window; ${lost}.`);
    else if (put && pending.length > 0) this.listener.notice(put);
    this.listener.changed();
  }

  /** The server will not take a line: it is taken back here, and a copy is kept. */
  private refuse(entry: JournalEntry, why: string) {
    void keepRefused(this.shotId, [entry], why);
    const rest = this.pending.slice(1);
    this.pending = rest;
    if (!this.engine) return;
    this.engine.drop(this.confirmed);
    if (rest.length > 0) this.pending = this.engine.resume(this.confirmed, rest).pending;
    this.listener.notice(`A change could not be kept and was taken back: ${why}`);
    this.listener.changed();
  }

  private async watch() {
    if (this.closed) return;
    await connection().invoke('Watch', this.shotId);
    await this.fetchMissed(true);
  }

  private async listen() {
    const live = connection();
    while (!this.closed) {
      try {
        if (live.state === 'Disconnected') await live.start();
        if (live.state === 'Connected') {
          await this.watch();
          return;
        }
      } catch {
        // Tried again below.
      }
      await new Promise((done) => setTimeout(done, 2000));
    }
  }
}
