// @vitest-environment jsdom
// Materials: from the shelf and by drop, their maps and the numbers of these, on the real engine.
import { beforeEach, describe, expect, it } from 'vitest';
import type { NodeView } from '../../web/src/engine/engine';
import { answers, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const materials = await import('../../web/src/materials/materials');
const reference = await import('../../web/src/shots/reference');
const { projections, patternCall, patternCode, patternNumbers } = await import('../../web/src/viewport/scene/patterns');

const wax = { 'look.subsurface': { value: 1 }, 'look.color.r': { value: 0.9 } };
const oak = [{ slot: 'color', projection: 'solid', source: { kind: 'wood' } }];

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'set';
  answers.set('GET /api/materials', {
    status: 200,
    body: [
      { id: 'candle', name: 'Candle wax', material: { id: 'candle', name: 'Candle wax', channels: wax } },
      { id: 'oak', name: 'Oak planks', material: { id: 'oak', name: 'Oak planks', maps: oak } },
    ],
  });
});

const { dropOn } = await import('../../web/src/stores/drops');
/** What is dragged from the shelf of materials is let go over an object. */
const drop = (data: string, node: NodeView) =>
  dropOn(
    { dataTransfer: { getData: (type: string) => (type === materials.MATERIAL_DRAG ? data : '') } } as DragEvent,
    () => node,
  );
const only = () => session.selection.nodes[0];
const look = (path: string) =>
  session.shot.valueOf(session.shot.channelsOf(only().data.material as string).find((c) => c.path === path)!);
const paths = () => session.shot.channelsOf(only().data.material as string).map((c) => c.path);
const said = () => session.messages.notice?.text;
const named = (name: string) => session.shot.scene.materials.filter((m) => m.name === name);

describe('materials', () => {
  it('of the shelf come into the shot once, whoever gets them, and go with an undo', async () => {
    run('add.box');
    await materials.assignFromShelf(session.selection.nodes, 'candle');
    expect(look('look.subsurface')).toBe(1);
    run('add.sphere');
    await materials.assignFromShelf(session.selection.nodes, 'candle');
    expect(named('Candle wax')).toHaveLength(1);
    expect(only().data.material).toBe(named('Candle wax')[0].id);
    session.shot.undo();
    session.shot.undo();
    session.shot.undo();
    expect(named('Candle wax')).toHaveLength(0);
  });

  it('that are dropped onto one of several that are selected are for all of these, and onto another for that alone', async () => {
    run('add.box');
    const box = only();
    run('add.sphere');
    const ball = only();
    session.selection.select([box.id, ball.id]);
    drop('shelf oak', ball);
    await expect.poll(() => named('Oak planks')).toHaveLength(1);
    const id = named('Oak planks')[0].id;
    const of = (n: { id: string }) => session.shot.byId.get(n.id)!.data.material;
    expect([of(box), of(ball)]).toEqual([id, id]);
    run('add.cone');
    const cone = only();
    session.selection.select([box.id]);
    drop(`shot ${id}`, session.shot.byId.get(cone.id)!);
    expect(of(cone)).toBe(id);
    const camera = session.shot.scene.nodes.find((n) => n.kind === 'camera')!;
    drop(`shot ${id}`, camera);
    expect(said()).toContain('has no surface');
  });

  it('have maps whose numbers are channels; a new one is seen as it is, and another pattern keeps its place', () => {
    run('add.box');
    const id = only().data.material as string;
    expect(look('look.color.r')).toBeCloseTo(0.8);
    materials.setMap(id, 'color', { slot: 'color', projection: 'box', source: { kind: 'bricks' } });
    expect(look('look.color.r')).toBe(1);
    expect(look('map.color.mortar')).toBeCloseTo(0.08);
    session.shot.pose([{ address: `${id}/map.color.scale.x`, value: 3 }], true);
    session.shot.keyNow([`${id}/map.color.offset.x`]);
    expect(session.shot.keysOf(`${id}/map.color.offset.x`)).toEqual([session.frame]);
    materials.setMap(id, 'color', { ...materials.mapsOf(id)[0], source: { kind: 'wood' } });
    expect(look('map.color.scale.x')).toBe(3);
    expect(paths()).toContain('map.color.rings');
    expect(paths()).not.toContain('map.color.mortar');
    materials.setMap(id, 'color', null);
    expect(paths().filter((p) => p.startsWith('map.'))).toEqual([]);
    session.shot.undo();
    expect(session.shot.keysOf(`${id}/map.color.offset.x`)).toEqual([session.frame]);
    // What has been set by hand stays.
    session.shot.pose([{ address: `${id}/look.roughness`, value: 0.2 }], true);
    materials.setMap(id, 'roughness', { slot: 'roughness', projection: 'solid', source: { kind: 'noise' } });
    expect(look('look.roughness')).toBeCloseTo(0.2);
  });

  it('glow in their colour until they have one of their own', () => {
    run('add.box');
    const id = only().data.material as string;
    session.shot.pose([{ address: `${id}/look.color.r`, value: 0.3 }], true);
    expect(look('look.emissionColor.r')).toBeCloseTo(0.3);
    materials.setMap(id, 'emission', { slot: 'emission', projection: 'solid', source: { kind: 'checks' } });
    expect([look('look.emission'), look('look.emissionColor.r')]).toEqual([1, 1]);
  });

  it('take pictures by way of the server, and say what is wrong with one', async () => {
    run('add.box');
    const id = only().data.material as string;
    answers.set('POST /api/pictures', {
      status: 400,
      body: { detail: 'hull.png is damaged or cut off: get the whole picture.' },
    });
    expect(await materials.addPicture(new File(['x'], 'hull.png'))).toBeNull();
    expect(said()).toContain('damaged');
    const asset = 'ab'.repeat(32);
    answers.set('POST /api/pictures', { status: 200, body: { asset, name: 'hull.png', width: 4, height: 2 } });
    const picture = (await materials.addPicture(new File(['x'], 'hull.png')))!;
    materials.setMap(id, 'normal', { slot: 'normal', projection: 'coordinates', source: picture });
    expect(materials.mapsOf(id)[0].source).toMatchObject({ kind: 'picture', asset, width: 4 });
    await expect.poll(() => JSON.stringify(sent).includes(asset)).toBe(true);
    // A map that cannot be is refused in a sentence, and nothing has changed.
    materials.setMap(id, 'color', { slot: 'color', projection: 'box', source: { ...picture, asset: '../hull' } });
    expect(materials.mapsOf(id)).toHaveLength(1);
  });

  it('are drawn by code for every pattern and every projection', () => {
    for (const kind of ['wood', 'checks', 'bricks', 'noise']) {
      expect(patternCode([kind])).toContain(`vec2 ${patternCall(kind)}(`);
      // As many numbers, in the order in which the engine lists them.
      run('add.box');
      const id = only().data.material as string;
      materials.setMap(id, 'bump', { slot: 'bump', projection: 'box', source: { kind: kind as 'wood' } });
      const own = paths().filter((p) => /^map\.bump\.(?!scale|offset|rotate|strength|first|second)/.test(p));
      expect(own).toEqual(patternNumbers[kind].map((n) => `map.bump.${n}`));
    }
    expect(Object.keys(projections).sort()).toEqual([
      'box',
      'coordinates',
      'cylindrical',
      'planar',
      'solid',
      'spherical',
    ]);
  });
});

describe('pictures that are dropped', () => {
  const asset = 'cd'.repeat(32);
  const file = (name: string) => new File(['x'], name);
  const answer = (name: string, width: number, height: number) =>
    answers.set('POST /api/pictures', { status: 200, body: { asset, name, width, height } });

  it('stand in the world for reference, glow as they are, and are not rendered', async () => {
    answer('pose sheet.png', 200, 100);
    session.selection.select([]);
    expect(await reference.takePictures([file('pose sheet.png')])).toBe(true);
    const node = only();
    expect(node.name).toBe('pose sheet');
    const [x0, y0, , x1, y1] = session.shot.engine!.bounds([node.id]);
    expect([x1 - x0, y1 - y0, y0].map((v) => Math.round(v * 1e4) / 1e4)).toEqual([4, 2, 0]);
    const renders = session.shot.channelsOf(node.id).find((c) => c.path === 'visible.renders')!;
    expect(session.shot.valueOf(renders)).toBe(0);
    expect(materials.mapsOf(node.data.material as string).map((m) => m.slot)).toEqual(['emission', 'opacity']);
    session.shot.undo();
    expect(session.shot.byId.has(node.id)).toBe(false);
  });

  it('fill what a camera sees when it is selected, whatever its lens', async () => {
    for (const lens of [{ lens: 'focal' }, { lens: 'angle' }, { projection: 'orthographic' }]) {
      run('add.camera');
      const eye = only();
      session.shot.commit({ kind: 'replaceNode', node: { ...eye.data, ...lens } } as any);
      answer('plate.jpg', 160, 90);
      await reference.addReference(file('plate.jpg'));
      expect(only().parent).toBe(eye.id);
      const of = (path: string) => session.shot.valueOf(session.shot.channelsOf(eye.id).find((c) => c.path === path)!);
      const [, y0, , , y1] = session.shot.engine!.bounds([only().id]);
      const half =
        'projection' in lens
          ? of('camera.height') / 20
          : lens.lens === 'focal'
            ? of('camera.sensor') / 2 / of('camera.focal')
            : Math.tan((of('camera.fov') * Math.PI) / 360);
      expect((y1 - y0) / 20).toBeCloseTo(half, 5);
    }
  });

  it('of high dynamic range are the sky, until they are taken out of it', async () => {
    answer('harbour.hdr', 64, 32);
    expect(await reference.takePictures([file('harbour.hdr')])).toBe(true);
    expect(session.shot.scene.skyPicture).toEqual({ asset, name: 'harbour.hdr', width: 64, height: 32 });
    session.shot.commit({ kind: 'setShot', background: 'transparent' } as any);
    expect(session.shot.scene.background).toBe('transparent');
    session.shot.commit({ kind: 'setShot', noSkyPicture: true } as any);
    expect(session.shot.scene.skyPicture).toBeNull();
    session.shot.undo();
    expect(session.shot.scene.skyPicture?.name).toBe('harbour.hdr');
    expect(session.shot.history!.undoLabel).toContain('background');
  });

  it('that move run with the shot from where the playhead was, with a number that can be keyed', async () => {
    session.goTo(12);
    session.selection.select([]);
    const body = { asset, name: 'walk.mp4', width: 64, height: 36, framesPerSecond: 24, seconds: 2 };
    answers.set('POST /api/films', { status: 200, body });
    await reference.addReference(file('walk.mp4'));
    const look = only().data.material as string;
    expect(materials.mapsOf(look)).toEqual([
      { slot: 'emission', projection: 'coordinates', source: { kind: 'film', ...body } },
    ]);
    const start = session.shot.channelsOf(look).find((c) => c.path === 'map.emission.start')!;
    expect(session.shot.valueOf(start)).toBe(12);
    session.shot.keyNow([start.address]);
    expect(session.shot.keysOf(start.address)).toEqual([12]);
  });

  it('come with a model that they belong to, and not by themselves then', async () => {
    expect(await reference.takePictures([file('hull.gltf'), file('hull.png')])).toBe(false);
    expect(await reference.takePictures([])).toBe(false);
  });
});
