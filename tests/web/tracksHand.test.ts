// @vitest-environment jsdom
// The tracks under a hand: presses, drags, wheels and keys on the real panel and the real engine. Nothing is drawn here; where things lie is asked of the panel.
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { openDemo } from './real';

const [WIDTH, HEIGHT] = [1000, 420];
vi.stubGlobal(
  'ResizeObserver',
  class {
    constructor(private readonly told: (entries: unknown[]) => void) {}
    observe = () => this.told([]);
    disconnect = () => undefined;
    unobserve = () => undefined;
  },
);
Object.defineProperties(HTMLElement.prototype, {
  clientWidth: { configurable: true, get: () => WIDTH + 190 },
  clientHeight: { configurable: true, get: () => HEIGHT },
  setPointerCapture: { configurable: true, value: () => undefined },
});
// A canvas that takes every stroke and keeps none.
const strokes = new Proxy({} as Record<string | symbol, unknown>, {
  get: (own, name) => own[name] ?? (() => ({ width: 20 })),
});
vi.stubGlobal(
  'Path2D',
  class {
    constructor() {
      return strokes;
    }
  },
);
HTMLCanvasElement.prototype.getContext = (() => strokes) as never;

type Session = Awaited<ReturnType<typeof openDemo>>;
type Keys = { frame: number; value?: number; address?: string }[];
interface Places {
  key(address: string, frame: number, lane: boolean): { x: number; y: number };
  handle(address: string, frame: number, side: 'in' | 'out'): { x: number; y: number };
  frame(frame: number): number;
}
let session: Session;
const { gestures } = await import('../../web/src/widgets/gestures.svelte');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { viewState } = await import('../../web/src/stores/viewState.svelte');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { contextMenu } = await import('../../web/src/widgets/contextMenu.svelte');
const { default: Tracks } = await import('../../web/src/timeline/Tracks.svelte');
const { endsMenu, setEnds } = await import('../../web/src/timeline/graph/ends.svelte');
await import('../../web/src/app/features');
const { run } = await import('../../web/src/commands');
const { RULER } = await import('../../web/src/timeline/model');
const [x, y] = ['fender/transform.translate.x', 'fender/transform.translate.y'];

let canvas: HTMLCanvasElement;
const places = () => (window as unknown as { bradymotusTracks: Places }).bradymotusTracks;
const frames = (address: string) => session.shot.keysOf(address);
const key = (address: string, frame: number) => session.shot.curve(address)!.keys.find((k) => k.frame === frame)!;
const chosen = () => session.selection.keys.map((k) => `${k.address === x ? 'x' : 'y'}${k.frame}`).sort();
type More = Partial<{ button: number; shiftKey: boolean; ctrlKey: boolean; altKey: boolean }>;
type Point = { x: number; y: number };

async function send(type: string, at: Point, more: More = {}) {
  const event = new MouseEvent(type, { bubbles: true, cancelable: true, clientX: at.x, clientY: at.y, ...more });
  Object.defineProperty(event, 'pointerId', { value: 1 });
  await fireEvent(canvas, event);
}
const down = (at: Point, more: More = {}) => send('pointerdown', at, more);
const move = (at: Point, more: More = {}) => send('pointermove', at, more);
const up = (at: Point, more: More = {}) => send('pointerup', at, more);
const click = async (at: Point, more: More = {}) => (await down(at, more), up(at, more));
async function drag(from: Point, to: Point, more: More = {}) {
  await down(from, more);
  await move({ x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 }, more);
  await move(to, more);
  await up(to, more);
}
/** So many frames further along the ruler. */
const later = (at: Point, count: number) => ({ x: at.x + places().frame(count) - places().frame(0), y: at.y });
const press = (keys: string, more: object = {}) => fireEvent.keyDown(canvas, { key: keys, ...more });

beforeEach(async () => {
  session = await openDemo((shot) => {
    // Two curves that are easy to reckon with, and a third beside them.
    const fender = shot.nodes.find((n: { id: string }) => n.id === 'fender');
    const curve = (keys: Keys) => ({ value: 0, curve: { keys } });
    fender.channels = {
      'transform.translate.x': curve([
        { frame: 0, value: 0 },
        { frame: 20, value: 4 },
        { frame: 40, value: 0 },
      ]),
      'transform.translate.y': curve([
        { frame: 10, value: 1 },
        { frame: 30, value: 3 },
      ]),
    };
    shot.markers = [{ id: 'm', frame: 50, name: 'Here' }];
  });
  session.phase = 'polish';
  ui.dialog = null;
  endsMenu.shown = null;
  viewState.lanes = new Set();
  viewState.tracksTime = null;
  viewState.overlay = ui.lockFrame = ui.lockValue = viewState.allRows = false;
  viewState.rowFilter = '';
  viewState.rowsBy = 'object';
  preferences.steps.frames = 1;
  session.selection.select(['fender']);
  session.selection.keys = [];
  ui.part = 'tracks';
  render(Tracks);
  canvas = screen.getByLabelText('Keys and curves');
  // What is selected opens its curves; these are wanted closed, and opened where a test needs it.
  viewState.lanes = new Set();
  await waitFor(() => expect(screen.getByTitle('Select Fender')).toBeTruthy());
});
afterEach(() => {
  gestures.cancel();
  cleanup();
});

describe('lanes', () => {
  it('that selecting has opened are closed with the next selection; what a hand has opened stays', async () => {
    session.selection.select(['buoy']);
    await waitFor(() => expect(viewState.lanes.size).toBeGreaterThan(0));
    const first = [...viewState.lanes];
    expect(first.every((a) => a.startsWith('buoy/'))).toBe(true);
    viewState.toggleLane(x);
    session.selection.select(['lens']);
    await waitFor(() => expect([...viewState.lanes].some((a) => a.startsWith('lens/'))).toBe(true));
    expect(first.some((a) => viewState.lanes.has(a))).toBe(false);
    expect(viewState.lanes.has(x)).toBe(true);
    session.selection.clear();
    await waitFor(() => expect([...viewState.lanes]).toEqual([x]));
  });
});

describe('keys under the hand', () => {
  it('are chosen by a click, with Shift one more, by a box and by a line drawn round them', async () => {
    await click(places().key(x, 20, false));
    expect(chosen()).toEqual(['x20']);
    await click(places().key(y, 30, false), { shiftKey: true });
    expect(chosen()).toEqual(['x20', 'y30']);
    await click(places().key(x, 20, false), { shiftKey: true });
    expect(chosen()).toEqual(['y30']);
    // From between the first two keys of one row to below the other.
    const from = { x: places().frame(5), y: places().key(x, 20, false).y - 10 };
    const to = { x: places().frame(35), y: places().key(y, 30, false).y + 8 };
    await drag(from, to);
    expect(chosen()).toEqual(['x20', 'y10', 'y30']);
    await drag({ x: places().frame(36), y: from.y }, { x: places().frame(44), y: to.y }, { shiftKey: true });
    expect(chosen()).toEqual(['x20', 'x40', 'y10', 'y30']);
    // Escape brings back what was chosen before, a click into nothing takes all away.
    await down(from);
    await move({ x: from.x + 20, y: from.y + 4 });
    expect(chosen()).toEqual([]);
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect(chosen()).toHaveLength(4);
    await click({ x: places().frame(25), y: to.y });
    expect(chosen()).toEqual([]);

    const row = places().key(x, 20, false).y;
    await down({ x: places().frame(15), y: row - 9 }, { altKey: true });
    for (const [f, dy] of [
      [25, -9],
      [25, 9],
      [15, 9],
    ])
      await move({ x: places().frame(f), y: row + dy }, { altKey: true });
    await up({ x: places().frame(15), y: row }, { altKey: true });
    expect(chosen()).toEqual(['x20']);
  });

  it('are dragged in time along a row, by whole frames, and by what is typed', async () => {
    const at = places().key(x, 20, false);
    await drag(at, later(at, 5.3));
    expect(frames(x)).toEqual([0, 25, 40]);
    expect(key(x, 25).value).toBe(4);
    expect(chosen()).toEqual(['x25']);
    session.shot.undo();
    expect(frames(x)).toEqual([0, 20, 40]);

    // The hand is left aside once a figure is typed.
    await down(at);
    await move(later(at, 4));
    expect(screen.getByTestId('tracks-readout').textContent).toContain('+4 frames');
    for (const k of ['-', '7']) await fireEvent.keyDown(window, { key: k });
    await move(later(at, 9));
    expect(frames(x)).toEqual([0, 13, 40]);
    await fireEvent.keyDown(window, { key: 'Enter' });
    expect([frames(x), session.shot.history!.undoLabel]).toEqual([[0, 13, 40], 'Move key']);
    session.shot.undo();

    await down(at);
    await move(later(at, 6));
    expect(frames(x)).toEqual([0, 26, 40]);
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect([frames(x), chosen()]).toEqual([[0, 20, 40], ['x20']]);
    expect(session.shot.history!.undoLabel).toBeNull();

    // Without snapping, by hundredths.
    preferences.steps.frames = 0;
    await drag(at, later(at, 2.5));
    expect(frames(x)[1]).toBeCloseTo(22.5, 1);
  });

  it('snap to what is near with a line that says to what, but not with Ctrl held', async () => {
    // The marker is on frame 50; half a pixel less than the reach away from it.
    const at = places().key(x, 20, false);
    const perFrame = places().frame(1) - places().frame(0);
    preferences.steps.frames = 0;
    const near = { x: at.x + 30 * perFrame - 4.5, y: at.y };
    await down(at);
    await move({ x: at.x + 40, y: at.y });
    await move(near);
    expect(frames(x)).toEqual([0, 40, 50]);
    await move(near, { ctrlKey: true });
    expect(frames(x)).not.toContain(50);
    await move(near);
    await up(near);
    expect(frames(x)).toEqual([0, 40, 50]);

    // In a lane a value comes to that of another key.
    session.shot.undo();
    viewState.lanes = new Set([x]);
    await waitFor(() => expect(places().key(x, 20, true).y).not.toBe(places().key(x, 20, false).y));
    const [top, low] = [places().key(x, 20, true), places().key(x, 40, true)];
    await drag(top, { x: top.x, y: low.y - 4 });
    expect(key(x, 20).value).toBe(0);
    session.shot.undo();
    preferences.near = false;
    await drag(top, { x: top.x, y: low.y - 4 });
    expect(key(x, 20).value).not.toBe(0);
    preferences.near = true;
    preferences.steps.frames = 1;
  });

  it('go together, those of the lane in value as well, and keep a direction or what is locked', async () => {
    viewState.lanes = new Set([x]);
    await waitFor(() => expect(places().key(x, 20, true).y).not.toBe(places().key(x, 20, false).y));
    session.selection.keys = [
      { address: x, frame: 20 },
      { address: y, frame: 30 },
    ];
    await waitFor(() => expect(chosen()).toHaveLength(2));
    const [top, bottom] = [places().key(x, 20, true), places().key(x, 40, true)];
    // Half of the way from 4 to 0 down, three frames on.
    const to = later({ x: top.x, y: (top.y + bottom.y) / 2 }, 3);
    await drag(top, to);
    expect([frames(x), frames(y)]).toEqual([
      [0, 23, 40],
      [10, 33],
    ]);
    expect(key(x, 23).value).toBeCloseTo(2, 2);
    expect(key(y, 33).value).toBe(3);
    expect(session.shot.history!.undoLabel).toBe('Move 2 keys');
    session.shot.undo();
    session.selection.keys = [{ address: x, frame: 20 }];

    const locks: [() => void, number, number][] = [
      [() => (ui.lockFrame = true), 20, 2],
      [() => ([ui.lockFrame, ui.lockValue] = [false, true]), 23, 4],
    ];
    for (const [lock, frame, value] of locks) {
      lock();
      await drag(places().key(x, 20, true), to);
      expect(key(x, frame).value).toBeCloseTo(value, 2);
      session.shot.undo();
      session.selection.keys = [{ address: x, frame: 20 }];
    }
    ui.lockValue = false;
    await drag(places().key(x, 20, true), { x: to.x, y: top.y + 2 }, { shiftKey: true });
    expect(key(x, 23).value).toBe(4);
  });

  it('are stretched by a grip at either end, moved by the bar between them, and no further than a grip can go', async () => {
    session.selection.keys = frames(x).map((frame) => ({ address: x, frame }));
    await waitFor(() => expect(chosen()).toHaveLength(3));
    const grip = (frame: number) => ({ x: places().frame(frame), y: RULER + 12 });
    await drag(grip(40), grip(60));
    expect(frames(x)).toEqual([0, 30, 60]);
    expect(chosen()).toEqual(['x0', 'x30', 'x60']);
    await drag(grip(0), grip(30));
    expect(frames(x)).toEqual([30, 45, 60]);
    await drag(grip(40), grip(35));
    expect(frames(x)).toEqual([25, 40, 55]);
    // With Alt the playhead stays where it is among them.
    session.goTo(45);
    await drag(grip(55), grip(65), { altKey: true });
    expect(frames(x)).toEqual([5, 35, 65]);
    await drag(grip(5), grip(25), { altKey: true });
    expect(frames(x)).toEqual([25, 40, 55]);
    await down(grip(55));
    await move(grip(-500));
    expect(frames(x)[0]).toBe(25);
    expect(new Set(frames(x)).size).toBe(3);
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect(frames(x)).toEqual([25, 40, 55]);
  });

  it('get new handles, joined or split', async () => {
    viewState.lanes = new Set([x]);
    session.selection.keys = [{ address: x, frame: 20 }];
    await waitFor(() => expect(places().handle(x, 20, 'out')!.x).toBeGreaterThan(places().key(x, 20, true).x));
    const out = places().handle(x, 20, 'out');
    await drag(out, { x: out.x + 10, y: out.y + 20 });
    const joined = key(x, 20);
    expect([joined.joined, joined.outKind.kind]).toEqual([true, 'free']);
    expect(joined.out[1]).toBeLessThan(0);
    expect(joined.in[1]).toBeGreaterThan(0);
    session.shot.undo();
    await drag(places().handle(x, 20, 'out'), { x: out.x + 10, y: out.y + 20 }, { altKey: true });
    expect(key(x, 20).joined).toBe(false);
    expect(key(x, 20).in[1]).toBeCloseTo(0, 9);
    session.shot.undo();
    await down(places().handle(x, 20, 'in'));
    await move({ x: out.x - 90, y: out.y + 9 });
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect(key(x, 20).inKind.kind).toBe('auto');
  });

  it('bend together where several are chosen, and only turn where their length is locked', async () => {
    viewState.lanes = new Set([x]);
    session.selection.keys = [0, 20, 40].map((frame) => ({ address: x, frame }));
    await waitFor(() => expect(places().handle(x, 20, 'out')!.x).toBeGreaterThan(places().key(x, 20, true).x));
    const before = [0, 20].map((f) => key(x, f).out);
    const out = places().handle(x, 20, 'out');
    await drag(out, { x: out.x + 12, y: out.y + 15 });
    const by = [0, 1].map((i) => key(x, 20).out[i] - before[1][i]);
    expect(by[0]).toBeGreaterThan(0);
    expect(by[1]).toBeLessThan(0);
    // That of the last key leads nowhere.
    expect(key(x, 0).out.map((v, i) => v - before[0][i])).toEqual(by.map((v) => expect.closeTo(v, 6)));
    expect(session.shot.history!.undoLabel).toBe('Bend 2 keys');
    session.shot.undo();
    expect(key(x, 0).out).toEqual(before[0]);

    session.selection.keys = [{ address: x, frame: 20 }];
    ui.lockLength = true;
    await waitFor(() => expect(chosen()).toEqual(['x20']));
    const [k, from] = [places().key(x, 20, true), places().handle(x, 20, 'out')];
    await down(from);
    await move({ x: from.x + 60, y: from.y + 40 });
    const to = places().handle(x, 20, 'out');
    expect(Math.hypot(to.x - k.x, to.y - k.y)).toBeCloseTo(Math.hypot(from.x - k.x, from.y - k.y), 0);
    expect(to.y).toBeGreaterThan(from.y + 5);
    await up({ x: from.x + 60, y: from.y + 40 });
    ui.lockLength = false;
  });

  it('are put onto a curve by a double click, which does not bend it', async () => {
    const before = session.shot.engine!.sample(x, 0, 1, 41);
    const at = { x: places().frame(31), y: places().key(x, 20, false).y };
    await send('dblclick', at);
    expect([frames(x), chosen()]).toEqual([[0, 20, 31, 40], ['x31']]);
    session.shot.engine!.sample(x, 0, 1, 41).forEach((v, f) => expect(v).toBeCloseTo(before[f], 9));
    const { length } = session.shot.history!.steps;
    await send('dblclick', { x: at.x, y: HEIGHT - 3 });
    expect(session.shot.history!.steps).toHaveLength(length);
  });
});

describe('by keyboard', () => {
  it('one goes from row to row and from key to key, opens a curve and nudges', async () => {
    session.frame = 11;
    await press('ArrowDown');
    expect([chosen(), session.frame]).toEqual([['x20'], 20]);
    await press('ArrowDown');
    expect(chosen()).toEqual(['y10']);
    await press(']');
    expect(chosen()).toEqual(['y30']);
    await press(']');
    expect(chosen()).toEqual(['y30']);
    await press('[');
    await press('ArrowUp');
    expect(chosen()).toEqual(['x0']);
    await press('Enter');
    expect(viewState.lanes.has(x)).toBe(true);
    await press('Enter');
    expect(viewState.lanes.has(x)).toBe(false);
    await press('ArrowRight', { ctrlKey: true });
    await press('ArrowRight', { ctrlKey: true });
    expect([frames(x), chosen()]).toEqual([[2, 20, 40], ['x2']]);
    await press('ArrowLeft', { ctrlKey: true });
    expect(frames(x)).toEqual([1, 20, 40]);
  });
});

describe('the view', () => {
  it('zooms to the pointer, goes along, and comes back to all keys', async () => {
    const wheel = (more: object) => fireEvent.wheel(canvas, { clientX: places().frame(20), clientY: 200, ...more });
    const [at, wide] = [places().frame(20), places().frame(40) - places().frame(0)];
    await wheel({ deltaY: -300, ctrlKey: true });
    expect(places().frame(20)).toBeCloseTo(at, 6);
    expect(places().frame(40) - places().frame(0)).toBeGreaterThan(1.5 * wide);
    await wheel({ deltaY: 50, shiftKey: true });
    expect(places().frame(20)).toBeCloseTo(at - 50, 6);
    await drag({ x: 500, y: 300 }, { x: 620, y: 300 }, { button: 1 });
    expect(places().frame(20)).toBeCloseTo(at + 70, 6);
    await fireEvent.click(screen.getByRole('button', { name: 'Fit' }));
    expect(places().frame(20)).toBeLessThan(WIDTH);
    expect(places().frame(40) - places().frame(0)).toBeCloseTo(wide, 0);
  });

  it('runs on under a hand that drags beyond its edge', async () => {
    viewState.tracksTime = viewState.tracksTime!.zoomed(0, 8);
    await waitFor(() => expect(places().frame(20)).toBeGreaterThan(0));
    const at = places().key(x, 0, false);
    await down(at);
    await move({ x: WIDTH + 60, y: at.y });
    const reached = session.selection.keys[0].frame;
    expect(reached).toBeGreaterThan(0);
    const shown = places().frame(0);
    await waitFor(() => expect(places().frame(0)).toBeLessThan(shown - 40));
    await move({ x: WIDTH + 61, y: at.y });
    expect(session.selection.keys[0].frame).toBeGreaterThan(reached);
    await fireEvent.keyDown(window, { key: 'Escape' });
    expect(frames(x)).toEqual([0, 20, 40]);
  });

  it('shows the rows that are asked for: by a word, by kind, and those without keys', async () => {
    const rows = () => screen.getAllByRole('treeitem').map((r) => r.textContent!.replace(/\s+/g, ' ').trim());
    const filter = screen.getByLabelText(/^Filter rows/);
    await fireEvent.input(filter, { target: { value: 'position y' } });
    expect(rows().filter((r) => r.startsWith('Position'))).toEqual([expect.stringMatching(/^Position Y/)]);
    await fireEvent.input(filter, { target: { value: '' } });
    viewState.rowsBy = 'kind';
    await waitFor(() => expect(rows().some((r) => r.startsWith('Fender · Position X'))).toBe(true));
    viewState.rowsBy = 'object';
    viewState.allRows = true;
    await waitFor(() => expect(rows().some((r) => r.startsWith('Scale Z'))).toBe(true));
    // A row without keys can be selected by its object, and has nothing to mute.
    const scale = screen.getAllByRole('treeitem').find((r) => r.textContent!.includes('Scale Z'))!;
    expect(within(scale).queryByRole('button', { name: /Mute/ })).toBeNull();
  });

  it('lays curves over one another, those of the selected keys or all', async () => {
    viewState.overlay = true;
    const list = await screen.findByRole('list', { name: 'Overlaid curves' });
    const over = () =>
      within(list)
        .queryAllByRole('listitem')
        .map((i) => /Position [XY]/.exec(i.textContent!)?.[0]);
    await waitFor(() => expect(over()).toContain('Position Y'));
    expect(over()).toContain('Position X');
    session.selection.keys = [{ address: y, frame: 10 }];
    await waitFor(() => expect(over()).toEqual(['Position Y']));
    // In it a key is dragged in value too, in one scale for all or each in its own.
    for (const one of [false, true]) {
      viewState.oneScale = one;
      session.selection.keys = [{ address: y, frame: 30 }];
      const [from, low] = [places().key(y, 30, true), places().key(y, 10, true)];
      await drag(from, { x: from.x, y: (from.y + low.y) / 2 });
      expect(key(y, 30).value).toBeCloseTo(2, 2);
      session.shot.undo();
    }
    viewState.oneScale = false;
  });
});

describe('the ruler', () => {
  it('scrubs, moves the playback range and its markers, and opens a marker by a click', async () => {
    await down({ x: places().frame(12), y: 25 });
    expect(session.frame).toBe(12);
    await move({ x: places().frame(33.4), y: 25 });
    expect(session.frame).toBe(33);
    await up({ x: places().frame(33), y: 25 });

    const { playFirst, playLast } = session.shot.scene;
    await drag({ x: places().frame(playFirst), y: 6 }, { x: places().frame(playFirst + 8), y: 6 });
    expect(session.shot.scene.playFirst).toBe(playFirst + 8);
    await drag({ x: places().frame(playLast), y: 6 }, { x: places().frame(-90), y: 6 });
    expect(session.shot.scene.playLast).toBe(playFirst + 8);
    session.shot.undo();
    expect(session.shot.scene.playLast).toBe(playLast);

    await drag({ x: places().frame(50), y: RULER + 6 }, { x: places().frame(56), y: RULER + 6 });
    expect(session.shot.scene.markers[0].frame).toBe(56);
    await click({ x: places().frame(56), y: RULER + 6 });
    expect(session.frame).toBe(56);
    expect(screen.getByLabelText('Note')).toBeTruthy();
  });

  it('has a tag at each end of a curve that says how it goes on, how often, until when, and bakes that', async () => {
    // The tag lies beyond the last key.
    const row = places().key(x, 40, false);
    const open = () => down({ x: row.x + 30, y: row.y });
    await open();
    const menu = await screen.findByTestId('ends');
    // It says what it is for.
    expect(menu.textContent).toContain('Position X');
    expect(within(menu).getByRole('radio', { name: 'Hold' }).getAttribute('aria-checked')).toBe('true');
    await fireEvent.click(within(menu).getByRole('radio', { name: 'Loop' }));
    expect(session.shot.curve(x)!.after).toEqual({ kind: 'loop' });
    // It has done what it was opened for.
    await waitFor(() => expect(screen.queryByTestId('ends')).toBeNull());
    await open();
    const again = await screen.findByTestId('ends');
    const type = async (label: RegExp, text: string) => {
      const field = within(again).getByLabelText(label, { selector: 'input' });
      await fireEvent.focus(field);
      await fireEvent.input(field, { target: { value: text } });
      await fireEvent.keyDown(field, { key: 'Enter' });
    };
    await type(/^Cycles/, '2.4');
    expect(session.shot.curve(x)!.after).toMatchObject({ kind: 'loop', count: 2 });
    await type(/^Until frame/, '70');
    expect(session.shot.curve(x)!.after).toMatchObject({ kind: 'loop', until: 70 });
    const at = session.shot.engine!.sample(x, 60, 1, 1)[0];
    expect(at).toBeCloseTo(4, 6);
    await fireEvent.click(within(again).getByRole('button', { name: 'Bake to keys' }));
    expect(frames(x).length).toBeGreaterThan(60);
    expect(session.shot.engine!.sample(x, 60, 1, 1)[0]).toBeCloseTo(at, 6);
    await waitFor(() => expect(screen.queryByTestId('ends')).toBeNull());
    session.shot.undo();
    await open();
    await screen.findByTestId('ends');
    await fireEvent.keyDown(document.activeElement!, { key: 'Escape' });
    await waitFor(() => expect(screen.queryByTestId('ends')).toBeNull());
  });

  it('sets what comes before and after the keys of all chosen rows at once, by command and by one tag', async () => {
    const ends = () => [x, y].map((a) => session.shot.curve(a)!.after?.kind ?? 'hold');
    session.selection.keys = [x, y].flatMap((address) => frames(address).map((frame) => ({ address, frame })));
    run('ends.after.pingPong');
    expect(ends()).toEqual(['pingPong', 'pingPong']);
    run('ends.before.linear');
    expect([x, y].map((a) => session.shot.curve(a)!.before?.kind)).toEqual(['linear', 'linear']);
    session.shot.undo();
    session.shot.undo();
    expect(ends()).toEqual(['hold', 'hold']);
    // How often is kept of each when the kind of all becomes another that repeats.
    setEnds([x], 'after', { kind: 'loop', count: 3 });
    setEnds([y], 'after', { kind: 'loop', count: 5 });
    const row = places().key(x, 40, false);
    await down({ x: row.x + 30, y: row.y });
    const menu = await screen.findByTestId('ends');
    expect(menu.textContent).toContain('2 curves');
    await fireEvent.click(within(menu).getByRole('radio', { name: 'Loop with offset' }));
    expect([x, y].map((a) => session.shot.curve(a)!.after)).toEqual([
      { kind: 'loopOffset', count: 3 },
      { kind: 'loopOffset', count: 5 },
    ]);
    // A press on the tag of another row while it is open opens it for that.
    session.selection.keys = [];
    await down({ x: row.x + 30, y: row.y });
    await screen.findByTestId('ends');
    const other = places().key(y, 30, false);
    await down({ x: other.x + 30, y: other.y });
    await waitFor(() => expect(screen.getByTestId('ends').textContent).toContain('Position Y'));
    endsMenu.shown = null;
    // It was one step.
    session.shot.undo();
    expect(ends()).toEqual(['loop', 'loop']);
    session.selection.clear();
    session.selection.ids = ['water'];
    run('ends.after.hold');
    expect(ends()).toEqual(['loop', 'loop']);
  });
});

describe('the right button', () => {
  it('offers what is done to keys, or to the channel where there is none', async () => {
    const words = () => contextMenu.shown!.items.map((i) => i && ('command' in i ? i.command : i.title));
    await send('contextmenu', places().key(x, 20, false));
    expect(chosen()).toEqual(['x20']);
    expect(words()).toContain('stagger');
    contextMenu.close();
    await send('contextmenu', { x: places().frame(12), y: places().key(x, 20, false).y });
    expect(words().some((w) => w === 'channel.key' || /key/i.test(String(w)))).toBe(true);
    expect(words()).not.toContain('stagger');
    contextMenu.close();
  });
});
