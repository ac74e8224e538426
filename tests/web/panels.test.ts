// @vitest-environment jsdom
// The panels as a person uses them, in a page without a screen, on the real engine.
import { fireEvent, render, screen, waitFor, within } from '@testing-library/svelte';
import { flushSync, type Component } from 'svelte';
import userEvent from '@testing-library/user-event';
import { tick } from 'svelte';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { answers, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { ui } = await import('../../web/src/stores/ui.svelte');
const { viewState } = await import('../../web/src/stores/viewState.svelte');
const { work } = await import('../../web/src/widgets/work.svelte');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { renderSettings } = await import('../../web/src/render/renderSettings.svelte');
const files = import.meta.glob('../../web/src/*/*.svelte');
const panel = async (path: string) =>
  ((await files[`../../web/src/${path}.svelte`]()) as { default: Component<Record<string, unknown>> }).default;

// What a page without a screen lacks.
HTMLDialogElement.prototype.showModal = function () {
  this.open = true;
};
HTMLDialogElement.prototype.close = function () {
  this.open = false;
};
vi.stubGlobal(
  'ResizeObserver',
  class {
    observe() {}
    disconnect() {}
    unobserve() {}
  },
);
// A list draws what can be seen of it, and here nothing has a size.
Object.defineProperty(HTMLElement.prototype, 'clientHeight', { get: () => 600 });
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.setPointerCapture = () => undefined;
Element.prototype.releasePointerCapture = () => undefined;
Element.prototype.hasPointerCapture = () => true;

const lift = 'fender/transform.translate.y';
const value = (address: string) => session.shot.shown!.values[session.shot.channelAt(address)!.index];
const user = userEvent.setup();

beforeEach(async () => {
  session = await openDemo();
  ui.dialog = null;
  viewState.openGroups = new Set();
});

describe('a number', () => {
  it('is what was typed, or a sum with the old value', async () => {
    const { sum } = await import('../../web/src/widgets/sum');
    expect(sum('3.5', 0)).toBe(3.5);
    expect(sum('-3,5', 0)).toBe(-3.5);
    expect(sum('.5', 0)).toBe(0.5);
    expect(sum('+5', 2)).toBe(7);
    expect(sum('+-5', 2)).toBe(-3);
    expect(sum('*2', 4)).toBe(8);
    expect(sum('/4', 10)).toBe(2.5);
    expect(sum('90 / 4', 1)).toBe(22.5);
    expect(sum('10-4', 1)).toBe(6);
    expect(sum('-2*-3', 1)).toBe(6);
    expect(sum('1e3', 0)).toBe(1000);
  });

  it('is nothing when it is no number', async () => {
    const { sum } = await import('../../web/src/widgets/sum');
    for (const text of ['', ' ', '+', 'five', '1+', '1/0', '+x', '1+2+3', 'Infinity', 'NaN', '--1', '1..2'])
      expect(sum(text, 1)).toBeNull();
  });
});

describe('values', () => {
  const field = (name: string) => screen.getByRole('textbox', { name });

  it('are those of the selection, or of the sky', async () => {
    render(await panel('values/Values'));
    expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('Sky and exposure');
    session.selection.select(['fender']);
    await waitFor(() => expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('Fender'));
    session.selection.select(['fender', 'buoy']);
    await waitFor(() => expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('2 objects'));
  });

  it('are typed, and stay as they were with Escape', async () => {
    session.selection.select(['buoy']);
    render(await panel('values/Values'));
    await user.pointer([{ keys: '[MouseLeft]', target: field('Position X') }]);
    await user.keyboard('2.25{Enter}');
    expect(value('buoy/transform.translate.x')).toBe(2.25);
    await user.pointer([{ keys: '[MouseLeft]', target: field('Position X') }]);
    await user.keyboard('9{Escape}');
    expect(value('buoy/transform.translate.x')).toBe(2.25);
    await user.pointer([{ keys: '[MouseLeft]', target: field('Position X') }]);
    await user.keyboard('*2{Enter}');
    expect(value('buoy/transform.translate.x')).toBe(4.5);
    expect(session.shot.history!.steps.length).toBe(3);
  });

  it('take what is typed right after Enter, before the screen has had a picture', async () => {
    session.selection.select(['buoy']);
    render(await panel('values/Values'));
    const frames: FrameRequestCallback[] = [];
    vi.spyOn(window, 'requestAnimationFrame').mockImplementation((call) => frames.push(call));
    await user.pointer([{ keys: '[MouseLeft]', target: field('Position X') }]);
    await user.keyboard('3{Enter}+1.5');
    for (const call of frames.splice(0)) call(0);
    await user.keyboard('{Enter}7{Enter}');
    for (const call of frames.splice(0)) call(0);
    vi.restoreAllMocks();
    expect(value('buoy/transform.translate.x')).toBe(7);
    expect(session.shot.history!.steps.length).toBe(4);
    session.shot.undo();
    expect(value('buoy/transform.translate.x')).toBe(4.5);
  });

  it('are set on all selected objects', async () => {
    session.selection.select(['buoy', 'fender']);
    render(await panel('values/Values'));
    await user.pointer([{ keys: '[MouseLeft]', target: field('Rotation Y') }]);
    await user.keyboard('30{Enter}');
    expect([value('buoy/transform.rotate.y'), value('fender/transform.rotate.y')]).toEqual([30, 30]);
  });

  it('have a button that tells the four states of a key, and keys or takes the key away', async () => {
    session.selection.select(['fender']);
    const { container } = render(await panel('values/Values'));
    await user.click(screen.getByRole('button', { name: 'Open Position' }));
    const row = () => container.querySelector(`[data-channel="${lift}"]`) as HTMLElement;
    const button = () => within(row()).getAllByRole('button')[0];
    const state = (is: string) => waitFor(() => expect(button().dataset.state).toBe(is));
    const frames = session.shot.keysOf(lift);
    session.goTo(frames[1]);
    await state('here');
    await user.click(button());
    await state('elsewhere');
    expect(session.shot.keysOf(lift)).not.toContain(frames[1]);
    session.shot.pose([{ address: lift, value: 9 }], true);
    await state('waiting');
    await user.click(button());
    await state('here');
    expect(value(lift)).toBe(9);
    const never = container.querySelector('[data-group="transform.rotate"] [data-state]') as HTMLElement;
    expect(never.dataset.state).toBe('never');
  });

  it('have names that choose channels: keys and in-betweens are of those only', async () => {
    const user = userEvent.setup();
    session.selection.select(['fender']);
    session.goTo(35);
    render(await panel('values/Values'));
    const { run } = await import('../../web/src/commands');
    const stretch = 'fender/transform.scale.y';
    const name = (label: string) => screen.getByRole('button', { name: `Choose ${label}` });
    for (const group of ['Position', 'Scale']) await user.click(screen.getByRole('button', { name: `Open ${group}` }));
    await user.click(name('Position Y'));
    expect(session.selection.channels).toEqual([lift]);
    expect(name('Position Y').getAttribute('aria-pressed')).toBe('true');
    run('key');
    expect([session.shot.hasKey(lift, 35), session.shot.hasKey(stretch, 35)]).toEqual([true, false]);
    run('undo');
    await user.keyboard('{Shift>}');
    await user.click(name('Scale Y'));
    await user.keyboard('{/Shift}');
    expect(session.selection.channels).toEqual([lift, stretch]);
    screen.getByRole('button', { name: '2 channels' });
    // A family at once; the same again leaves all.
    await user.click(name('Scale'));
    expect(session.selection.channels.map((a) => a.split('.').at(-1))).toEqual(['x', 'y', 'z']);
    await user.click(name('Scale'));
    expect(session.selection.channels).toEqual([]);
    // Next keys are those of what is chosen.
    await user.click(name('Position X'));
    run('nextKey');
    expect(session.shot.hasKey('fender/transform.translate.x', session.frame)).toBe(true);
    // Escape leaves the channels first, another object leaves them as well.
    run('leave');
    expect([session.selection.channels, session.selection.ids]).toEqual([[], ['fender']]);
    await user.click(name('Position X'));
    session.selection.select(['buoy']);
    expect(session.selection.channels).toEqual([]);
    // Nor are they meant any more where undo brings other objects back.
    session.shot.commit({ kind: 'removeNodes', ids: ['buoy'] } as never);
    session.selection.select(['fender']);
    session.selection.choose([lift]);
    session.shot.undo();
    expect([session.selection.ids, session.selection.channels]).toEqual([['buoy'], []]);
  });

  it('choose channels of the sky without any object, for keys and easings', async () => {
    const { meantSegments } = await import('../../web/src/curves/curveTools');
    const { run } = await import('../../web/src/commands');
    const strength = session.shot.channelsOf('world').find((c) => c.label === 'Sky intensity')!.address;
    session.selection.clear();
    session.goTo(0);
    session.selection.choose([strength]);
    expect(session.selection.channels).toEqual([strength]);
    run('key');
    session.goTo(20);
    run('key');
    expect(session.shot.keysOf(strength)).toEqual([0, 20]);
    session.goTo(10);
    expect(meantSegments()).toEqual([{ address: strength, frame: 0 }]);
    session.selection.choose([]);
    expect(meantSegments()).toEqual([]);
  });

  it('choose channels for the slider of in-betweens and for the tools, in a layer too', async () => {
    session.selection.select(['fender']);
    session.goTo(35);
    const { default: PoseStrip } = await import('../../web/src/poses/PoseStrip.svelte');
    const { meantChannels } = await import('../../web/src/curves/curveTools');
    session.selection.choose([lift]);
    expect(meantChannels()).toEqual([lift]);
    render(PoseStrip);
    screen.getByText(/of Fender · Position Y/);
    const slider = screen.getByRole('slider', { name: /In-between/ });
    slider.focus();
    await fireEvent.input(slider, { target: { value: 60 } });
    await fireEvent.keyDown(slider, { key: 'Enter' });
    await waitFor(() => expect(session.shot.hasKey(lift, 35)).toBe(true));
    expect(session.shot.hasKey('fender/transform.scale.y', 35)).toBe(false);
    session.shot.commit({ kind: 'addLayer', layer: { id: 'over', name: 'Over', mode: 'add' } } as never);
    session.shot.chooseLayer('over');
    expect(session.selection.channels).toEqual([`${lift}@over`]);
    session.shot.chooseLayer(null);
  });

  it('count what is selected, and say whether meshes could be mixed', async () => {
    const nodes = ['a', 'b', 'c'].map((id, i) => ({
      kind: 'mesh',
      id,
      name: id,
      shape: { kind: 'box', divisions: i === 2 ? 2 : 1 },
    }));
    session.shot.commit({ kind: 'addNodes', nodes } as never);
    const counts = () => screen.getByTestId('counts').textContent!.trim();
    session.selection.select(['a']);
    render(await panel('values/Values'));
    expect(counts()).toBe('24 vertices, 12 triangles');
    session.selection.select(['a', 'b']);
    flushSync();
    expect(counts()).toBe('48 vertices, 24 triangles in 2 meshes. Each has as many.');
    session.selection.select(['b', 'c']);
    flushSync();
    expect(counts()).toBe('78 vertices, 60 triangles in 2 meshes. Their numbers differ: they cannot be mixed.');
  });

  it('have deformers that come and go with their channels', async () => {
    const mesh = session.shot.scene.nodes.find((n) => n.kind === 'mesh' && !n.locked)!;
    session.selection.select([mesh.id]);
    render(await panel('values/Values'));
    const own = () => session.shot.channelsOf(mesh.id).filter((c) => c.path.startsWith('deform.')).length;
    const before = own();
    await user.click(screen.getByRole('button', { name: 'Twist' }));
    expect(own()).toBeGreaterThan(before);
    await user.click(screen.getAllByRole('button', { name: 'Remove twist' })[0]);
    expect(own()).toBe(before);
  });

  it('give all selected meshes another material in one step', async () => {
    const meshes = session.shot.scene.nodes.filter((n) => n.kind === 'mesh').slice(0, 2);
    session.selection.select(meshes.map((n) => n.id));
    render(await panel('values/Values'));
    const other = session.shot.scene.materials.find((m) => !meshes.some((n) => n.data.material === m.id))!;
    await user.selectOptions(screen.getByLabelText('Material'), other.id);
    expect(meshes.map((n) => session.shot.byId.get(n.id)!.data.material)).toEqual([other.id, other.id]);
    expect(session.shot.history!.undoLabel).toBe(`Material: ${other.name}`);
    await user.selectOptions(screen.getByLabelText('Material'), '');
    expect(session.shot.byId.get(meshes[0].id)!.data.material).toBeUndefined();
    session.shot.undo();
    session.shot.undo();
    expect(session.shot.byId.get(meshes[0].id)!.data.material).toBe(meshes[0].data.material);
  });

  it('let a camera render the shot', async () => {
    const other = session.shot.scene.nodes.find((n) => n.kind === 'camera' && n.id !== session.shot.scene.camera)!;
    session.selection.select([other.id]);
    render(await panel('values/Values'));
    await user.click(screen.getByRole('button', { name: 'Render through this camera' }));
    expect(session.shot.scene.camera).toBe(other.id);
    await waitFor(() =>
      expect(screen.getByRole('button', { name: 'Renders the shot' })).toHaveProperty('disabled', true),
    );
  });
});

describe('steps of a number', () => {
  it('by the arrow keys are one change, which undo takes back at once', async () => {
    session.selection.select(['fender']);
    session.goTo(0);
    render(await panel('values/Values'));
    const field = screen.getByRole('textbox', { name: 'Pivot Y' });
    const pivot = 'fender/transform.pivot.y';
    const before = value(pivot);
    const steps = session.shot.history!.revision;
    field.focus();
    await user.keyboard('{ArrowUp>5/}{ArrowUp}{ArrowDown}');
    expect(value(pivot)).toBeCloseTo(before + 0.5, 6);
    field.blur();
    await tick();
    expect(session.shot.history!.revision).toBe(steps + 1);
    expect(value(pivot)).toBeCloseTo(before + 0.5, 6);
    session.shot.undo();
    expect(value(pivot)).toBeCloseTo(before, 6);
  });
});

describe('the list of objects', () => {
  it('selects, adds to the selection, opens groups and renames', async () => {
    const { container } = render(await panel('objects/SceneList'));
    const line = (id: string) => container.querySelector(`#node-${id}`) as HTMLElement;
    await user.click(line('buoy'));
    expect(session.selection.ids).toEqual(['buoy']);
    await user.keyboard('{Control>}');
    await user.click(line('fender'));
    await user.keyboard('{/Control}');
    expect(session.selection.ids).toEqual(['buoy', 'fender']);
    const child = session.shot.scene.nodes.find((n) => n.parent === 'buoy')!;
    expect(line(child.id)).toBeNull();
    line('buoy').focus();
    await user.keyboard('{ArrowRight}');
    await waitFor(() => expect(line(child.id)).not.toBeNull());
    line('buoy').focus();
    await user.keyboard('{F2}');
    const input = await waitFor(() => container.querySelector('[role=treeitem] input') as HTMLInputElement);
    await user.clear(input);
    await user.type(input, 'Bell buoy{Enter}');
    expect(session.shot.byId.get('buoy')!.name).toBe('Bell buoy');
  });
});

describe('the history', () => {
  it('lists what was done, newest first, and goes back to what is clicked', async () => {
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'One' });
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Two' });
    render(await panel('shots/History'));
    const steps = () => screen.getAllByRole('listitem').map((l) => l.textContent!.replace(/\s+/g, ' ').trim());
    expect(steps()).toEqual(['2Rename to Two', '1Rename to One', '0Start']);
    await user.click(screen.getByText('Rename to One'));
    expect(session.shot.byId.get('buoy')!.name).toBe('One');
    expect(steps().length).toBe(3);
    expect(screen.getByText('Rename to One').closest('button')!.getAttribute('aria-current')).toBe('true');
  });
});

describe('the shelf of easings', () => {
  it('puts an easing on the selected keys, in the direction chosen', async () => {
    render(await panel('curves/Easings'));
    await user.click(screen.getByRole('button', { name: /^Bounce/ }));
    expect(session.messages.notice!.text).toContain('Select the keys');
    session.selection.keys = [{ address: lift, frame: session.shot.keysOf(lift)[0] }];
    await user.click(screen.getByRole('radio', { name: 'Out' }));
    await user.click(screen.getByRole('button', { name: /^Bounce/ }));
    expect(session.shot.curve(lift)!.keys[0].segment).toMatchObject({ ease: 'bounce', direction: 'out' });
    await user.click(screen.getByRole('button', { name: /^Hold/ }));
    expect(session.shot.curve(lift)!.keys[0].segment).toBe('hold');
  });

  it('draws each with a path from start to end', async () => {
    const { container } = render(await panel('curves/Easings'));
    const paths = [...container.querySelectorAll('svg[viewBox="0 0 40 28"] path')].map((p) => p.getAttribute('d')!);
    expect(paths.length).toBe(13);
    for (const d of paths) {
      expect(d).toMatch(/^M0\.00 22\.00L/);
      expect(d).toMatch(/L40\.00 6\.00$/);
    }
    expect(new Set(paths).size).toBeGreaterThanOrEqual(12);
  });
});

describe('a dialog', () => {
  it('is left with Escape and by its cross, and does not close another that has come in its place', async () => {
    const Help = await panel('app/Help');
    ui.dialog = 'help';
    const { unmount } = render(Help);
    await screen.findByRole('dialog', { name: 'Shortcuts' });
    await user.keyboard('{Escape}');
    expect(ui.dialog).toBe(null);
    unmount();
    ui.dialog = 'help';
    render(Help);
    await screen.findByRole('dialog', { name: 'Shortcuts' });
    ui.dialog = 'search';
    await user.click(screen.getByRole('button', { name: 'Close' }));
    expect(ui.dialog).toBe('search');
  });
});

describe('the search', () => {
  it('finds what begins with the word first, and does it with Enter', async () => {
    ui.dialog = 'search';
    session.selection.select(['fender']);
    session.goTo(3);
    render(await panel('app/CommandSearch'));
    const input = screen.getByLabelText('Command');
    await user.type(input, 'key');
    const first = screen.getAllByRole('option')[0];
    expect(first.textContent).toMatch(/^Key/);
    await user.clear(input);
    await user.type(input, 'duplicate{Enter}');
    expect(session.selection.nodes.map((n) => n.name)).toEqual(['Fender 2']);
    expect(ui.dialog).toBeNull();
  });

  it('puts a word before letters inside another, and what has a shortcut before what has none', async () => {
    render(await panel('app/CommandSearch'));
    await user.type(screen.getByLabelText('Command'), 'hold');
    const titles = screen.getAllByRole('option').map((o) => o.textContent ?? '');
    expect(titles[0]).toContain('Key a hold on this frame');
    expect(titles.slice(0, 3).every((t) => /\bhold/i.test(t))).toBe(true);
    // Signs that mean something to a pattern are letters like others.
    await user.clear(screen.getByLabelText('Command'));
    await user.type(screen.getByLabelText('Command'), '(.glb');
    expect(screen.getAllByRole('option')[0].textContent).toContain('.glb');
  });

  it('finds objects, walks with the arrows, and says when there is nothing', async () => {
    render(await panel('app/CommandSearch'));
    const input = screen.getByLabelText('Command');
    await user.type(input, 'select bu');
    await user.keyboard('{ArrowDown}{ArrowUp}{Enter}');
    expect(session.selection.ids).toEqual(['buoy']);
    await user.clear(input);
    await user.type(input, 'qqqqqq');
    expect(screen.getByText(/Nothing of that name/)).toBeTruthy();
  });
});

describe('time and size', () => {
  it('are set, kept in proportion, and refused when they make no sense', async () => {
    render(await panel('shots/ShotSettings'));
    const change = async (label: string, text: string) => {
      const input = screen.getByLabelText(label);
      await user.clear(input);
      await user.type(input, text);
      await user.tab();
    };
    await user.selectOptions(screen.getByLabelText('Frame rate'), '25/1');
    expect(session.shot.scene.rate).toBe(25);
    await change('Resolution', '640');
    expect([session.shot.scene.width, session.shot.scene.height]).toEqual([640, 360]);
    await change('Last frame', '47');
    expect([session.shot.scene.first, session.shot.scene.last]).toEqual([0, 47]);
    const last = screen.getByLabelText<HTMLInputElement>('Last frame');
    await user.clear(last);
    await user.type(last, '-9{Enter}');
    expect(screen.getByRole('alert').textContent).toContain('0 is the least');
    expect(session.shot.scene.last).toBe(47);
    // Nothing is no number, and Escape takes back.
    await change('Last frame', ' ');
    expect([session.shot.scene.last, last.value]).toEqual([47, '47']);
    await user.clear(last);
    await user.type(last, '12{Escape}');
    expect([session.shot.scene.last, last.value]).toEqual([47, '47']);
    await change('Playback to', '24');
    expect([session.shot.scene.playFirst, session.shot.scene.playLast]).toEqual([0, 24]);
    await user.click(screen.getByRole('button', { name: 'All' }));
    expect(session.shot.scene.playLast).toBe(47);
  });
});

describe('shortcuts', () => {
  it('are changed by pressing others, belong to one command, are cleared, and come back', async () => {
    ui.part = 'stage';
    render(await panel('app/Help'));
    // Those of the part that has the focus come first; a word finds in all.
    expect(screen.queryByRole('button', { name: 'Change the shortcut of Tool: Rotate' })).toBeNull();
    screen.getByRole('button', { name: 'Change the shortcut of Turn the view to the left' });
    await user.type(screen.getByLabelText('Filter the shortcuts'), 'tool: rotate');
    await user.click(screen.getByRole('button', { name: 'Change the shortcut of Tool: Rotate' }));
    await user.keyboard('p');
    expect(preferences.shortcuts['tool.rotate']).toBe('p');
    expect(preferences.shortcuts['tool.select']).toBe('');
    expect(session.messages.notice!.text).toBe('“Tool: Select” has lost P.');
    // However the keys are written: those of the pose library say which key it is, these what it writes.
    await user.click(screen.getByRole('button', { name: 'Change the shortcut of Tool: Rotate' }));
    await user.keyboard('{Shift>}p{/Shift}');
    expect(preferences.shortcuts.shelf).toBe('');
    await user.click(screen.getByRole('button', { name: 'Clear the shortcut of Tool: Rotate' }));
    expect(preferences.shortcuts['tool.rotate']).toBe('');
    await user.click(screen.getByRole('button', { name: 'Reset all' }));
    expect(preferences.shortcuts).toEqual({});
    session.messages.notice!.action!.run();
    expect(preferences.shortcuts['tool.select']).toBe('');
    preferences.shortcuts = {};
  });

  it('never clash as they come, and clashes that were brought in are listed', async () => {
    const { commands } = await import('../../web/src/commands');
    const { clashOf } = await import('../../web/src/commands/ownShortcuts');
    expect(commands.filter((c) => clashOf(c)).map((c) => c.id)).toEqual([]);
    preferences.shortcuts = { 'tool.rotate': 'm' };
    render(await panel('app/Help'));
    await user.click(screen.getByRole('radio', { name: 'Conflicts (2)' }));
    screen.getByRole('button', { name: 'Change the shortcut of Tool: Move' });
    expect(screen.getAllByText('conflict')).toHaveLength(2);
    preferences.shortcuts = {};
  });

  it('go to another browser as a file, and files that are none are refused', async () => {
    const { exportShortcuts, importShortcuts } = await import('../../web/src/commands/ownShortcuts');
    preferences.shortcuts = { 'tool.rotate': 'q', undo: '' };
    const file = exportShortcuts();
    preferences.shortcuts = {};
    expect(importShortcuts(file)).toEqual({ taken: 2, unknown: [] });
    expect(preferences.shortcuts).toEqual({ 'tool.rotate': 'q', undo: '' });
    const other = (change: object) => JSON.stringify({ ...JSON.parse(file), ...change });
    expect(importShortcuts(other({ shortcuts: { nobody: 'x', undo: 7, redo: 'z' } }))).toEqual({
      taken: 1,
      unknown: ['nobody', 'undo'],
    });
    for (const bad of [
      '',
      '[]',
      'null',
      '{}',
      other({ format: 'x' }),
      other({ shortcuts: ['a'] }),
      other({ version: 2 }),
    ])
      expect(() => importShortcuts(bad)).toThrow(/choose one|newer version/);
    // What was refused has changed nothing.
    expect(preferences.shortcuts).toEqual({ redo: 'z' });
    preferences.shortcuts = {};
  });

  it('of redo are both that hands know', async () => {
    const { listen } = await import('../../web/src/commands/shortcuts');
    const stop = listen();
    ui.part = 'stage';
    session.shot.pose([{ address: lift, value: 7 }], true);
    session.shot.keyNow([lift]);
    for (const redo of ['{Control>}y{/Control}', '{Control>}{Shift>}[KeyZ]{/Shift}{/Control}']) {
      session.shot.undo();
      expect(session.shot.history!.redoLabel).not.toBeNull();
      await user.keyboard(redo);
      expect(session.shot.history!.redoLabel ?? null).toBeNull();
    }
    stop();
  });
});

describe('render settings', () => {
  beforeEach(() => {
    const settings = renderSettings('shot');
    [settings.quality, settings.size, settings.loop] = ['preview', null, false];
  });

  const ordered = () => sent.filter((s) => s.method === 'POST' && s.path === '/api/renders').map((s) => s.body);

  it('order what they show', async () => {
    const onordered = vi.fn();
    render(await panel('render/RenderSettings'), { onordered });
    await user.click(screen.getByRole('radio', { name: /^Draft/ }));
    await user.click(screen.getByRole('button', { name: 'Quarter' }));
    await user.click(screen.getByLabelText(/It is/));
    expect(screen.getByTestId('estimate').textContent).toContain('119 frames of 320×180');
    answers.set('POST /api/renders', {
      status: 200,
      body: { id: 'new', shotId: 'shot', frameCount: 4, doneRanges: [], done: 0 },
    });
    await user.click(screen.getByRole('button', { name: 'Render 0-118' }));
    await waitFor(() => expect(onordered).toHaveBeenCalledWith('new'));
    expect(ordered()).toEqual([
      {
        shotId: 'shot',
        frames: '0-118',
        width: 320,
        height: 180,
        quality: 'draft',
        camera: null,
        fileName: 'shot_####.png',
      },
    ]);
  });

  it('stay when the panel is left and come back to', async () => {
    const left = render(await panel('render/RenderSettings'), { onordered: () => undefined });
    await user.click(screen.getByRole('radio', { name: /^Final/ }));
    await user.click(screen.getByRole('button', { name: 'Full' }));
    left.unmount();
    render(await panel('render/RenderSettings'), { onordered: () => undefined });
    expect(screen.getByRole('radio', { name: /^Final/ }).getAttribute('aria-checked')).toBe('true');
    expect(screen.getByTestId('estimate').textContent).toContain('120 frames of 1280×720');
  });

  it('show why an order was refused, where it was given', async () => {
    const onordered = vi.fn();
    render(await panel('render/RenderSettings'), { onordered });
    answers.set('POST /api/renders', { status: 422, body: { detail: 'The name has no #: add one.' } });
    await user.click(screen.getByRole('button', { name: 'Render frame 0' }));
    expect((await screen.findByRole('alert')).textContent).toBe('The name has no #: add one.');
    expect(onordered).not.toHaveBeenCalled();
    expect(session.renders.list).toEqual([]);
  });

  it('tell how long it will take from what was rendered last', async () => {
    const view = { id: 'r', shotId: 'shot', quality: 'preview', done: 2, width: 320, height: 180 };
    session.renders.take({ ...view, millisecondsPerFrame: 250, frameCount: 0, doneRanges: [] } as never);
    render(await panel('render/RenderSettings'), { onordered: () => undefined });
    // Four times the pixels, 120 frames: 250 ms × 4 × 120.
    expect(screen.getByTestId('estimate').textContent).toContain('about 2 min');
  });
});

describe('the room that the library takes', () => {
  const shot = (id: string, name: string) => ({ id, name, created: '', changed: '2026-01-01T10:00:00Z', revision: 1 });
  const room = {
    database: 2_100_000,
    assets: 88_000_000,
    renders: 3_200_000_000,
    free: 63e9,
    trashCount: 2,
    trash: 1.5e6,
  };
  /** What the server says the next time it is asked. */
  const trash = (...names: string[]) => {
    answers.set('GET /api/room', { status: 200, body: room });
    answers.set('GET /api/shots', { status: 200, body: names.map((n) => shot(n.toLowerCase(), n)) });
  };
  const click = async (name: string | RegExp) => user.click(await screen.findByRole('button', { name }));

  it('is said, and what is in the trash can be restored', async () => {
    const onchange = vi.fn();
    trash('Mole', 'Pier');
    render(await panel('shots/LibraryRoom'), { shots: [], onchange });
    expect((await screen.findByText(/2.1 MB/)).textContent).toMatch(/88 MB.*3.2\s+GB.*63.0 GB free/s);
    await click('Trash (2, 1.5 MB)');
    trash('Mole');
    await user.click(within(screen.getByText('Pier').closest('li')!).getByRole('button', { name: 'Restore' }));
    await waitFor(() => expect(screen.queryByText('Pier')).toBeNull());
    expect(sent.filter((s) => s.method !== 'GET').map((s) => `${s.method} ${s.path}`)).toEqual([
      'POST /api/shots/pier/undelete',
    ]);
    expect(onchange).toHaveBeenCalledOnce();
  });

  it('is given back only when one is sure, and a refusal is shown', async () => {
    trash('Mole', 'Pier');
    render(await panel('shots/LibraryRoom'), { shots: [], onchange: () => undefined });
    await click(/^Trash/);
    await click('Empty trash …');
    await click('Cancel');
    expect(sent.filter((s) => s.method !== 'GET')).toEqual([]);
    await click('Empty trash …');
    trash('Mole', 'Pier');
    answers.set('DELETE /api/shots/trash', { status: 507, body: { detail: 'The disk is full: make room.' } });
    await click('Empty trash');
    expect((await screen.findByRole('alert')).textContent).toBe('The disk is full: make room.');
    expect(screen.getByText('Mole')).toBeTruthy();
    await click('Empty trash …');
    trash();
    await click('Empty trash');
    await waitFor(() => expect(screen.queryByRole('button', { name: /^Trash/ })).toBeNull());
  });
});

describe('dailies', () => {
  const sequence = (id: string, more = {}) =>
    ({
      id,
      shotId: 'shot',
      shotRevision: 0,
      frames: '0-3',
      width: 64,
      height: 36,
      quality: 'draft',
      fileName: 'shot_####.png',
      created: '2026-01-01T10:00:00Z',
      state: 'done',
      message: null,
      kept: false,
      frameCount: 4,
      doneRanges: [{ first: 0, last: 3 }],
      done: 4,
      millisecondsPerFrame: 10,
      secondsLeft: null,
      framesPerSecond: 24,
      ...more,
    }) as never;
  const show = async () =>
    render(await panel('render/Dailies'), {
      chosen: null,
      compared: null,
      onchoose: () => undefined,
      oncompare: () => undefined,
    });

  it('tell what to do while there are none', async () => {
    await show();
    expect(screen.getByText(/Every sequence you render is kept here/)).toBeTruthy();
  });

  it('show progress, time left and a way to stop', async () => {
    session.renders.take(sequence('a', { state: 'running', done: 2, millisecondsPerFrame: 500, secondsLeft: 75 }));
    await show();
    expect(screen.getByTestId('progress').textContent).toBe('2 of 4 · 0.50 s each · 2 min left');
    await user.click(screen.getByRole('button', { name: 'Stop' }));
    await waitFor(() => expect(sent.some((s) => s.path === '/api/renders/a/cancel')).toBe(true));
  });

  it('say why one failed, and go on with it', async () => {
    session.renders.take(sequence('b', { state: 'failed', done: 1, message: 'The disk is full.' }));
    await show();
    expect(screen.getByRole('alert').textContent).toBe('The disk is full.');
    await user.click(screen.getByRole('button', { name: 'Resume' }));
    await waitFor(() => expect(sent.some((s) => s.path === '/api/renders/b/resume')).toBe(true));
  });

  it('take the shot back to the state that made one', async () => {
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Later' });
    session.renders.take(sequence('c'));
    await show();
    await user.click(screen.getByRole('button', { name: 'Restore this version' }));
    expect(session.shot.byId.get('buoy')!.name).toBe('Buoy');
    await waitFor(() =>
      expect(screen.getByRole('button', { name: 'Restore this version' })).toHaveProperty('disabled', true),
    );
    session.shot.undo();
    session.shot.redo();
  });

  it('say the sentence of the server when a film cannot be made', async () => {
    session.renders.take(sequence('d'));
    await show();
    answers.set('POST /api/renders/d/film', { status: 422, body: { detail: 'ffmpeg is needed: install it.' } });
    await user.click(screen.getByRole('button', { name: 'Film' }));
    await waitFor(() => expect(session.messages.notice?.text).toBe('ffmpeg is needed: install it.'));
    expect(screen.getByRole('button', { name: 'Film' })).toHaveProperty('disabled', false);
  });
});

describe('what takes its time', () => {
  const show = async () => render(await panel('widgets/WorkStrip'), {});

  it('is shown with how far it is and how long it takes, until it is done', async () => {
    await show();
    let report!: (part: number | null) => void;
    let finish!: (value: string) => void;
    const done = work.run('Film of 0-9', (_, tell) => {
      report = tell;
      return new Promise<string>((end) => (finish = end));
    });
    const bar = await screen.findByRole('progressbar', { name: 'Film of 0-9' });
    expect(bar).not.toHaveProperty('value', 0.25);
    report(0.25);
    await waitFor(() => expect(bar).toHaveProperty('value', 0.25));
    expect(screen.getByText(/^25 %, \d+ s left$/)).toBeTruthy();
    finish('film.mp4');
    expect(await done).toBe('film.mp4');
    await waitFor(() => expect(screen.queryByRole('progressbar')).toBeNull());
  });

  it('is cancelled by its button, and gives nothing', async () => {
    await show();
    const done = work.run(
      'Importing pier.json',
      (signal) =>
        new Promise<string>((_, failed) => signal.addEventListener('abort', () => failed(new Error('Cancelled.')))),
    );
    await user.click(await screen.findByRole('button', { name: 'Cancel' }));
    expect(await done).toBeNull();
    expect(work.jobs).toEqual([]);
  });

  it('says why when it fails', async () => {
    await expect(work.run('Film', () => Promise.reject(new Error('The disk is full.')))).rejects.toThrow(
      'The disk is full.',
    );
    expect(work.jobs).toEqual([]);
  });
});
