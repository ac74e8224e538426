// @vitest-environment jsdom
// The motion path under the hand, on the real engine, seen by an eye of straw: a metre is a hundred pixels, y up.
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Edit } from '../../web/src/engine/engine';
import { openDemo } from './real';
import {
  hitPath,
  nearestOn,
  pathHand,
  placeOf,
  type PathView,
  type Point,
} from '../../web/src/viewport/overlays/pathHand';
import type { Trace } from '../../web/src/viewport/overlays/traces.svelte';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { toggleTraced, tracedOf, traceVertices, Traces } = await import('../../web/src/viewport/overlays/traces.svelte');
const space = {
  project: (x: number, y: number) => ({ x: 100 * x, y: -100 * y }),
  onPlane: (x: number, y: number, through: Point): Point => [x / 100, -y / 100, through[2]],
};
const lift = 'fender/transform.translate.y';

function path(): PathView {
  const { scene, engine } = { scene: session.shot.scene, engine: session.shot.engine! };
  const points = engine.path('fender', scene.playFirst, scene.playLast);
  const keys = [
    ...new Set(['x', 'y', 'z'].flatMap((c) => session.shot.keysOf(`fender/transform.translate.${c}`))),
  ].sort((a, b) => a - b);
  const ends = engine.pathHandles('fender', session.frame);
  const handles = keys.includes(session.frame)
    ? { frame: session.frame, in: ends.slice(0, 3) as Point, out: ends.slice(3) as Point }
    : null;
  return { node: 'fender', first: scene.playFirst, points, keys, handles };
}
const at = (p: Point) => space.project(p[0], p[1]);
const event = (p: { x: number; y: number }, more = {}) => ({ clientX: p.x, clientY: p.y, ...more }) as PointerEvent;
/** Takes something of the path and drags it by so many pixels. */
function drag(hit: NonNullable<ReturnType<typeof hitPath>>, dx: number, dy: number, more = {}) {
  const from = at(hit.at);
  const hand = pathHand(session, space, path(), hit, event(from, more));
  hand.move!(event({ x: from.x + dx, y: from.y + dy }));
  return hand;
}

beforeEach(async () => {
  session = await openDemo();
  session.selection.select(['fender']);
});

describe('the motion path of a point', () => {
  const known = (trace: Trace) => trace.points.filter((_, i) => i % 3 === 0 && !Number.isNaN(trace.points[i])).length;
  const node = () => session.shot.byId.get('fender-ball')!;

  it('is drawn from the playhead outwards beside the work, follows what is changed, and is undone', async () => {
    const traces = new Traces();
    session.goTo(41);
    toggleTraced(node(), 7);
    toggleTraced(node(), 0);
    expect(tracedOf(node())).toEqual([7, 0]);
    traces.follow();
    const { playFirst, playLast } = session.shot.scene;
    await vi.waitFor(() => expect(traces.list.map(known)).toEqual([1, 1].map(() => playLast - playFirst + 1)));
    const [seven] = traces.list;
    expect(seven).toMatchObject({ node: 'fender-ball', vertex: 7, first: playFirst });
    expect(seven.keys).toContain(41);
    // It keeps to the ball, whose radius is 0.3, and which turns about its lowest point.
    const body = path();
    const from = (frame: number) => placeOf(seven, frame).map((v, i) => v - placeOf(body, frame)[i]);
    expect(Math.hypot(...from(20))).toBeLessThan(0.7);
    // The frames between are known: a click on one goes there.
    const tick = at(placeOf(seven, 20));
    expect(hitPath(space, seven, tick.x, tick.y)).toMatchObject({ frame: 20 });

    const before = placeOf(seven, 41)[1];
    session.shot.commit({ kind: 'setKeys', frame: 41, values: [{ address: lift, value: 9 }] } as unknown as Edit);
    traces.follow();
    await vi.waitFor(() => expect(placeOf(traces.list[0], 41)[1]).toBeGreaterThan(before + 1));
    // What is far from the change was not worked out again, and is the same.
    expect(placeOf(traces.list[0], playFirst)).toEqual(placeOf(seven, playFirst));

    toggleTraced(node(), 7);
    expect(tracedOf(node())).toEqual([0]);
    session.shot.undo();
    expect(tracedOf(node())).toEqual([7, 0]);
    toggleTraced(node(), 7);
    toggleTraced(node(), 0);
    traces.follow();
    expect(traces.list).toEqual([]);
  });

  it('is refused with a sentence beyond as many as can be told apart', () => {
    traceVertices(
      node(),
      Array.from({ length: 17 }, (_, i) => i),
    );
    expect(tracedOf(node())).toEqual([]);
    expect(session.messages.notice?.text).toContain('17 points of “Ball” would be traced');
  });
});

describe('the motion path', () => {
  it('says what lies under the pointer: handles, keys, frames', () => {
    session.goTo(41);
    const shown = path();
    const key = at(placeOf(shown, 53));
    expect(hitPath(space, shown, key.x, key.y)).toMatchObject({ kind: 'key', frame: 53 });
    // In the fall no two frames lie close together.
    const tick = at(placeOf(shown, 20));
    expect(hitPath(space, shown, tick.x, tick.y)).toMatchObject({ kind: 'tick', frame: 20 });
    expect(hitPath(space, shown, tick.x + 40, tick.y)).toBeNull();
    // The handles of a level key have no length, and are not in the way of it.
    const top = at(placeOf(shown, 41));
    expect(hitPath(space, shown, top.x, top.y)!.kind).not.toBe('in');
  });

  it('has keys that are dragged in space, taken back and undone', () => {
    const before = session.shot.curve(lift)!.keys.find((k) => k.frame === 41)!.value;
    const hit = { kind: 'key', frame: 41, at: placeOf(path(), 41) } as const;
    const hand = drag(hit, 0, -50);
    expect(session.shot.curve(lift)!.keys.find((k) => k.frame === 41)!.value).toBeCloseTo(before + 0.5, 6);
    hand.cancel();
    expect(session.shot.curve(lift)!.keys.find((k) => k.frame === 41)!.value).toBe(before);
    drag(hit, 30, -50).commit();
    const moved = placeOf(path(), 41);
    expect([moved[0] - hit.at[0], moved[1] - hit.at[1]]).toEqual([expect.closeTo(0.3, 5), expect.closeTo(0.5, 5)]);
    expect(session.shot.history!.steps.at(-1)!.label).toBe('Move “Fender” on its path');
    session.shot.undo();
    expect(placeOf(path(), 41)).toEqual(hit.at);
  });

  it('is bent by its handles, which a key gives with Alt', () => {
    session.goTo(41);
    drag({ kind: 'key', frame: 41, at: placeOf(path(), 41) }, 60, 0, { altKey: true }).commit();
    const { handles } = path();
    const middle = placeOf(path(), 41);
    expect(handles!.out![0] - middle[0]).toBeCloseTo(0.6, 5);
    // A joined key has its other handle in line.
    expect(handles!.in![0] - middle[0]).toBeLessThan(-0.1);
    const hit = hitPath(space, path(), at(handles!.out!).x, at(handles!.out!).y)!;
    expect(hit.kind).toBe('out');
    drag(hit, 0, -40).commit();
    expect(path().handles!.out![1]).toBeCloseTo(handles!.out![1] + 0.4, 5);
    expect(placeOf(path(), 41)).toEqual(middle.map((v) => expect.closeTo(v, 5)));
  });

  it('has frames that slide along it between two keys, and are gone to with a click', () => {
    const shown = path();
    const hit = { kind: 'tick', frame: 20, at: placeOf(shown, 20) } as const;
    const to = at(placeOf(shown, 24));
    expect(nearestOn(space, shown, 12, 29, to.x, to.y)).toBeCloseTo(24, 1);
    drag(hit, to.x - at(hit.at).x, to.y - at(hit.at).y).commit();
    expect(placeOf(path(), 20)[1]).toBeCloseTo(placeOf(shown, 24)[1], 1);
    expect(placeOf(path(), 12)).toEqual(placeOf(shown, 12));
    expect(session.shot.keysOf(lift)).toContain(20);
    const from = at(hit.at);
    pathHand(session, space, path(), { ...hit, frame: 33 }, event(from)).commit();
    expect(session.frame).toBe(33);
  });
});
