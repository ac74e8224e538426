// @vitest-environment jsdom
// Animation that is copied and put elsewhere: the commands and the tool, on the real engine.
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { motionInHand } = await import('../../web/src/curves/motion');
const hasMotion = () => motionInHand() !== null;
const { default: CurveTool } = await import('../../web/src/curves/CurveTool.svelte');
const said = () => session.messages.notice?.text;

beforeEach(async () => {
  localStorage.clear();
  ui.curveTool = null;
  session = await openDemo();
});
afterEach(cleanup);

describe('copied animation', () => {
  it('goes from one object onto another, at the playhead, in the shot that is open then', async () => {
    expect(hasMotion()).toBe(false);
    run('motion.put');
    expect(said()).toContain('No animation is copied');
    for (const frame of [2, 8])
      session.shot.commit({
        kind: 'setKeys',
        frame,
        values: [{ address: 'islet/transform.rotate.y', value: frame }],
      } as never);
    session.selection.select(['islet']);
    const { name } = session.shot.byId.get('islet')!;
    run('motion.copy');
    expect(said()).toContain(`The animation of “${name}” is copied`);
    // Another shot, or this one as it was opened again.
    session = await openDemo();
    session.selection.select(['dome']);
    session.goTo(10);
    const target = 'dome/transform.rotate.y';
    expect(session.shot.keysOf(target)).toEqual([]);
    run('motion.put');
    render(CurveTool);
    // What it would do is shown at once.
    await waitFor(() => expect(session.shot.keysOf(target)).toEqual([10, 16]));
    await fireEvent.click(screen.getByRole('button', { name: 'Apply' }));
    expect(session.shot.keysOf(target)).toEqual([10, 16]);
    expect(said()).toBe('1 channel of 1 object.');
    session.shot.undo();
    expect(session.shot.keysOf(target)).toEqual([]);
  });

  it('is that of the chosen channels alone, copied and put, and keeps the place of the object where that is wanted', async () => {
    const rise = 'fender/transform.translate.y';
    const squash = 'fender/transform.scale.y';
    session.selection.select(['fender']);
    session.selection.choose([rise]);
    run('motion.copy');
    const copied = JSON.parse(localStorage.getItem('bradymotus.motion')!) as { parts: { path: string }[] };
    expect(copied.parts.map((p) => p.path)).toEqual(['transform.translate.y']);
    // What is chosen where it is put counts too, though more was copied.
    session.selection.choose([]);
    run('motion.copy');
    const [target, scale] = ['islet/transform.translate.y', 'islet/transform.scale.y'];
    session.selection.select(['islet']);
    session.selection.choose([target]);
    const before = session.shot.valueOf(session.shot.channelAt(target)!);
    session.goTo(5);
    run('motion.put');
    render(CurveTool);
    await fireEvent.change(screen.getByLabelText('Place'), { target: { value: '1' } });
    await fireEvent.click(screen.getByRole('button', { name: 'Apply' }));
    expect(session.shot.keysOf(target)).toHaveLength(session.shot.keysOf(rise).length);
    expect(session.shot.keysOf(scale)).toEqual([]);
    expect(session.shot.curve(target)!.keys[0].value).toBeCloseTo(before, 6);
    expect(session.shot.keysOf(squash).length).toBeGreaterThan(0);
  });

  it('says where nothing is to be copied, or nothing fits', () => {
    session.selection.select(['islet']);
    run('motion.copy');
    expect(said()).toContain('There is no animation to copy');
    localStorage.setItem('bradymotus.motion', 'spoiled');
    expect(hasMotion()).toBe(false);
  });
});

describe('copied objects', () => {
  /** As if they had been copied in another shot. */
  const elsewhere = (change: (copied: Record<string, unknown>) => void = () => {}) => {
    const copied = JSON.parse(localStorage.getItem('bradymotus.objects')!);
    copied.shot = 'elsewhere';
    change(copied);
    localStorage.setItem('bradymotus.objects', JSON.stringify(copied));
  };

  it('are copies beside themselves in their own shot, and come with all that is theirs into another', async () => {
    run('paste');
    expect(said()).toContain('Nothing is copied');
    session.selection.select(['fender']);
    run('copyObjects');
    expect(said()).toBe('One object copied.');
    const count = session.shot.scene.nodes.length;
    run('paste');
    expect(session.shot.history!.undoLabel).toBe('Duplicate Fender');
    session.shot.undo();

    // In a shot that has nothing of it.
    session = await openDemo((shot) => {
      shot.nodes = shot.nodes.filter((n: { kind: string }) => n.kind === 'camera' || n.kind === 'sun');
      shot.materials = [];
      shot.camera = null;
    });
    elsewhere();
    const before = session.shot.scene.nodes.length;
    run('paste');
    expect(session.shot.history!.undoLabel).toBe('Paste Fender');
    const came = session.shot.scene.nodes.slice(before);
    expect(came.length).toBeGreaterThan(1);
    expect(came.length).toBeLessThan(count);
    const [root] = session.selection.nodes;
    expect([root.name, root.parent ?? null, session.selection.ids.length]).toEqual(['Fender', null, 1]);
    expect(session.shot.keysOf(`${root.id}/transform.translate.y`).length).toBeGreaterThan(5);
    expect(session.shot.scene.materials.length).toBeGreaterThan(0);
    run('paste');
    expect(session.selection.nodes[0].name).toBe('Fender 2');
    session.shot.undo();
    session.shot.undo();
    expect(session.shot.scene.nodes).toHaveLength(before);
  });

  it('say what has to come along, and nothing of what is spoiled or older than copied keys', () => {
    session.selection.select(['islet']);
    run('instance');
    run('copyObjects');
    session.selection.clear();
    elsewhere();
    run('paste');
    expect(said()).toContain('cannot be copied without');
    elsewhere((copied) => (copied.taken = { nodes: [{ kind: 'what', id: 'a' }] }));
    const { length } = session.shot.history!.steps;
    run('paste');
    expect(session.shot.history!.steps).toHaveLength(length);
    localStorage.setItem('bradymotus.objects', 'spoiled');
    run('paste');
    expect(said()).toBeTruthy();
    session.phase = 'polish';
    ui.part = 'tracks';
    session.selection.select(['fender']);
    session.selection.keys = [{ address: 'fender/transform.translate.y', frame: 29 }];
    run('copyKeys');
    expect(localStorage.getItem('bradymotus.objects')).toBeNull();
    session.goTo(33);
    run('paste');
    expect(session.shot.keysOf('fender/transform.translate.y')).toContain(33);
  });
});
