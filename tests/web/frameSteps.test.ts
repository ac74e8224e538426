// The frames of a render as they are typed: the same rules as those of the server.
import { describe, expect, it } from 'vitest';
import { framesOf, plannedOf } from '../../web/src/render/frameSteps';

describe('frames of a render', () => {
  it.each([
    ['0-90', 1, 91, '0-90'],
    ['0-90', 2, 46, '0-90/2'],
    ['0-90/3', 1, 31, '0-90/3'],
    [' 12 ', 1, 1, '12-12'],
    ['-5-5', 1, 11, '-5-5'],
    ['1001–1010', 1, 10, '1001-1010'],
  ])('%s every %s are %s', (text, step, count, said) => expect(framesOf(text, step)).toEqual({ count, text: said }));

  it.each(['abc', '', 'Infinity', '1e9', '10-5', '0-10/0', '0-99999999', '0-10 20', '4.5'])('%s is refused', (text) => {
    const answer = framesOf(text, 1);
    expect('wrong' in answer && answer.wrong).toMatch(/^[^\n]{10,}$/);
  });
});

describe('the frames of a sequence', () => {
  const said = (frames: string, ...done: [number, number][]) =>
    plannedOf({ frames, doneRanges: done.map(([first, last]) => ({ first, last })) })
      .map((f) => `${f.frame}${f.done ? '' : '?'}`)
      .join(' ');

  it('come from its range and its step, done where a range of done ones holds them', () => {
    expect(said('0-3')).toBe('0? 1? 2? 3?');
    expect(said('0-3', [0, 3])).toBe('0 1 2 3');
    expect(said('-4--1', [-3, -3], [-1, -1])).toBe('-4? -3 -2? -1');
    expect(said('0-9/4', [4, 8])).toBe('0? 4 8');
    expect(said('12', [12, 12])).toBe('12');
    expect(said('nonsense', [0, 3])).toBe('');
  });
});
