// What is done here goes to the server in order, and nothing is lost on the way: with a server and an engine of straw.
import { beforeEach, describe, expect, it, vi } from 'vitest';

type Entry = { kind: string; text: string; id?: string };
interface Line {
  revision: number;
  label: string;
  time: string;
  entry: Entry;
}

/** A server with a journal. It can be out of reach, fail, refuse a text, lose its answer, or be written to by someone else. */
const server = vi.hoisted(() => ({
  journal: [] as Line[],
  base: 0,
  reachable: true,
  losesAnswer: false,
  fails: 0,
  refuse: '',
  posts: 0,
  watched: [] as string[],
  heard: new Map<string, (...args: unknown[]) => void>(),
  reconnected: () => {},
  beforePost: null as (() => void | Promise<void>) | null,
}));
const store = vi.hoisted(() => new Map<string, unknown>());

vi.mock('idb-keyval', () => ({
  set: async (key: string, value: unknown) => void store.set(key, structuredClone(value)),
  get: async (key: string) => store.get(key),
  del: async (key: string) => void store.delete(key),
  keys: async () => [...store.keys()],
}));

vi.mock('../../web/src/api/client', () => {
  const revision = () => server.base + server.journal.length;
  const add = (entry: Entry) =>
    server.journal.push({ revision: revision() + 1, label: entry.text, time: '2026-01-01T00:00:00Z', entry });
  return {
    sentence: (error: { detail: string }) => error.detail,
    api: {
      POST: async (_: string, { body }: { body: { revision: number; entries: Entry[] } }) => {
        server.posts++;
        await server.beforePost?.();
        if (!server.reachable) throw new TypeError('Failed to fetch');
        if (server.fails > 0) {
          server.fails--;
          return { response: { status: 507 }, error: { detail: 'The disk is full.' } };
        }
        const ids = new Set(body.entries.map((e) => e.id));
        const missed = server.journal.slice(body.revision - server.base);
        if (missed.some((m) => !ids.has(m.entry.id)))
          return { response: { status: 409 }, error: { revision: revision(), entries: missed } };
        if (body.entries.some((e) => e.text === server.refuse))
          return { response: { status: 422 }, error: { detail: 'That cannot be done.' } };
        const known = new Set(server.journal.map((l) => l.entry.id));
        body.entries.filter((e) => !known.has(e.id)).forEach(add);
        if (server.losesAnswer) {
          server.losesAnswer = false;
          throw new TypeError('Failed to fetch');
        }
        return { response: { status: 200 }, data: { revision: revision() } };
      },
      GET: async (_: string, { params }: { params: { query: { after: number } } }) => {
        if (!server.reachable) throw new TypeError('Failed to fetch');
        return { data: server.journal.slice(params.query.after - server.base) };
      },
    },
  };
});

vi.mock('@microsoft/signalr', async () => {
  const hub = {
    state: 'Disconnected',
    start: async () => void (hub.state = 'Connected'),
    invoke: async (method: string, id: string) => void server.watched.push(`${method} ${id}`),
    on: (name: string, then: (...args: unknown[]) => void) => void server.heard.set(name, then),
    onreconnected: (then: () => void) => void (server.reconnected = then),
  };
  return (await import('./hub')).liveWith(hub);
});

/** An engine that keeps lines in a list, and refuses one of them. */
class StrawEngine {
  lines: Entry[] = [];
  refused = '';
  foreignRefused = false;
  private add(entry: Entry): boolean {
    if (entry.text === this.refused) return false;
    this.lines.push(entry);
    return true;
  }
  make(entry: Entry) {
    this.lines.push(entry);
  }
  merge(confirmed: number, missed: Entry[]) {
    const first = 1 + confirmed - server.base;
    const ours = this.lines.slice(first);
    this.lines.length = first;
    if (this.foreignRefused) return { refusal: 'It does not fit.', pending: [], dropped: 0 };
    this.lines.push(...missed);
    const arrived = new Set(missed.map((m) => m.id));
    const pending = ours.filter((o) => !arrived.has(o.id));
    const kept = pending.filter((o) => this.add(o));
    return { refusal: null, pending: kept, dropped: pending.length - kept.length };
  }
  resume(after: number, entries: Entry[]) {
    const first = 1 + after - server.base;
    const later = this.lines.slice(first);
    this.lines.length = first;
    entries.forEach((e) => this.add(e));
    return this.merge(after, later);
  }
  drop(confirmed: number) {
    this.lines.length = 1 + confirmed - server.base;
    return { refusal: null, entry: null };
  }
  get texts() {
    return this.lines.map((l) => l.text);
  }
}

const { Sync } = await import('../../web/src/sync/sync');

let made = 0;
function open(entries: Line[] = []) {
  const engine = new StrawEngine();
  engine.lines = [{ kind: 'edit', text: 'base' }, ...entries.map((e) => e.entry)];
  const heard = {
    changed: 0,
    states: [] as string[],
    notices: [] as string[],
    renders: [] as unknown[],
    reopened: 0,
    back: 0,
  };
  const sync = new Sync(engine as never, 'shot', server.base + entries.length, {
    changed: () => heard.changed++,
    state: (state, pending) => heard.states.push(`${state} ${pending}`),
    notice: (text) => heard.notices.push(text),
    render: (view) => heard.renders.push(view),
    film: (id, part) => heard.renders.push(`film ${id} ${part}`),
    reopen: () => heard.reopened++,
    reconnected: () => heard.back++,
  });
  const make = (text: string, kind = 'edit') => {
    const entry = { kind, text, id: `${made++}` };
    engine.make(entry);
    sync.push(entry as never);
    return entry;
  };
  return { engine, sync, heard, make };
}

const texts = () => server.journal.map((l) => l.entry.text);
const elsewhere = (text: string) =>
  server.journal.push({
    revision: server.base + server.journal.length + 1,
    label: text,
    time: '2026-01-01T00:00:00Z',
    entry: { kind: 'edit', text, id: `else-${text}` },
  });

beforeEach(() => {
  vi.useRealTimers();
  Object.assign(server, {
    journal: [],
    base: 0,
    reachable: true,
    losesAnswer: false,
    fails: 0,
    refuse: '',
    posts: 0,
    watched: [],
    beforePost: null,
  });
  store.clear();
});

describe('what is done here', () => {
  it('is sent in order and told as saved', async () => {
    const { sync, heard, make } = open();
    make('one');
    make('two');
    expect(sync.hasUnsaved).toBe(true);
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(texts()).toEqual(['one', 'two']);
    expect(sync.revision).toBe(2);
    expect(heard.states[0]).toBe('saving 1');
    expect(heard.states.at(-1)).toBe('saved 0');
    expect(heard.notices).toEqual([]);
    await vi.waitFor(() => expect(store.size).toBe(0));
  });

  it('waits while a batch is on its way, and goes with the next', async () => {
    const { sync, make } = open();
    let let_go = () => {};
    server.beforePost = () => new Promise<void>((done) => (let_go = done));
    make('one');
    await vi.waitFor(() => expect(server.posts).toBe(1));
    make('two');
    make('three');
    expect(server.posts).toBe(1);
    server.beforePost = null;
    let_go();
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(server.posts).toBe(2);
    expect(texts()).toEqual(['one', 'two', 'three']);
  });

  it('is kept in the browser while the server cannot be reached, and sent when it can again', async () => {
    vi.useFakeTimers();
    const { sync, heard, make } = open();
    server.reachable = false;
    make('one');
    await vi.advanceTimersByTimeAsync(0);
    expect(heard.states.at(-1)).toBe('waiting 1');
    make('two');
    await vi.advanceTimersByTimeAsync(10);
    expect(heard.states.at(-1)).toBe('waiting 2');
    const [kept] = [...store.values()] as { after: number; entries: Entry[] }[];
    expect([kept.after, kept.entries.map((e) => e.text)]).toEqual([0, ['one', 'two']]);
    server.reachable = true;
    await vi.advanceTimersByTimeAsync(60_000);
    expect(texts()).toEqual(['one', 'two']);
    expect(heard.states.at(-1)).toBe('saved 0');
    expect(sync.hasUnsaved).toBe(false);
  });

  it('is asked again less and less often, however much is done meanwhile', async () => {
    vi.useFakeTimers();
    const { make } = open();
    server.reachable = false;
    for (let i = 0; i < 20; i++) make(`${i}`);
    await vi.advanceTimersByTimeAsync(4_000);
    const early = server.posts;
    expect(early).toBeGreaterThanOrEqual(2);
    expect(early).toBeLessThan(8);
    await vi.advanceTimersByTimeAsync(60_000);
    const perSecond = (server.posts - early) / 60;
    expect(perSecond).toBeLessThan(0.2);
    expect(perSecond).toBeGreaterThan(0);
  });

  it('is sent at once when the connection is back', async () => {
    const { sync, heard, make } = open();
    await vi.waitFor(() => expect(server.watched).toEqual(['Watch shot']));
    server.reachable = false;
    make('one');
    await vi.waitFor(() => expect(heard.states.at(-1)).toBe('waiting 1'));
    server.reachable = true;
    server.reconnected();
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(heard.back).toBe(1);
  });

  it('is not dropped by a server that is in trouble', async () => {
    vi.useFakeTimers();
    const { engine, sync, heard, make } = open();
    server.fails = 2;
    make('one');
    await vi.advanceTimersByTimeAsync(20_000);
    expect(sync.hasUnsaved).toBe(false);
    expect(engine.texts).toEqual(['base', 'one']);
    expect(heard.states).toContain('waiting 1');
  });

  it('is taken once when an answer is lost', async () => {
    vi.useFakeTimers();
    const { engine, sync, heard, make } = open();
    server.losesAnswer = true;
    make('one');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(sync.hasUnsaved).toBe(false);
    expect(texts()).toEqual(['one']);
    expect(engine.texts).toEqual(['base', 'one']);
    expect(heard.notices).toEqual([]);
  });

  it('is taken once when an answer is lost and another window comes in between', async () => {
    vi.useFakeTimers();
    const { engine, sync, make } = open();
    server.losesAnswer = true;
    make('one');
    await vi.advanceTimersByTimeAsync(0);
    elsewhere('theirs');
    make('two');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(sync.hasUnsaved).toBe(false);
    expect(texts()).toEqual(['one', 'theirs', 'two']);
    expect(engine.texts).toEqual(['base', 'one', 'theirs', 'two']);
  });

  it('is taken back, with the reason, when the server refuses it; the rest goes on, and a copy is kept', async () => {
    const { engine, sync, heard, make } = open();
    make('good');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    server.refuse = 'bad';
    let let_go = () => {};
    server.beforePost = () => new Promise<void>((done) => (let_go = done));
    make('first');
    await vi.waitFor(() => expect(server.posts).toBe(2));
    make('bad');
    make('last');
    server.beforePost = null;
    let_go();
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(texts()).toEqual(['good', 'first', 'last']);
    expect(engine.texts).toEqual(['base', 'good', 'first', 'last']);
    expect(heard.notices).toEqual(['A change could not be kept and was taken back: That cannot be done.']);
    await vi.waitFor(() => expect([...store.keys()].filter((k) => k.includes('/refused/'))).toHaveLength(1));
  });

  it('that an earlier page has left unsent is taken up, and what had arrived is not sent twice', async () => {
    elsewhere('known');
    store.set('bradymotus/unsent/shot/w', {
      after: 0,
      entries: [
        { kind: 'edit', text: 'known', id: 'else-known' },
        { kind: 'edit', text: 'left', id: 'left' },
      ],
    });
    store.set('bradymotus/unsent/another/w', { after: 0, entries: [{ kind: 'edit', text: 'x', id: 'x' }] });
    const { engine, sync } = open(server.journal.slice());
    await sync.resume();
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(texts()).toEqual(['known', 'left']);
    expect(engine.texts).toEqual(['base', 'known', 'left']);
    await vi.waitFor(() => expect([...store.keys()]).toEqual(['bradymotus/unsent/another/w']));
  });
});

describe('what another window has done', () => {
  it('comes before ours, and ours is put on top', async () => {
    const { engine, sync, heard, make } = open();
    elsewhere('theirs');
    make('ours');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(texts()).toEqual(['theirs', 'ours']);
    expect(engine.texts).toEqual(['base', 'theirs', 'ours']);
    expect(sync.revision).toBe(2);
    expect(heard.notices[0]).toContain('put on top');
  });

  it('leaves out what of ours no longer fits, and says how much', async () => {
    const { engine, sync, heard, make } = open();
    elsewhere('theirs');
    engine.refused = 'lost';
    make('lost');
    make('kept');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(engine.texts).toEqual(['base', 'theirs', 'kept']);
    expect(texts()).toEqual(['theirs', 'kept']);
    expect(heard.notices[0]).toContain('one of your changes no longer fits');
  });

  it('is fetched when it is announced, once', async () => {
    const { engine, sync, heard } = open();
    await vi.waitFor(() => expect(server.watched).toEqual(['Watch shot']));
    elsewhere('a');
    elsewhere('b');
    server.heard.get('journal')!('another shot', 9);
    expect(engine.texts).toEqual(['base']);
    server.heard.get('journal')!('shot', 2);
    await vi.waitFor(() => expect(engine.texts).toEqual(['base', 'a', 'b']));
    server.heard.get('journal')!('shot', 2);
    await vi.waitFor(() => expect(sync.revision).toBe(2));
    expect(engine.texts).toEqual(['base', 'a', 'b']);
    expect(heard.changed).toBe(1);
  });

  it('that was missed before watching began is caught up with', async () => {
    elsewhere('a');
    const { engine } = open();
    await vi.waitFor(() => expect(engine.texts).toEqual(['base', 'a']));
  });

  it('and cannot be applied here has the shot opened again', async () => {
    const { engine, heard, make } = open();
    elsewhere('back to an earlier state');
    engine.foreignRefused = true;
    make('ours');
    await vi.waitFor(() => expect(heard.reopened).toBe(1));
  });

  it('counts from the revision of the base', async () => {
    server.base = 200;
    elsewhere('known');
    const { sync, make } = open(server.journal.slice());
    expect(sync.revision).toBe(201);
    make('next');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(server.journal.at(-1)).toMatchObject({ revision: 202, entry: { text: 'next' } });
  });
});

describe('a shot that is closed', () => {
  it('hears nothing any more and is not watched', async () => {
    const { engine, sync } = open();
    await vi.waitFor(() => expect(server.watched).toEqual(['Watch shot']));
    await sync.close();
    expect(server.watched).toEqual(['Watch shot', 'Unwatch shot']);
    elsewhere('a');
    server.heard.get('journal')!('shot', 1);
    expect(engine.texts).toEqual(['base']);
  });

  it('sends what is left before, and goes on trying when it cannot', async () => {
    vi.useFakeTimers();
    const { sync, make } = open();
    server.reachable = false;
    make('one');
    const closing = sync.close();
    await vi.advanceTimersByTimeAsync(2_000);
    await closing;
    expect(texts()).toEqual([]);
    server.reachable = true;
    await vi.advanceTimersByTimeAsync(30_000);
    expect(texts()).toEqual(['one']);
    await vi.advanceTimersByTimeAsync(10);
    expect(store.size).toBe(0);
  });

  it('hands the progress of renders on while it is open', () => {
    const { heard } = open();
    server.heard.get('render')!({ id: 'r' });
    server.heard.get('film')!('r', 0.5);
    expect(heard.renders).toEqual([{ id: 'r' }, 'film r 0.5']);
  });
});
