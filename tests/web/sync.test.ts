// What is done here goes to the server in order, and nothing is lost on the way: with a server and an engine of straw.
import { beforeEach, describe, expect, it, vi } from 'vitest';

type Entry = { kind: string; text: string };
interface Line {
  revision: number;
  label: string;
  time: string;
  entry: Entry;
}

/** A server with a journal. It can be out of reach, refuse a text, or be written to by someone else. */
const server = vi.hoisted(() => ({
  journal: [] as Line[],
  base: 0,
  reachable: true,
  refuse: '',
  posts: 0,
  watched: [] as string[],
  heard: new Map<string, (...args: unknown[]) => void>(),
  beforePost: null as (() => void | Promise<void>) | null,
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
        if (body.revision !== revision()) {
          const entries = server.journal.slice(body.revision - server.base);
          return { response: { status: 409 }, error: { revision: revision(), entries } };
        }
        if (body.entries.some((e) => e.text === server.refuse))
          return { response: { status: 422 }, error: { detail: 'That cannot be done.' } };
        body.entries.forEach(add);
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
    off: (name: string) => void server.heard.delete(name),
    onreconnected: () => undefined,
  };
  return (await import('./hub')).liveWith(hub);
});

/** An engine that keeps texts in a list, and refuses one of them. */
class StrawEngine {
  texts: string[] = [];
  refused = '';
  append(entry: unknown) {
    const { text } = entry as Entry;
    if (text === this.refused) return { refusal: 'It does not fit.', entry: null };
    this.texts.push(text);
    return { refusal: null, entry };
  }
  rebase(base: unknown, _: number, entries: unknown[]) {
    this.texts = [...(base as string[]), ...(entries as Entry[]).map((e) => e.text)];
    return { refusal: null, entry: null };
  }
}

const { Sync } = await import('../../web/src/state/sync');

function open(entries: Line[] = []) {
  const engine = new StrawEngine();
  engine.texts = ['base', ...entries.map((e) => e.entry.text)];
  const heard = { changed: 0, states: [] as string[], notices: [] as string[], renders: [] as unknown[] };
  const sync = new Sync(engine as never, 'shot', ['base'], server.base, entries as never, {
    changed: () => heard.changed++,
    state: (state, pending) => heard.states.push(`${state} ${pending}`),
    notice: (text) => heard.notices.push(text),
    render: (view) => heard.renders.push(view),
  });
  const make = (text: string, kind = 'edit') => {
    engine.append({ kind, text });
    sync.push({ kind, text } as never);
  };
  return { engine, sync, heard, make };
}

const texts = () => server.journal.map((l) => l.entry.text);
const elsewhere = (text: string) =>
  server.journal.push({
    revision: server.base + server.journal.length + 1,
    label: text,
    time: '2026-01-01T00:00:00Z',
    entry: { kind: 'edit', text },
  });

beforeEach(() => {
  vi.useRealTimers();
  Object.assign(server, { journal: [], base: 0, reachable: true, refuse: '', posts: 0, watched: [], beforePost: null });
  server.heard.clear();
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

  it('is kept while the server cannot be reached, and sent when it can again', async () => {
    vi.useFakeTimers();
    const { sync, heard, make } = open();
    server.reachable = false;
    make('one');
    await vi.advanceTimersByTimeAsync(0);
    expect(heard.states.at(-1)).toBe('waiting 1');
    make('two');
    await vi.advanceTimersByTimeAsync(10);
    expect(heard.states.at(-1)).toBe('waiting 2');
    server.reachable = true;
    await vi.advanceTimersByTimeAsync(60_000);
    expect(texts()).toEqual(['one', 'two']);
    expect(heard.states.at(-1)).toBe('saved 0');
    expect(sync.hasUnsaved).toBe(false);
  });

  it('is asked again less and less often', async () => {
    vi.useFakeTimers();
    const { make } = open();
    server.reachable = false;
    make('one');
    await vi.advanceTimersByTimeAsync(4_000);
    const early = server.posts;
    expect(early).toBeGreaterThanOrEqual(2);
    await vi.advanceTimersByTimeAsync(60_000);
    const perSecond = (server.posts - early) / 60;
    expect(perSecond).toBeLessThan(0.2);
    expect(perSecond).toBeGreaterThan(0);
  });

  it('is taken back, with the reason, when the server refuses it', async () => {
    const { engine, sync, heard, make } = open();
    make('good');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    server.refuse = 'bad';
    make('bad');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(engine.texts).toEqual(['base', 'good']);
    expect(texts()).toEqual(['good']);
    expect(heard.notices).toEqual(['That cannot be done.']);
    expect(heard.changed).toBe(1);
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
    engine.append({ kind: 'edit', text: 'lost' });
    engine.refused = 'lost';
    sync.push({ kind: 'edit', text: 'lost' } as never);
    make('kept');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(engine.texts).toEqual(['base', 'theirs', 'kept']);
    expect(texts()).toEqual(['theirs', 'kept']);
    expect(heard.notices[0]).toContain('1 of your changes');
  });

  it('makes the number of a state mean another: going back to one is left out', async () => {
    const { sync, heard, make } = open();
    elsewhere('theirs');
    make('back to 0', 'restore');
    await vi.waitFor(() => expect(sync.hasUnsaved).toBe(false));
    expect(texts()).toEqual(['theirs']);
    expect(heard.notices[0]).toContain('no longer fit');
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
    await new Promise((done) => setTimeout(done, 10));
    expect(engine.texts).toEqual(['base', 'a', 'b']);
    expect(sync.revision).toBe(2);
    expect(heard.changed).toBe(1);
  });

  it('that was missed before watching began is caught up with', async () => {
    elsewhere('a');
    const { engine } = open();
    await vi.waitFor(() => expect(engine.texts).toEqual(['base', 'a']));
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
    expect(server.heard.size).toBe(0);
    expect(engine.texts).toEqual(['base']);
  });

  it('hands the progress of renders on while it is open', () => {
    const { heard } = open();
    server.heard.get('render')!({ id: 'r' });
    expect(heard.renders).toEqual([{ id: 'r' }]);
  });
});
