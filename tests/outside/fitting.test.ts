// Simplified curves against a published fit: P. J. Schneider, An Algorithm for Automatically Fitting Digitized Curves (Graphics Gems, 1990), written down
// here from the paper. It gives parametric Bézier segments through points; ours have to keep time going forwards, and need no more of them.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

type P = [number, number];
const add = (a: P, b: P): P => [a[0] + b[0], a[1] + b[1]];
const sub = (a: P, b: P): P => [a[0] - b[0], a[1] - b[1]];
const scale = (a: P, k: number): P => [a[0] * k, a[1] * k];
const dot = (a: P, b: P) => a[0] * b[0] + a[1] * b[1];
const length = (a: P) => Math.hypot(a[0], a[1]);
const unit = (a: P) => scale(a, 1 / (length(a) || 1));
type Cubic = [P, P, P, P];

function at(c: P[], t: number): P {
  let points = c;
  while (points.length > 1) points = points.slice(1).map((p, i) => add(scale(points[i], 1 - t), scale(p, t)));
  return points[0];
}

const chordLengths = (d: P[]) => {
  const u = [0];
  for (let i = 1; i < d.length; i++) u.push(u[i - 1] + length(sub(d[i], d[i - 1])));
  return u.map((v) => v / u[u.length - 1]);
};

function generate(d: P[], u: number[], t1: P, t2: P): Cubic {
  const [first, last] = [d[0], d[d.length - 1]];
  const c = [0, 0, 0];
  const x = [0, 0];
  for (let i = 0; i < d.length; i++) {
    const [t, s] = [u[i], 1 - u[i]];
    const [b0, b1, b2, b3] = [s * s * s, 3 * t * s * s, 3 * t * t * s, t * t * t];
    const [a1, a2] = [scale(t1, b1), scale(t2, b2)];
    c[0] += dot(a1, a1);
    c[1] += dot(a1, a2);
    c[2] += dot(a2, a2);
    const rest = sub(d[i], add(scale(first, b0 + b1), scale(last, b2 + b3)));
    x[0] += dot(a1, rest);
    x[1] += dot(a2, rest);
  }
  const det = c[0] * c[2] - c[1] * c[1];
  let [left, right] = [(x[0] * c[2] - x[1] * c[1]) / det, (c[0] * x[1] - c[1] * x[0]) / det];
  const whole = length(sub(first, last));
  if (!(Math.abs(det) > 1e-12) || left < 1e-6 * whole || right < 1e-6 * whole) left = right = whole / 3;
  return [first, add(first, scale(t1, left)), add(last, scale(t2, right)), last];
}

/** One step of Newton and Raphson towards the nearest point of the curve. */
function reparametrised(c: Cubic, d: P[], u: number[]): number[] {
  const d1 = c.slice(1).map((p, i) => scale(sub(p, c[i]), 3));
  const d2 = d1.slice(1).map((p, i) => scale(sub(p, d1[i]), 2));
  return u.map((t, i) => {
    const away = sub(at(c, t), d[i]);
    const [q1, q2] = [at(d1, t), at(d2, t)];
    const below = dot(q1, q1) + dot(away, q2);
    return below === 0 ? t : t - dot(away, q1) / below;
  });
}

function furthest(c: Cubic, d: P[], u: number[]): [number, number] {
  let [most, where] = [0, d.length >> 1];
  for (let i = 1; i < d.length - 1; i++) {
    const off = length(sub(at(c, u[i]), d[i])) ** 2;
    if (off >= most) [most, where] = [off, i];
  }
  return [most, where];
}

/** How many segments Schneider's algorithm needs for an error of so much. */
function schneider(
  d: P[],
  error: number,
  t1 = unit(sub(d[1], d[0])),
  t2 = unit(sub(d[d.length - 2], d[d.length - 1])),
): number {
  if (d.length === 2) return 1;
  let u = chordLengths(d);
  let c = generate(d, u, t1, t2);
  let [most, split] = furthest(c, d, u);
  if (most < error * error) return 1;
  if (most < (4 * error) ** 2)
    for (let i = 0; i < 4; i++) {
      u = reparametrised(c, d, u);
      c = generate(d, u, t1, t2);
      [most, split] = furthest(c, d, u);
      if (most < error * error) return 1;
    }
  const centre = unit(sub(d[split - 1], d[split + 1]));
  return schneider(d.slice(0, split + 1), error, t1, centre) + schneider(d.slice(split), error, scale(centre, -1), t2);
}

const root = new URL('../..', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-fitting-'));

function simplified(values: number[], tolerance: number) {
  const keys = values.map((value, frame) => ({ frame, value, segment: 'linear' }));
  const file = join(folder, 'baked.shot.json');
  const node = {
    kind: 'group',
    id: 'g',
    name: 'G',
    channels: { 'transform.translate.y': { value: 0, curve: { keys } } },
  };
  writeFileSync(
    file,
    JSON.stringify({
      name: 'Baked',
      rate: { numerator: 24 },
      range: { first: 0, last: values.length - 1 },
      size: { width: 64, height: 36 },
      nodes: [node],
    }),
  );
  const edits = join(folder, 'edits.json');
  writeFileSync(edits, JSON.stringify([{ kind: 'simplifyKeys', channels: ['g/transform.translate.y'], tolerance }]));
  const [out, command] = [
    join(folder, 'fit.shot.json'),
    join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus'),
  ];
  execFileSync(command, ['edit', file, edits, '--out', out]);
  const { curve } = JSON.parse(readFileSync(out, 'utf8')).nodes[0].channels['transform.translate.y'];
  const alone = join(folder, 'curve.json');
  writeFileSync(alone, JSON.stringify(curve));
  const csv = execFileSync(command, ['curve', alone, '--from', '0', '--to', String(values.length - 1)]).toString();
  const fitted = csv
    .trim()
    .split('\n')
    .slice(1)
    .map((line) => Number(line.split(',')[1]));
  return { segments: curve.keys.length - 1, error: Math.max(...fitted.map((v, i) => Math.abs(v - values[i]))) };
}

describe("simplified curves, against Schneider's fit of the same samples", () => {
  const motions: Record<string, (f: number) => number> = {
    'a swing that dies away': (f) => 3 * Math.exp(-f / 60) * Math.cos(f / 9),
    'a walk of two waves': (f) => Math.sin(f / 11) + 0.4 * Math.sin(f / 4.3 + 1),
    'a soft move between two rests': (f) => 4 / (1 + Math.exp(-(f - 100) / 12)),
    'a fall with three bounces': (f) => {
      const hops: [number, number, number][] = [
        [-40, 40, 4],
        [40, 96, 1.96],
        [96, 135, 0.95],
        [135, 200, 0.5],
      ];
      const [from, to, height] = hops.find(([a, b]) => f >= a && f <= b)!;
      const u = (2 * (f - from)) / (to - from) - 1;
      return height * (1 - u * u);
    },
  };
  for (const [name, motion] of Object.entries(motions))
    for (const tolerance of [0.05, 0.01])
      it(`${name} within ${tolerance} takes no more segments`, () => {
        const values = Array.from({ length: 201 }, (_, f) => motion(f));
        const { segments, error } = simplified(values, tolerance);
        expect(error).toBeLessThanOrEqual(tolerance * (1 + 1e-6));
        // Frames are long against values here, so that the distance from their curve is what it is off in value, or less.
        const theirs = schneider(
          values.map((v, f) => [f, v] as P),
          tolerance,
        );
        expect(segments, `${segments} and ${theirs}`).toBeLessThanOrEqual(theirs);
      });
});
