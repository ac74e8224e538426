// When each finished picture of a sequence is shown, as in a film of it: what a step leaves out, and what is missing, is shown by the picture
// before, so that a sequence lasts as long as its range.

export interface SequenceTime {
  /** When each picture begins, in frames from the first of the range; rising, the first is 0. */
  starts: number[];
  /** How many frames all of it lasts. */
  count: number;
}

/**
 * @param planned The frames that there should be, rising, with whether each is done.
 * @param last The last frame of the range, which a step may leave out.
 * @param isWhole No more pictures will come. Else what is there lasts no longer than to the next that should come.
 */
export function timeOf(
  planned: readonly { frame: number; done: boolean }[],
  last: number,
  isWhole: boolean,
): SequenceTime {
  const done = planned.filter((f) => f.done).map((f) => f.frame);
  if (done.length === 0) return { starts: [], count: 0 };
  const first = planned[0].frame;
  const due = planned.find((f) => f.frame > done.at(-1)!);
  const end = isWhole || !due ? last + 1 : due.frame;
  return { starts: done.map((f, i) => (i === 0 ? 0 : f - first)), count: Math.max(1, end - first) };
}

/** The picture that is shown at a time, in frames from the first; times beyond the end come round. */
export function pictureAt({ starts, count }: SequenceTime, time: number): number {
  const at = ((time % count) + count) % count;
  let [low, high] = [0, starts.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle] <= at) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** When a picture is over. */
export const endOf = ({ starts, count }: SequenceTime, picture: number) => starts[picture + 1] ?? count;
