// @vitest-environment jsdom
// Animation that is copied and put elsewhere: the commands and the tool, on the real engine.
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/state/commands');
const { ui } = await import('../../web/src/state/ui.svelte');
const { motionInHand } = await import('../../web/src/state/motion');
const hasMotion = () => motionInHand() !== null;
const { default: CurveTool } = await import('../../web/src/panels/CurveTool.svelte');
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

  it('says where nothing is to be copied, or nothing fits', () => {
    session.selection.select(['islet']);
    run('motion.copy');
    expect(said()).toContain('There is no animation to copy');
    localStorage.setItem('bradymotus.motion', 'spoiled');
    expect(hasMotion()).toBe(false);
  });
});
