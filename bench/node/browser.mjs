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
/** A shot in the library, opened in a page. */
async function openShot(context, nodes) {
  const shot = {
    name: 'Large',
    rate: { numerator: 24 },
    range: { first: 0, last: 400 },
    size: { width: 640, height: 360 },
    nodes,
  };
  const page = await context.newPage();
  const made = await page.request.post('http://127.0.0.1:5189/api/shots/import', { data: shot });
  await page.goto(`http://127.0.0.1:5189/#${(await made.json()).id}`);
  await page.waitForFunction(() => window.bradymotus?.ready, null, { timeout: 120_000 });
  return page;
}

/** Objects with 200 keys on each of some channels. */
function keyed(count, paths) {
  const keys = Array.from({ length: 200 }, (_, i) => ({ frame: 2 * i, value: (i * 7) % 5 }));
  const channels = Object.fromEntries(paths.map((p) => [`transform.${p}`, { value: 0, curve: { keys } }]));
  return Array.from({ length: count }, (_, i) => ({ kind: 'group', id: `n${i}`, name: `N ${i}`, channels }));
}

/** Pictures of the tracks a second, 504 rows with 100,800 keys: while a hand pans, zooms and drags a key. */
async function tracks(context) {
  const paths = ['translate', 'rotate', 'scale'].flatMap((k) => ['x', 'y', 'z'].map((a) => `${k}.${a}`));
  const page = await openShot(context, keyed(56, paths));
  await page.keyboard.press('3');
  await page.waitForFunction(() => window.bradymotusTracks?.drawn() > 1);
  const box = await page.getByTestId('tracks').boundingBox();
  const [x, y] = [box.x + 600, box.y + 200];
  await page.mouse.move(x, y);
  const rate = (move) =>
    page.evaluate(async (kind) => {
      // Events as a hand makes them, one for each picture.
      const canvas = document.querySelector('[data-testid=tracks] canvas');
      const rect = canvas.getBoundingClientRect();
      const key = window.bradymotusTracks.key('n0/transform.translate.y', 200, false);
      const at = kind === 'key' ? key : { x: rect.left + 400, y: rect.top + 150 };
      const send = (type, dx) =>
        canvas.dispatchEvent(
          new PointerEvent(type, {
            pointerId: 1,
            button: 0,
            buttons: 1,
            clientX: at.x + dx,
            clientY: at.y,
            bubbles: true,
          }),
        );
      if (kind === 'key') send('pointerdown', 0);
      const start = performance.now();
      const before = window.bradymotusTracks.drawn();
      for (let i = 1; i <= 60; i++) {
        if (kind === 'key') send('pointermove', 4 + i);
        else
          canvas.dispatchEvent(
            new WheelEvent('wheel', {
              deltaY: kind === 'pan' ? 6 : i < 30 ? -12 : 12,
              shiftKey: kind === 'pan',
              ctrlKey: kind === 'zoom',
              clientX: at.x,
              clientY: at.y,
              bubbles: true,
              cancelable: true,
            }),
          );
        await new Promise((done) => requestAnimationFrame(done));
      }
      const rate = (1000 * (window.bradymotusTracks.drawn() - before)) / (performance.now() - start);
      if (kind === 'key') send('pointerup', 64);
      return rate;
    }, move);
  // What this browser can show at all: one small rectangle a picture on the same canvas.
  const bare = await page.evaluate(async () => {
    const g = document.querySelector('[data-testid=tracks] canvas').getContext('2d');
    const start = performance.now();
    for (let i = 0; i < 60; i++) {
      g.fillStyle = i % 2 ? '#123' : '#321';
      g.fillRect(0, 0, 20, 20);
      await new Promise((done) => requestAnimationFrame(done));
    }
    return 60_000 / (performance.now() - start);
  });
  print('one rectangle, pictures a second', bare);
  const spent = () => page.evaluate(() => [window.bradymotusTracks.spent(), window.bradymotusTracks.drawn()]);
  const [spentBefore, drawnBefore] = await spent();
  const rates = { pan: await rate('pan'), zoom: await rate('zoom'), key: await rate('key') };
  const [spentAfter, drawnAfter] = await spent();
  print('tracks, ms of drawing a picture', (spentAfter - spentBefore) / (drawnAfter - drawnBefore));
  for (const [kind, value] of Object.entries(rates)) print(`tracks, pictures a second: ${kind}`, value);
  // Once more with layers over it, the curves of two objects over one another, and their speed below.
  await page.evaluate(() => {
    const { shot, selection } = window.bradymotus;
    for (const id of ['a', 'b']) {
      shot.commit({ kind: 'addLayer', layer: { id, name: id, mode: 'add' } });
      for (const frame of [0, 100, 200, 300])
        shot.commit({
          kind: 'setKeys',
          frame,
          values: [0, 1, 2].map((n) => ({ address: `n${n}/transform.translate.y@${id}`, value: frame / 100 })),
        });
    }
    shot.chooseLayer(null);
    selection.select(['n0', 'n1']);
  });
  await page.keyboard.press('o');
  await page.getByRole('button', { name: /speed/i }).first().click();
  await page.mouse.move(x, y);
  const layered = { pan: await rate('pan'), zoom: await rate('zoom'), key: await rate('key') };
  for (const [kind, value] of Object.entries(layered))
    print(`tracks with layers, overlay and speed, pictures a second: ${kind}`, value);
  print('tracks with layers, overlay and speed, pictures a second', Math.min(...Object.values(layered)));
  await page.close();
  return rates;
}

/** A boxed selection of 10,000 keys that a hand moves: milliseconds of script and drawing a step, and to make it good. */
async function moving(context) {
  const paths = ['translate.x', 'translate.y', 'translate.z', 'rotate.x', 'rotate.y'];
  const page = await openShot(context, keyed(10, paths));
  await page.keyboard.press('3');
  await page.waitForFunction(() => window.bradymotusTracks?.drawn() > 1);
  const { steps, end, selected } = await page.evaluate(async () => {
    const { shot, selection } = window.bradymotus;
    selection.keys = shot.scene.nodes
      .flatMap((n) => [...(shot.keyedOwners.get(n.id) ?? [])])
      .flatMap((address) => shot.keysOf(address).map((frame) => ({ address, frame })));
    const picture = () => new Promise((done) => requestAnimationFrame(done));
    await picture();
    await picture();
    const canvas = document.querySelector('[data-testid=tracks] canvas');
    const at = window.bradymotusTracks.key('n0/transform.translate.y', 40, false);
    const send = (type, dx) =>
      canvas.dispatchEvent(
        new PointerEvent(type, {
          pointerId: 1,
          button: 0,
          buttons: 1,
          clientX: at.x + dx,
          clientY: at.y,
          bubbles: true,
        }),
      );
    const time = async (what) => {
      const drawn = window.bradymotusTracks.spent();
      const start = performance.now();
      what();
      await Promise.resolve();
      const script = performance.now() - start;
      await picture();
      await picture();
      return script + window.bradymotusTracks.spent() - drawn;
    };
    send('pointerdown', 0);
    const steps = [];
    for (let i = 1; i <= 20; i++) steps.push(await time(() => send('pointermove', 10 * i)));
    const end = await time(() => send('pointerup', 200));
    return { steps: steps.slice(5), end, selected: selection.keys.length };
  });
  if (selected !== 10_000) throw new Error(`${selected} keys are selected`);
  print('10,000 keys moved in the browser, ms a step', median(steps));
  print('10,000 keys moved in the browser, ms at the end', end);
  await page.close();
}

/** All checks on the demo shots, in a page that has just been opened; and the motion paths of ten objects after an edit. */
async function reading(context) {
  const shots = await (await fetch('http://127.0.0.1:5189/api/shots')).json();
  const took = [];
  for (const { id } of shots.filter((s) => s.name !== 'Large')) {
    const page = await context.newPage();
    await page.goto(`http://127.0.0.1:5189/#${id}`);
    await page.waitForFunction(() => window.bradymotus?.ready && window.bradymotus.findings.current, null, {
      timeout: 120_000,
    });
    took.push(await page.evaluate(() => window.bradymotus.findings.took));
    await page.close();
  }
  print('all checks on a demo shot in the browser, ms', Math.max(...took.map((t) => t.all)));
  print('all checks on a demo shot in the browser, ms of the longest piece', Math.max(...took.map((t) => t.longest)));
  const curve = { keys: [0, 250, 500, 750, 1000].map((frame, i) => ({ frame, value: i % 3 })) };
  const nodes = Array.from({ length: 10 }, (_, i) => ({
    kind: 'group',
    id: `n${i}`,
    name: `N ${i}`,
    channels: { 'transform.translate.x': { value: 0, curve }, 'transform.translate.y': { value: 0, curve } },
  }));
  const page = await openShot(context, nodes);
  const paths = await page.evaluate(() => {
    const { engine } = window.bradymotus.shot;
    const all = () => {
      for (let i = 0; i < 10; i++) engine.path(`n${i}`, 0, 1000);
    };
    all();
    const times = [];
    for (let i = 0; i < 20; i++) {
      window.bradymotus.shot.commit({
        kind: 'setKeys',
        frame: 250,
        values: [{ address: 'n3/transform.translate.y', value: i }],
      });
      const start = performance.now();
      all();
      times.push(performance.now() - start);
    }
    return times;
  });
  print('motion paths of 10 objects over 1,001 frames after an edit, ms', median(paths));
  await page.close();
}

/** Scrolls the list of 5,000 objects, and the values of some, and counts the steps whose script takes longer than a picture of the screen. */
async function list(context) {
  const channels = Object.fromEntries(
    [
      'translate.x',
      'translate.y',
      'translate.z',
      'rotate.x',
      'rotate.y',
      'rotate.z',
      'scale.x',
      'scale.y',
      'scale.z',
    ].map((p) => [`transform.${p}`, { value: p.startsWith('scale') ? 1 : 2 }]),
  );
  const nodes = Array.from({ length: 5000 }, (_, i) => ({ kind: 'group', id: `n${i}`, name: `N ${i}`, channels }));
  const page = await openShot(context, nodes);
  const missed = (selector) =>
    page.evaluate(async (selector) => {
      const list = document.querySelector(selector);
      let missed = 0;
      for (let i = 0; i < 120; i++) {
        const start = performance.now();
        list.scrollTop += i < 60 ? 60 : -60;
        list.dispatchEvent(new Event('scroll'));
        await Promise.resolve();
        // The page is laid out here and now.
        void list.offsetHeight;
        if (performance.now() - start > 16) missed++;
        await new Promise((done) => requestAnimationFrame(done));
      }
      return missed;
    }, selector);
  await page.evaluate(() =>
    window.bradymotus.selection.select(window.bradymotus.shot.scene.nodes.map((n) => n.id).reverse()),
  );
  await page.waitForFunction(() => document.querySelector('[aria-label=Values] > div'));
  print('scene list, pictures missed while scrolling', await missed('[role=tree][aria-label=Objects]'));
  print('values, pictures missed while scrolling', await missed('[aria-label=Values] > div'));
  await page.close();
}

const median = (v) => v.sort((a, b) => a - b)[v.length >> 1];
try {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const starts = [];
  const ready = [];
  const changed = [];
  for (let i = 0; i < 5; i++) {
    const page = await context.newPage();
    // The first change is made as soon as one can be made.
    await page.addInitScript(() => {
      const asking = setInterval(() => {
        const session = window.bradymotus;
        if (!session?.ready) return;
        clearInterval(asking);
        const owner = session.shot.scene.nodes.find((n) => n.kind === 'mesh').id;
        session.shot.commit({
          kind: 'setKeys',
          frame: 0,
          values: [{ address: `${owner}/transform.translate.y`, value: 1 }],
        });
        performance.mark('first change');
      }, 1);
    });
    await page.goto('http://127.0.0.1:5189/');
    await page.waitForFunction(() => performance.getEntriesByName('first change').length > 0);
    const at = (mark) => page.evaluate((m) => performance.getEntriesByName(m)[0].startTime, mark);
    starts.push(await at('stage drawn'));
    ready.push(await at('ready'));
    changed.push((await at('first change')) - (await at('stage drawn')));
    await page.close();
  }
  print('page to first drawn stage, ms', median(starts));
  print('page to ready for the first change, ms', median(ready));
  print('first stage to first change, ms', median(changed));
  const page = await context.newPage();
  await page.goto('http://127.0.0.1:5189/');
  await page.waitForFunction(() => window.bradymotus?.ready);
  const result = await page.evaluate(async () => {
    const engine = window.bradymotus.shot.engine;
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
    // Whole frames are kept: the second time they only have to be taken up.
    const kept = [];
    for (let f = 0; f < 300; f++) {
      const start = performance.now();
      engine.evaluate(f % 100);
      if (f >= 100) kept.push(performance.now() - start);
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
    return { kept, frames: frames.slice(100), edits: edits.slice(10) };
  });
  print('tracks, pictures a second', Math.min(...Object.values(await tracks(context))));
  await list(context);
  await moving(context);
  await reading(context);
  print('engine in the browser, ms a frame', median(result.frames));
  print('a kept frame in the browser, ms', median(result.kept));
  print('a dragged handle in the browser, ms', median(result.edits));
} finally {
  await browser.close();
  server.kill();
}
