// Hands that lose nothing: what keys are for, what is typed, several windows, orders. By mouse and keyboard alone.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { copy, keysOf, lift, open, phase, saved, select, settled, valueOf, test, pickKey } from './page';

const isThere = (page: Page, id: string) => page.evaluate((i) => window.bradymotus.shot.byId.has(i) as boolean, id);
test('Delete is for the part that has the focus, wherever the pointer is', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await phase(page, 'Polish');
  const bob = 'buoy/transform.translate.y';
  const before = await keysOf(page, bob);
  await pickKey(page, bob, 30);
  // The pointer strays over the stage: the key is meant all the same.
  const stage = (await page.getByTestId('stage').boundingBox())!;
  await page.mouse.move(stage.x + stage.width / 2, stage.y + stage.height / 2, { steps: 5 });
  await page.keyboard.press('Delete');
  await expect.poll(() => keysOf(page, bob)).toEqual(before.filter((f) => f !== 30));
  expect(await isThere(page, 'buoy')).toBe(true);
  // With no key selected nothing goes.
  await page.keyboard.press('Delete');
  await expect(page.getByText('Select some keys first')).toBeVisible();
  expect(await isThere(page, 'buoy')).toBe(true);
  // A pose is removed among the poses, and never its object.
  await phase(page, 'Block');
  const poses = page.locator('[data-pose]');
  const count = await poses.count();
  await poses.first().click();
  await page.mouse.move(stage.x + 40, stage.y + 40, { steps: 5 });
  await page.keyboard.press('Delete');
  await expect(poses).toHaveCount(count - 1);
  expect(await isThere(page, 'buoy')).toBe(true);
  // A press in the stage, and the object is meant.
  await phase(page, 'Set');
  await select(page, 'Buoy');
  await page.keyboard.press('Delete');
  await expect.poll(() => isThere(page, 'buoy')).toBe(false);
  await page.keyboard.press('Control+z');
  await expect.poll(() => isThere(page, 'buoy')).toBe(true);
});

test('a name is typed into its field, by double click and by F2, and no letter is a shortcut', async ({ page }) => {
  await copy(page);
  const row = page.locator('#node-fender');
  const auto = () => page.evaluate(() => window.bradymotus.autoKey as boolean);
  const keyed = await keysOf(page, lift);
  await row.dblclick();
  await page.keyboard.type('Base kak');
  await page.keyboard.press('Enter');
  await expect(row).toContainText('Base kak');
  await row.click();
  await page.keyboard.press('F2');
  await page.keyboard.type('Aft');
  await page.keyboard.press('Enter');
  await expect(row).toContainText('Aft');
  expect(await auto()).toBe(false);
  expect(await keysOf(page, lift)).toEqual(keyed);
  // A material alike.
  await page.locator('#node-water').click();
  await page.getByRole('button', { name: 'Rename the material' }).click();
  await page.keyboard.type('Akaba');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('combobox', { name: 'Material' })).toContainText('Akaba');
  expect(await auto()).toBe(false);
});

test('a marker keeps its name when one clicks beside it', async ({ page }) => {
  await copy(page);
  await phase(page, 'Polish');
  await settled(page);
  const name = () => page.evaluate(() => window.bradymotus.shot.scene.markers.at(-1)?.name as string | undefined);
  const box = (await page.getByTestId('tracks').boundingBox())!;
  await page.keyboard.press('Shift+M');
  await settled(page);
  // Its flag stands in the ruler, above the keys.
  const at = await page.evaluate(() => window.bradymotusTracks.frame(window.bradymotus.frame) as number);
  await expect(async () => {
    for (let y = 4; y < 56; y += 5) {
      await page.mouse.click(at + 2, box.y + y);
      if (await page.getByRole('dialog', { name: 'Marker' }).isVisible()) return;
    }
    throw new Error('No marker was met.');
  }).toPass({ timeout: 15_000 });
  await page.getByLabel('Name of the marker').fill('Touch');
  await page.mouse.click(box.x + box.width - 60, box.y + box.height - 20);
  await expect.poll(name).toBe('Touch');
});

test('a duplicated tab keeps what it has not sent apart, and both come through', async ({ page, context }) => {
  const id = await copy(page);
  // A page that another opens begins with the same memory of which window it is, as a duplicated tab does.
  const opened = context.waitForEvent('page');
  await page.evaluate((hash) => void window.open('/' + hash), `#${id}`);
  const other = await opened;
  await other.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  const windows = await Promise.all(
    [page, other].map((p) => p.evaluate(() => sessionStorage.getItem('bradymotus.window'))),
  );
  expect(windows[0]).not.toBe(windows[1]);
  for (const p of [page, other]) await p.route('**/journal', (route) => route.abort());
  const change = async (p: Page, name: string, channel: string, value: string) => {
    await p.bringToFront();
    await p.locator(`#node-${name}`).click();
    const field = p.getByRole('textbox', { name: channel, exact: true });
    await field.fill(value);
    await field.press('Enter');
  };
  await change(page, 'quay', 'Position X', '0.5');
  await change(other, 'buoy', 'Position X', '0.25');
  await expect.poll(() => valueOf(page, 'quay/transform.translate.x')).toBe(0.5);
  await expect.poll(() => valueOf(other, 'buoy/transform.translate.x')).toBe(0.25);
  const records = () =>
    page.evaluate(
      () =>
        new Promise<string[]>((done) => {
          const open = indexedDB.open('keyval-store');
          open.onsuccess = () => {
            const all = open.result.transaction('keyval').objectStore('keyval').getAllKeys();
            all.onsuccess = () => done((all.result as string[]).filter((k) => k.startsWith('bradymotus/unsent/')));
          };
        }),
    );
  await expect.poll(async () => (await records()).length).toBe(2);
  // Both are closed; whoever opens the shot next finds both.
  await Promise.all([page.close({ runBeforeUnload: false }), other.close({ runBeforeUnload: false })]);
  const next = await context.newPage();
  await open(next, `#${id}`);
  await expect.poll(() => valueOf(next, 'quay/transform.translate.x')).toBe(0.5);
  await expect.poll(() => valueOf(next, 'buoy/transform.translate.x')).toBe(0.25);
  await saved(next);
});

test('what is ordered is what is on the screen, though the last change is still on its way', async ({ page }) => {
  const id = await copy(page);
  await select(page, 'Buoy');
  let release = () => {};
  const held = new Promise<void>((done) => (release = done));
  await page.route('**/journal', (route) => held.then(() => route.continue()));
  const field = page.getByRole('textbox', { name: 'Position X', exact: true });
  await field.fill('2');
  await field.press('Enter');
  await phase(page, 'Deliver');
  await page.getByRole('radio', { name: /^Draft/ }).click();
  await page.getByLabel('Width').fill('32');
  await page.getByLabel('Width').press('Enter');
  // A range that cannot be read says so, and cannot be ordered.
  const frames = page.getByLabel('Frames', { exact: true });
  await frames.fill('abc');
  await frames.press('Enter');
  await expect(page.getByRole('alert')).toContainText('“abc” is no range of frames');
  await expect(page.getByRole('button', { name: 'Render abc' })).toBeDisabled();
  await frames.fill('0-8/2');
  await frames.press('Enter');
  await expect(page.getByTestId('estimate')).toContainText('5 frames');
  await page.getByRole('button', { name: 'Render 0-8/2' }).click();
  await page.waitForTimeout(300);
  expect(await (await page.request.get(`/api/renders?shot=${id}`)).json()).toHaveLength(0);
  release();
  const job = page.locator('[data-render]').first();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  const revision = await page.evaluate(() => window.bradymotus.shot.history.revision as number);
  expect((await (await page.request.get(`/api/renders?shot=${id}`)).json())[0].shotRevision).toBe(revision);
});

test('a double click opens a shot once, the last one clicked stays, and a film of every second frame has its length and its sound', async ({
  page,
}, info) => {
  await copy(page);
  const opened: string[] = [];
  page.on('request', (r) => {
    const id = /\/api\/shots\/([0-9a-f]+)$/.exec(r.url())?.[1];
    if (id && r.method() === 'GET') opened.push(id);
  });
  const name = () => page.evaluate(() => window.bradymotus.ready && (window.bradymotus.shot.scene.name as string));
  await page.keyboard.press('Control+o');
  await page.getByRole('button', { name: 'Open Quay lamps', exact: true }).dblclick();
  await expect.poll(name).toBe('Quay lamps');
  expect(opened).toHaveLength(1);
  // One that comes slowly does not take the place of one that was clicked after it.
  let release = () => {};
  const held = new Promise<void>((done) => (release = done));
  const shots = (await (await page.request.get('/api/shots')).json()) as { id: string; name: string }[];
  const slow = shots.find((s) => s.name === 'Lighthouse turntable')!.id;
  await page.route(`**/api/shots/${slow}`, (route) => held.then(() => route.continue()));
  await page.keyboard.press('Control+o');
  const asked = page.waitForRequest(`**/api/shots/${slow}`);
  await page.getByRole('button', { name: 'Open Lighthouse turntable', exact: true }).click();
  await asked;
  const fender = page.getByRole('button', { name: 'Open Fender, blocked', exact: true });
  await fender.click();
  await expect.poll(name).toBe('Fender, blocked');
  // Nor does its answer close the library, when that has been opened again.
  await expect(fender).toBeHidden();
  await page.keyboard.press('Control+o');
  await expect(fender).toBeVisible();
  const answered = page.waitForResponse(`**/api/shots/${slow}`);
  release();
  await (await answered).finished();
  await settled(page);
  expect(await name()).toBe('Fender, blocked');
  await expect(fender).toBeVisible();
  await page.keyboard.press('Escape');

  // A tone in its second half only.
  const tone = info.outputPath('tone.wav');
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', "aevalsrc='0.5*sin(2*PI*440*t)*gte(t,0.5)':s=48000:d=1", tone],
  ]);
  const files = await page.evaluateHandle(
    (bytes) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([new Uint8Array(bytes)], 'tone.wav'));
      return transfer;
    },
    [...readFileSync(tone)],
  );
  await page.keyboard.press('Home');
  await page.dispatchEvent('[data-testid=stage]', 'drop', { dataTransfer: files });
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.scene.sounds.length as number)).toBe(1);
  await phase(page, 'Deliver');
  await page.getByRole('radio', { name: /^Draft/ }).click();
  await page.getByLabel('Width').fill('64');
  await page.getByLabel('Width').press('Enter');
  const frames = page.getByLabel('Frames', { exact: true });
  await frames.fill('0-23/2');
  await frames.press('Enter');
  await page.getByRole('button', { name: 'Render 0-23/2' }).click();
  const job = page.locator('[data-render]').first();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  await page.getByRole('button', { name: 'Next frame' }).click();
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 2');
  const download = page.waitForEvent('download');
  await job.getByRole('button', { name: 'Film' }).click();
  await page.getByRole('link', { name: 'Download film' }).click();
  const film = await (await download).path();
  const probe = execFileSync('ffprobe', [
    '-v',
    'error',
    '-show_entries',
    'stream=codec_type,duration',
    '-of',
    'csv=p=0',
    film,
  ]);
  const streams = new Map(
    probe
      .toString()
      .trim()
      .split('\n')
      .map((l) => [l.split(',')[0], Number(l.split(',')[1])] as const),
  );
  expect(streams.get('video')).toBeCloseTo(1, 2);
  expect(streams.get('audio')).toBeCloseTo(1, 1);
  const loudness = (from: number) => {
    const samples = new Float32Array(
      new Uint8Array(
        execFileSync('ffmpeg', [
          '-v',
          'error',
          '-ss',
          `${from}`,
          '-t',
          '0.4',
          '-i',
          film,
          '-f',
          'f32le',
          '-ac',
          '1',
          '-',
        ]),
      ).buffer,
    );
    return Math.sqrt(samples.reduce((sum, s) => sum + s * s, 0) / samples.length);
  };
  expect(loudness(0)).toBeLessThan(0.01);
  expect(loudness(0.55)).toBeGreaterThan(0.2);
});

test('a shot comes back as it was left, panels as one has sized them, and nothing goes over into another shot', async ({
  page,
}) => {
  const first = await copy(page);
  const second = (await (await page.request.post(`/api/shots/${first}/duplicate`)).json()).id as string;
  const current = () => page.locator('nav[aria-label="Phases"] [aria-current=page]');
  const values = page.getByRole('region', { name: 'Values' });
  const frame = page.getByRole('textbox', { name: 'Frame', exact: true });
  await phase(page, 'Polish');
  await select(page, 'Fender');
  await frame.click();
  await page.keyboard.type('37');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  // The border of the values, 80 pixels to the left; what is large keeps the rest.
  const before = (await values.boundingBox())!;
  await page.mouse.move(before.x - 1, before.y + 100);
  await page.mouse.down();
  await page.mouse.move(before.x - 41, before.y + 100);
  await page.mouse.move(before.x - 81, before.y + 100);
  await page.mouse.up();
  const width = async () => (await values.boundingBox())!.width;
  await expect.poll(width).toBeGreaterThan(before.width + 70);
  await expect.poll(width).toBeLessThan(before.width + 90);
  // The scene is folded away by its key, to a rail that brings it back.
  await page.keyboard.press('[');
  await expect(page.getByRole('tree', { name: 'Objects' })).toHaveCount(0);
  await page.waitForTimeout(600);
  await page.reload();
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  await expect(current()).toHaveText('Polish');
  await expect(frame).toHaveValue('37');
  await expect(values.getByRole('heading', { name: 'Fender' })).toBeVisible();
  expect(await width()).toBeGreaterThan(before.width + 70);
  await page.getByRole('button', { name: 'Scene', exact: true }).click();
  await expect(page.locator('#node-fender')).toHaveAttribute('aria-selected', 'true');

  // Another shot has nobody looked at yet.
  await page.keyboard.press('a');
  await open(page, `#${second}`);
  await page.reload();
  await page.waitForFunction((id) => window.bradymotus?.ready && window.bradymotus.shotId === id, second);
  await expect(current()).toHaveText('Set');
  await expect(frame).toHaveValue('0');
  await expect(values.getByRole('heading', { name: 'Sky and exposure' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Auto', exact: true })).toHaveAttribute('aria-pressed', 'false');
  expect(await width()).toBeGreaterThan(before.width + 70);
});
