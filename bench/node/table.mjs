// The table of ./bradymotus bench, and the same as JSON.
import { readFileSync, writeFileSync } from 'node:fs';

const [, , from, to] = process.argv;
// What was measured several times, in turn with its reference, counts with its median.
const measured = new Map();
for (const line of readFileSync(from, 'utf8').trim().split('\n')) {
  const { name, value } = JSON.parse(line);
  measured.set(name, [...(measured.get(name) ?? []), value]);
}
const v = Object.fromEntries([...measured].map(([name, m]) => [name, m.sort((a, b) => a - b)[m.length >> 1]]));
const rows = [
  [
    'Curve evaluation ÷ three.js, a run of frames',
    v['curve evaluations per second'] / v['three.js evaluations per second'],
    'at least',
    5,
    '×',
  ],
  [
    'Curve evaluation ÷ three.js, one call a frame',
    v['curve evaluations per second, one by one'] / v['three.js evaluations per second'],
    'at least',
    2,
    '×',
  ],
  ['100,000 keys ÷ 10 keys, random access', v['random access, 100000 keys to 10'], 'at most', 3, '×'],
  ['Rays ÷ Embree, one thread', v['ours: rays per second'] / v['embree: rays per second'], 'at least', 0.5, '×'],
  ['Hits that differ from Embree, of a million', Math.abs(v['ours: hits'] - v['embree: hits']), 'at most', 20, ''],
  ['Draft 640×360, pictures a second', v['draft pictures per second, two threads'], 'at least', 5, ''],
  [
    'Draft, two threads ÷ one',
    v['draft pictures per second, two threads'] / v['draft pictures per second, one thread'],
    'at least',
    1.8,
    '×',
  ],
  [
    'Draft, two threads ÷ two renderers apart',
    v['draft pictures per second, two threads'] / v['draft pictures per second, two renderers apart'],
    'at least',
    0.9,
    '×',
  ],
  ['Structural edit in 5,000 nodes', v['structural edit in 5,000 nodes, ms'], 'at most', 20, ' ms'],
  ['Drag step in 5,000 nodes', v['drag step in 5,000 nodes, ms'], 'at most', 5, ' ms'],
  [
    'Drag step in 5,000 nodes ÷ in 50',
    v['drag step in 5,000 nodes, ms'] / v['drag step in 50 nodes, ms'],
    'at most',
    2,
    '×',
  ],
  ...[
    ['TransformKeys on 100,000 keys', 200],
    ['200 keys inserted in 100,000', 20],
    ['SetKeys on 15,000 channels', 200],
    ['duplicating 5,000 nodes', 500],
  ].flatMap(([what, most]) => [
    [what, v[`${what}, ms`], 'at most', most, ' ms'],
    [`${what}: growth from a tenth`, v[`${what}, growth`], 'at most', 15, '×'],
  ]),
  ...[
    ['20,000 nodes: stagger', 1000],
    ['20,000 nodes: unroll', 1000],
    ['20,000 nodes: merge a layer', 1000],
    ['20,000 nodes: remove a layer', 1000],
    ['20,000 nodes: rotation order', 1000],
    ['20,000 nodes: keep below', 1000],
    ['4,000 instances made real', 1000],
    ['a state after 200 undos in two windows', 100],
    ['sample of a chain of 5,000', 2000],
  ].map(([what, most]) => [what[0].toUpperCase() + what.slice(1), v[`${what}, ms`], 'at most', most, ' ms']),
  ...Object.keys(v)
    .filter((name) => name.endsWith('time to 1 % error ÷ that of even sampling'))
    .map((name) => [name, v[name], 'at most', 0.7, '×']),
  ['200 lamps ÷ one lamp, time', v['200 lamps ÷ one lamp, time'], 'at most', 3, '×'],
  [
    'History of 1,000 edits of 9 × 1,000 keys',
    v['history of 1,000 edits of 9 curves of 1,000 keys, MB'],
    'at most',
    60,
    ' MB',
  ],
  [
    '100 channels in ten layers ÷ without',
    v['100 channels in ten layers, ms for 1,000 frames'] / v['100 channels, ms for 1,000 frames'],
    'at most',
    3,
    '×',
  ],
  ['10,000 baked keys simplified', v['10,000 baked keys simplified, ms'], 'at most', 100, ' ms'],
  [
    'The same: keys ÷ those they were baked from',
    v['10,000 baked keys simplified, keys ÷ keys they were baked from'],
    'at most',
    1.5,
    '×',
  ],
  [
    'Contacts of two meshes of 20,000 triangles on 100 frames',
    v['contacts of 2 × 20,000 triangles on 100 frames, s'],
    'at most',
    5,
    ' s',
  ],
  [`Checks: harmless named, of ${v['pairs that look alike']}`, v['harmless ones that are named'], 'at most', 0, ''],
  ['Checks: wrong missed, of as many', v['wrong ones that are missed'], 'at most', 7, ''],
  ['Checks again with nothing changed', v['checks again with nothing changed, ms'], 'at most', 20, ' ms'],
  ['10,000 keys moved', v['10,000 keys moved, ms'], 'at most', 50, ' ms'],
  ['Tracks of 504 rows and 100,800 keys, pictures a second', v['tracks, pictures a second'], 'at least', 30, ''],
  [
    'The same ÷ one rectangle on that canvas',
    v['tracks, pictures a second'] / v['one rectangle, pictures a second'],
    'at least',
    0.8,
    '×',
  ],
  ['The same, drawing one picture', v['tracks, ms of drawing a picture'], 'at most', 33, ' ms'],
  [
    'The same with layers, overlay and speed, pictures a second',
    v['tracks with layers, overlay and speed, pictures a second'],
    'at least',
    30,
    '',
  ],
  ['10,000 keys moved in the browser, a step', v['10,000 keys moved in the browser, ms a step'], 'at most', 50, ' ms'],
  [
    '10,000 keys moved in the browser, the end',
    v['10,000 keys moved in the browser, ms at the end'],
    'at most',
    50,
    ' ms',
  ],
  [
    'All checks on the slowest demo shot, page just opened',
    v['all checks on a demo shot in the browser, ms'],
    'at most',
    1000,
    ' ms',
  ],
  ['Their longest piece', v['all checks on a demo shot in the browser, ms of the longest piece'], 'at most', 8, ' ms'],
  [
    'Motion paths of 10 objects over 1,001 frames after an edit',
    v['motion paths of 10 objects over 1,001 frames after an edit, ms'],
    'at most',
    100,
    ' ms',
  ],
  ['List of 5,000 objects, pictures missed of 120', v['scene list, pictures missed while scrolling'], 'at most', 0, ''],
  ['Values of 5,000 objects, pictures missed of 120', v['values, pictures missed while scrolling'], 'at most', 0, ''],
  [
    'A kept frame ÷ one that is evaluated, in the browser',
    v['a kept frame in the browser, ms'] / v['engine in the browser, ms a frame'],
    'at most',
    0.25,
    '×',
  ],
  ['Engine in the browser, 200 nodes, 20,280 vertices', v['engine in the browser, ms a frame'], 'at most', 4, ' ms'],
  ['A dragged handle in the browser', v['a dragged handle in the browser, ms'], 'at most', 16, ' ms'],
  ...['sheet', 'skin'].flatMap((name) =>
    ['reads', 'writes'].map((does) => [
      `A model (${name}): @gltf-transform ${does} in ÷ ours`,
      v[`@gltf-transform ${does} ${name}, ms`] / v[`ours ${does} ${name}, ms`],
      'at least',
      1,
      '×',
    ]),
  ),
  [
    '20,000 vertices, 60 joints: three.js ÷ native',
    v['three.js skin, ms a frame'] / v['skin native, ms a frame'],
    'at least',
    10,
    '×',
  ],
  ['20,000 vertices, 60 joints, in the browser', v['skin in the browser, ms a frame'], 'at most', 6, ' ms'],
  [
    '40 targets of 20,000 vertices, five at work, in the browser',
    v['morph in the browser, ms a frame'],
    'at most',
    3,
    ' ms',
  ],
  [
    '1,000 instances of 1,000 triangles',
    v['1,000 instances of 1,000 triangles, calls to draw them'],
    'at most',
    1,
    ' calls',
  ],
  [
    '1,000 instances, what they are of moved',
    v['1,000 instances of 1,000 triangles, what they are of moved, ms'],
    'at most',
    16,
    ' ms',
  ],
  [
    '500,000 triangles, from dropped to drawn',
    v['500,000 triangles, from dropped to drawn, ms'],
    'at most',
    5000,
    ' ms',
  ],
  ['Page to first drawn stage', v['page to first drawn stage, ms'], 'at most', 2000, ' ms'],
  ['First stage to first change', v['first stage to first change, ms'], 'at most', 2500, ' ms'],
  ['Page to ready for the first change', v['page to ready for the first change, ms'], 'at most', 5000, ' ms'],
];
for (const [name, value, word, goal, unit] of rows) {
  const met = word === 'at least' ? value >= goal : value <= goal;
  console.log(
    `${met ? 'ok  ' : 'MISS'}  ${name.padEnd(52)} ${(Math.round(value * 100) / 100 + unit).padStart(12)}   (${word} ${goal}${unit})`,
  );
}
writeFileSync(
  to,
  JSON.stringify(
    { figures: v, rows: rows.map(([name, value, word, goal]) => ({ name, value, [word]: goal })) },
    null,
    2,
  ) + '\n',
);
console.log(`\nAll figures: ${to}`);
