// To what a hand in the tracks snaps: whole steps of frames, and what lies near. Pure.

/** What something has snapped to, for the line that says so. */
export interface Snapped {
  /** A frame, or a value of a lane. */
  at: number;
  /** What stands there. */
  words: string;
}

/** The frame of the nearest step, counted from the first frame of the shot; with a step of 0 hundredths. */
export const inSteps = (frame: number, step: number, first: number) =>
  step > 0 ? first + Math.round((frame - first) / step) * step : Math.round(frame * 100) / 100;

/**
 * What is nearest to a place among what there is, no further off than `reach`; of two as near the earlier in the list.
 * @param reach In the unit of the places, 0 or more.
 */
export function nearest(to: number, among: Iterable<Snapped>, reach: number): Snapped | null {
  let best: Snapped | null = null;
  for (const one of among) {
    const away = Math.abs(one.at - to);
    if (away <= reach && (!best || away < Math.abs(best.at - to))) best = one;
  }
  return best;
}
