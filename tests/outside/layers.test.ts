// Layers against the additive clips of three.js: its mixer lays a clip with AdditiveAnimationBlendMode over another.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

// The packages live beside the interface.
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const three = await import(load.resolve('three').replace(/three\.cjs$/, 'three.module.js'));

const program = join(new URL('../..', import.meta.url).pathname, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus');
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-layers-'));

const frames = [0, 4, 10];
const looked = [1, 3, 6, 10];
const turns = (list: [number, number, number][]) =>
  list.map((degrees) =>
    new three.Quaternion().setFromEuler(new three.Euler(...degrees.map((d) => (d * Math.PI) / 180), 'XYZ')),
  );
const below = turns([
  [10, 20, -30],
  [60, -40, 15],
  [-20, 80, 100],
]);
const over = [
  turns([
    [5, 0, 0],
    [0, 35, -10],
    [20, -15, 40],
  ]),
  turns([
    [0, 0, 25],
    [-30, 10, 0],
    [12, 12, -60],
  ]),
];
const way = [0, 2, -1];
const lifts = [
  [0.5, 1, -2],
  [3, 0, 0.25],
];
const keys = (values: number[]) => ({
  value: 0,
  curve: { keys: values.map((value, i) => ({ frame: frames[i], value, segment: 'linear' })) },
});

function sample(weights: number[]): number[][] {
  const channels: Record<string, object> = { 'transform.translate.y': keys(way) };
  for (const c of ['x', 'y', 'z', 'w'] as const) {
    channels[`transform.quaternion.${c}`] = keys(below.map((q) => q[c]));
    weights.forEach((_, l) => (channels[`transform.quaternion.${c}@l${l}`] = keys(over[l].map((q) => q[c]))));
  }
  weights.forEach((_, l) => (channels[`transform.translate.y@l${l}`] = keys(lifts[l])));
  const file = join(folder, `${weights.join('-')}.shot.json`);
  writeFileSync(
    file,
    JSON.stringify({
      name: 'Layers',
      rate: { numerator: 24, denominator: 1 },
      range: { first: 0, last: 10 },
      size: { width: 64, height: 36 },
      layers: weights.map((value, l) => ({ id: `l${l}`, name: `L${l}`, channels: { weight: { value } } })),
      nodes: [{ kind: 'group', id: 'n', name: 'N', rotationOrder: 'quaternion', channels }],
    }),
  );
  return looked.map((f) => {
    const { nodes } = JSON.parse(execFileSync(program, ['sample', file, '--frame', String(f)]).toString());
    return nodes[0].world as number[];
  });
}

function mixed(weights: number[]): number[][] {
  const object = new three.Object3D();
  object.name = 'N';
  const mixer = new three.AnimationMixer(object);
  const clip = (list: InstanceType<typeof three.Quaternion>[], lift: number[], additive: boolean) =>
    new three.AnimationClip(
      'clip',
      10,
      [
        new three.QuaternionKeyframeTrack(
          '.quaternion',
          frames,
          list.flatMap((q) => q.toArray()),
        ),
        new three.VectorKeyframeTrack(
          '.position',
          frames,
          lift.flatMap((y) => [0, y, 0]),
        ),
      ],
      additive ? three.AdditiveAnimationBlendMode : three.NormalAnimationBlendMode,
    );
  const play = (c: InstanceType<typeof three.AnimationClip>, weight: number) => {
    const action = mixer.clipAction(c);
    action.setLoop(three.LoopOnce, 1);
    action.clampWhenFinished = true;
    action.setEffectiveWeight(weight).play();
  };
  play(clip(below, way, false), 1);
  weights.forEach((weight, l) => play(clip(over[l], lifts[l], true), weight));
  return looked.map((f) => {
    mixer.setTime(f);
    object.updateMatrix();
    return object.matrix.toArray();
  });
}

describe('layers that add', () => {
  for (const weights of [[1], [0.5], [0.3]]) {
    it(`turn and lift as an additive clip with the weight ${weights}`, () => {
      const [ours, theirs] = [sample(weights), mixed(weights)];
      ours.forEach((world, f) =>
        world.forEach((v, i) =>
          expect(Math.abs(v - theirs[f][i]), `frame ${looked[f]}, number ${i}`).toBeLessThan(2e-6),
        ),
      );
    });
  }

  it('add up to two clips, one over the other, at full weight', () => {
    // The mixer gathers all additive clips first and turns by them together: at full weights that is the same.
    const [ours, theirs] = [sample([1, 1]), mixed([1, 1])];
    ours.forEach((world, f) =>
      world.forEach((v, i) => expect(Math.abs(v - theirs[f][i]), `frame ${looked[f]}, number ${i}`).toBeLessThan(2e-6)),
    );
  });
});
