// The real engine, as the browser runs it, and a server of straw: opens the demo shot for tests of what lies between.
import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { vi } from 'vitest';

// The tests are run from the folder of the interface.
const root = resolve(process.cwd(), '..');

/** What the page has sent, and what the server answers to the next request for a path. */
export const sent: { method: string; path: string; body: unknown }[] = [];
export const answers = new Map<string, { status: number; body: unknown; after?: Promise<void> }>();

let revision = 0;

async function answer(input: Request | string | URL, init?: RequestInit): Promise<Response> {
  const request = input instanceof Request ? input : new Request(new URL(String(input), 'http://shot.test'), init);
  const path = new URL(request.url).pathname;
  const text = await request.text();
  // Files are sent as they are.
  const body = text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text || null;
  sent.push({ method: request.method, path, body });
  const reply = (status: number, value: unknown) =>
    new Response(JSON.stringify(value), { status, headers: { 'content-type': 'application/json' } });
  const prepared = answers.get(`${request.method} ${path}`);
  if (prepared) {
    answers.delete(`${request.method} ${path}`);
    await prepared.after;
    return reply(prepared.status, prepared.body);
  }
  if (request.method === 'POST' && path.endsWith('/journal')) {
    revision += (body as { entries: unknown[] }).entries.length;
    return reply(200, { revision });
  }
  return reply(200, []);
}

vi.stubGlobal('fetch', answer);

// The page of the tests has arrays of its own kind, and the engine wants those.
vi.stubGlobal(
  'TextEncoder',
  class extends TextEncoder {
    override encode(text?: string) {
      return new Uint8Array(super.encode(text));
    }
  },
);

// A store of its own for what is not sent yet; the page of the tests has none.
export const kept = new Map<string, unknown>();
vi.mock('idb-keyval', () => ({
  set: async (key: string, value: unknown) => void kept.set(key, structuredClone(value)),
  get: async (key: string) => kept.get(key),
  del: async (key: string) => void kept.delete(key),
  keys: async () => [...kept.keys()],
}));

vi.mock('@microsoft/signalr', async () => {
  const hub = {
    state: 'Connected',
    start: async () => undefined,
    invoke: async () => undefined,
    on: () => undefined,
    off: () => undefined,
    onreconnected: () => undefined,
  };
  return (await import('./hub')).liveWith(hub);
});

let exports: Promise<unknown> | null = null;

/** The engine is started once for a file of tests, and as if there were no page, so that it reads its files itself. */
async function start(): Promise<unknown> {
  const { window, fetch } = globalThis;
  Object.assign(globalThis, { window: undefined, fetch: undefined });
  try {
    const path = `${root}/web/public/engine/dotnet.js`;
    const { dotnet } = await import(/* @vite-ignore */ path);
    const runtime = await dotnet.withEnvironmentVariable('TZ', 'UTC').create();
    return await runtime.getAssemblyExports('Bradymotus.Engine.dll');
  } finally {
    Object.assign(globalThis, { window, fetch });
  }
}

export const demo = () => JSON.parse(readFileSync(`${root}/demo/lantern-quay.shot.json`, 'utf8'));

/** Opens the demo shot, or what a test makes of it, as the page does at its start. */
export async function openDemo(
  change: (shot: ReturnType<typeof demo>) => void = () => {},
  before: () => void = () => {},
) {
  const engine = await (exports ??= start());
  const shot = demo();
  change(shot);
  revision = 0;
  sent.length = 0;
  answers.clear();
  kept.clear();
  before();
  const document = { id: 'shot', baseRevision: 0, base: shot, entries: [], revision: 0, notice: null };
  Object.assign(globalThis.window, {
    bradymotusBoot: {
      begin: () => undefined,
      engine: Promise.resolve(engine),
      shots: Promise.resolve([{ id: 'shot', name: shot.name }]),
      opening: Promise.resolve(null),
      document: Promise.resolve(document),
    },
  });
  await import('../../web/src/app/features');
  const { session } = await import('../../web/src/stores/session.svelte');
  session.selection.clear();
  session.messages.clear();
  session.autoKey = false;
  session.clipboard.clear();
  void session.renders.of('another');
  await session.start();
  session.frame = session.shot.scene.playFirst;
  session.shot.show();
  return session;
}

/** The edits that have been sent to the server; one that is sent twice is taken once, as there. */
export const edits = () => {
  const entries = sent
    .filter((s) => s.method === 'POST' && s.path.endsWith('/journal'))
    .flatMap((s) => (s.body as { entries: { id: string; kind: string; edit?: { kind: string } }[] }).entries);
  return entries.filter((e, i) => entries.findIndex((o) => o.id === e.id) === i).map((e) => e.edit?.kind ?? e.kind);
};
