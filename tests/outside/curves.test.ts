// Curves against implementations outside the project. Values come from the program itself, through its command line.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createRequire } from 'node:module';
import { describe, expect, it } from 'vitest';

// The packages live beside the interface.
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const d3 = load('d3-ease') as Record<string, unknown>;
const bezier = load('bezier-easing') as (x1: number, y1: number, x2: number, y2: number) => (x: number) => number;
const three = await import(load.resolve('three').replace(/three\.cjs$/, 'three.module.js'));

const root = new URL('../..', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-outside-'));

function sample(curve: unknown, from: number, to: number, step: number): [number, number][] {
  const file = join(folder, 'curve.json');
  writeFileSync(file, JSON.stringify(curve));
  const csv = execFileSync(join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus'), [
    'curve',
    file,
    '--from',
    String(from),
    '--to',
    String(to),
    '--step',
    String(step),
  ]).toString();
  return csv
    .trim()
    .split('\n')
    .slice(1)
    .map((line) => line.split(',').map(Number) as [number, number]);
}

const near = (a: number, b: number, within: number, what: string) =>
  expect(Math.abs(a - b), `${what}: ${a} and ${b}`).toBeLessThanOrEqual(within);

describe("CSS Easing's cubic-bezier() (W3C css-easing-1), by the package bezier-easing and by three.js", () => {
  const named = {
    ease: [0.25, 0.1, 0.25, 1],
    'ease-in': [0.42, 0, 1, 1],
    'ease-out': [0, 0, 0.58, 1],
    'ease-in-out': [0.42, 0, 0.58, 1],
    over: [0.3, -0.6, 0.2, 1.9],
  };
  for (const [name, [x1, y1, x2, y2]] of Object.entries(named)) {
    const curve = {
      keys: [
        { frame: 0, value: 0, out: { kind: 'free', frames: 100 * x1, value: y1 } },
        { frame: 100, value: 1, in: { kind: 'free', frames: 100 * (x2 - 1), value: y2 - 1 } },
      ],
    };
    it(`${name} is the curve of the standard`, () => {
      const css = bezier(x1, y1, x2, y2);
      // The package looks its parameter up in a table and refines it, to about six digits.
      for (const [frame, value] of sample(curve, 0, 100, 2.5))
        near(value, css(frame / 100), 2e-5, `${name} at ${frame}`);
    });

    it(`${name} is what three.js's BezierInterpolant gives`, () => {
      const interpolant = new three.BezierInterpolant(
        new Float64Array([0, 100]),
        new Float64Array([0, 1]),
        1,
        new Float64Array(1),
      );
      interpolant.outTangents = new Float64Array([100 * x1, y1, 0, 0]);
      interpolant.inTangents = new Float64Array([0, 0, 100 * x2, y2]);
      for (const [frame, value] of sample(curve, 0, 100, 2.5)) {
        // At an upright handle Newton's iteration there stops early.
        near(value, interpolant.evaluate(frame)[0], x1 === 0 ? 1e-4 : 1e-8, `${name} at ${frame}`);
      }
    });
  }
});

describe("three.js's LinearInterpolant and DiscreteInterpolant", () => {
  const frames = [0, 3, 4.5, 20];
  const values = [1, -2, 5, 0.25];
  for (const [segment, kind] of [
    ['linear', 'LinearInterpolant'],
    ['hold', 'DiscreteInterpolant'],
  ] as const) {
    it(`${segment} segments are the same`, () => {
      const interpolant = new three[kind](new Float64Array(frames), new Float64Array(values), 1, new Float64Array(1));
      const curve = { keys: frames.map((frame, i) => ({ frame, value: values[i], segment })) };
      for (const [frame, value] of sample(curve, -2, 22, 0.25))
        near(value, interpolant.evaluate(frame)[0], 1e-12, `frame ${frame}`);
    });
  }
});

describe('the easings of Robert Penner, against d3-ease', () => {
  // d3-ease rescales the powers of two of expo and elastic so that they start at 0 exactly; the published equations step by 2⁻¹⁰.
  const within: Record<string, number> = { Expo: 1.1e-3, Elastic: 1.1e-3 };
  for (const family of ['Sine', 'Quad', 'Cubic', 'Expo', 'Circ', 'Back', 'Elastic', 'Bounce']) {
    for (const direction of ['In', 'Out', 'InOut']) {
      it(`${family} ${direction}`, () => {
        let ease = d3[`ease${{ Sine: 'Sin', Expo: 'Exp', Circ: 'Circle' }[family] ?? family}${direction}`] as ((
          t: number,
        ) => number) & { overshoot(s: number): (t: number) => number; period(p: number): (t: number) => number };
        // In and out, Penner widens back's overshoot by 1.525 and elastic's period to 0.45.
        if (family === 'Back' && direction === 'InOut') ease = ease.overshoot(1.70158 * 1.525) as typeof ease;
        if (family === 'Elastic' && direction === 'InOut') ease = ease.period(0.45) as typeof ease;
        const curve = {
          keys: [
            {
              frame: 0,
              value: 0,
              segment: { ease: family.toLowerCase(), direction: direction[0].toLowerCase() + direction.slice(1) },
            },
            { frame: 64, value: 1 },
          ],
        };
        for (const [frame, value] of sample(curve, 0, 64, 1))
          near(value, ease(frame / 64), within[family] ?? 1e-9, `${family}${direction} at ${frame}/64`);
      });
    }
  }
  for (const [family, exponent] of [
    ['quart', 4],
    ['quint', 5],
  ] as const) {
    it(`${family} is d3's polynomial of degree ${exponent}`, () => {
      const poly = (d3.easePolyIn as { exponent(e: number): (t: number) => number }).exponent(exponent);
      for (const [frame, value] of sample(
        {
          keys: [
            { frame: 0, value: 0, segment: { ease: family, direction: 'in' } },
            { frame: 64, value: 1 },
          ],
        },
        0,
        64,
        1,
      ))
        near(value, poly(frame / 64), 1e-12, `${frame}`);
    });
  }
  it('elastic takes amplitude and period as d3 does', () => {
    const ease = (d3.easeElasticOut as { amplitude(a: number): { period(p: number): (t: number) => number } })
      .amplitude(1.6)
      .period(0.5);
    const curve = {
      keys: [
        { frame: 0, value: 0, segment: { ease: 'elastic', direction: 'out', amplitude: 1.6, period: 0.5 } },
        { frame: 64, value: 1 },
      ],
    };
    for (const [frame, value] of sample(curve, 0, 64, 1)) near(value, ease(frame / 64), 2.5e-3, `${frame}`);
  });
});
