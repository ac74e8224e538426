// How long each finished picture is shown: as long as in a film of them.
import { describe, expect, it } from 'vitest';
import { endOf, pictureAt, timeOf } from '../../web/src/render/sequenceTime';

const list = (frames: number[], missing: number[] = []) =>
  frames.map((frame) => ({ frame, done: !missing.includes(frame) }));
const shown = (time: ReturnType<typeof timeOf>) => Array.from({ length: time.count }, (_, i) => pictureAt(time, i));

describe('the time of a sequence', () => {
  it('gives each picture a frame where every frame is rendered', () => {
    const time = timeOf(list([1001, 1002, 1003]), 1003, true);
    expect(time).toEqual({ starts: [0, 1, 2], count: 3 });
    expect(shown(time)).toEqual([0, 1, 2]);
    expect([pictureAt(time, 3), pictureAt(time, -1), endOf(time, 2)]).toEqual([0, 2, 3]);
  });

  it('shows the pictures of every third frame for three, and the last to the end of the range', () => {
    const time = timeOf(list([0, 3, 6, 9]), 10, true);
    expect(shown(time)).toEqual([0, 0, 0, 1, 1, 1, 2, 2, 2, 3, 3]);
    expect([endOf(time, 0), endOf(time, 3)]).toEqual([3, 11]);
  });

  it('holds the picture before where one is missing, and the first one from the beginning on', () => {
    expect(shown(timeOf(list([0, 1, 2, 3, 4], [0, 3]), 4, true))).toEqual([0, 0, 1, 1, 2]);
  });

  it('plays what is there while more is to come', () => {
    expect(timeOf(list([0, 2, 4, 6], [4, 6]), 7, false)).toEqual({ starts: [0, 2], count: 4 });
    expect(timeOf(list([0, 2], [0, 2]), 3, false)).toEqual({ starts: [], count: 0 });
  });
});
