// Refreshes docs/screenshots from the demo data: node scripts/screenshots.mjs
import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const root = new URL('../..', import.meta.url).pathname;
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
const server = spawn(
  join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus'),
  ['demo', '--port', '5188', '--data', mkdtempSync(join(tmpdir(), 'bradymotus-shots-'))],
  { env: { ...process.env, BRADYMOTUS_HOME: root } },
);
await new Promise((done) => server.stdout.on('data', (d) => String(d).includes('ready') && done()));
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
});

async function open(theme) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript((t) => {
    localStorage.setItem('bradymotus.preferences', JSON.stringify({ theme: t, grid: false }));
    localStorage.setItem('bradymotus.fullStage', 'yes');
  }, theme);
  const shots = await (await page.request.get('http://127.0.0.1:5188/api/shots')).json();
  const quay = shots.find((s) => s.name === 'Lantern Quay');
  await page.goto(`http://127.0.0.1:5188/#${quay.id}`);
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  await page.waitForTimeout(1500);
  return page;
}

const take = async (page, name) => {
  await page.waitForTimeout(2000);
  await page.screenshot({ path: join(out, `${name}.png`) });
  console.log(`docs/screenshots/${name}.png`);
};
const go = (page, phase, frame, selection) =>
  page.evaluate(
    ([p, f, s]) => {
      window.bradymotus.phase = p;
      window.bradymotus.goTo(f);
      window.bradymotus.selection.select(s);
    },
    [phase, frame, selection],
  );

try {
  for (const theme of ['ink', 'paper']) {
    const page = await open(theme);
    await go(page, 'set', 36, ['buoy']);
    await take(page, `set-${theme}`);
    await go(page, 'block', 41, ['fender']);
    await page.waitForFunction(() => document.querySelectorAll('[data-pose] img').length >= 6, null, {
      timeout: 60000,
    });
    await take(page, `block-${theme}`);
    if (theme === 'ink') {
      await page.keyboard.press('Shift+P');
      for (const [frame, kept] of [
        [29, 'Save pose'],
        [41, 'Save pose'],
        [41, 'Save motion'],
      ]) {
        await go(page, 'block', frame, ['fender']);
        const before = await page.locator('[data-saved]').count();
        await page.getByRole('button', { name: kept }).click();
        await page.waitForFunction((n) => document.querySelectorAll('[data-saved]').length > n, before);
        await page.waitForFunction(
          async () => (await (await fetch('/api/saved')).json()).every((s) => s.pictures > 0),
          null,
          { timeout: 60000, polling: 500 },
        );
      }
      await page.waitForTimeout(5000);
      await take(page, 'shelf-ink');
      await page.keyboard.press('Shift+P');
    }
    await go(page, 'polish', 35, ['fender']);
    await page.waitForTimeout(500);
    await page.getByRole('treeitem').filter({ hasText: 'Position Y' }).getByRole('button').first().click();
    await page.evaluate(
      () =>
        (window.bradymotus.selection.keys = [29, 53].map((frame) => ({
          address: 'fender/transform.translate.y',
          frame,
        }))),
    );
    await take(page, `polish-${theme}`);
    if (theme === 'ink') {
      // A key that sends the fender through the quay, for as long as the picture takes.
      await page.evaluate(() =>
        window.bradymotus.shot.commit({
          kind: 'setKeys',
          frame: 20,
          values: [{ address: 'fender/transform.translate.y', value: 0.5 }],
        }),
      );
      await page.evaluate(() => ((window.bradymotus.selection.keys = []), window.bradymotus.goTo(20)));
      await page.waitForFunction(
        () => window.bradymotus.findings.current && window.bradymotus.findings.list.length > 0,
        null,
        { timeout: 60000 },
      );
      await page.getByRole('button', { name: /finding/ }).click();
      await take(page, 'findings-ink');
      await page.keyboard.press('Escape');
      await page.evaluate(() => window.bradymotus.shot.undo());
    }
    await go(page, 'deliver', 35, []);
    if (theme === 'ink') {
      await page.getByRole('radio', { name: /^Final/ }).click();
      await page.getByLabel('Frames', { exact: true }).fill('34-36');
      await page.getByLabel('Frames', { exact: true }).press('Enter');
      await page.getByRole('button', { name: 'Render 34-36' }).click();
      await page.locator('[data-render][data-state=done]').waitFor({ timeout: 300000 });
    }
    await page.waitForTimeout(1500);
    await take(page, `deliver-${theme}`);
    if (theme === 'ink') {
      await page.keyboard.press('Control+o');
      await page.waitForFunction(
        () => [...document.querySelectorAll('dialog[open] article img')].slice(0, 6).every((i) => i.naturalWidth > 0),
        null,
        { timeout: 60000 },
      );
      await page.waitForTimeout(300);
      await take(page, 'library-ink');
      await page.keyboard.press('Escape');
      await page.keyboard.press('Control+k');
      await page.getByLabel('Command', { exact: true }).fill('hold');
      await take(page, 'search-ink');
      await page.keyboard.press('Escape');
      await go(page, 'set', 36, ['lighthouse']);
      await page.keyboard.press('Shift+4');
      await page.waitForTimeout(1000);
      const stage = await page.getByTestId('stage').boundingBox();
      for (const [x, y] of [
        [0.75, 0.25],
        [0.25, 0.75],
        [0.75, 0.75],
      ]) {
        await page.mouse.move(stage.x + stage.width * x, stage.y + stage.height * y);
        await page.keyboard.press('f');
        await page.waitForTimeout(1500);
      }
      await page.getByLabel('How view 3 draws').selectOption('lines');
      await page.getByLabel('How view 4 draws').selectOption('edges');
      await take(page, 'views-ink');
      await page.mouse.move(stage.x + stage.width * 0.25, stage.y + stage.height * 0.25);
      await page.keyboard.press('Shift+1');
      const openShot = (name) =>
        page.evaluate(async (wanted) => {
          const shots = await (await fetch('/api/shots')).json();
          await window.bradymotus.open(shots.find((s) => s.name === wanted).id);
        }, name);
      await openShot('Quay lamps');
      await page.waitForTimeout(3000);
      await go(page, 'set', 60, ['row']);
      await take(page, 'lamps-ink');
      await go(page, 'set', 60, ['crate']);
      await page.keyboard.press('c');
      await page.waitForTimeout(1000);
      await page.keyboard.press('f');
      await page.waitForTimeout(1500);
      await go(page, 'set', 60, ['lantern']);
      await page.keyboard.press('f');
      await go(page, 'set', 60, ['crate']);
      await page.getByText('Materials', { exact: true }).click();
      await page.getByText('Materials', { exact: true }).scrollIntoViewIfNeeded();
      await page
        .getByRole('region', { name: 'Values' })
        .locator('> div')
        .evaluate((e) => (e.scrollTop = 1e6));
      await page.waitForTimeout(500);
      // Each is painted when somebody looks at it.
      await page.waitForFunction(
        () =>
          [...document.querySelectorAll('[data-testid=shelf] img')]
            .filter((i) => i.getBoundingClientRect().top < innerHeight && i.getBoundingClientRect().bottom > 0)
            .every((i) => i.complete && i.naturalWidth > 0),
        null,
        { timeout: 120000 },
      );
      await take(page, 'materials-ink');
      await page.evaluate(async () => {
        const shots = await (await fetch('/api/shots')).json();
        await window.bradymotus.open(shots.find((s) => s.name === 'Gull').id);
        const { nodes } = window.bradymotus.shot.scene;
        const id = (name) => nodes.find((n) => n.name === name).id;
        window.bradymotus.phase = 'set';
        window.bradymotus.goTo(5);
        window.bradymotus.selection.select([id('Plumage')]);
      });
      await page.getByLabel('Look through the camera').click();
      await page.keyboard.press('f');
      await page.evaluate(() => {
        const { nodes } = window.bradymotus.shot.scene;
        window.bradymotus.selection.select([nodes.find((n) => n.name === 'left elbow').id]);
      });
      await take(page, 'model-ink');
      // The layer in which it looks about, with its curves.
      await page.evaluate(() => {
        const session = window.bradymotus;
        session.phase = 'polish';
        session.goTo(50);
        session.shot.chooseLayer('look');
        const head = session.shot.scene.nodes.find((n) => n.name === 'head').id;
        session.selection.select([head]);
      });
      await take(page, 'layers-ink');
    }
    await page.close();
  }
} finally {
  await browser.close();
  server.kill();
}
