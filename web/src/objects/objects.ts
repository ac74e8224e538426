// Objects that are copied: kept by the browser, so that they can be put into another shot, or another window.
import type { TakenObjects } from '../engine/engine';
import { forget, keep, recallJson } from '../widgets/kept';
import { session } from '../stores/session.svelte';

interface Copied {
  /** The shot that they are of. */
  shot: string | null;
  ids: string[];
  /** As another shot takes them; null where they cannot go alone. */
  taken: TakenObjects | null;
  why: string;
}

const KEY = 'bradymotus.objects';
/** What is too large for the browser's store is at hand in this window only. */
let inHand: Copied | null = null;

export function copyObjects(ids: string[]) {
  inHand = { shot: session.shotId, ids, taken: null, why: '' };
  try {
    inHand.taken = session.shot.engine!.copyObjects(ids, session.frame);
  } catch (e) {
    inHand.why = (e as Error).message;
  }
  if (!keep(KEY, JSON.stringify(inHand))) forget(KEY);
  session.messages.say(ids.length === 1 ? 'One object copied.' : `${ids.length} objects copied.`);
}

/** Something else is copied now. */
export function forgetObjects() {
  inHand = null;
  forget(KEY);
}

function copied(): Copied | null {
  // Another window may have copied since.
  return (recallJson(KEY) as Copied | undefined) ?? inHand;
}

/**
 * Copies beside the originals in their own shot, and what came with them in another.
 * @param duplicate Makes copies in the same shot.
 */
export function pasteObjects(duplicate: (ids: string[]) => void) {
  const found = copied();
  const here = found?.shot === session.shotId ? found.ids.filter((id) => session.shot.byId.has(id)) : [];
  if (here.length > 0) return duplicate(here);
  if (!found) return session.messages.say('Nothing is copied: select keys or objects, and copy them first.');
  if (!found.taken) return session.messages.say(found.why);
  const prefix = crypto.randomUUID().slice(0, 8);
  if (session.shot.putObjects(found.taken, prefix))
    session.selection.select(found.taken.nodes.filter((n) => !n.parent).map((n) => `${prefix}-${n.id}`));
}
