// Where one was in a shot: phase, frame, selection, tool and how it was looked at. Kept by the browser, and there again with the shot, after a reload too.
import { forget, keep, recallJson } from '../widgets/kept';
import type { Phase, Session, Tool } from './session.svelte';
import { viewState, type Kept } from './viewState.svelte';

const KEY = 'bradymotus.view';
const ORDER = `${KEY}s`;
/** Of so many shots it is known, those that were open last. */
const MOST = 60;
/** A selection of more objects is not kept. */
const MOST_SELECTED = 2000;

export interface Place {
  phase: Phase;
  frame: number;
  tool: Tool;
  autoKey: boolean;
  selected: string[];
  view: Partial<Kept>;
}

const keyOf = (shot: string) => `${KEY}.${shot}`;
const placeOf = (shot: string): Partial<Place> => {
  const kept = recallJson(keyOf(shot));
  return typeof kept === 'object' && kept !== null ? (kept as Partial<Place>) : {};
};

/** Goes back to the phase and the views of a shot, before it is there. */
export function comeBackTo(session: Session, shot: string) {
  const { phase, tool, autoKey, view } = placeOf(shot);
  viewState.take(typeof view === 'object' ? view : null);
  session.phase = phase && ['set', 'block', 'polish', 'deliver'].includes(phase) ? phase : 'set';
  session.tool = tool && ['select', 'move', 'rotate', 'scale'].includes(tool) ? tool : 'move';
  session.autoKey = autoKey === true;
}

/** Goes back to the frame and the selection in a shot that is open now. */
export function comeBackIn(session: Session, shot: string) {
  const { frame, selected } = placeOf(shot);
  session.frame = typeof frame === 'number' && Number.isInteger(frame) ? frame : session.shot.scene.playFirst;
  const there = Array.isArray(selected) ? selected.filter((id) => session.shot.byId.has(id)) : [];
  session.selection.select(there);
}

/** Where one is now. Little work: it is asked for at every step of the playhead. */
export const placeNow = (session: Session): Place => ({
  phase: session.phase,
  frame: session.frame,
  tool: session.tool,
  autoKey: session.autoKey,
  selected: session.selection.ids.length <= MOST_SELECTED ? session.selection.ids : [],
  view: viewState.plain,
});

/** Keeps where one is. */
export function keepPlace(shot: string, place: Place) {
  keep(keyOf(shot), JSON.stringify(place));
  const order = recallJson(ORDER);
  const others = Array.isArray(order) ? order.filter((id): id is string => typeof id === 'string' && id !== shot) : [];
  for (const old of others.slice(MOST - 1)) forget(keyOf(old));
  keep(ORDER, JSON.stringify([shot, ...others].slice(0, MOST)));
}
