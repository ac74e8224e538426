// Animation that is copied from objects: kept by the browser, so that it can be put into another shot, or another window.
import type { Edit } from '../engine/engine';
import { session } from './session.svelte';

const KEY = 'bradymotus.motion';

/** What was copied, as the edit that puts it somewhere. */
export function copiedMotion(): Record<string, unknown> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, unknown>;
  } catch {
    return {};
  }
}

export const hasMotion = () => copiedMotion().kind === 'putMotion';

export function copyMotion() {
  const motion = session.shot.engine!.copyMotion(session.selection.ids);
  if (!motion) return session.messages.say('There is no animation to copy: select objects that have keys.');
  try {
    localStorage.setItem(KEY, JSON.stringify(motion));
  } catch {
    return session.messages.say('This animation is too large to be copied at once: copy it from fewer objects.');
  }
  const names = new Set(motion.parts.map((p) => p.name));
  const what = names.size === 1 ? `“${[...names][0]}”` : `${names.size} objects`;
  session.messages.say(`The animation of ${what} is copied: select objects here or in another shot, and put it.`);
}

/** Says what fits and what found no place. */
export function reportMotion(edit: unknown) {
  const [came, ...missed] = session.shot.engine!.motionReport(edit as Edit);
  if (came) session.messages.say(missed.length > 0 ? `${came}. ${missed.join('; ')}.` : `${came}.`);
}
