// @vitest-environment jsdom
// The list of objects without a screen: where a dragged row goes, what is selected at once, sets that are kept, what is isolated.
import { beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { dropPlace, stepPlace, zoneOf } = await import('../../web/src/objects/reordering');
const { viewState } = await import('../../web/src/stores/viewState.svelte');
const { holdStage, stageHand } = await import('../../web/src/stores/stageHand');
const { newNode } = await import('../../web/src/objects/creation');
const { changeSet, objectsOf, selectSet } = await import('../../web/src/objects/sets');
const { selectKind, selectMaterial } = await import('../../web/src/objects/selecting');
await import('../../web/src/app/features');
const { run } = await import('../../web/src/commands');

const order = (parent: string | null = null) => (session.shot.children.get(parent) ?? []).map((n) => n.id);
const said = () => session.messages.notice?.text ?? '';

beforeEach(async () => {
  session = await openDemo();
  viewState.isolated = [];
  viewState.closed = new Set();
});

describe('a dragged row', () => {
  it('goes between two rows at their edges, and into one at its middle', () => {
    expect([0, 0.2, 0.5, 0.8, 1].map(zoneOf)).toEqual(['before', 'before', 'in', 'after', 'after']);
    const { children, byId } = session.shot;
    const row = (id: string) => byId.get(id)!;
    const none = new Set<string>();
    const all = new Set(byId.keys());
    const place = (id: string, where: 'before' | 'in' | 'after', moving: string[], closed = all) =>
      dropPlace(children, closed, row(id), where, moving);
    const [first, second, third] = order();
    expect(place(second, 'before', [third])).toEqual({ parent: null, before: second });
    expect(place(first, 'after', [third])).toEqual({ parent: null, before: second });
    // Its own place is no neighbour.
    expect(place(first, 'after', [second])).toEqual({ parent: null, before: third });
    expect(place(order().at(-1)!, 'after', [first])).toEqual({ parent: null, before: null });
    // Below an open group begins what is in it; below a closed one the next row.
    const inside = order('buoy')[0];
    expect(place('buoy', 'after', [first], none)).toEqual({ parent: 'buoy', before: inside });
    expect(place('buoy', 'after', [first]).parent).toBeNull();
    expect(place('buoy', 'in', [first])).toEqual({ parent: 'buoy', before: null });
  });

  it('steps among its own by keyboard, with all that is selected, and stops at the ends', () => {
    const rows = order();
    const siblings = session.shot.children.get(null)!;
    expect(stepPlace(siblings, rows[0], -1)).toBeUndefined();
    expect(stepPlace(siblings, rows.at(-1)!, 1)).toBeUndefined();
    session.selection.select([rows[1], rows[2]]);
    run('order.up');
    expect(order().slice(0, 3)).toEqual([rows[1], rows[2], rows[0]]);
    run('order.up');
    expect(order().slice(0, 3)).toEqual([rows[1], rows[2], rows[0]]);
    run('order.down');
    expect(order()).toEqual(rows);
    expect(session.shot.history!.undoLabel).toBe('Reorder 2 objects');
    // What hangs elsewhere has other neighbours.
    session.selection.select([rows[1], order('buoy')[0]]);
    run('order.down');
    expect(order()).toEqual(rows);
    expect(said()).toContain('the same parent');
  });
});

describe('what is selected at once', () => {
  it('is all of a kind, all of a material, the rest, what is below and above', () => {
    const kinds = () => new Set(session.selection.nodes.map((n) => n.kind));
    selectKind('camera');
    expect([...kinds()]).toEqual(['camera']);
    expect(session.selection.ids).toHaveLength(2);
    run('select.others');
    expect(session.selection.nodes.some((n) => n.kind === 'camera' || n.locked)).toBe(false);
    // Inverted twice is what it was.
    run('select.others');
    expect([...kinds()]).toEqual(['camera']);
    session.selection.select(['buoy']);
    run('select.children');
    const below = session.selection.ids;
    expect(below).toEqual(order('buoy'));
    run('select.parent');
    expect(session.selection.ids).toEqual(['buoy']);
    run('select.parent');
    expect(said()).toContain('below nothing');
    const iron = session.shot.scene.materials.find((m) => m.name === 'Iron')!;
    selectMaterial(iron.id);
    expect(session.selection.nodes.every((n) => n.data.material === iron.id)).toBe(true);
    const count = session.selection.ids.length;
    expect(count).toBeGreaterThan(1);
    session.selection.select([session.selection.ids[0]]);
    run('select.sameMaterial');
    expect(session.selection.ids).toHaveLength(count);
  });

  it('is a set, which keeps its objects through undo, is renamed, and says when nothing of it is left', () => {
    session.selection.select(['buoy', 'fender']);
    run('set.keep');
    const set = () => session.shot.scene.sets[0];
    expect([set().name, set().nodes]).toEqual(['Set', ['buoy', 'fender']]);
    session.selection.select(['lighthouse']);
    selectSet(set(), true);
    expect(session.selection.ids).toEqual(['lighthouse', 'buoy', 'fender']);
    changeSet(set(), { name: 'Afloat' });
    expect(set().name).toBe('Afloat');
    session.selection.select(['buoy', 'fender']);
    run('removeObjects');
    expect(objectsOf(set())).toEqual([]);
    selectSet(set());
    expect(said()).toContain('Nothing of the set “Afloat”');
    session.shot.undo();
    expect(objectsOf(set())).toEqual(['buoy', 'fender']);
    run('set.keep');
    // A name that is taken gets a number.
    expect(session.shot.scene.sets.map((s) => s.name)).toEqual(['Afloat', 'Set']);
    run('set.keep');
    expect(session.shot.scene.sets.map((s) => s.name)).toEqual(['Afloat', 'Set', 'Set 2']);
  });

  it('is isolated until it is asked for again, and belongs to how the shot is looked at', () => {
    session.selection.clear();
    run('isolate');
    expect(viewState.isolated).toEqual([]);
    session.selection.select(['buoy']);
    run('isolate');
    expect(viewState.plain.isolated).toEqual(['buoy']);
    viewState.take({ ...viewState.plain, isolated: [7] as never });
    expect(viewState.isolated).toEqual([]);
  });
});

describe('a new object', () => {
  it('stands where one looks, on what is there, and hangs where a group is selected', async () => {
    const nobody = () => undefined;
    const release = holdStage({
      trace: nobody,
      under: nobody,
      menu: nobody,
      turn: nobody,
      shift: nobody,
      nearer: nobody,
      lookedAt: () => [40, 0, 40],
    });
    session.selection.clear();
    await newNode('box');
    const at = (id: string) =>
      ['x', 'y', 'z'].map(
        (c) => session.shot.shown!.values[session.shot.channelAt(`${id}/transform.translate.${c}`)!.index],
      );
    const [first] = session.selection.ids;
    const sea = session.shot.engine!.bounds(['water'])[4];
    expect(at(first)).toEqual([40, expect.closeTo(sea + 0.5, 3), 40]);
    session.selection.clear();
    await newNode('box');
    const [second] = session.selection.ids;
    expect(at(second)[0] - at(first)[0]).toBeGreaterThanOrEqual(1);
    // Below a group the numbers are those of the group.
    session.selection.clear();
    await newNode('group');
    const [group] = session.selection.ids;
    await newNode('sphere');
    const [inside] = session.selection.ids;
    expect(session.shot.byId.get(inside)!.parent).toBe(group);
    const box = session.shot.engine!.bounds([inside]);
    expect(Math.abs((box[0] + box[3]) / 2 - 40)).toBeLessThan(4);
    release();
    expect(stageHand()).toBeNull();
  });
});
