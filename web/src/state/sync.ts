// Sends what has been done to the server, in order, and takes over what other windows have done.
import { HubConnectionBuilder, LogLevel, type HubConnection } from '@microsoft/signalr';
import { api, sentence, type EntryView, type Missed, type RenderView } from '../api/client';
import type { Engine, JournalEntry } from '../engine/engine';

export type SaveState = 'saved' | 'saving' | 'waiting';

export interface SyncListener {
  /** The shown shot has changed because of another window. */
  changed(): void;
  state(state: SaveState, pending: number): void;
  /** Something that a person should read. */
  notice(text: string): void;
  render(view: RenderView): void;
}

/** A connection for all shots, made once. */
let hub: HubConnection | null = null;

export class Sync {
  private pending: JournalEntry[] = [];
  private confirmed: EntryView[] = [];
  private sending = false;
  private closed = false;
  private newest: number;
  private retry = 0;

  constructor(
    private readonly engine: Engine,
    readonly shotId: string,
    private readonly base: unknown,
    private readonly baseRevision: number,
    entries: EntryView[],
    private readonly listener: SyncListener,
  ) {
    this.confirmed = entries;
    this.newest = this.revision;
    void this.listen();
  }

  /** The newest revision that the server has and we know. */
  get revision() {
    return this.baseRevision + this.confirmed.length;
  }

  get hasUnsaved() {
    return this.pending.length > 0;
  }

  /** Queues an entry that the engine has applied already. */
  push(entry: JournalEntry) {
    this.pending.push(entry);
    this.report();
    void this.flush();
  }

  async close() {
    this.closed = true;
    hub?.off('journal');
    hub?.off('render');
    if (hub?.state === 'Connected') await hub.invoke('Unwatch', this.shotId).catch(() => undefined);
  }

  private report(waiting = false) {
    this.listener.state(this.pending.length === 0 ? 'saved' : waiting ? 'waiting' : 'saving', this.pending.length);
  }

  private async flush() {
    if (this.sending || this.closed) return;
    this.sending = true;
    try {
      while (this.pending.length > 0 && !this.closed) {
        const batch = this.pending.slice();
        const answer = await api.POST('/api/shots/{id}/journal', {
          params: { path: { id: this.shotId } },
          body: { revision: this.revision, entries: batch },
        });
        this.retry = 0;
        if (answer.response.status === 409) {
          this.takeOver((answer.error as Missed).entries);
        } else if (answer.error !== undefined) {
          this.drop(batch, sentence(answer.error));
        } else {
          const time = new Date().toISOString();
          for (const entry of batch) {
            this.confirmed.push({ revision: this.revision + 1, label: '', time, entry });
          }
          this.pending.splice(0, batch.length);
        }
        this.report();
      }
    } catch {
      // No answer: everything is kept here and sent again.
      this.report(true);
      this.retry = Math.min(this.retry + 1, 5);
      setTimeout(() => void this.flush(), 500 * 2 ** this.retry);
    } finally {
      this.sending = false;
    }
    if (this.newest > this.revision && this.pending.length === 0) await this.fetchMissed();
  }

  private async fetchMissed() {
    const answer = await api.GET('/api/shots/{id}/journal', {
      params: { path: { id: this.shotId }, query: { after: this.revision } },
    });
    // Meanwhile something may have been done here; then sending it brings what was missed.
    if (!answer.data || this.closed || this.sending || this.pending.length > 0) return;
    const missed = answer.data.filter((e) => e.revision > this.revision);
    for (const entry of missed) {
      const outcome = this.engine.append(entry.entry);
      if (outcome.refusal) return this.listener.notice(outcome.refusal);
      this.confirmed.push(entry);
    }
    if (missed.length > 0) this.listener.changed();
  }

  /** Another window was faster: its entries come first, ours again after them. */
  private takeOver(missed: EntryView[]) {
    this.confirmed.push(...missed.filter((e) => e.revision > this.revision));
    this.newest = Math.max(this.newest, this.revision);
    const ours = this.pending;
    this.pending = [];
    this.rebuild();
    let dropped = 0;
    for (const entry of ours) {
      // A way back to a state by its number means another state now.
      const outcome = entry.kind === 'restore' ? { refusal: 'renumbered' } : this.engine.append(entry);
      if (outcome.refusal) dropped++;
      else this.pending.push(entry);
    }
    this.listener.notice(
      dropped > 0
        ? `This shot was changed in another window; ${dropped} of your changes no longer fit and were left out.`
        : 'This shot was changed in another window; your changes were put on top.',
    );
    this.listener.changed();
  }

  private drop(batch: JournalEntry[], why: string) {
    this.pending.splice(0, batch.length);
    this.rebuild();
    for (const entry of this.pending) this.engine.append(entry);
    this.listener.notice(why);
    this.listener.changed();
  }

  private rebuild() {
    this.engine.rebase(
      this.base,
      this.baseRevision,
      this.confirmed.map((e) => e.entry),
    );
  }

  private async listen() {
    hub ??= new HubConnectionBuilder()
      .withUrl('/live')
      .withAutomaticReconnect({ nextRetryDelayInMilliseconds: (c) => Math.min(5000, 250 * 2 ** c.previousRetryCount) })
      .configureLogging(LogLevel.None)
      .build();
    hub.on('journal', (id: string, revision: number) => {
      if (id !== this.shotId) return;
      this.newest = Math.max(this.newest, revision);
      if (!this.sending && this.newest > this.revision) void this.fetchMissed();
    });
    hub.on('render', (view: RenderView) => this.listener.render(view));
    const watch = async () => {
      if (this.closed) return;
      await hub!.invoke('Watch', this.shotId);
      await this.fetchMissed();
    };
    hub.onreconnected(() => void watch());
    while (!this.closed) {
      try {
        if (hub.state === 'Disconnected') await hub.start();
        if (hub.state === 'Connected') {
          await watch();
          return;
        }
      } catch {
        // Tried again below.
      }
      await new Promise((done) => setTimeout(done, 2000));
    }
  }
}
