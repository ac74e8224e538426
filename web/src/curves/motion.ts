// Animation that is copied from objects: kept by the browser, so that it can be put into another shot, or another window.
import { pathOf, type Edit, type SavedMotion } from '../engine/engine';
import { keep, recallJson } from '../widgets/kept';
import { session } from '../stores/session.svelte';

const KEY = 'bradymotus.motion';

/** A motion of the shelf that is being put; null where it is the one that was copied. */
let chosen: SavedMotion | null = null;
let mirrored = false;

/** What was copied, or chosen from the shelf. */
export function motionInHand(): SavedMotion | null {
  if (chosen) return chosen;
  const copied = recallJson(KEY) as SavedMotion | undefined;
  return copied?.kind === 'motion' ? copied : null;
}

/** Takes a motion of the shelf in hand; null takes up again what was copied. */
export function takeMotion(motion: SavedMotion | null, mirror = false) {
  chosen = motion;
  mirrored = mirror;
}

/** Of a motion or a pose, what is meant: where channels are chosen, those alone. */
export function meantParts<T extends { path: string }>(parts: T[]): T[] {
  const { channels } = session.selection;
  return channels.length === 0 ? parts : parts.filter((p) => channels.some((a) => pathOf(a) === p.path));
}

/** Whether it is put left for right, unless one says otherwise. */
export const isMirrored = () => mirrored;

/** What the selected keys span, or everything where they span nothing. */
export function keptRange(): { first: number; last: number } {
  const frames = session.selection.keys.map((k) => k.frame);
  const first = frames.reduce((a, b) => Math.min(a, b), Infinity);
  const last = frames.reduce((a, b) => Math.max(a, b), -Infinity);
  return last > first ? { first, last } : { first: -Infinity, last: Infinity };
}

export function copyMotion() {
  const { first, last } = keptRange();
  const all = session.shot.engine!.copyMotion(session.selection.ids, first, last);
  const motion = all && { ...all, parts: meantParts(all.parts) };
  if (!motion || motion.parts.length === 0)
    return session.messages.say(
      all
        ? 'The chosen channels have no keys to copy: choose others, or leave them (Esc).'
        : 'There is no animation to copy: select objects that have keys.',
    );
  if (!keep(KEY, JSON.stringify(motion)))
    return session.messages.say('This animation is too large to be copied at once: copy it from fewer objects.');
  const names = new Set(motion.parts.map((p) => p.name));
  const what = names.size === 1 ? `“${[...names][0]}”` : `${names.size} objects`;
  session.messages.say(`The animation of ${what} is copied: select objects here or in another shot, and put it.`);
}

/** Says what fits and what found no place. */
export const report = ([came, ...missed]: string[]) => {
  if (came) session.messages.say(missed.length > 0 ? `${came}. ${missed.join('; ')}.` : `${came}.`);
};

export const reportMotion = (edit: Edit) => report(session.shot.engine!.motionReport(edit));
