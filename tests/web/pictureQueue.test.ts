// @vitest-environment jsdom
// Pictures that are made on the server come a few at a time, so that nothing else has to wait behind them.
import { afterEach, expect, it } from 'vitest';
import { picture } from '../../web/src/widgets/pictureQueue';

const left: (() => void)[] = [];
afterEach(() => left.splice(0).forEach((leave) => leave()));

function show(src: string) {
  const image = document.createElement('img');
  const leave = picture(src)(image) as () => void;
  left.push(leave);
  return { image, leave, src: () => image.getAttribute('src') };
}

it('asks for two at a time, in order, and for the next when one has come or failed', () => {
  const all = ['a', 'b', 'c', 'd', 'e'].map(show);
  const asked = () => all.map((i) => i.src()).filter((s) => s !== null);
  expect(asked()).toEqual(['a', 'b']);
  all[1].image.dispatchEvent(new Event('load'));
  expect(asked()).toEqual(['a', 'b', 'c']);
  all[0].image.dispatchEvent(new Event('error'));
  expect(asked()).toEqual(['a', 'b', 'c', 'd']);
  // Once over, it counts no second time.
  all[0].image.dispatchEvent(new Event('load'));
  expect(asked()).toEqual(['a', 'b', 'c', 'd']);
});

it('asks for nothing that has gone, and stops what has gone while it was coming', () => {
  const [a, b, c, d] = ['a', 'b', 'c', 'd'].map(show);
  c.leave();
  a.leave();
  expect([a.src(), b.src(), c.src(), d.src()]).toEqual([null, 'b', null, 'd']);
});

it('leaves a picture that has come where it is', () => {
  const { image, leave, src } = show('a');
  expect(image.style.visibility).toBe('hidden');
  image.dispatchEvent(new Event('load'));
  expect(image.style.visibility).toBe('');
  leave();
  expect(src()).toBe('a');
});
