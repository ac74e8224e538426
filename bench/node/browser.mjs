// The engine in the browser: a shot of 200 nodes with 20,000 bent vertices, and the start of the page.
import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const root = new URL('../..', import.meta.url).pathname;
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const { chromium } = load('@playwright/test');
const server = spawn(
  join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus'),
  ['demo', '--port', '5189', '--data', mkdtempSync(join(tmpdir(), 'bradymotus-bench-'))],
  { env: { ...process.env, BRADYMOTUS_HOME: root } },
);
await new Promise((done) => server.stdout.on('data', (d) => String(d).includes('ready') && done()));
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
});
const print = (name, value) => console.log(JSON.stringify({ name, value }));
const median = (v) => v.sort((a, b) => a - b)[v.length >> 1];
try {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const starts = [];
  const ready = [];
  for (let i = 0; i < 5; i++) {
    const page = await context.newPage();
    await page.goto('http://127.0.0.1:5189/');
    await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
    const at = (mark) => page.evaluate((m) => performance.getEntriesByName(m)[0].startTime, mark);
    starts.push(await at('stage drawn'));
    ready.push(await at('ready'));
    await page.close();
  }
  print('page to first drawn stage, ms', median(starts));
  print('page to ready for the first change, ms', median(ready));
  const page = await context.newPage();
  await page.goto('http://127.0.0.1:5189/');
  await page.waitForFunction(() => window.bradymotus?.ready);
  const result = await page.evaluate(async () => {
    const engine = window.bradymotus.engine;
    const curve = (a) => ({
      keys: [
        { frame: 0, value: -a, out: { kind: 'free', frames: 8, value: a } },
        { frame: 24, value: a },
        { frame: 48, value: -a },
      ],
      after: { kind: 'loop' },
    });
    const nodes = [];
    for (let i = 0; i < 200; i++) {
      const channels = Object.fromEntries(
        ['translate.x', 'translate.y', 'rotate.y', 'rotate.z'].map((p, n) => [
          `transform.${p}`,
          { value: 0, curve: curve(n + 1) },
        ]),
      );
      const bent = i % 10 === 0;
      if (bent) channels['deform.t.angle'] = { value: 0, curve: curve(40) };
      // A box of 6 × 13² vertices, twenty of them: 20,280.
      nodes.push({
        kind: 'mesh',
        id: `n${i}`,
        name: `N ${i}`,
        parent: i % 4 ? `n${i - 1}` : undefined,
        shape: { kind: 'box', divisions: bent ? 12 : 1 },
        deformers: bent ? [{ kind: 'twist', id: 't' }] : [],
        channels,
      });
    }
    engine.open(
      {
        version: 1,
        name: 'Bench',
        rate: { numerator: 24, denominator: 1 },
        range: { first: 0, last: 100 },
        size: { width: 640, height: 360 },
        nodes,
      },
      0,
      [],
    );
    const frames = [];
    for (let f = 0; f < 400; f++) {
      const start = performance.now();
      engine.evaluate(f * 0.37);
      frames.push(performance.now() - start);
    }
    const edits = [];
    for (let i = 0; i < 60; i++) {
      const start = performance.now();
      engine.try({
        kind: 'setHandle',
        key: { address: 'n10/transform.translate.x', frame: 24 },
        side: 'in',
        handle: { kind: 'free', frames: -4, value: i / 30 },
      });
      engine.changes();
      engine.evaluate(20);
      edits.push(performance.now() - start);
    }
    return { frames: frames.slice(100), edits: edits.slice(10) };
  });
  print('engine in the browser, ms a frame', median(result.frames));
  print('a dragged handle in the browser, ms', median(result.edits));
} finally {
  await browser.close();
  server.kill();
}
