// What this browser has done and no server has acknowledged: kept here, so that closing or reloading a page loses nothing.
import { del, get, keys, set } from 'idb-keyval';
import type { JournalEntry } from '../engine/engine';

/** Lines that were made after a revision. */
export interface Unsent {
  after: number;
  entries: JournalEntry[];
}

const PREFIX = 'bradymotus/unsent/';
const LOCK = 'bradymotus/window/';

const locks = (globalThis as { navigator?: { locks?: LockManager } }).navigator?.locks;

/** Holds a name as long as this page is open; false where another page holds it. */
const hold = (name: string): Promise<boolean> =>
  new Promise((done) => {
    void locks!
      .request(name, { ifAvailable: true }, (lock) => {
        done(lock !== null);
        return lock ? new Promise<void>(() => undefined) : undefined;
      })
      .catch(() => done(true));
  });

/**
 * This window; a reload is the same one. A tab that was duplicated has the same at first and takes another, since two that
 * write one record would lose each other's lines.
 */
const windowId: Promise<string> = (async () => {
  const store = (globalThis as { sessionStorage?: Storage }).sessionStorage;
  let id = store?.getItem('bradymotus.window') ?? crypto.randomUUID();
  if (locks && !(await hold(LOCK + id))) {
    id = crypto.randomUUID();
    await hold(LOCK + id);
  }
  store?.setItem('bradymotus.window', id);
  return id;
})().catch(() => crypto.randomUUID());

const keyOf = async (shot: string) => `${PREFIX}${shot}/${await windowId}`;
// One write after the other, so that an older one never comes last.
let writing: Promise<unknown> = Promise.resolve();

const inTurn = <T>(what: () => Promise<T>, otherwise: T): Promise<T> => {
  // Where the browser keeps nothing (a private window with its storage closed), the page works all the same.
  const done = writing.then(what).catch(() => otherwise);
  writing = done;
  return done;
};

/** Keeps what this window has not seen acknowledged; without entries, forgets it. */
export const keep = (shot: string, unsent: Unsent): Promise<void> =>
  inTurn(async () => {
    const key = await keyOf(shot);
    await (unsent.entries.length > 0 ? set(key, unsent) : del(key));
  }, undefined);

/** What windows of this browser that are gone have left for a shot, by where it is kept. */
export const left = (shot: string): Promise<Map<string, Unsent>> =>
  inTurn(async () => {
    const own = await keyOf(shot);
    const open = new Set((await locks?.query())?.held?.map((l) => l.name));
    const found = new Map<string, Unsent>();
    for (const key of await keys()) {
      if (typeof key !== 'string' || !key.startsWith(`${PREFIX}${shot}/`)) continue;
      // A window that is open sends its lines itself.
      if (key !== own && open.has(LOCK + key.slice(key.lastIndexOf('/') + 1))) continue;
      const unsent = await get<Unsent>(key);
      if (unsent) found.set(key, unsent);
    }
    return found;
  }, new Map());

/** What was taken up is kept anew by who took it, and forgotten where it was. */
export const forget = (shot: string, where: Iterable<string>): Promise<void> =>
  inTurn(async () => {
    const own = await keyOf(shot);
    for (const key of where) if (key !== own) await del(key);
  }, undefined);

/** A copy of what a server has refused, for whoever wants to know later. */
export const keepRefused = (shot: string, entries: JournalEntry[], why: string): Promise<void> =>
  inTurn(() => set(`bradymotus/refused/${shot}/${new Date().toISOString()}`, { entries, why }), undefined);
