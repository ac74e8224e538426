// @vitest-environment jsdom
// The shelf of poses and motions, on the real engine: kept, put in part, mirrored, of some channels only, renamed, taken away.
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { answers, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { viewState } = await import('../../web/src/stores/viewState.svelte');
const { savedShelf } = await import('../../web/src/poses/savedShelf.svelte');
const { default: Shelf } = await import('../../web/src/poses/SavedShelf.svelte');
const { default: CurveTool } = await import('../../web/src/curves/CurveTool.svelte');
const said = () => session.messages.notice?.text;
const valueOf = (address: string) => session.shot.valueOf(session.shot.channelAt(address)!);

interface Kept {
  kind: string;
  name: string;
  parts: { name: string; path: string; value?: number }[];
}
const kept = () => sent.filter((s) => s.method === 'POST' && s.path === '/api/saved').map((s) => s.body as Kept);

/** A shelf as the server would have it, of what has been kept so far. */
function shelve(...saved: Kept[]) {
  saved.forEach((s, i) => answers.set(`GET /api/saved/s${i}`, { status: 200, body: s }));
  savedShelf.list = saved.map((s, i) => ({
    id: `s${i}`,
    name: s.name,
    kind: s.kind,
    objects: [s.parts[0].name],
    objectCount: 1,
    channels: s.parts.length,
    pictures: 0,
    created: '2026-01-01T00:00:00Z',
  }));
  answers.set('GET /api/saved', { status: 200, body: savedShelf.list });
}

/** Takes what is selected onto a fresh shelf. */
async function keep(kind: 'pose' | 'motion'): Promise<Kept> {
  const before = kept().length;
  const item = { id: 'new', name: 'New', kind, objects: [], objectCount: 0, channels: 0, pictures: 0, created: '' };
  answers.set('POST /api/saved', { status: 200, body: item });
  run(`shelf.${kind}`);
  await waitFor(() => expect(kept().length).toBe(before + 1));
  return kept().at(-1)!;
}

beforeEach(async () => {
  [ui.curveTool, viewState.shelf] = [null, false];
  session = await openDemo();
  savedShelf.without = new Set();
  savedShelf.mirror = false;
});
afterEach(cleanup);

const first = (pose: Kept, path: string) => pose.parts.find((p) => p.name === 'Fender' && p.path === path)!.value!;

describe('the shelf', () => {
  it('keeps what is selected and says what is missing', async () => {
    run('shelf.pose');
    expect(said()).toContain('Select the objects whose pose shall be kept');
    session.selection.select(['islet']);
    run('shelf.motion');
    expect(said()).toContain('no animation to keep');
    session.selection.select(['fender']);
    session.goTo(28);
    const pose = await keep('pose');
    expect([pose.kind, pose.name]).toEqual(['pose', 'Fender, frame 28']);
    expect(pose.parts.filter((p) => p.path === 'transform.scale.y').length).toBe(4);
    const motion = await keep('motion');
    expect([motion.kind, motion.name]).toEqual(['motion', 'Fender']);
    await waitFor(() => expect(viewState.shelf).toBe(true));
  });

  it('puts a pose in part while one slides, keeps it as one step, and Escape leaves it', async () => {
    session.selection.select(['fender']);
    session.goTo(0);
    const pose = await keep('pose');
    shelve(pose);
    session.goTo(29);
    session.autoKey = true;
    const y = 'fender/transform.translate.y';
    const [low, high] = [valueOf(y), first(pose, 'transform.translate.y')];
    render(Shelf);
    const slider = await screen.findByRole<HTMLInputElement>('slider', { name: 'Fender, frame 0: how much' });
    await fireEvent.focusIn(slider);
    await savedShelf.fetch('s0');
    const slide = (to: number) => fireEvent.input(slider, { target: { value: String(to) } });
    const { undoLabel } = session.shot.history!;
    await slide(50);
    expect(valueOf(y)).toBeCloseTo((low + high) / 2, 9);
    await slide(120);
    expect(valueOf(y)).toBeCloseTo(low + 1.2 * (high - low), 9);
    await fireEvent.keyDown(slider, { key: 'Escape' });
    expect([valueOf(y), slider.value, session.shot.history!.undoLabel]).toEqual([low, '0', undoLabel]);
    await slide(25);
    await fireEvent.keyDown(slider, { key: 'Enter' });
    expect(valueOf(y)).toBeCloseTo(low + 0.25 * (high - low), 9);
    expect(session.shot.hasKey(y, 29)).toBe(true);
    session.shot.undo();
    expect(valueOf(y)).toBe(low);
  });

  it('puts a whole pose with a click, of those channels that are wanted, and it waits where nothing keys by itself', async () => {
    session.selection.select(['fender']);
    session.goTo(0);
    const pose = await keep('pose');
    shelve(pose);
    session.goTo(29);
    const y = 'fender/transform.translate.y';
    const [scale, low] = [valueOf('fender/transform.scale.y'), valueOf(y)];
    session.selection.choose(['fender/transform.scale.y']);
    await savedShelf.put('s0');
    expect([valueOf('fender/transform.scale.y'), valueOf(y)]).toEqual([first(pose, 'transform.scale.y'), low]);
    session.selection.choose([]);
    session.shot.undo();
    session.goTo(0);
    session.goTo(29);
    savedShelf.togglePart('scale');
    await savedShelf.put('s0');
    expect(valueOf('fender/transform.scale.y')).toBe(scale);
    expect(valueOf(y)).toBe(first(pose, 'transform.translate.y'));
    // A key is there on this frame: it changes; what has none waits.
    expect(session.shot.waiting.has(y) || session.shot.hasKey(y, 29)).toBe(true);
    for (const part of ['position', 'rotation', 'rest']) savedShelf.togglePart(part);
    await savedShelf.put('s0');
    expect(said()).toContain('Nothing of this pose is taken');
    session.shot.undo();
    session.goTo(0);
    session.goTo(29);
    expect(valueOf(y)).toBe(low);
  });

  it('says what a pose is of that fits nowhere, and opens a motion with its numbers', async () => {
    session.selection.select(['fender']);
    const [pose, motion] = [await keep('pose'), await keep('motion')];
    shelve(pose, motion);
    session.selection.select(['lighthouse']);
    await savedShelf.put('s0');
    expect(said()).toContain('it is of “Fender”, “Spin”');
    session.selection.select(['fender']);
    session.goTo(200);
    const before = session.shot.keysOf('fender/transform.translate.y').slice();
    render(CurveTool);
    await savedShelf.put('s1');
    expect(ui.curveTool).toBe('putMotion');
    await fireEvent.click(await screen.findByRole('button', { name: 'Apply' }));
    const span = before.at(-1)! - before[0];
    expect(session.shot.keysOf('fender/transform.translate.y').at(-1)).toBe(200 + span);
  });

  it('renames, and takes away so that it can be put back', async () => {
    session.selection.select(['fender']);
    shelve(await keep('pose'));
    render(Shelf);
    const item = await screen.findByRole('button', { name: 'Put Fender, frame 0' });
    await fireEvent.keyDown(item, { key: 'F2' });
    const field = screen.getByRole('textbox', { name: 'Name' });
    answers.set('PUT /api/saved/s0/name', { status: 200, body: { ...savedShelf.list![0], name: 'High' } });
    await fireEvent.input(field, { target: { value: 'High' } });
    await fireEvent.blur(field);
    expect(await screen.findByRole('button', { name: 'Put High' })).toBeTruthy();
    await fireEvent.keyDown(screen.getByRole('button', { name: 'Put High' }), { key: 'Delete' });
    await waitFor(() => expect(said()).toBe('“High” is deleted from the pose library.'));
    expect(session.messages.notice!.action!.label).toBe('Undo');
    expect(sent.at(-1)).toMatchObject({ method: 'DELETE', path: '/api/saved/s0' });
  });
});
