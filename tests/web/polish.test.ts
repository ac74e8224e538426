// @vitest-environment jsdom
// Findings, tools for curves, poses, markers and pasting: the commands and panels on the real engine.
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { edits, openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { curveTools } = await import('../../web/src/curves/curveTools');
const lift = 'fender/transform.translate.y';
const frames = (address = lift) => session.shot.keysOf(address);
const take = (address: string, ...of: number[]) =>
  (session.selection.keys = (of.length > 0 ? of : frames(address)).map((frame) => ({ address, frame })));
const at = (address: string, frame: number) => session.shot.engine!.sample(address, frame, 1, 1)[0];
/** A tool with some of its numbers, the others as it offers them. */
function tool(id: string, numbers: Record<string, number> = {}) {
  const found = curveTools.find((t) => t.id === id)!;
  const values = Object.fromEntries(found.fields().map((f) => [f.id, f.value]));
  return session.shot.commit(found.edit({ ...values, ...numbers }) as never);
}

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'polish';
  ui.part = 'tracks';
  ui.dialog = ui.curveTool = null;
  session.selection.select(['fender']);
});
afterEach(cleanup);

describe('a muted curve', () => {
  const turn = 'fender-spin/transform.rotate.z';
  const now = (address: string) => session.shot.valueOf(session.shot.channelAt(address)!);

  it('stays as it is on the frame where it was muted, and is heard again with all its keys', () => {
    session.goTo(12);
    const [kept, all] = [now(lift), frames().slice()];
    session.selection.keys = [{ address: lift, frame: frames()[0] }];
    run('rows.mute');
    expect(session.shot.scene.muted).toEqual(new Set([lift]));
    session.goTo(29);
    expect(now(lift)).toBe(kept);
    expect(frames()).toEqual(all);
    run('rows.mute');
    expect(now(lift)).not.toBe(kept);
    session.shot.undo();
    session.shot.undo();
    expect(session.shot.scene.muted.size).toBe(0);
  });

  it('is what all are but one that is solo, until it is no longer', () => {
    session.selection.keys = [{ address: lift, frame: frames()[0] }];
    run('rows.solo');
    const { muted } = session.shot.scene;
    expect(muted.has(lift)).toBe(false);
    expect(muted.has(turn)).toBe(true);
    expect(session.shot.history!.undoLabel).toBe('Solo');
    run('rows.solo');
    expect(session.shot.scene.muted.size).toBe(0);
    session.selection.clear();
    session.selection.select(['islet']);
    run('rows.mute');
    expect(session.messages.notice?.text).toContain('no keys here to mute that are not locked');
  });
});

/** Lets the checks run to their end. */
async function checked() {
  await waitFor(() => expect(session.findings.current).toBe(true), { timeout: 60_000, interval: 100 });
  return session.findings.list;
}

describe('findings', () => {
  it(
    'come by themselves after a change, show where they are, and are mended and undone',
    { timeout: 120_000 },
    async () => {
      expect(await checked()).toEqual([]);
      // The fender in the middle of its fall below the quay.
      session.shot.commit({
        kind: 'setKeys',
        frame: 20,
        values: [{ address: 'buoy/transform.translate.x', value: 0 }],
      } as never);
      session.shot.commit({
        kind: 'setKeys',
        frame: 40,
        values: [{ address: 'buoy/transform.translate.x', value: 0 }],
      } as never);
      expect(session.findings.current).toBe(false);
      const found = await checked();
      expect(found.map((f) => f.kind)).toEqual(['idleKeys']);
      const { default: Findings } = await import('../../web/src/checks/Findings.svelte');
      render(Findings);
      await fireEvent.click(screen.getByText(/never moves/));
      expect(session.selection.ids).toEqual(['buoy']);
      expect(session.frame).toBe(20);
      // Ignored: nothing is said of it, until it is shown again.
      await fireEvent.click(screen.getByRole('button', { name: 'Ignore' }));
      expect(await checked()).toEqual([]);
      expect(screen.getByText('One is ignored.')).toBeTruthy();
      await fireEvent.click(screen.getByRole('button', { name: 'Show ignored' }));
      expect((await checked()).length).toBe(1);
      await fireEvent.click(screen.getByTitle(/Fix it/));
      expect(session.shot.keysOf('buoy/transform.translate.x')).toEqual([]);
      expect(await checked()).toEqual([]);
      session.shot.undo();
      expect(session.shot.keysOf('buoy/transform.translate.x')).toEqual([20, 40]);
      // Several of a kind in one step.
      expect(screen.queryByRole('button', { name: /Fix all/ })).toBeNull();
      for (const frame of [20, 40])
        session.shot.commit({
          kind: 'setKeys',
          frame,
          values: ['y', 'z'].map((a) => ({ address: `buoy/transform.scale.${a}`, value: 1 })),
        } as never);
      expect((await checked()).map((f) => f.kind)).toEqual(['idleKeys', 'idleKeys', 'idleKeys']);
      expect(screen.getByRole('heading', { name: /Redundant keys 3/ })).toBeTruthy();
      await fireEvent.click(screen.getByRole('button', { name: 'Fix all 3' }));
      expect(await checked()).toEqual([]);
      expect(session.shot.history!.undoLabel).toBe('Fix 3 findings');
      session.shot.undo();
      expect((await checked()).length).toBe(3);
    },
  );
});

describe('held poses', () => {
  it('become curves in one step, those of the selection, but for what is on or off', () => {
    const shown = 'fender/visible';
    session.shot.commit({ kind: 'setKeys', frame: 3, values: [{ address: shown, value: 1 }] } as never);
    session.shot.commit({
      kind: 'setSegments',
      keys: frames().map((frame) => ({ address: lift, frame })),
      segment: 'hold',
    } as never);
    session.player.stepped = true;
    const segments = (address = lift) => [...new Set(session.shot.curve(address)!.keys.map((k) => k.segment))];
    expect(segments()).toEqual(['hold']);
    session.selection.select(['buoy']);
    run('poses.toCurves');
    expect(segments()).toEqual(['hold']);
    session.selection.select(['fender']);
    run('poses.toCurves');
    expect([segments(), segments(shown), session.player.stepped]).toEqual([['bezier'], ['hold'], false]);
    session.shot.undo();
    run('newKeys.linear');
    run('poses.toCurves');
    expect(segments()).toEqual(['linear']);
    run('newKeys.hold');
    session.shot.commit({ kind: 'setSegments', keys: [{ address: lift, frame: 29 }], segment: 'hold' } as never);
    run('poses.toCurves');
    expect(segments()).toEqual(['linear', 'bezier']);
    run('poses.toCurves');
    expect(session.messages.notice?.text).toContain('No pose is held here');
  });
});

describe('tools for curves', () => {
  it('simplify what was baked, within the tolerance', async () => {
    take(lift);
    const before = Array.from({ length: 100 }, (_, f) => at(lift, f));
    session.selection.keys = [];
    tool('bake', { first: 12, last: 93, step: 1 });
    expect(frames().length).toBeGreaterThan(80);
    take(lift);
    tool('simplify', { tolerance: 0.01 });
    expect(frames().length).toBeLessThan(30);
    before.forEach((v, f) => expect(at(lift, f)).toBeCloseTo(v, 1));
    await waitFor(() => expect(edits()).toEqual(['bakeKeys', 'simplifyKeys']));
  });

  it('repeat keys, scale them about a value, and shake them alike for the same seed', () => {
    take(lift, 29, 41, 53);
    tool('repeatKeys', { times: 3, apart: 100 });
    expect(frames().filter((f) => f > 100)).toEqual([129, 141, 153, 229, 241, 253, 329, 341, 353]);
    take(lift, 41);
    tool('scaleValues', { by: 2, pivot: 0.8, shift: 0 });
    expect(at(lift, 41)).toBeCloseTo(0.8 + 2 * (2.02625 - 0.8), 6);
    session.shot.undo();
    session.selection.keys = [];
    tool('noise', { first: 0, last: 40, strength: 0.2, rate: 3, seed: 5 });
    const shaken = at(lift, 20);
    session.shot.undo();
    tool('noise', { first: 0, last: 40, strength: 0.2, rate: 3, seed: 5 });
    expect(at(lift, 20)).toBe(shaken);
    expect(tool('noise', { rate: 0 })).toBe(false);
    expect(session.messages.notice?.text).toContain('rate');
  });

  it('retime a range, and refuse a time that stands still', () => {
    take(lift);
    tool('retime', { first: 29, last: 53, length: 48, slowIn: 0, slowOut: 0 });
    expect(frames()).toContain(77);
    expect(at(lift, 77)).toBeCloseTo(0.8, 6);
    expect(frames()).not.toContain(41);
    expect(tool('retime', { first: 29, last: 29 })).toBe(false);
  });

  it('retime by a time that is drawn: through its points, never backwards', async () => {
    const { default: CurveTool } = await import('../../web/src/curves/CurveTool.svelte');
    take(lift, 29, 41, 53);
    const [before, count] = [[29, 33, 41, 47, 53].map((f) => at(lift, f)), frames().length];
    run('curve.retime');
    render(CurveTool);
    const graph = screen.getByRole('group', { name: 'The time of the range' });
    vi.spyOn(graph, 'getBoundingClientRect').mockReturnValue({ left: 0, top: 0, width: 246, height: 120 } as DOMRect);
    // Half way along, a quarter of the range has been shown.
    await fireEvent.dblClick(graph, { clientX: 10 + 0.5 * 226, clientY: 110 - 0.25 * 100 });
    const point = await screen.findByRole('slider', { name: 'Point 1 of the time' });
    await fireEvent.keyDown(point, { key: 'ArrowUp' });
    await fireEvent.keyDown(point, { key: 'ArrowDown' });
    expect(ui.retimePoints).toEqual([[0.5, expect.closeTo(0.25, 9)]]);
    // Above the end there is no way up.
    for (let i = 0; i < 12; i++) await fireEvent.keyDown(point, { key: 'ArrowUp', shiftKey: true });
    expect(ui.retimePoints[0][1]).toBe(1);
    await fireEvent.keyDown(point, { key: 'Delete' });
    expect(ui.retimePoints).toEqual([]);
    await fireEvent.dblClick(graph, { clientX: 10 + 0.5 * 226, clientY: 110 - 0.25 * 100 });
    await fireEvent.click(screen.getByRole('button', { name: 'Apply' }));
    // Frame 35 of the old range is shown on 41 now; both ends stay, and so does what comes after.
    expect(at(lift, 29)).toBeCloseTo(before[0], 9);
    expect(at(lift, 53)).toBeCloseTo(before[4], 9);
    session.shot.undo();
    const there = at(lift, 35);
    session.shot.redo();
    expect(at(lift, 41)).toBeCloseTo(there, 2);
    session.shot.undo();
    expect(frames().length).toBe(count);
  });

  it('show what they would do while their numbers are open, and leave no trace when they are left', async () => {
    const { default: CurveTool } = await import('../../web/src/curves/CurveTool.svelte');
    take(lift);
    const before = frames().length;
    run('curve.simplify');
    expect(ui.curveTool).toBe('simplify');
    const { unmount } = render(CurveTool);
    await waitFor(() => expect(screen.getByText(new RegExp(`${before} keys become`))).toBeTruthy());
    const tried = frames().length;
    expect(tried).toBeLessThan(before);
    await fireEvent.click(screen.getByText('Cancel'));
    unmount();
    expect(frames().length).toBe(before);
    expect(edits()).toEqual([]);
    ui.curveTool = 'simplify';
    render(CurveTool);
    await fireEvent.click(screen.getByText('Apply'));
    expect(frames().length).toBe(tried);
    await waitFor(() => expect(edits()).toEqual(['simplifyKeys']));
  });

  it('turn easings into handles and say how near they are', () => {
    take(lift, 29);
    session.shot.commit({
      kind: 'setSegments',
      keys: session.selection.keys,
      segment: { ease: 'elastic', direction: 'out' },
    } as never);
    run('curve.handles');
    expect(session.messages.notice?.text).toMatch(/Largest difference: 0\.\d+ %/);
    expect(session.shot.curve(lift)!.keys.every((k) => typeof k.segment === 'string')).toBe(true);
  });

  it('mirror values about their middle, and stagger whole cycles in the order of selection', () => {
    take(lift, 29, 41, 53);
    const middle = (0.8 + 2.02625) / 2;
    run('curve.mirror');
    expect(at(lift, 41)).toBeCloseTo(2 * middle - 2.02625, 6);
    session.selection.keys = [];
    session.selection.select(['buoy', 'fender']);
    const first = frames()[0];
    tool('staggerTool', { frames: 4 });
    expect(frames()[0]).toBe(first + 4);
  });

  it('take an easing of one’s own from its text, and give it back', () => {
    take(lift, 29);
    expect(session.shot.shape(session.selection.keys, 'cubic-bezier(0.2, 0, 0.1, 1)')).toBe(true);
    expect(session.shot.engine!.easingOf(lift, 29)).toBe('cubic-bezier(0.2, 0, 0.1, 1)');
    expect(session.shot.shape(session.selection.keys, 'cubic-bezier(9)')).toBe(false);
    expect(session.messages.notice?.text).toContain('is no easing');
  });
});

describe('poses', () => {
  it('lie between two, nearer to either, or past them', () => {
    session.goTo(35);
    expect(session.shot.between([lift], 0.25, true).refusal).toBeFalsy();
    expect(at(lift, 35)).toBeCloseTo(0.8 + 0.25 * (2.02625 - 0.8), 6);
    session.shot.between([lift], 1.5, true);
    expect(at(lift, 35)).toBeCloseTo(0.8 + 1.5 * (2.02625 - 0.8), 6);
    session.goTo(110);
    expect(session.shot.between([lift], 0.5, true).refusal).toMatch(/both sides/);
  });

  it('become holds from the strip, and later ones follow where that is asked for', async () => {
    const { default: PoseStrip } = await import('../../web/src/poses/PoseStrip.svelte');
    session.phase = 'block';
    vi.stubGlobal(
      'ResizeObserver',
      class {
        observe() {}
        unobserve() {}
        disconnect() {}
      },
    );
    preferences.posesFollow = true;
    session.goTo(41);
    render(PoseStrip, { view: null });
    await fireEvent.click(screen.getByTitle('This pose stays for so many frames'));
    expect(frames()).toContain(49);
    expect(frames()).toContain(61);
    expect(at(lift, 45)).toBeCloseTo(2.02625, 9);
    preferences.posesFollow = false;
  });

  it('are keyed by what has changed, by kind, and over a range', () => {
    session.goTo(5);
    session.shot.pose([{ address: 'fender/transform.translate.z', value: 2 }], true);
    session.selection.keys = [];
    session.shot.pose([{ address: lift, value: 3 }], true);
    expect([...session.shot.waiting]).toEqual([lift]);
    run('key.changed');
    expect(frames()).toContain(5);
    expect(frames('fender/transform.translate.x')).not.toContain(5);
    run('key.transform.translate');
    expect(frames('fender/transform.translate.x')).toContain(5);
    run('newKeys.hold');
    run('newHandles.flat');
    expect(session.shot.scene.newKeys).toMatchObject({ segment: 'hold', handle: { kind: 'flat' } });
    session.shot.keyNow(['fender/transform.rotate.x']);
    expect(session.shot.curve('fender/transform.rotate.x')!.keys[0]).toMatchObject({
      segment: 'hold',
      outKind: { kind: 'flat' },
    });
  });
});

describe('keys that are pasted', () => {
  const copy = () => {
    take(lift, 29, 41, 53);
    run('copyKeys');
    session.goTo(60);
  };

  it('move what comes later on, take its place, or join it', () => {
    copy();
    run('paste.insert');
    expect(frames().slice(-3)).toEqual([114, 116, 118]);
    session.shot.undo();
    copy();
    run('paste.replace');
    expect(frames().filter((f) => f >= 60 && f <= 84)).toEqual([60, 72, 84]);
    session.shot.undo();
    copy();
    run('paste');
    expect(frames().filter((f) => f >= 60 && f <= 84)).toEqual([60, 61, 69, 72, 75, 81, 84]);
  });

  it('can be cut', () => {
    take(lift, 41);
    run('cut');
    expect(frames()).not.toContain(41);
    session.goTo(45);
    run('paste');
    expect(frames()).toContain(45);
  });

  it('go onto chosen channels: the same ones, one onto each, or as many onto as many', () => {
    const at60 = (a: string) => session.shot.curve(a)?.keys.find((k) => k.frame === 60)?.value;
    const paste = (...chosen: string[]) => {
      session.selection.keys = [];
      session.selection.choose([]);
      session.selection.choose(chosen);
      run('paste');
    };
    const turn = ['x', 'z'].map((a) => `fender/transform.rotate.${a}`);
    copy();
    const height = session.shot.curve(lift)!.keys.find((k) => k.frame === 29)!.value;
    paste(...turn);
    expect(turn.map(at60)).toEqual([height, height]);
    expect(at60(lift)).toBeUndefined();
    session.shot.undo();
    const stretch = ['x', 'y'].map((a) => `fender/transform.scale.${a}`);
    session.selection.keys = [lift, ...stretch].map((address) => ({ address, frame: 29 }));
    session.goTo(29);
    run('copyKeys');
    session.goTo(60);
    // Of what was copied only what is chosen.
    paste(stretch[1]);
    expect([at60(stretch[1]), at60(stretch[0])]).toEqual([
      session.shot.curve(stretch[1])!.keys.find((k) => k.frame === 29)!.value,
      undefined,
    ]);
    session.shot.undo();
    paste(...turn);
    expect(session.messages.notice?.text).toBe(
      'Keys of 3 channels do not fit onto 2: choose as many, or leave the choice (Esc).',
    );
    session.selection.choose([]);
  });

  it('are refused where the channel is locked, and nothing changes', () => {
    copy();
    session.shot.commit({ kind: 'lockChannels', channels: [lift], locked: true } as never);
    const before = [...frames()];
    run('paste');
    expect(session.messages.notice?.text).toContain('locked');
    expect(frames()).toEqual(before);
  });
});

describe('markers', () => {
  it('and the range of a shot are read by themselves: what is shown of its objects and keys stays the same', () => {
    const { scene } = session.shot;
    const { channels, nodes, layers } = scene;
    const frames = session.shot.keysOf(lift);
    const keyed = session.shot.keyed;
    run('marker');
    session.shot.commit({ kind: 'setShot', range: { first: 3, last: 77 } } as never);
    expect(session.shot.scene).not.toBe(scene);
    expect([session.shot.scene.first, session.shot.scene.last, session.shot.scene.markers.length]).toEqual([3, 77, 1]);
    expect(session.shot.scene.channels).toBe(channels);
    expect(session.shot.scene.nodes).toBe(nodes);
    expect(session.shot.scene.layers).toBe(layers);
    expect(session.shot.keysOf(lift)).toBe(frames);
    expect(session.shot.keyed).toBe(keyed);
    run('undo');
    run('undo');
    expect([session.shot.scene.first, session.shot.scene.markers]).toEqual([scene.first, []]);
    expect(session.shot.scene.channels).toBe(channels);
  });

  it('are put at the playhead, named, coloured, noted, gone to and removed', async () => {
    session.goTo(29);
    run('marker');
    const { id } = session.shot.scene.markers[0];
    const { default: MarkerFields } = await import('../../web/src/timeline/markers/MarkerFields.svelte');
    const onclose = vi.fn();
    const { unmount } = render(MarkerFields, { id, left: 0, onclose });
    const name = () => screen.getByLabelText<HTMLInputElement>('Name of the marker');
    // It begins where one types, and Escape takes back what was typed.
    expect(document.activeElement).toBe(name());
    await fireEvent.input(name(), { target: { value: 'Tuoch' } });
    await fireEvent.keyDown(name(), { key: 'Escape' });
    expect(onclose).toHaveBeenCalledTimes(1);
    expect(session.shot.scene.markers[0].name ?? '').toBe('');
    unmount();
    expect(session.shot.scene.markers[0].name ?? '').toBe('');
    // A click beside it takes it away, and keeps it.
    const other = render(MarkerFields, { id, left: 0, onclose });
    await fireEvent.input(name(), { target: { value: 'Touch' } });
    other.unmount();
    expect(session.shot.scene.markers[0].name).toBe('Touch');
    render(MarkerFields, { id, left: 0, onclose });
    await fireEvent.click(screen.getByText('rose'));
    await fireEvent.input(screen.getByLabelText('Note'), { target: { value: 'softer' } });
    await fireEvent.change(screen.getByLabelText('Note'));
    expect(session.shot.scene.markers[0]).toMatchObject({ frame: 29, name: 'Touch', color: 'rose', note: 'softer' });
    session.goTo(0);
    run('nextMarker');
    expect(session.frame).toBe(29);
    await fireEvent.click(screen.getByTitle('Remove'));
    expect(session.shot.scene.markers).toEqual([]);
    expect(onclose).toHaveBeenCalled();
    session.shot.undo();
    expect(session.shot.scene.markers).toHaveLength(1);
  });
});

describe('a number field', () => {
  it('that keeps the focus after Enter follows its number, and gives it to nothing else', async () => {
    const { default: NumberField } = await import('../../web/src/widgets/NumberField.svelte');
    const oncommit = vi.fn();
    const { rerender } = render(NumberField, { value: 0.5, label: 'Height', oncommit });
    const field = screen.getByLabelText<HTMLInputElement>('Height');
    await fireEvent.focus(field);
    await fireEvent.input(field, { target: { value: '3' } });
    await fireEvent.keyDown(field, { key: 'Enter' });
    expect(oncommit).toHaveBeenCalledTimes(1);
    // Another frame is shown, where it has another value.
    await rerender({ value: 2.5, label: 'Height', oncommit });
    expect(field.value).toBe('2.5');
    await fireEvent.blur(field);
    expect(oncommit).toHaveBeenCalledTimes(1);
    // Nor is a number given again that was typed as it stood.
    await fireEvent.focus(field);
    await fireEvent.input(field, { target: { value: '2.5' } });
    await fireEvent.keyDown(field, { key: 'Enter' });
    await rerender({ value: 7, label: 'Height', oncommit });
    await fireEvent.blur(field);
    expect(oncommit).toHaveBeenCalledTimes(1);
  });
});

describe('what is meant', () => {
  it('staggers by the order of selection, of names, or of places', () => {
    const ids = ['post', 'buoy', 'islet'];
    const turn = (id: string) => `${id}/transform.rotate.x`;
    const begin = () => {
      for (const id of ids)
        session.shot.commit({
          kind: 'setCurve',
          address: turn(id),
          curve: { keys: [{ frame: 0, value: 1 }] },
        } as never);
      session.selection.select(ids);
      session.selection.keys = ids.map((id) => ({ address: turn(id), frame: 0 }));
    };
    const starts = () => Object.fromEntries(ids.map((id) => [id, frames(turn(id))[0]]));
    begin();
    tool('staggerTool', { frames: 2 });
    expect(starts()).toEqual({ post: 0, buoy: 2, islet: 4 });
    begin();
    tool('staggerTool', { frames: 2, order: 1 });
    const named = [...ids].sort((a, b) =>
      session.shot.byId.get(a)!.name.localeCompare(session.shot.byId.get(b)!.name, undefined, { numeric: true }),
    );
    expect(starts()).toEqual(Object.fromEntries(named.map((id, i) => [id, 2 * i])));
    begin();
    tool('staggerTool', { frames: 2, order: 2 });
    const x = (id: string) => session.shot.shown!.matrices[16 * session.shot.byId.get(id)!.index + 12];
    const placed = [...ids].sort((a, b) => x(a) - x(b));
    expect(starts()).toEqual(Object.fromEntries(placed.map((id, i) => [id, 2 * i])));
  });

  it('eases from pose to pose on all channels where no key is selected', () => {
    session.selection.keys = [];
    session.goTo(20);
    run('segment.linear');
    const at20 = (address: string) => session.shot.curve(address)!.keys.findLast((k) => k.frame <= 20)!;
    const keyed = session.shot.keyedOwners.get('fender')!;
    expect(keyed.length).toBeGreaterThan(2);
    for (const address of keyed)
      if (frames(address).some((f) => f > 20) && frames(address)[0] <= 20) expect(at20(address).segment).toBe('linear');
    session.shot.undo();
    session.goTo(10_000);
    run('segment.linear');
    expect(session.messages.notice?.text).toContain('the playhead between two of its poses');
  });

  it('says that nothing has changed instead of moving a range by nothing', () => {
    const before = session.shot.history!.revision;
    expect(tool('keyRange')).toBe(false);
    expect(session.messages.notice?.text).toContain('change something on this frame first');
    expect(session.shot.history!.revision).toBe(before);
  });
});
