// @vitest-environment jsdom
// Lamps, daylight, cameras and values from one object to others: the commands on the real engine.
import { beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { channelMenu } = await import('../../web/src/properties/channelMenu');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { viewState } = await import('../../web/src/stores/viewState.svelte');

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'set';
});

const set = (values: Record<string, number>) =>
  session.shot.pose(
    Object.entries(values).map(([address, value]) => ({ address, value })),
    true,
  );
const value = (address: string) => session.shot.valueOf(session.shot.channelAt(address)!);

describe('light', () => {
  it('comes from spots and panels that point down, with the colour of their heat', () => {
    run('add.spot');
    const [spot] = session.selection.nodes;
    expect([spot.kind, spot.data.form]).toEqual(['lamp', 'spot']);
    expect(value(`${spot.id}/transform.rotate.x`)).toBe(-90);
    run('add.panel');
    expect(session.selection.nodes[0].data.form).toBe('rectangle');
    const [r, g, b] = session.shot.engine!.blackBody(2700);
    expect(0.2126729 * r + 0.7151522 * g + 0.072175 * b).toBeCloseTo(1, 5);
    expect(r).toBeGreaterThan(3 * b);
    expect(session.shot.engine!.blackBody(0)).toEqual([1, 1, 1]);
  });

  it('of day goes with the sun', () => {
    const engine = session.shot.engine!;
    expect(engine.skyPicture()).toBeNull();
    set({ 'world/sky.physical': 1 });
    const evening = engine.skyPicture()!;
    expect(evening.length).toBe(3 * 128 * 64);
    set({ 'sun/transform.rotate.x': -70 });
    const noon = engine.skyPicture()!;
    const blue = (p: Float32Array) => p[2] / p[0];
    expect(blue(noon)).toBeGreaterThan(1.2);
    expect(noon[1]).toBeGreaterThan(1.3 * evening[1]);
    session.shot.undo();
    session.shot.undo();
    expect(engine.skyPicture()).toBeNull();
  });

  it('of the sun stands where it stood over a place', () => {
    // I. Reda, A. Andreas, NREL/TP-560-34302, appendix A.5.
    const at = new Date(Date.UTC(2003, 9, 17, 19, 30));
    const [x, y, z, altitude] = session.shot.engine!.sunAt(39.742476, -105.1786, at);
    expect(altitude).toBeCloseTo(39.87, 1);
    expect([x, z]).toEqual([-altitude, 0]);
    expect(180 - y).toBeCloseTo(194.2, 0);
    expect(() => session.shot.engine!.sunAt(91, 0, at)).toThrow(/no such place/);
  });
});

describe('cameras', () => {
  it('are focused on what is selected, with an opening that shows it', () => {
    session.selection.select(['lighthouse']);
    run('camera.focus');
    // 8.8 m in front of the origin to 19 m behind it, nearly along the axis.
    expect(value('cam/camera.focus')).toBeGreaterThan(27);
    expect(value('cam/camera.focus')).toBeLessThan(29);
    expect(value('cam/camera.fstop')).toBe(2.8);
    set({ 'cam/camera.fstop': 8 });
    run('camera.focus');
    expect(value('cam/camera.fstop')).toBe(8);
    session.selection.select([]);
    run('camera.focus');
    expect(session.messages.notice?.text).toContain('Select the object');
  });

  it('show lines in their frame, one kind after the other', () => {
    const seen = [0, 1, 2].map(() => (run('guides'), preferences.guides));
    expect(seen).toEqual(['thirds', 'safe', 'none']);
  });
});

describe('views', () => {
  it('are one, two or four, each with its own look and its own way of drawing', () => {
    run('views.4');
    viewState.pane = 3;
    run('look.right');
    run('draw.lines');
    expect(viewState.panes.map((p) => p.look)).toEqual(['camera', 'free', 'top', 'right']);
    expect(viewState.panes.map((p) => p.shading)).toEqual(['shaded', 'shaded', 'shaded', 'lines']);
    run('camera');
    expect(viewState.panes[3].look).toBe('camera');
    expect(viewState.panes[0].look).toBe('camera');
    viewState.pane = 0;
    run('views.1');
    expect(viewState.layout).toBe(1);
  });
});

describe('values', () => {
  it('are copied from one object and pasted to others, where they belong', () => {
    set({ 'buoy/transform.rotate.y': 33, 'buoy/transform.scale.x': 2 });
    session.selection.select(['buoy']);
    run('copyValues');
    session.selection.select(['post', 'lighthouse']);
    run('pasteValues');
    for (const id of ['post', 'lighthouse'])
      expect([value(`${id}/transform.rotate.y`), value(`${id}/transform.scale.x`)]).toEqual([33, 2]);
    run('reset.transform.scale');
    expect([value('post/transform.scale.x'), value('post/transform.rotate.y')]).toEqual([1, 33]);
    const item = (address: string, title: string) =>
      channelMenu([session.shot.channelAt(address)!]).find((i) => i && 'title' in i && i.title === title) as {
        run(): void;
      };
    item('post/transform.rotate.y', 'Copy the value').run();
    item('post/transform.translate.y', 'Paste the value').run();
    expect(value('post/transform.translate.y')).toBe(33);
  });

  it('are reset without the pivot, which says how the object turns', () => {
    set({ 'post/transform.pivot.y': 1, 'post/transform.rotate.z': 5 });
    session.selection.select(['post']);
    run('reset.transform.');
    expect([
      value('post/transform.pivot.y'),
      value('post/transform.rotate.z'),
      value('post/transform.translate.x'),
    ]).toEqual([1, 0, 0]);
  });
});
