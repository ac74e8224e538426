// @vitest-environment jsdom
// Groups, pivots and order among objects: the commands on the real engine.
import { beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'set';
});

const node = (id: string) => session.shot.byId.get(id)!;
const world = (id: string) => [...session.shot.shown!.matrices.slice(16 * node(id).index, 16 * node(id).index + 16)];
const box = (...ids: string[]) => session.shot.engine!.bounds(ids);
const value = (address: string) => session.shot.shown!.values[session.shot.channelAt(address)!.index];
const steps = () => session.shot.history!.steps.length;
const same = (a: number[], b: number[]) => a.forEach((x, i) => expect(x).toBeCloseTo(b[i], 4));

describe('groups', () => {
  it('come round what is selected, which stays where it is, and go again in one step each', () => {
    const [buoy, fender] = [world('buoy'), world('fender')];
    const before = steps();
    session.selection.select(['buoy', 'fender']);
    run('group');
    const group = session.selection.ids[0];
    expect(steps()).toBe(before + 1);
    expect(node(group).name).toBe('Group');
    expect([node('buoy').parent, node('fender').parent]).toEqual([group, group]);
    same(world('buoy'), buoy);
    same(world('fender'), fender);
    // It turns about the middle of what is in it.
    const [x0, y0, z0, x1, y1, z1] = box('buoy', 'fender');
    same(
      ['x', 'y', 'z'].map((c) => value(`${group}/transform.pivot.${c}`)),
      [(x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2],
    );
    run('group');
    expect(session.shot.scene.nodes.filter((n) => n.name.startsWith('Group')).length).toBe(2);
    run('ungroup');
    expect(session.selection.ids).toEqual([group]);
    run('ungroup');
    expect([node('buoy').parent, node('fender').parent]).toEqual([null, null]);
    expect(session.selection.ids.sort()).toEqual(['buoy', 'fender']);
    same(world('fender'), fender);
    for (let i = 0; i < 4; i++) session.shot.undo();
    expect(node('buoy').parent).toBeNull();
    expect(session.shot.scene.nodes.some((n) => n.name.startsWith('Group'))).toBe(false);
  });

  it('of things below one parent hang below it too', () => {
    const [a, b] = session.shot.children.get('buoy')!.map((n) => n.id);
    session.selection.select([a, b]);
    run('group');
    const group = session.selection.ids[0];
    expect(node(group).parent).toBe('buoy');
    // It turns about the middle of what is in it, in the space that it hangs in.
    const within = session.shot.engine!.bounds([a, b], 'buoy');
    same(
      ['x', 'y', 'z'].map((c) => value(`${group}/transform.pivot.${c}`)),
      [0, 1, 2].map((i) => (within[i] + within[i + 3]) / 2),
    );
    expect(node(a).parent).toBe(session.selection.ids[0]);
  });

  it('need something to be selected', () => {
    run('group');
    expect(session.messages.notice?.text).toContain('Select an object');
    session.selection.select(['fender']);
    session.selection.select(['sun']);
    run('ungroup');
    expect(session.messages.notice?.text).toContain('Select a group');
  });
});

describe('pivots', () => {
  it('go to the base, the centre, the origin or another object, and nothing moves', () => {
    session.selection.select(['buoy']);
    const before = box('buoy');
    const pivot = () => ['x', 'y', 'z'].map((c) => value(`buoy/transform.pivot.${c}`));
    for (const where of ['base', 'centre', 'origin']) {
      run(`pivot.${where}`);
      same(box('buoy'), before);
    }
    // The pivot is the origin: in the world it is at 0.
    const m = world('buoy');
    const [x, y, z] = pivot();
    same(
      [0, 1, 2].map((i) => m[i] * x + m[4 + i] * y + m[8 + i] * z + m[12 + i]),
      [0, 0, 0],
    );
    session.selection.select(['buoy', 'fender']);
    run('pivot.object');
    same(box('buoy'), before);
    session.selection.select(['buoy']);
    run('pivot.object');
    expect(session.messages.notice?.text).toContain('last the one');
  });

  it('of what has no shape have no centre', () => {
    session.selection.select(['sun']);
    run('pivot.centre');
    expect(session.messages.notice?.text).toContain('no shape');
  });
});

describe('order', () => {
  it('aligns, distributes and lets down, a step each', () => {
    const ids = ['box-a', 'box-b', 'box-c'];
    const nodes = ids.map((id, i) => ({
      kind: 'mesh',
      id,
      name: id,
      shape: { kind: 'box' },
      channels: {
        'transform.translate.x': { value: [0, 1, 6][i] },
        'transform.translate.y': { value: 30 + i },
        'transform.translate.z': { value: 400 },
      },
    }));
    session.shot.commit({ kind: 'addNodes', nodes } as never);
    session.selection.select(ids);
    const before = steps();
    run('align.Y.-1');
    expect(ids.map((id) => Math.round(1000 * box(id)[1]))).toEqual([31500, 31500, 31500]);
    run('distribute.X');
    expect(ids.map((id) => Math.round(1000 * value(`${id}/transform.translate.x`)))).toEqual([0, 3000, 6000]);
    run('drop');
    expect(ids.map((id) => Math.round(1000 * box(id)[1]))).toEqual([0, 0, 0]);
    expect(steps()).toBe(before + 3);
    session.selection.select(['box-a']);
    run('align.X.0');
    expect(session.messages.notice?.text).toContain('two or more');
  });
});
