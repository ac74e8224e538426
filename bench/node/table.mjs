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
  ['Engine in the browser, 200 nodes, 20,280 vertices', v['engine in the browser, ms a frame'], 'at most', 4, ' ms'],
  ['A dragged handle in the browser', v['a dragged handle in the browser, ms'], 'at most', 16, ' ms'],
  ['Page to first drawn stage', v['page to first drawn stage, ms'], 'at most', 2000, ' ms'],
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
