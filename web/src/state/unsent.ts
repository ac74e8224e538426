// What this browser has done and no server has acknowledged: kept here, so that closing or reloading a page loses nothing.
import { del, get, keys, set } from 'idb-keyval';
import type { JournalEntry } from '../engine/engine';

/** Lines that were made after a revision. */
export interface Unsent {
  after: number;
  entries: JournalEntry[];
}

const PREFIX = 'bradymotus/unsent/';

/** This window; a reload is the same one. */
const windowId = (() => {
  const store = (globalThis as { sessionStorage?: Storage }).sessionStorage;
  const known = store?.getItem('bradymotus.window') ?? crypto.randomUUID();
  store?.setItem('bradymotus.window', known);
  return known;
})();

const keyOf = (shot: string) => `${PREFIX}${shot}/${windowId}`;
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
  inTurn(() => (unsent.entries.length > 0 ? set(keyOf(shot), unsent) : del(keyOf(shot))), undefined);

/** What windows of this browser have left for a shot, by where it is kept. */
export const left = (shot: string): Promise<Map<string, Unsent>> =>
  inTurn(async () => {
    const found = new Map<string, Unsent>();
    for (const key of await keys())
      if (typeof key === 'string' && key.startsWith(`${PREFIX}${shot}/`)) {
        const unsent = await get<Unsent>(key);
        if (unsent) found.set(key, unsent);
      }
    return found;
  }, new Map());

/** What was taken up is kept anew by who took it, and forgotten where it was. */
export const forget = (shot: string, where: Iterable<string>): Promise<void> =>
  inTurn(async () => {
    for (const key of where) if (key !== keyOf(shot)) await del(key);
  }, undefined);

/** A copy of what a server has refused, for whoever wants to know later. */
export const keepRefused = (shot: string, entries: JournalEntry[], why: string): Promise<void> =>
  inTurn(() => set(`bradymotus/refused/${shot}/${new Date().toISOString()}`, { entries, why }), undefined);
