// The tracks' geometry: pure modules, tested without a browser.
import { describe, expect, it } from 'vitest';
import type { ChannelView, CurveView, KeyView, NodeView } from '../../web/src/engine/engine';
import { Peaks } from '../../web/src/stores/sounds.svelte';
import { areaOf, bodyTop, HEAD, laneArea, RULER, scaleIn, type TracksModel } from '../../web/src/timeline/model';
import { hitTest, keysAround, keysIn, laneValue } from '../../web/src/timeline/hit';
import {
  byKind,
  layoutRows,
  mergedPips,
  niceStep,
  ROW,
  shownOwners,
  valueOf,
  valueRange,
  yOf,
  type ChannelRow,
  type HeadRow,
} from '../../web/src/timeline/layout';
import { TimeScale } from '../../web/src/stores/timeScale';

const key = (frame: number, value: number, more: Partial<KeyView> = {}): KeyView => ({
  frame,
  value,
  segment: 'bezier',
  inKind: { kind: 'auto' },
  outKind: { kind: 'auto' },
  joined: true,
  in: [-3, 0],
  out: [3, 0],
  samples: null,
  ...more,
});
const curve: CurveView = {
  keys: [key(0, 0), key(10, 4, { in: [-4, -2], out: [4, 2] }), key(30, 1)],
  before: { kind: 'hold' },
  after: { kind: 'loop' },
};
const channel = (owner: string, path: string, family = 'position'): ChannelView =>
  ({
    owner,
    path,
    address: `${owner}/${path}`,
    family,
    index: 0,
    label: path,
    unit: '',
    default: 0,
    min: null,
    max: null,
    step: 1,
    stepped: false,
  }) as ChannelView;
const channels: Record<string, ChannelView[]> = {
  a: [channel('a', 'x'), channel('a', 'y', 'rotation')],
  b: [],
};

const frames: Record<string, number[]> = { 'a/x': [0, 10, 30], 'a/y': [10] };

function model(lanes: string[] = [], selected: string[] = []): TracksModel {
  const rows = layoutRows(
    [
      { id: 'a', name: 'A' },
      { id: 'b', name: 'B' },
    ],
    (id) => channels[id],
    new Set(lanes),
  );
  return {
    rows,
    scroll: 0,
    time: new TimeScale(0, 10),
    width: 600,
    height: 400,
    rate: 24,
    first: 0,
    last: 48,
    playFirst: 0,
    playLast: 48,
    frame: 5,
    selected: new Set(selected),
    curve: (a) => (a === 'a/x' ? curve : { ...curve, keys: [key(10, 2)] }),
    keysOf: (a) => frames[a] ?? [],
    sample: () => [],
    scales: new Map(),
    box: null,
    range: null,
    findings: [],
    kept: [],
    muted: new Set(),
    markers: [{ id: 'k', frame: 20, name: 'Touch' }],
    overlay: null,
    lasso: null,
    slopes: () => [],
    sum: () => null,
    sounds: [],
  };
}

describe('rows', () => {
  it('are an object and its animated channels, and a lane makes its row taller', () => {
    const closed = model().rows;
    expect(closed.map((r) => (r.kind === 'head' ? r.name : r.address))).toEqual(['A', 'a/x', 'a/y']);
    expect(model(['a/x']).rows[2].top).toBeGreaterThan(closed[2].top);
  });

  it('stand together by kind, whatever they are of', () => {
    const some: Record<string, ChannelView[]> = { ...channels, b: [channel('b', 'z'), channel('b', 'w', 'look')] };
    const groups = byKind(
      [
        { id: 'a', name: 'A' },
        { id: 'b', name: 'B' },
      ],
      (id) => some[id],
    );
    const rows = layoutRows(groups.owners, groups.channelsOf, new Set());
    expect(rows.map((r) => (r.kind === 'head' ? r.name : r.address))).toEqual(
      'Position a/x b/z Rotation a/y Look b/w'.split(' '),
    );
    expect(rows.flatMap((r) => (r.kind === 'channel' ? [r.owner] : []))).toEqual(['a', 'b', 'a', 'b']);
  });

  it('merge the keys of one frame into one pip with all its families', () => {
    const pips = mergedPips(model().rows[0] as HeadRow, (a) => frames[a]);
    expect(pips.map((p) => p.frame)).toEqual([0, 10, 30]);
    expect(pips[1].families).toEqual(['position', 'rotation']);
    expect(pips[1].keys).toHaveLength(2);
  });

  it('are those of the selection with its children and surfaces, or all when nothing animated is selected', () => {
    const nodes = [
      { id: 'g', parent: null, data: {} },
      { id: 'm', parent: 'g', data: { material: 'paint' } },
      { id: 'o', parent: null, data: {} },
    ] as unknown as NodeView[];
    const names = (selection: string[], animated: string[]) =>
      shownOwners(nodes, [{ id: 'paint', name: 'P' }], new Set(selection), (id) => animated.includes(id)).map(
        (o) => o.id,
      );
    expect(names(['g', 'm'], ['m', 'paint', 'o'])).toEqual(['m', 'paint']);
    expect(names(['g'], ['o'])).toEqual(['o']);
    expect(names([], ['m', 'o'])).toEqual(['m', 'o']);
  });
});

describe('scales', () => {
  it('zoom with the frame under the mouse where it is', () => {
    const t = new TimeScale(3, 10).zoomed(200, 1.7);
    expect(t.frame(200)).toBeCloseTo(23);
    expect(t.frame(t.x(7.5))).toBeCloseTo(7.5);
  });

  it('fit everything', () => {
    const t = TimeScale.fit(-10, 200, 800);
    expect(t.x(-10)).toBeGreaterThanOrEqual(0);
    expect(t.x(200)).toBeLessThanOrEqual(800);
  });

  it('hold the curve with its handles, and do not break on a level one', () => {
    const range = valueRange(curve);
    expect(range.low).toBeLessThan(0);
    expect(range.high).toBeGreaterThan(6);
    const level = valueRange({ ...curve, keys: [key(0, 5)] });
    expect(level.high).toBeGreaterThan(level.low);
  });

  it('go from value to height and back', () => {
    const scale = { low: -2, high: 8 };
    expect(valueOf(yOf(3.25, scale, 50, 120), scale, 50, 120)).toBeCloseTo(3.25);
  });

  it('have steps of 1, 2 and 5', () => {
    expect(niceStep(10, 60, true)).toBe(10);
    expect(niceStep(100, 60, true)).toBe(1);
    expect(niceStep(1, 60, true)).toBe(100);
    expect(niceStep(100, 30, false)).toBeCloseTo(0.5);
  });
});

describe('sounds under the ruler', () => {
  const sound = { id: 's', name: 'Bell', start: 10, seconds: 1, muted: false, between: null, most: 1 };
  it('are moved by their bar, scrubbed over elsewhere, and lie before the rows', () => {
    const m = { ...model(), sounds: [sound] };
    expect(hitTest(m, 200, HEAD + 5)).toEqual({ kind: 'sound', id: 's' });
    expect(hitTest(m, 200, HEAD + 30)).toEqual({ kind: 'ruler' });
    expect(hitTest(m, 50, HEAD + 5)).toEqual({ kind: 'ruler' });
    // From frame 10 for a second of 24 frames, ten pixels each.
    expect(hitTest(m, 345, HEAD + 5).kind).toBe('ruler');
    expect(bodyTop(m)).toBe(HEAD + 44);
  });

  it('are drawn ever coarser from fewer stretches, and never lose a click', () => {
    const samples = new Float32Array(48000).fill(0.1);
    samples[30000] = -0.9;
    const peaks = new Peaks([samples, new Float32Array(48000)], 48000);
    expect(peaks.most).toBeCloseTo(0.9);
    for (const width of [0.001, 0.01, 0.1, 1]) {
      let lowest = 1;
      for (let t = 0; t < 1; t += width) lowest = Math.min(lowest, peaks.between(t, t + width)![0]);
      expect(lowest).toBeCloseTo(-0.9);
    }
    expect(peaks.between(0.1, 0.2)).toEqual([0, expect.closeTo(0.1)]);
    expect(peaks.between(1.5, 2)).toBeNull();
  });
});

describe('what lies under the mouse', () => {
  const rowY = (m: TracksModel, i: number) => HEAD + m.rows[i].top + ROW / 2;

  it('is the ruler, the ends of the play range, a key, a pip of all keys, a stretch or nothing', () => {
    const m = model();
    expect(hitTest(m, 200, RULER - 5).kind).toBe('ruler');
    expect(hitTest(m, 480, 5)).toEqual({ kind: 'playRange', end: 'last' });
    expect(hitTest(m, 103, rowY(m, 1))).toMatchObject({ kind: 'keys', keys: [{ address: 'a/x', frame: 10 }] });
    expect(hitTest(m, 100, rowY(m, 0))).toMatchObject({ kind: 'keys', keys: [{ address: 'a/x' }, { address: 'a/y' }] });
    expect(hitTest(m, 200, rowY(m, 1))).toMatchObject({ kind: 'segment', key: { frame: 10 } });
    expect(hitTest(m, 200, 390).kind).toBe('nothing');
  });

  it('is a tag beyond the last key', () => {
    const m = model();
    expect(hitTest(m, 300 + 14 + 20, rowY(m, 1))).toMatchObject({ kind: 'tag', end: 'after' });
  });

  it('is a handle of a selected key, but not of another one', () => {
    for (const selected of [true, false]) {
      const m = model(['a/x'], selected ? ['a/x@10'] : []);
      const row = m.rows[1] as ChannelRow;
      const area = laneArea(row, 0);
      const scale = valueRange(curve);
      const hit = hitTest(m, m.time.x(14), yOf(6, scale, area.top, area.height));
      expect(hit.kind).toBe(selected ? 'handle' : 'segment');
      expect(laneValue(m, { address: 'a/x', row }, yOf(2.5, scale, area.top, area.height))).toBeCloseTo(2.5);
    }
  });

  it('is all that a box holds, in rows and in lanes', () => {
    const m = model();
    expect(keysIn(m, { x0: 90, y0: HEAD, x1: 110, y1: 400 })).toHaveLength(2);
    expect(keysIn(m, { x0: 310, y0: 400, x1: 90, y1: HEAD }).map((k) => k.frame)).toEqual([10, 30, 10]);
  });
});

describe('a line drawn by hand', () => {
  it('takes the keys that it goes round and no others', () => {
    const m = model();
    // Round the key on frame 10 of the row of a/x, past those beside it.
    const y = HEAD + m.rows[1].top + ROW / 2;
    const around = (x: number, r: number) => [
      { x: x - r, y: y - r },
      { x: x + r, y: y - r },
      { x: x + r, y: y + r },
      { x: x - r, y: y + r },
    ];
    expect(keysAround(m, around(100, 8))).toEqual([{ address: 'a/x', frame: 10 }]);
    expect(keysAround(m, around(60, 8))).toEqual([]);
    expect(keysAround(m, around(100, 8).slice(0, 2))).toEqual([]);
  });
});

describe('the large lane', () => {
  const large = (scale: { low: number; high: number } | null) => {
    const m = model();
    m.overlay = {
      top: 200,
      height: 200,
      speed: 0,
      channels: [m.rows[1], m.rows[2]].map((r) => (r as ChannelRow).channel),
      scale,
    };
    return m;
  };

  it('has the nearest key of several curves under the pointer, with its lane', () => {
    const m = large({ low: 0, high: 10 });
    const lane = { address: 'a/x', row: null };
    const area = areaOf(m, lane);
    const at = m.curve('a/x')!.keys[1];
    const y = yOf(at.value, { low: 0, high: 10 }, area.top, area.height);
    expect(hitTest(m, m.time.x(at.frame), y)).toMatchObject({ kind: 'keys', keys: [{ address: 'a/x' }], lane });
    // What is read off at that height is the value of the key.
    expect(laneValue(m, lane, y)).toBeCloseTo(at.value);
  });

  it('gives each curve its own scale, or all one', () => {
    const lane = { address: 'a/x', row: null };
    expect(scaleIn(large(null), lane, model().curve('a/x')!)).not.toEqual({ low: 0, high: 10 });
    expect(scaleIn(large({ low: 0, high: 10 }), lane, model().curve('a/x')!)).toEqual({ low: 0, high: 10 });
  });
});

it('a marker on the ruler is found before the ruler', () => {
  expect(hitTest(model(), 201, RULER)).toEqual({ kind: 'marker', id: 'k' });
});
