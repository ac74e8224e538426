// @vitest-environment jsdom
// The pose strip without a screen: its scale, what is replaced, copies, and whose pictures are shown.
import { beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { held, usualScale } = await import('../../web/src/poses/poseScale');
const { rulerStep } = await import('../../web/src/widgets/rulerStep');
const { allPoses, retime, retiming, sayRetiming } = await import('../../web/src/poses/poses');
const { pickedKeys, pickedPoses } = await import('../../web/src/poses/pickedPoses.svelte');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
await import('../../web/src/app/features');
const { run } = await import('../../web/src/commands');

const frames = () => allPoses().map((p) => p.frame);
const of = (at: number[], by: number, copy = false) => retiming(allPoses(), new Set(at), by, copy);
const say = (at: number[], by: number, copy = false) => sayRetiming(of(at, by, copy));

beforeEach(async () => {
  session = await openDemo((shot) => {
    const fender = shot.nodes.find((n: { id: string }) => n.id === 'fender');
    const curve = (...at: number[]) => ({ value: 0, curve: { keys: at.map((frame) => ({ frame, value: frame })) } });
    for (const n of shot.nodes) if (n.parent === 'fender') delete n.channels;
    fender.channels = {
      'transform.translate.x': curve(0, 10, 20, 40),
      'transform.translate.y': curve(0, 20),
    };
  });
  session.selection.select(['fender']);
  preferences.posesFollow = false;
});

describe('the scale', () => {
  it('lets most pictures stand free, fills the strip, and stays within what a browser draws', () => {
    expect(usualScale([0, 10, 20, 40], 0, 47, 800, 128)).toBeCloseTo((800 - 152) / 47, 6);
    // Close poses pull it apart, as far as one still finds one's way.
    expect(usualScale([0, 8, 16, 24], 0, 47, 800, 128)).toBeCloseTo(17, 6);
    expect(usualScale([0, 1, 2, 3], 0, 47, 800, 128)).toBe(24);
    expect(usualScale([], 0, 47, 800, 128)).toBeGreaterThan(0);
    expect(held(64, 60_000)).toBe(64);
    expect(held(64, 1e6)).toBe(8);
    expect(held(0, 100)).toBe(0.05);
  });

  it('marks round steps that have room', () => {
    for (const pixels of [0.05, 0.3, 1, 3.7, 12, 64]) {
      const step = rulerStep(pixels);
      expect(step * pixels).toBeGreaterThanOrEqual(56);
      expect(step * pixels).toBeLessThan(56 * 2.5 + pixels);
      expect([1, 2, 5]).toContain(Number(String(step)[0]));
    }
  });
});

describe('poses that are moved', () => {
  it('replace the one that they come to lie on, whole, and say so before', () => {
    expect(frames()).toEqual([0, 10, 20, 40]);
    expect(say([10], 10)).toBe('Move the pose of frame 10 to 20 · replaces the pose of 20');
    expect(say([10], 3)).toBe('Move the pose of frame 10 to 13');
    expect(say([10, 20], 20)).toBe('Move 2 poses by +20 frames · replaces the pose of 40');
    retime(of([10], 10));
    expect(frames()).toEqual([0, 20, 40]);
    // Of the pose that was there nothing is left, in no channel.
    expect(session.shot.keysOf('fender/transform.translate.y')).toEqual([0]);
    session.shot.undo();
    expect(frames()).toEqual([0, 10, 20, 40]);
    expect(session.shot.keysOf('fender/transform.translate.y')).toEqual([0, 20]);
  });

  it('go past each other, together, and with ripple take all later ones along', () => {
    retime(of([10], 15));
    expect(frames()).toEqual([0, 20, 25, 40]);
    session.shot.undo();
    retime(of([10, 20], 10));
    expect(frames()).toEqual([0, 20, 30, 40]);
    session.shot.undo();
    preferences.posesFollow = true;
    expect(of([10], 10).replaced).toEqual([]);
    retime(of([10], 10));
    expect(frames()).toEqual([0, 20, 30, 50]);
    // Nothing is nothing: no step in the history.
    const label = session.shot.history!.undoLabel;
    expect(retime(of([20], 0))).toBe(false);
    expect(retime(of([], 5))).toBe(false);
    expect(session.shot.history!.undoLabel).toBe(label);
  });

  it('are copied in the same way', () => {
    // A copy may come to lie on one that is copied itself: that one is replaced as well.
    expect(say([0, 10], 10, true)).toBe('Copy 2 poses by +10 frames · replaces 2 poses');
    expect(say([40], -20, true)).toBe('Copy the pose of frame 40 to 20 · replaces the pose of 20');
    retime(of([0, 10], 20, true));
    expect(frames()).toEqual([0, 10, 20, 30, 40]);
    const value = (frame: number) => session.shot.engine!.sample('fender/transform.translate.x', frame, 1, 1)[0];
    expect([20, 30].map(value)).toEqual([value(0), value(10)]);
    // Two on frame 20 would not be told from one another: the one that was there has gone.
    expect(session.shot.keysOf('fender/transform.translate.y')).toEqual([0, 20]);
    expect(session.shot.engine!.sample('fender/transform.translate.y', 20, 1, 1)[0]).toBe(0);
  });
});

describe('picked poses', () => {
  it('are what is copied and removed; the one at the playhead where no others are', () => {
    session.goTo(10);
    expect(pickedKeys().map((k) => k.frame)).toEqual([10]);
    pickedPoses.set([10, 20]);
    expect([...pickedPoses.among(allPoses())]).toEqual([10, 20]);
    run('copyPose');
    session.goTo(60);
    run('paste');
    expect(frames()).toEqual([0, 10, 20, 40, 60, 70]);
    pickedPoses.set([60, 70]);
    run('removePose');
    expect(frames()).toEqual([0, 10, 20, 40]);
    // Of another selection others are picked.
    pickedPoses.set([10, 20]);
    session.selection.select(['buoy']);
    session.goTo(0);
    expect(new Set(pickedKeys().map((k) => k.frame))).toEqual(new Set([0]));
  });
});
