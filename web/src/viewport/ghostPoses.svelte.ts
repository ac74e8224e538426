// Which poses before and after the shown frame are drawn as ghosts.
import { gestures } from '../widgets/gestures.svelte';
import { preferences } from '../stores/preferences.svelte';
import { session } from '../stores/session.svelte';
import type { StageView } from './view/view';

/** Draws them while a component is there; call it while that is made. */
export function drawGhosts(view: () => StageView | null) {
  // Poses before and after, once nothing moves: while a hand drags or time runs there is none to spare.
  $effect(() => {
    void [session.shot.changed, session.frame, session.selection.ids];
    const { on, count, every, fade } = preferences.ghosts;
    const stage = view();
    if (!stage || !session.shot.engine) return;
    const { engine } = session.shot;
    const beside = (frame: number) => {
      engine.beside.evaluate(frame);
      return engine.beside;
    };
    const poses = on && !session.player.playing ? ghostPoses(count, every) : [];
    const timer = setTimeout(() => stage.setGhosts(poses, beside, fade), gestures.busy ? 200 : 40);
    return () => clearTimeout(timer);
  });
}

/** The frames of ghosts: those with keys of the selection, or every so many. */
function ghostPoses(count: number, every: number) {
  const { ids } = session.selection;
  if (every > 0)
    return Array.from({ length: count }, (_, n) => n + 1).flatMap((place) => [
      { frame: session.frame - place * every, place: -place },
      { frame: session.frame + place * every, place },
    ]);
  const frames = new Set<number>();
  for (const id of session.shot.family(ids))
    for (const address of session.shot.keyedOwners.get(id) ?? [])
      for (const f of session.shot.keysOf(address)) frames.add(f);
  const sorted = [...frames].sort((a, b) => a - b);
  const before = sorted.filter((f) => f < session.frame).slice(-count);
  const after = sorted.filter((f) => f > session.frame).slice(0, count);
  return [
    ...before.map((frame, i) => ({ frame, place: i - before.length })),
    ...after.map((frame, i) => ({ frame, place: i + 1 })),
  ];
}
