// Contacts against three-mesh-bvh: on which frames meshes pass through each other, and how deep.
// Bounces against free fall, s = g·t²/2, and the coefficient of restitution (Newton).
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

// The packages live beside the interface.
const load = createRequire(new URL('../../web/package.json', import.meta.url));
Object.assign(globalThis, { self: globalThis });
const THREE = await import(load.resolve('three'));
const { MeshBVH } = await import(load.resolve('three-mesh-bvh'));

const root = new URL('../..', import.meta.url).pathname;
const program = join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus');
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-checks-'));
const run = (...args: string[]) => execFileSync(program, args, { maxBuffer: 1 << 28 }).toString();

interface Finding {
  kind: string;
  nodes: string[];
  channels: string[];
  first: number;
  last: number;
  sentence: string;
  mend: string | null;
}

const value = (v: number) => ({ value: v });
const curve = (keys: object[], more = {}) => ({ value: 0, curve: { keys, ...more } });
let count = 0;
function shot(last: number, nodes: object[]): string {
  const file = join(folder, `${count++}.shot.json`);
  const rate = { numerator: 24, denominator: 1 };
  writeFileSync(
    file,
    JSON.stringify({ name: 'Checks', rate, range: { first: 0, last }, size: { width: 64, height: 36 }, nodes }),
  );
  return file;
}
const check = (file: string): Finding[] => JSON.parse(run('check', file));

describe('contacts', () => {
  // A torus that tumbles through a ball, and out again.
  const nodes = [
    {
      kind: 'mesh',
      id: 'ring',
      name: 'Ring',
      shape: { kind: 'torus', radius: 0.8, tube: 0.25, segments: 40, rings: 20 },
      channels: {
        'transform.translate.x': curve([
          { frame: 0, value: -3, segment: 'linear' },
          { frame: 40, value: 3 },
        ]),
        'transform.rotate.z': curve([
          { frame: 0, value: 0, segment: 'linear' },
          { frame: 40, value: 200 },
        ]),
        'transform.scale.y': value(1.4),
      },
    },
    {
      kind: 'mesh',
      id: 'ball',
      name: 'Ball',
      shape: { kind: 'sphere', radius: 0.7, segments: 32, rings: 20 },
      channels: { 'transform.translate.y': value(0.9) },
    },
  ];

  it('are on the frames on which three-mesh-bvh finds them, and as deep', () => {
    const file = shot(40, nodes);
    const found = check(file).filter((f) => f.kind === 'contact');
    const frames = new Set<number>();
    for (const f of found) for (let i = f.first; i <= f.last; i++) frames.add(i);
    let deepest = 0;
    // Every third frame, and the deepest.
    const named = found.map((f) => Number(/\(frame (\d+)\)/.exec(f.sentence)![1]));
    const asked = [...Array(41).keys()].filter((f) => f % 3 === 0 || named.includes(f));
    for (const frame of asked) {
      const { meshes } = JSON.parse(run('sample', file, '--frame', String(frame), '--mesh'));
      const [ring, ball] = meshes.map((m: { positions: number[]; indices: number[] }) => {
        const geometry = new THREE.BufferGeometry();
        geometry.setAttribute('position', new THREE.Float32BufferAttribute(m.positions, 3));
        geometry.setIndex(m.indices);
        return geometry;
      });
      const [inRing, inBall] = [new MeshBVH(ring), new MeshBVH(ball)];
      const crosses = inBall.intersectsGeometry(ring, new THREE.Matrix4());
      const depth = Math.max(deep(ring, inBall), deep(ball, inRing));
      // What is hardly in the other only touches.
      if (depth > 0.03) expect(frames.has(frame), `frame ${frame}`).toBe(crosses);
      if (!crosses) expect(frames.has(frame), `frame ${frame}`).toBe(false);
      if (crosses) deepest = Math.max(deepest, depth);
    }
    expect(frames.size).toBeGreaterThan(5);
    const said = Math.max(...found.map((f) => Number(/up to ([\d.]+) m deep/.exec(f.sentence)![1])));
    expect(said).toBeCloseTo(deepest, 2);
    expect(found[0].channels).toContain('ring/transform.translate.x');
  });

  /** How far the deepest vertex lies inside: what a ray leaves once more than it enters. */
  function deep(of: any, within: any): number {
    const at = of.getAttribute('position');
    const [point, way] = [new THREE.Vector3(), new THREE.Vector3(0.3, 0.9, 0.2).normalize()];
    let most = 0;
    for (let i = 0; i < at.count; i++) {
      point.fromBufferAttribute(at, i);
      const hits = within.raycast(new THREE.Ray(point.clone(), way), THREE.DoubleSide);
      if (hits.length % 2 === 1) most = Math.max(most, within.closestPointToPoint(point).distance);
    }
    return most;
  }
});

describe('bounces', () => {
  /** Free fall with restitution e: each hop is e times as long and e² times as high. */
  function falls(e: number, warp = 1): string {
    const g = 0.05;
    let [at, height] = [Math.sqrt((2 * 3) / g), 3];
    const fall = Math.round(at);
    const keys: object[] = [{ frame: 0, value: 3, out: { kind: 'free', frames: fall / 3, value: 0 } }];
    let arrives = { kind: 'free', frames: -fall / 3, value: 2 };
    let frame = fall;
    for (let hop = 0; hop < 4; hop++) {
      height *= e * e;
      const long = 2 * Math.sqrt((2 * height) / g) * (hop === 2 ? warp : 1);
      const third = Math.round(long) / 6;
      const slope = (2 * height) / 3;
      keys.push(
        { frame, value: 0, in: arrives, out: { kind: 'free', frames: third, value: slope }, joined: false },
        {
          frame: frame + 3 * third,
          value: height,
          in: { kind: 'free', frames: -third, value: 0 },
          out: { kind: 'free', frames: third, value: 0 },
        },
      );
      arrives = { kind: 'free', frames: -third, value: slope };
      frame += Math.round(long);
      at += long;
    }
    keys.push({ frame, value: 0, in: arrives });
    return shot(frame + 8, [
      {
        kind: 'mesh',
        id: 'ball',
        name: 'Ball',
        shape: { kind: 'sphere', radius: 0.3 },
        channels: { 'transform.translate.y': curve(keys) },
      },
    ]);
  }

  // Common practice: each bounce about half as high as the one before, which is a restitution of √½.
  it.each([0.6, Math.SQRT1_2, 0.8])('that fall freely with a restitution of %f are left alone', (e) => {
    expect(check(falls(e))).toEqual([]);
  });

  it('of which one hangs in the air are named', () => {
    expect(check(falls(Math.SQRT1_2, 2)).map((f) => f.kind)).toEqual(['bounce']);
  });
});

it('a shot in which nothing is wrong has no findings, as a JSON array', () => {
  expect(run('check', shot(10, [])).trim()).toBe('[]');
});
