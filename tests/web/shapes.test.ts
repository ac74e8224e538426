// @vitest-environment jsdom
// Shapes that are added by command, their numbers as channels, words, and outlines put together, on the real engine.
import { beforeEach, describe, expect, it } from 'vitest';
import { answers, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { newKinds } = await import('../../web/src/objects/creation');

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'set';
});

const only = () => session.selection.nodes[0];
const counts = (id = only().id) => session.shot.engine!.counts([id])[0];
const box = (id = only().id) => session.shot.engine!.bounds([id]);
const set = (path: string, value: number) => session.shot.pose([{ address: `${only().id}/${path}`, value }], true);
const square = (side: number) => `M0 0H${side}V${side}H0z`;

/** Adds words that the server would have made an outline of. */
async function addText(path: string) {
  answers.set('POST /api/outlines/text', { status: 200, body: { path } });
  const before = session.shot.scene.nodes.length;
  run('add.text');
  await expect.poll(() => session.shot.scene.nodes.length).toBe(before + 1);
  return only();
}

describe('shapes', () => {
  it('of every kind are added by a command, selected, and drawn with numbers that can be keyed', async () => {
    answers.set('POST /api/outlines/text', { status: 200, body: { path: square(1) } });
    for (const { kind, label } of newKinds) {
      run(`add.${kind}`);
      await expect.poll(() => only()?.name.replace(/ \d+$/, '')).toBe(label);
      if (only().kind !== 'mesh') continue;
      expect(counts().triangles, kind).toBeGreaterThan(0);
      const numbers = session.shot.channelsOf(only().id).filter((c) => c.path.startsWith('shape.'));
      expect(numbers.length, kind).toBeGreaterThan(1);
      session.shot.keyNow([numbers[0].address]);
      expect(session.shot.keysOf(numbers[0].address), kind).toEqual([session.frame]);
    }
  });

  it('have their own numbers until these are set, and go back to them', () => {
    run('add.capsule');
    const channel = session.shot.channelsOf(only().id).find((c) => c.path === 'shape.radius')!;
    expect([channel.default, session.shot.valueOf(channel)]).toEqual([0.3, 0.3]);
    set('shape.height', 2);
    const [, low, , , high] = box();
    expect(high - low).toBeCloseTo(2, 5);
    session.shot.undo();
    expect(box()[4] - box()[1]).toBeCloseTo(1, 5);
  });

  it('that are keyed change on every frame, counts in steps', () => {
    run('add.cylinder');
    const id = only().id;
    session.shot.commit({
      kind: 'setKeys',
      frame: 0,
      values: [
        { address: `${id}/shape.sector`, value: 360 },
        { address: `${id}/shape.segments`, value: 6 },
      ],
    });
    session.shot.commit({
      kind: 'setKeys',
      frame: 10,
      values: [
        { address: `${id}/shape.sector`, value: 90 },
        { address: `${id}/shape.segments`, value: 12 },
      ],
    });
    session.goTo(0);
    const [first, widest] = [counts().vertices, box()[0]];
    session.goTo(5);
    const [middle, version] = [counts().vertices, session.shot.shown!.meshVersions[only().index]];
    session.goTo(10);
    expect(middle).toBeGreaterThan(first);
    expect(counts().vertices).toBeGreaterThan(middle);
    expect(session.shot.shown!.meshVersions[only().index]).not.toBe(version);
    // A quarter of a cylinder does not reach to the other side.
    expect(widest).toBeCloseTo(-0.5, 5);
    expect(box()[0]).toBeGreaterThan(-0.01);
  });

  it('with too many divisions are refused in a sentence, and stay as they are', () => {
    run('add.box');
    const before = counts();
    expect(set('shape.divisions', 1024)).toBe(false);
    expect(session.messages.notice?.text).toContain('6303750 vertices');
    expect(counts()).toEqual(before);
  });
});

describe('outlines', () => {
  it('of words take other words in one step', async () => {
    const text = await addText(square(1));
    const { reword } = await import('../../web/src/objects/outlines');
    answers.set('POST /api/outlines/text', { status: 200, body: { path: square(3) } });
    await reword(text, 'Quay', 'Serif');
    expect(box()[3] - box()[0]).toBeCloseTo(3, 4);
    expect(only().data.shape).toMatchObject({ text: 'Quay', font: 'Serif' });
    answers.set('POST /api/outlines/text', { status: 400, body: { detail: 'The font Serif has no “漢”.' } });
    await reword(text, '漢', 'Serif');
    expect(session.messages.notice?.text).toContain('漢');
    session.shot.undo();
    expect(box()[3] - box()[0]).toBeCloseTo(1, 4);
  });

  it('are put together where they lie, in the place of the last', async () => {
    const a = await addText(square(2));
    const b = await addText(square(2));
    set('transform.translate.x', 1);
    set('transform.rotate.z', 90);
    answers.set('POST /api/outlines/join', { status: 200, body: { path: square(4) } });
    session.selection.select([a.id, b.id]);
    run('outline.Cut');
    await expect.poll(() => session.selection.ids).toEqual([b.id]);
    const { outlines, how } = sent.at(-1)?.path.endsWith('journal')
      ? (sent.findLast((s) => s.path === '/api/outlines/join')!.body as { outlines: { map: number[] }[]; how: string })
      : (sent.at(-1)!.body as { outlines: { map: number[] }[]; how: string });
    expect(how).toBe('Cut');
    expect(outlines[0].map.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([1, 0, 0, 1, 0, 0]);
    // The other as seen from the last, which is turned by a quarter and stands a metre to the right.
    expect(outlines[1].map.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, -1, 1, 0, 0, 1]);
    expect(session.shot.byId.has(a.id)).toBe(false);
    expect(session.shot.engine!.counts([b.id])[0].triangles).toBeGreaterThan(0);
    session.shot.undo();
    expect(session.shot.byId.has(a.id)).toBe(true);
  });

  it('that are not two are not put together', () => {
    run('add.box');
    run('outline.Union');
    expect(session.messages.notice?.text).toContain('two outlines');
  });
});
