// @vitest-environment jsdom
// Instances, repeaters, followers and locked channels: the commands on the real engine.
import { beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { channelMenu } = await import('../../web/src/properties/channelMenu');

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'set';
});

const node = (id: string) => session.shot.byId.get(id)!;
const only = () => session.selection.ids[0];
const shown = () => session.shot.shown!;
const set = (address: string, value: number) => session.shot.pose([{ address, value }], true);
const world = (id: string) => [...shown().matrices.slice(16 * node(id).index, 16 * node(id).index + 16)];
const same = (a: number[], b: number[]) => a.forEach((x, i) => expect(x).toBeCloseTo(b[i], 4));
/** The copies that a node draws: what of, and where. */
const copies = (id: string) =>
  Array.from({ length: shown().copyNodes.length / 4 }, (_, i) => ({
    of: session.shot.scene.nodes.find((n) => n.index === shown().copyNodes[4 * i])!.id,
    owner: shown().copyNodes[4 * i + 1],
    at: [...shown().copyMatrices.slice(16 * i, 16 * i + 16)],
  })).filter((c) => c.owner === node(id).index);

describe('instances', () => {
  it('draw what is below another where they stand, and change with it', () => {
    session.selection.select(['bollard1']);
    run('instance');
    const id = only();
    expect(node(id)).toMatchObject({ kind: 'instance', name: 'Bollard 3', parent: 'quay' });
    expect(copies(id).map((c) => c.of)).toEqual(['bollard1-post', 'bollard1-cap']);
    same(copies(id)[1].at, world('bollard1-cap'));
    set(`${id}/transform.translate.x`, 4);
    const before = copies(id)[0].at[12];
    set('bollard1-post/transform.translate.x', 0.5);
    expect(copies(id)[0].at[12] - before).toBeCloseTo(0.5, 4);
    session.selection.select([id]);
    run('makeReal');
    expect(node(id).kind).toBe('group');
    expect(session.shot.children.get(id)!.map((n) => n.name)).toEqual(['Post', 'Cap']);
    expect(shown().copyNodes.length).toBe(0);
    session.shot.undo();
    expect(node(id).kind).toBe('instance');
  });

  it('are put on all that is selected after what they are of', () => {
    session.selection.select(['buoy-lamp', 'pile1', 'pile2', 'pile3']);
    run('placeInstances');
    const made = session.selection.ids.slice(1);
    expect(made.map((id) => node(id).data.of)).toEqual(['buoy-lamp', 'buoy-lamp', 'buoy-lamp']);
    same(world(made[1]).slice(12), world('pile2').slice(12));
    session.selection.select(['pile1']);
    run('placeInstances');
    expect(session.messages.notice?.text).toContain('Select what is to be put');
  });

  it('keep what they are of from being removed, with a sentence', () => {
    session.selection.select(['bollard1']);
    run('instance');
    const name = node(only()).name;
    session.selection.select(['bollard1']);
    run('removeObjects');
    expect(node('bollard1')).toBeDefined();
    expect(session.messages.notice?.text).toContain(`“${name}” is an instance`);
  });
});

describe('repeaters', () => {
  it('come round what is selected, which stays where it is', () => {
    const before = world('pile1');
    session.selection.select(['pile1']);
    run('repeat');
    const id = only();
    expect(node(id)).toMatchObject({ kind: 'repeat', parent: 'quay' });
    same(world('pile1'), before);
    expect(copies(id).length).toBe(4);
    set(`${id}/repeat.count`, 2);
    expect(copies(id).length).toBe(1);
    set(`${id}/repeat.translate.x`, 3);
    expect(copies(id)[0].at[12] - before[12]).toBeCloseTo(3, 4);
    const version = shown().copyVersion;
    session.goTo(session.frame);
    expect(shown().copyVersion).toBe(version);
    session.shot.undo();
    session.shot.undo();
    session.shot.undo();
    expect(node('pile1').parent).toBe('quay');
  });

  it('show copies as they were before, bent as they were', () => {
    session.selection.select(['banner']);
    run('repeat');
    const id = only();
    set(`${id}/repeat.shift`, 5);
    session.goTo(20);
    const numbers = [...shown().copyNodes];
    const versions = numbers.filter((_, i) => i % 4 === 2);
    expect(new Set(versions).size).toBe(4);
    const vertices = shown().copyVertices(numbers[3]).positions;
    session.goTo(15);
    const then = shown().positions(node('banner').index);
    expect(Math.max(...then.map((v, i) => Math.abs(v - vertices[i])))).toBeLessThan(1e-6);
  });
});

describe('followers', () => {
  it('move as what they follow until they have keys of their own', () => {
    session.selection.select(['fender-spin']);
    run('follow');
    const id = only();
    expect(node(id).data.follows).toBe('fender-spin');
    session.goTo(40);
    same(world(id), world('fender-spin'));
    expect(session.shot.keysOf(`${id}/transform.rotate.z`)).toEqual([]);
    session.shot.keyNow([`${id}/transform.rotate.z`]);
    const own = session.shot.keysOf(`${id}/transform.rotate.z`);
    expect(own).toEqual(
      [...new Set([...session.shot.keysOf('fender-spin/transform.rotate.z'), 40])].sort((a, b) => a - b),
    );
    session.selection.select([id]);
    run('makeReal');
    expect(node(id).data.follows ?? null).toBeNull();
    session.goTo(20);
    same(world(id), world('fender-spin'));
  });
});

describe('locked channels', () => {
  it('are passed by by a drag, and unlocked from the menu', () => {
    const x = 'buoy/transform.translate.x';
    const channel = session.shot.channelAt(x)!;
    const lock = () =>
      channelMenu([session.shot.channelAt(x)!]).find((i) => i && 'title' in i && /ock/.test(i.title!))!;
    (lock() as { run(): void }).run();
    expect(session.shot.scene.locked.has(x)).toBe(true);
    const before = session.shot.valueOf(channel);
    const matrix = world('buoy');
    matrix[12] += 3;
    matrix[14] += 1;
    expect(session.shot.place(['buoy'], matrix, true)).toBe(true);
    expect(session.shot.valueOf(session.shot.channelAt(x)!)).toBe(before);
    expect(world('buoy')[14]).toBeCloseTo(matrix[14], 4);
    session.shot.keyNow([x, 'buoy/transform.translate.z']);
    expect(session.shot.keysOf(x)).toEqual([]);
    expect(session.shot.keysOf('buoy/transform.translate.z').length).toBe(1);
    (lock() as { run(): void }).run();
    set(x, 7);
    expect(world('buoy')[12]).toBeCloseTo(7, 4);
  });
});
