// The frames of a render as a person types them, by the rules of the server (FrameSteps.Parse): 12, 0-47, 0-47/2.

const MOST = 1_000_000;

/** The last frame of a range as the server says it, which a step may leave out; null where it is none. */
export const lastOf = (range: string): number | null => spanOf(range)?.last ?? null;

/** The first and the last frame of a range as the server says it; null where it is none. */
export function spanOf(range: string): { first: number; last: number } | null {
  const m = /^(-?\d+)(?:-(-?\d+))?(?:\/\d+)?$/.exec(range);
  return m ? { first: Number(m[1]), last: Number(m[2] ?? m[1]) } : null;
}

/** The frames that a sequence shall have, rising, and which of them are done. */
export function plannedOf(sequence: {
  frames: string;
  doneRanges: readonly { first: number; last: number }[];
}): { frame: number; done: boolean }[] {
  const m = /^(-?\d+)(?:-(-?\d+))?(?:\/(\d+))?$/.exec(sequence.frames);
  if (!m) return [];
  const [first, last, step] = [Number(m[1]), Number(m[2] ?? m[1]), Number(m[3] ?? 1)];
  const planned = [];
  let at = 0;
  for (let frame = first; frame <= last; frame += step) {
    while (at < sequence.doneRanges.length && sequence.doneRanges[at].last < frame) at++;
    planned.push({ frame, done: at < sequence.doneRanges.length && sequence.doneRanges[at].first <= frame });
  }
  return planned;
}

/** How many frames that is, and how it is said to the server; or what is wrong with it. */
export function framesOf(range: string, step: number): { count: number; text: string } | { wrong: string } {
  const m = /^\s*(-?\d{1,9})\s*(?:[-–]\s*(-?\d{1,9})\s*)?(?:\/\s*(\d{1,9})\s*)?$/.exec(range);
  if (!m) return { wrong: `“${range}” is no range of frames: type a frame, or the first and the last such as 0-47.` };
  const [first, last, every] = [Number(m[1]), Number(m[2] ?? m[1]), Number(m[3] ?? step)];
  if (last < first) return { wrong: `The last frame, ${last}, comes before the first, ${first}.` };
  if (!(every >= 1)) return { wrong: 'Every 0th frame is none: give a step of 1 or more.' };
  const count = Math.floor((last - first) / every) + 1;
  if (count > MOST) return { wrong: `That is ${count} frames; ${MOST} at once is the most.` };
  return { count, text: `${first}-${last}${every > 1 ? `/${every}` : ''}` };
}
