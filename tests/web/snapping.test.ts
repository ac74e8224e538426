// @vitest-environment jsdom
// To what a hand snaps, what it says when keys leave the range of the shot, instances on objects, sizes that are kept.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { cleanup, render, screen } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { openDemo } from './real';

vi.stubGlobal(
  'ResizeObserver',
  class {
    observe = () => undefined;
    disconnect = () => undefined;
    unobserve = () => undefined;
  },
);
const { inSteps, nearest } = await import('../../web/src/timeline/snapping');
const { rulerStep } = await import('../../web/src/widgets/rulerStep');
const { newEdit } = await import('../../web/src/edits/edit');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { default: ShotSettings } = await import('../../web/src/shots/ShotSettings.svelte');
const { default: FrameRuler } = await import('../../web/src/render/FrameRuler.svelte');
await import('../../web/src/app/features');
const { run } = await import('../../web/src/commands');

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
beforeEach(async () => {
  session = await openDemo();
  session.messages.clear();
});
afterEach(cleanup);

describe('snapping', () => {
  it('goes in steps from the first frame of the shot, or in hundredths', () => {
    expect(inSteps(12.4, 1, 0)).toBe(12);
    expect(inSteps(12.4, 2, 1001)).toBe(13);
    expect(inSteps(12.4, 2, 0)).toBe(12);
    expect(inSteps(12.3456, 0, 0)).toBe(12.35);
    expect(inSteps(-3.6, 2, 1)).toBe(-3);
  });

  it('goes to what is nearest within reach, and to the first of two as near', () => {
    const marks = [
      { at: 10, words: 'playhead' },
      { at: 12, words: 'marker' },
    ];
    expect(nearest(11.4, marks, 1)?.words).toBe('marker');
    expect(nearest(11, marks, 1)?.words).toBe('playhead');
    expect(nearest(13.1, marks, 1)).toBeNull();
    expect(nearest(10, marks, 0)?.at).toBe(10);
    expect(nearest(NaN, marks, 1)).toBeNull();
  });

  it('has marks on a ruler of any width', () => {
    for (const pixels of [0, NaN, -1, 1e-12]) expect(rulerStep(pixels)).toBeGreaterThan(1e6);
    expect(rulerStep(30)).toBe(2);
  });
});

describe('keys beyond the range of the shot', () => {
  const put = (frame: number) =>
    session.shot.commit(newEdit('setKeys', { frame, values: [{ address: 'fender/transform.translate.x', value: 1 }] }));

  it('are said, and the range grows where one wants it', () => {
    const { last } = session.shot.scene;
    expect(put(last - 1)).toBe(true);
    expect(session.messages.notice).toBeNull();
    put(last + 13);
    const { text, action } = session.messages.notice!;
    expect(text).toContain(`frame ${last + 13}`);
    action!.run();
    expect(session.shot.scene.last).toBe(last + 13);
    // Once it is said, other keys do not say it again; taken back it is as it was.
    session.messages.clear();
    put(last + 5);
    expect(session.messages.notice).toBeNull();
    session.shot.undo();
    session.shot.undo();
    expect(session.shot.scene.last).toBe(last);
  });

  it('are not said of a shot that is opened and has had them', async () => {
    session = await openDemo((shot) => {
      shot.range = { first: 0, last: 5 };
      const fender = shot.nodes.find((n: { id: string }) => n.id === 'fender');
      fender.channels['transform.translate.x'].curve.keys.push({ frame: 900, value: 1 });
    });
    expect(session.shot.reach().last).toBe(900);
    expect(session.messages.notice).toBeNull();
    put(session.shot.reach().last + 1);
    expect(session.messages.notice!.text).toContain('the shot to 5');
  });

  it('are said before the first frame too', () => {
    put(-7.5);
    session.messages.notice!.action!.run();
    expect(session.shot.scene.first).toBe(-8);
  });
});

describe('instances on objects', () => {
  it.each(['on', 'above', 'beside'])('are put %s each of the others as its child, and taken back', (where) => {
    session.selection.select(['fender', 'buoy', 'lighthouse']);
    const count = session.shot.scene.nodes.length;
    run(`hangInstances.${where}`);
    const made = session.shot.scene.nodes.filter(
      (n) => n.kind === 'instance' && ['buoy', 'lighthouse'].includes(n.parent ?? ''),
    );
    expect(session.messages.notice?.text).toBeUndefined();
    expect(made).toHaveLength(2);
    expect(session.selection.ids).toEqual(['fender', ...made.map((n) => n.id)]);
    session.shot.undo();
    expect(session.shot.scene.nodes).toHaveLength(count);
  });

  it('need two objects', () => {
    session.selection.select(['fender']);
    run('hangInstances.on');
    expect(session.messages.notice?.text).toContain('Select what is to be put');
  });
});

describe('sizes of the shot', () => {
  it('are square, upright, 4K, and own ones that are kept and forgotten', async () => {
    const user = userEvent.setup();
    render(ShotSettings);
    const size = () => [session.shot.scene.width, session.shot.scene.height];
    await user.click(screen.getByRole('button', { name: 'Square' }));
    expect(size()).toEqual([1080, 1080]);
    await user.click(screen.getByRole('button', { name: '4K' }));
    expect(size()).toEqual([3840, 2160]);
    await user.click(screen.getByRole('button', { name: 'Upright' }));
    expect(size()).toEqual([1080, 1920]);
    await user.click(screen.getByRole('button', { name: 'Turn' }));
    expect(size()).toEqual([1920, 1080]);
    session.shot.commit(newEdit('setShot', { size: { width: 700, height: 300 } }));
    await user.click(await screen.findByRole('button', { name: 'Keep 700×300' }));
    expect(preferences.sizes).toEqual([{ width: 700, height: 300 }]);
    await user.click(screen.getByRole('button', { name: 'Square' }));
    await user.click(screen.getByRole('button', { name: '700×300' }));
    expect(size()).toEqual([700, 300]);
    await user.click(screen.getByRole('button', { name: 'Forget 700×300' }));
    expect(preferences.sizes).toEqual([]);
    session.messages.notice!.action!.run();
    expect(preferences.sizes).toHaveLength(1);
    preferences.sizes = [];
  });
});

describe('the ruler below pictures', () => {
  it('goes along by keyboard and says where it is', async () => {
    const user = userEvent.setup();
    const { rerender } = render(FrameRuler, { frame: 10, onframe: (to: number) => void rerender({ frame: to }) });
    const ruler = screen.getByRole('slider', { name: 'Frame' });
    ruler.focus();
    const now = () => Number(ruler.getAttribute('aria-valuenow'));
    await user.keyboard('{ArrowRight}');
    expect(now()).toBe(11);
    await user.keyboard('{PageDown}');
    expect(now()).toBe(1);
    await user.keyboard('{End}');
    expect(now()).toBe(session.shot.scene.playLast);
    await user.keyboard('{ArrowRight}{Home}{ArrowLeft}');
    expect(now()).toBe(session.shot.scene.playFirst);
  });
});
