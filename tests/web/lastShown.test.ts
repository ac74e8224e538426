// What the stage draws again, and what it does not.
import { describe, expect, it } from 'vitest';
import type { ShownFrame } from '../../web/src/engine/engine';
import { LastShown } from '../../web/src/viewport/view/lastShown';
import { MotionPath } from '../../web/src/viewport/overlays/overlays';

/** A frame of two objects, in buffers that are written over as those of the engine are. */
const frame = () => ({
  at: 4,
  matrices: new Float32Array(32).fill(1),
  values: new Float64Array([1, 2, NaN, -0]),
  seen: new Uint8Array([1, 1]),
  meshVersions: new Int32Array([7, 0]),
  copyVersion: 1,
});
const shown = (f: ReturnType<typeof frame>) => f as unknown as ShownFrame;

describe('a frame on the stage', () => {
  it('is drawn once, and again only when one of its numbers is another', () => {
    const [last, f] = [new LastShown(), frame()];
    expect(last.isOther(shown(f))).toBe(true);
    expect(last.isOther(shown(f))).toBe(false);
    const changes: (() => void)[] = [
      () => (f.at = 5),
      () => (f.matrices[17] = 1.5),
      () => (f.values[1] = 2.0000001),
      () => (f.values[3] = 0),
      () => (f.seen[1] = 0),
      () => (f.meshVersions[1] = 9),
      () => (f.copyVersion = 2),
    ];
    for (const change of changes) {
      change();
      expect([last.isOther(shown(f)), last.isOther(shown(f))]).toEqual([true, false]);
    }
  });

  it('is another with more objects in it, and when what is shown was forgotten', () => {
    const [last, f] = [new LastShown(), frame()];
    last.isOther(shown(f));
    const more = { ...frame(), at: f.at, matrices: new Float32Array(48).fill(1) };
    expect([last.isOther(shown(more)), last.isOther(shown(more))]).toEqual([true, false]);
    last.forget();
    expect([last.isOther(shown(more)), last.isOther(shown(more))]).toEqual([true, false]);
  });
});

describe('a motion path', () => {
  it('is another picture only where it runs elsewhere, has other keys, comes or goes', () => {
    const path = new MotionPath();
    const points = [0, 0, 0, 1, 0, 0, 2, 1, 0];
    expect(path.set(null, [])).toBe(false);
    expect(path.set(points, [0, 0, 0])).toBe(true);
    expect(path.set(points, [0, 0, 0])).toBe(false);
    expect(path.set([...points], [0, 0, 0])).toBe(false);
    expect(path.set(points, [2, 1, 0])).toBe(true);
    expect(path.set([0, 0, 0, 1, 0, 0, 2, 2, 0], [2, 1, 0])).toBe(true);
    expect(path.set(null, [])).toBe(true);
    expect(path.set(points, [2, 1, 0])).toBe(true);

    expect(path.setOthers([])).toBe(false);
    expect(path.setOthers([points, points])).toBe(true);
    expect(path.setOthers([points, [...points]])).toBe(false);
    expect(path.setOthers([points])).toBe(true);
    expect(path.setOthers([])).toBe(true);
  });
});
