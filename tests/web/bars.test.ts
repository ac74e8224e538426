// @vitest-environment jsdom
// The bar of time, the fields of selected keys and the menu at the pointer, on the real engine.
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import userEvent from '@testing-library/user-event';
import { tick } from 'svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
Object.defineProperty(HTMLElement.prototype, 'setPointerCapture', { configurable: true, value: () => undefined });
const { gestures } = await import('../../web/src/widgets/gestures.svelte');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { viewState } = await import('../../web/src/stores/viewState.svelte');
const { run } = await import('../../web/src/commands');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { contextMenu } = await import('../../web/src/widgets/contextMenu.svelte');
const { default: Transport } = await import('../../web/src/timeline/Transport.svelte');
const { default: KeyFields } = await import('../../web/src/curves/KeyFields.svelte');
const { default: ContextMenu } = await import('../../web/src/app/ContextMenu.svelte');
const lift = 'fender/transform.translate.y';
const [x, z] = ['buoy/transform.translate.x', 'buoy/transform.translate.z'];
const button = (name: string | RegExp) => screen.getByRole('button', { name });
const field = (name: string | RegExp) => screen.getByRole<HTMLInputElement>('textbox', { name });
async function type(name: string | RegExp, text: string) {
  const input = field(name);
  input.focus();
  await tick();
  await fireEvent.input(input, { target: { value: text } });
  await fireEvent.keyDown(input, { key: 'Enter' });
}
async function pointer(on: Element, what: string, clientX: number, more: object = {}) {
  const event = new MouseEvent(`pointer${what}`, { bubbles: true, cancelable: true, clientX, buttons: 1, ...more });
  Object.defineProperty(event, 'pointerId', { value: 1 });
  await fireEvent(on, event);
}

beforeEach(async () => {
  session = await openDemo((shot) => {
    const buoy = shot.nodes.find((n: { id: string }) => n.id === 'buoy');
    const keys = [
      { frame: 0, value: 0 },
      { frame: 10, value: 2 },
      { frame: 20, value: 6, segment: { ease: 'back', direction: 'out' } },
      { frame: 30, value: 0 },
    ];
    buoy.channels = {
      'transform.translate.x': { value: 0, curve: { keys } },
      'transform.translate.z': { value: 0, curve: { keys: keys.slice(0, 2) } },
    };
    shot.markers = [
      { id: 'm', frame: 40, name: 'Splash', note: 'louder' },
      { id: 'far', frame: 4000, name: 'Far' },
    ];
  });
  session.phase = 'block';
  ui.dialog = null;
  ui.lockFrame = ui.lockValue = false;
  preferences.loop = 'loop';
  preferences.trueSpeed = true;
  session.selection.select(['buoy']);
  session.selection.keys = [];
});
afterEach(() => {
  session.player.stop();
  gestures.cancel();
  contextMenu.close();
  cleanup();
});

describe('the bar of time', () => {
  it('steps by frames and keys, goes to the ends, plays and stops', async () => {
    render(Transport);
    const { playFirst, playLast } = session.shot.scene;
    const go = async (name: RegExp, frame: number) => {
      await fireEvent.click(button(name));
      expect(session.frame).toBe(frame);
    };
    session.goTo(5);
    await go(/^Next frame/, 6);
    await go(/^Next key/, 10);
    await go(/^Next key/, 20);
    await go(/^Previous frame/, 19);
    await go(/^Previous key/, 10);
    await go(/^First frame/, playFirst);
    await go(/^Last frame/, playLast);
    await fireEvent.click(button('Play'));
    expect(session.player.playing).toBe(true);
    await fireEvent.click(button('Stop'));
    expect(session.player.playing).toBe(false);
  });

  it('takes a frame that is typed, dragged or pointed at, and stops playing for it', async () => {
    render(Transport);
    await type('Frame', '24');
    expect(session.frame).toBe(24);
    expect(screen.getByText('1.00 s')).toBeTruthy();
    await type('Frame', '*2');
    expect(session.frame).toBe(48);
    session.player.play();
    const frame = field('Frame');
    frame.blur();
    await pointer(frame, 'down', 100);
    await pointer(frame, 'move', 120);
    expect([session.player.playing, session.frame]).toEqual([false, 53]);
    await pointer(frame, 'move', 140);
    // Counted from where it began, not from where it has come to.
    expect(session.frame).toBe(58);
    await pointer(frame, 'up', 140);
    const { first, last } = session.shot.scene;
    const ruler = screen.getByRole('slider', { name: 'Playhead' });
    vi.spyOn(ruler, 'getBoundingClientRect').mockReturnValue({ left: 100, width: last - first } as DOMRect);
    await pointer(ruler, 'down', 112);
    expect(session.frame).toBe(first + 12);
    await pointer(ruler, 'move', 9999);
    expect(session.frame).toBe(last);
    await pointer(ruler, 'move', 130, { buttons: 0 });
    expect(session.frame).toBe(last);
    expect(ruler.getAttribute('aria-valuenow')).toBe(String(last));
  });

  it('marks the keys of what is selected, markers in the range, and the layer that is worked in', async () => {
    render(Transport);
    const marks = () => screen.getByRole('slider', { name: 'Playhead' }).querySelectorAll('.bg-secondary').length;
    expect(marks()).toBe(4);
    session.selection.clear();
    await waitFor(() => expect(marks()).toBeGreaterThan(8));
    expect(screen.getByTitle('Splash, frame 40: louder')).toBeTruthy();
    expect(screen.queryByTitle(/^Far/)).toBeNull();
    session.shot.commit({ kind: 'addLayer', layer: { id: 'l', name: 'Sway', mode: 'add' } } as never);
    session.shot.chooseLayer('l');
    const layer = await screen.findByTitle(/go into the layer Sway/);
    const shown = viewState.layers;
    await fireEvent.click(layer);
    expect(viewState.layers).not.toBe(shown);
    session.shot.chooseLayer(null);
    await waitFor(() => expect(screen.queryByTitle(/go into the layer/)).toBeNull());
  });

  it('says how it plays, and changes it', async () => {
    render(Transport);
    for (const [now, next] of [
      ['Loop playback', 'once'],
      ['Play once', 'backForth'],
      ['Ping-pong playback', 'loop'],
    ]) {
      await fireEvent.click(button(now));
      expect(preferences.loop).toBe(next);
    }
    await fireEvent.click(button('True speed'));
    expect(preferences.trueSpeed).toBe(false);
    await fireEvent.click(button('Every frame'));
    expect(button(/^Auto$/).getAttribute('aria-pressed')).toBe('false');
    await fireEvent.click(button(/^Auto$/));
    expect([session.autoKey, button(/^Auto$/).getAttribute('aria-pressed')]).toEqual([true, 'true']);
    await fireEvent.click(screen.getByTestId('rate'));
    expect(ui.dialog).toBe('shot');
    // Without sounds there is nothing to turn off.
    expect(screen.queryByRole('button', { name: /^Audio/ })).toBeNull();
  });
});

describe('the fields of selected keys', () => {
  const frames = (address = x) => session.shot.keysOf(address);
  const value = (frame: number, address = x) => session.shot.curve(address)!.keys.find((k) => k.frame === frame)?.value;
  const take = (...of: [string, number][]) => {
    session.selection.keys = of.map(([address, frame]) => ({ address, frame }));
    render(KeyFields);
  };

  it('show nothing without keys, one number where all are alike, and a dash where they are not', async () => {
    const shown = render(KeyFields);
    expect(screen.queryByRole('group', { name: 'Selected keys' })).toBeNull();
    shown.unmount();
    take([x, 10], [z, 10]);
    expect([field(/^Frame of/).value, field(/^Value of the selected/).value]).toEqual(['10', '2']);
    session.selection.keys = [...session.selection.keys, { address: x, frame: 20 }];
    await waitFor(() => expect([field(/^Frame of/).value, field(/^Value of the selected/).value]).toEqual(['—', '—']));
  });

  it('change all of them by a sum, each by its own, and keep them selected', async () => {
    take([x, 10], [x, 20], [z, 10]);
    await type(/^Frame of/, '+3');
    expect([frames(), frames(z)]).toEqual([
      [0, 13, 23, 30],
      [0, 13],
    ]);
    expect(session.selection.keys.map((k) => k.frame)).toEqual([13, 23, 13]);
    await type(/^Value of the selected/, '*2');
    expect([value(13), value(23), value(13, z)]).toEqual([4, 12, 4]);
    await type(/^Value of the selected/, '1.5');
    expect([value(13), value(23), value(13, z)]).toEqual([1.5, 1.5, 1.5]);
    for (let i = 0; i < 3; i++) session.shot.undo();
    expect([frames(), value(20)]).toEqual([[0, 10, 20, 30], 6]);
    // Those that were selected then are so again.
    expect(session.selection.keys.map((k) => k.frame)).toEqual([10, 20, 10]);
    session.shot.redo();
    expect(session.selection.keys.map((k) => k.frame)).toEqual([13, 23, 13]);
    session.shot.undo();
    // Two on one frame are refused, and nothing is changed.
    await type(/^Frame of/, '15');
    expect(session.messages.notice?.text).toContain('cannot both lie on frame 15');
    expect(frames()).toEqual([0, 10, 20, 30]);
  });

  it('are dragged as one step, and left by Escape', async () => {
    take([x, 10], [z, 10]);
    const input = field(/^Value of the selected/);
    await pointer(input, 'down', 0);
    await pointer(input, 'move', 50);
    expect([value(10), value(10, z)]).toEqual([2.5, 2.5]);
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect([value(10), value(10, z)]).toEqual([2, 2]);
    await pointer(input, 'down', 0);
    await pointer(input, 'move', 20);
    await pointer(input, 'up', 100);
    expect(value(10)).toBe(2.2);
    session.shot.undo();
    expect([value(10), session.shot.history!.undoLabel]).toEqual([2, null]);
  });

  it('lock time and value for the hand, and hold the numbers of an easing', async () => {
    take([x, 20]);
    await fireEvent.click(button('Frame stays while keys are dragged'));
    await fireEvent.click(button('Value stays while keys are dragged'));
    expect([ui.lockFrame, ui.lockValue]).toEqual([true, true]);
    expect(field('Overshoot of the easing').value).toBe('1.702');
    await type('Overshoot of the easing', '3');
    expect(session.shot.curve(x)!.keys[2].segment).toMatchObject({ ease: 'back', direction: 'out', overshoot: 3 });
    session.selection.keys = [{ address: x, frame: 10 }];
    await waitFor(() => expect(screen.queryByRole('textbox', { name: /easing/ })).toBeNull());
  });
});

describe('the numbers of handles', () => {
  const [before, after] = [/of the handle before/, /of the handle after/];
  const key = (frame: number) => session.shot.curve(x)!.keys.find((k) => k.frame === frame)!;

  it('are typed for one key or several, each by its own, and never run back in time', async () => {
    session.selection.keys = [{ address: x, frame: 10 }];
    render(KeyFields);
    expect(screen.getAllByRole('textbox', { name: /of the handle/ })).toHaveLength(4);
    await type(new RegExp(`^Frames ${after.source}`), '6');
    expect([key(10).outKind.kind, key(10).out[0]]).toEqual(['free', 6]);
    await type(new RegExp(`^Value ${before.source}`), '-1');
    expect(key(10).in[1]).toBe(-1);
    await type(new RegExp(`^Frames ${before.source}`), '4');
    expect(key(10).in[0]).toBeCloseTo(0, 9);
    for (let i = 0; i < 3; i++) session.shot.undo();
    expect(key(10).outKind.kind).toBe('auto');

    session.selection.keys = [0, 10].map((frame) => ({ address: x, frame }));
    await waitFor(() => expect(screen.getAllByRole('textbox', { name: after })).toHaveLength(2));
    const were = [0, 10].map((f) => key(f).out[1]);
    await type(new RegExp(`^Value ${after.source}`), '+2');
    expect([0, 10].map((f) => key(f).out[1])).toEqual(were.map((v) => expect.closeTo(v + 2, 6)));
    expect(session.shot.history!.undoLabel).toBe('Bend 2 keys');
    session.shot.undo();

    const input = field(new RegExp(`^Value ${after.source}`));
    input.blur();
    await pointer(input, 'down', 0);
    await pointer(input, 'move', 50);
    await pointer(input, 'move', 100);
    expect([0, 10].map((f) => key(f).out[1])).toEqual(were.map((v) => expect.closeTo(v + 1, 6)));
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect(key(0).outKind.kind).toBe('auto');
    await fireEvent.click(button('Length stays while handles are dragged'));
    expect(ui.lockLength).toBe(true);
    ui.lockLength = false;
  });

  it('are not there where an easing or nothing leads on', async () => {
    session.selection.keys = [{ address: x, frame: 30 }];
    render(KeyFields);
    expect(screen.queryByRole('textbox', { name: /of the handle/ })).toBeNull();
  });

  it('get kinds for both sides, or one alone, by a key of the keyboard', () => {
    session.selection.keys = [{ address: x, frame: 10 }];
    const kinds = () => [key(10).inKind.kind, key(10).outKind.kind, key(10).joined];
    run('handle.flat');
    expect(kinds()).toEqual(['flat', 'flat', true]);
    run('handle.side');
    expect(ui.handleSide).toBe('in');
    run('handle.straight');
    expect(kinds()).toEqual(['straight', 'flat', false]);
    run('handle.side');
    run('handle.smooth');
    expect(kinds()).toEqual(['straight', 'smooth', false]);
    run('handle.side');
    expect(ui.handleSide).toBe('both');
  });
});

describe('what is selected', () => {
  it('comes back with what undo brings back, and is otherwise left alone', () => {
    session.selection.keys = [10, 20].map((frame) => ({ address: x, frame }));
    session.removeSelectedKeys();
    expect([session.selection.keys, session.shot.keysOf(x)]).toEqual([[], [0, 30]]);
    session.shot.undo();
    expect(session.selection.keys.map((k) => k.frame)).toEqual([10, 20]);
    // A change that takes nothing away leaves the selection as it has become since.
    session.shot.commit({ kind: 'setSegments', keys: session.selection.keys, segment: 'linear' } as never);
    session.selection.keys = [{ address: z, frame: 0 }];
    session.shot.undo();
    expect(session.selection.keys).toEqual([{ address: z, frame: 0 }]);
    session.selection.keys = [];
    session.shot.redo();
    expect(session.selection.keys).toEqual([]);

    session.selection.select(['buoy', 'fender']);
    session.shot.commit({ kind: 'removeNodes', ids: ['buoy'] } as never);
    expect(session.selection.ids).toEqual(['fender']);
    session.shot.undo();
    expect(session.selection.ids).toEqual(['buoy', 'fender']);
    // What cannot be removed stays selected.
    session.shot.commit({ kind: 'lockChannels', channels: [x] } as never);
    session.selection.keys = [{ address: x, frame: 10 }];
    session.removeSelectedKeys();
    expect(session.messages.notice?.text).toContain('is locked');
    expect(session.selection.keys).toHaveLength(1);
  });
});

describe('the menu at the pointer', () => {
  it('is gone through by keyboard, says shortcuts, and is left by Escape', async () => {
    render(ContextMenu);
    const done: string[] = [];
    const open = () =>
      contextMenu.open(new MouseEvent('contextmenu', { clientX: 5000, clientY: 20 }), [
        { command: 'copyKeys' },
        null,
        { title: 'First', run: () => done.push('first') },
        { title: 'Second', run: () => done.push('second') },
      ]);
    open();
    const menu = await screen.findByRole('menu', { name: 'Commands' });
    const items = within(menu).getAllByRole('menuitem');
    expect(items.map((i) => i.textContent)).toEqual([expect.stringMatching(/^Copy keys.*C$/), 'First', 'Second']);
    expect(within(menu).getAllByRole('separator')).toHaveLength(1);
    const focus = (i: number) => waitFor(() => expect(document.activeElement).toBe(items[i]));
    const gone = () => waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
    await waitFor(() => expect(menu.contains(document.activeElement)).toBe(true));
    const user = userEvent.setup();
    await user.keyboard('{ArrowUp}');
    await focus(2);
    await user.keyboard('{ArrowUp}');
    await focus(1);
    await user.keyboard('{Enter}');
    expect(done).toEqual(['first']);
    await gone();
    open();
    await screen.findByRole('menu');
    await user.keyboard('{Escape}');
    await gone();
    expect(done).toEqual(['first']);
  });
});

describe('a number with the focus', () => {
  it('passes on what cannot begin a number, and keeps what can', async () => {
    render(Transport);
    const got: string[] = [];
    const hear = (e: KeyboardEvent) => got.push(e.key);
    window.addEventListener('keydown', hear);
    const frame = field('Frame');
    frame.focus();
    for (const k of ['5', '-', '+', '.', 'ArrowLeft', 'Home']) await fireEvent.keyDown(frame, { key: k });
    await fireEvent.keyDown(frame, { key: 'c', ctrlKey: true });
    await fireEvent.keyDown(frame, { key: 'v', ctrlKey: true });
    expect([got, document.activeElement]).toEqual([[], frame]);
    // With Ctrl it keeps the focus. A letter is a slip of the hand until Enter has made the number good; then it leaves the field.
    await fireEvent.keyDown(frame, { key: 'k' });
    await fireEvent.keyDown(frame, { key: 'z', ctrlKey: true });
    expect([got, document.activeElement]).toEqual([['z'], frame]);
    await fireEvent.keyDown(frame, { key: 'Enter' });
    await fireEvent.keyDown(frame, { key: 'k' });
    expect(got).toEqual(['z', 'k']);
    expect(document.activeElement).not.toBe(frame);
    frame.focus();
    await fireEvent.input(frame, { target: { value: '7' } });
    await fireEvent.keyDown(frame, { key: 'k' });
    await fireEvent.keyDown(frame, { key: ' ' });
    expect(got).toEqual(['z', 'k']);
    window.removeEventListener('keydown', hear);
  });
});
