// three.js's Bézier interpolant on the same keys, at the same frames.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';

const load = createRequire(new URL('../../web/package.json', import.meta.url));
const { BezierInterpolant } = await import(load.resolve('three').replace(/three\.cjs$/, 'three.module.js'));
const { keys } = JSON.parse(readFileSync(process.argv[2], 'utf8'));
const values = new Float64Array(keys.map((k) => k.value));
const interpolant = new BezierInterpolant(new Float64Array(keys.map((k) => k.frame)), values, 1, new Float64Array(1));
interpolant.inTangents = new Float64Array(keys.flatMap((k) => [k.frame + k.in.frames, k.value + k.in.value]));
interpolant.outTangents = new Float64Array(keys.flatMap((k) => [k.frame + k.out.frames, k.value + k.out.value]));
const rates = [];
let sum = 0;
for (let round = 0; round < 9; round++) {
  const start = performance.now();
  const count = 1_000_000;
  for (let i = 0; i < count; i++) sum += interpolant.evaluate(i * 0.000937)[0];
  rates.push(count / ((performance.now() - start) / 1000));
}
console.error(sum);
console.log(JSON.stringify({ name: 'three.js evaluations per second', value: rates.sort((a, b) => a - b)[4] }));
