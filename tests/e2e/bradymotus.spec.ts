// The real interface against the real server, with the mouse and the keyboard.
import AxeBuilder from '@axe-core/playwright';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import {
  copy,
  goTo,
  keysOf,
  lift,
  open,
  phase,
  pickKey,
  pixelAt,
  rename,
  root,
  saved,
  select,
  settled,
  test,
  valueOf,
} from './page';

test('a pose and a motion are kept with pictures, and put onto other objects of another shot', async ({ page }) => {
  await copy(page);
  await page.keyboard.press('2');
  await select(page, 'Fender');
  await goTo(page, 12);
  await page.keyboard.press('Shift+P');
  const shelf = page.getByRole('region', { name: 'Saved poses and motions' });
  await shelf.getByRole('button', { name: 'Save motion' }).click();
  const motion = shelf.getByRole('button', { name: 'Put Fender', exact: true });
  await expect(motion).toBeVisible();
  await shelf.getByRole('button', { name: 'Save pose' }).click();
  const pose = shelf.getByRole('button', { name: 'Put Fender, frame 12' });
  await expect(pose).toBeVisible();
  // Both have pictures; those of the motion are several.
  const views = async () => (await (await page.request.get('/api/saved')).json()) as { id: string; pictures: number }[];
  await expect.poll(async () => (await views()).map((v) => v.pictures).sort((a, b) => a - b)).toEqual([1, 16]);
  for (const { id } of await views())
    expect((await page.request.get(`/api/saved/${id}/picture`)).headers()['content-type']).toBe('image/jpeg');

  const other = await copy(page);
  await page.reload();
  await open(page, `#${other}`);
  await page.keyboard.press('2');
  await select(page, 'Fender');
  await goTo(page, 29);
  await page.keyboard.press('Shift+P');
  const height = 'fender/transform.translate.y';
  const [low, slider] = [
    await valueOf(page, height),
    shelf.getByRole('slider', { name: 'Fender, frame 12: how much' }),
  ];
  await slider.hover();
  const box = (await slider.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.25, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height / 2, { steps: 4 });
  const part = await valueOf(page, height);
  expect(part).toBeGreaterThan(low + 0.3);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  expect(await valueOf(page, height)).toBe(low);
  await pose.click();
  await expect.poll(() => valueOf(page, height)).toBeGreaterThan(part);

  // Dropped onto the buoy, the motion of one object is for whatever it is dropped on; those of several go by name.
  const at = await page.evaluate(() => window.bradymotusStage.project(-1.75, 0.5, 2.3));
  const stage = (await page.getByTestId('stage').boundingBox())!;
  await motion.dragTo(page.getByTestId('stage'), { targetPosition: { x: at.x - stage.x, y: at.y - stage.y } });
  await expect(page.getByRole('region', { name: 'Put a motion' })).toBeVisible();
  await expect(page.getByRole('alert')).toContainText('Nothing of this animation fits here: it is of “Fender”');
});

test('every phase can be reached by key and by click, and shows what it is for', async ({ page }) => {
  await open(page);
  await expect(page.getByRole('region', { name: 'Scene' })).toBeVisible();
  await page.keyboard.press('2');
  await expect(page.getByRole('region', { name: 'Poses' })).toBeVisible();
  await page.keyboard.press('3');
  await expect(page.getByTestId('tracks')).toBeVisible();
  await phase(page, 'Deliver');
  await expect(page.getByRole('region', { name: 'Render settings' })).toBeVisible();
});

test('the shot is seen before the engine runs, and can be changed only then', async ({ page }) => {
  let release = () => {};
  const held = new Promise<void>((done) => (release = done));
  await page.route('**/engine/dotnet.js', (route) => held.then(() => route.continue()));
  await page.goto('/');
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0);
  await expect(page.getByTestId('saved')).toHaveText('Starting…');
  await expect(page.locator('#node-buoy')).toBeVisible();
  const first = await page.evaluate(() => Array.from(window.bradymotus.shot.shown.matrices as Float32Array));
  expect(await page.evaluate(() => window.bradymotus.shot.engine)).toBeNull();
  await page.keyboard.press('2');
  expect(await page.evaluate(() => window.bradymotus.phase)).toBe('set');
  release();
  await page.waitForFunction(() => window.bradymotus.ready);
  await saved(page);
  // The page's engine evaluates the very same frame.
  expect(await page.evaluate(() => Array.from(window.bradymotus.shot.shown.matrices as Float32Array))).toEqual(first);
  expect(await page.evaluate(() => window.bradymotus.shot.shown === window.bradymotus.shot.engine)).toBe(true);
});

test('an object is picked in the stage, moved by its handle, keyed, undone and kept', async ({ page }) => {
  const id = await copy(page);
  // The buoy's ring of red floats on the water; a click takes the whole buoy.
  const buoy = await page.evaluate(() => window.bradymotusStage.project(-1.75, 0.5, 2.3));
  await page.mouse.click(buoy.x, buoy.y);
  await expect.poll(() => page.evaluate(() => window.bradymotus.selection.ids)).toEqual(['buoy']);
  await settled(page);
  // Its x handle: to the right of its middle.
  const before = await valueOf(page, 'buoy/transform.translate.x');
  const middle = await page.evaluate(() => {
    const m = window.bradymotusStage.mirror.items.get('buoy').object.matrix.elements;
    return window.bradymotusStage.project(m[12], m[13], m[14]);
  });
  const arrow = { x: middle.x + 50, y: middle.y };
  await page.mouse.move(arrow.x, arrow.y);
  await settled(page);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(arrow.x + 12 * i, arrow.y);
  await settled(page);
  await page.mouse.up();
  await expect.poll(() => valueOf(page, 'buoy/transform.translate.x')).toBeGreaterThan(before + 0.1);
  const moved = await valueOf(page, 'buoy/transform.translate.x');
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect.poll(() => valueOf(page, 'buoy/transform.translate.x')).toBeCloseTo(before, 6);
  await page.keyboard.press('Control+y');
  await saved(page);
  await open(page, `#${id}`);
  expect(await valueOf(page, 'buoy/transform.translate.x')).toBeCloseTo(moved, 6);
  // The earlier state is still in the history after reopening.
  await page.keyboard.press('Control+z');
  await expect.poll(() => valueOf(page, 'buoy/transform.translate.x')).toBeCloseTo(before, 6);
});

test('a value is typed, a sum is typed, and the key button tells its four states', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await page.getByRole('button', { name: 'Open Position' }).click();
  const row = page.locator('[data-channel="buoy/transform.translate.z"]');
  const pip = row.locator('[data-state]');
  await expect(pip).toHaveAttribute('data-state', 'never');
  await row.getByRole('textbox', { name: 'Position Z' }).click();
  await page.keyboard.type('3');
  await page.keyboard.press('Enter');
  await expect.poll(() => valueOf(page, 'buoy/transform.translate.z')).toBe(3);
  // Enter keeps the field, ready for the next number.
  await page.keyboard.type('+1.5');
  await page.keyboard.press('Enter');
  await expect.poll(() => valueOf(page, 'buoy/transform.translate.z')).toBe(4.5);
  await row.getByRole('button', { name: /^Not keyed/ }).click();
  await expect(pip).toHaveAttribute('data-state', 'here');
  await page.keyboard.press('ArrowRight');
  await expect(pip).toHaveAttribute('data-state', 'elsewhere');
  await row.getByRole('textbox', { name: 'Position Z' }).click();
  await page.keyboard.type('6');
  await page.keyboard.press('Enter');
  await expect(pip).toHaveAttribute('data-state', 'waiting');
  // A letter begins no number: right after Enter it is a shortcut. With Ctrl the field stays as it is.
  await page.keyboard.press('k');
  await expect(pip).toHaveAttribute('data-state', 'here');
  expect(await keysOf(page, 'buoy/transform.translate.z')).toEqual([0, 1]);
  // The field stays, ready for the next number.
  await page.keyboard.type('7');
  await page.keyboard.press('k');
  await page.keyboard.press('Enter');
  await expect(row.getByRole('alert')).toContainText('“7k” is no number');
  await page.keyboard.press('Escape');
  await row.getByRole('textbox', { name: 'Position Z' }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(() => keysOf(page, 'buoy/transform.translate.z')).toEqual([0]);
  await page.keyboard.type('8');
  await page.keyboard.press('Enter');
  await expect(pip).toHaveAttribute('data-state', 'waiting');
  await page.keyboard.press('Escape');
  await page.keyboard.press('k');
  await expect.poll(() => keysOf(page, 'buoy/transform.translate.z')).toEqual([0, 1]);
  expect(await valueOf(page, 'buoy/transform.translate.z')).toBe(8);
});

test('automatic keying keys what is changed', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await page.keyboard.press('a');
  await goTo(page, 10);
  const field = page
    .locator('[data-channel="buoy/transform.translate.z"]')
    .getByRole('textbox', { name: 'Position Z' });
  const at = (await field.boundingBox())!;
  await page.mouse.move(at.x + 40, at.y + 10);
  await page.mouse.down();
  for (let i = 1; i <= 10; i++) await page.mouse.move(at.x + 40 + 10 * i, at.y + 10);
  await page.mouse.up();
  await expect.poll(() => keysOf(page, 'buoy/transform.translate.z')).toEqual([10]);
  expect(await valueOf(page, 'buoy/transform.translate.z')).toBeCloseTo(2.9, 5);
});

test('a lane opens in place and its handle bends the curve in the next animation frame', async ({ page }) => {
  await copy(page);
  await select(page, 'Fender');
  await phase(page, 'Polish');
  await page.getByRole('treeitem').filter({ hasText: 'Position Y' }).getByRole('button').click();
  await settled(page);
  const key = await page.evaluate((a) => window.bradymotusTracks.key(a, 29, true), lift);
  await page.mouse.click(key.x, key.y);
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.selection.keys))
    .toEqual([{ address: lift, frame: 29 }]);
  await goTo(page, 27);
  const before = await valueOf(page, lift);
  const handle = await page.evaluate((a) => window.bradymotusTracks.handle(a, 29, 'in'), lift);
  await page.mouse.move(handle.x, handle.y);
  await page.mouse.down();
  await page.mouse.move(handle.x - 10, handle.y + 20);
  await page.mouse.move(handle.x - 20, handle.y + 40);
  // Shown while the hand still holds it: what the engine has is drawn with the next animation frame.
  const late = await page.evaluate(async () => {
    const drawn = window.bradymotusStage.drawn;
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
    return {
      drawn: window.bradymotusStage.drawn - drawn,
      revision: window.bradymotus.shot.history.revision,
    };
  });
  expect(late.revision).toBe(0);
  expect(Math.abs((await valueOf(page, lift)) - before)).toBeGreaterThan(0.01);
  await page.mouse.up();
  await saved(page);
  expect((await page.evaluate(() => window.bradymotus.shot.history.revision)) as number).toBe(1);
  const bent = await page.evaluate((a) => window.bradymotus.shot.curve(a).keys.find((k: any) => k.frame === 29), lift);
  // The handle is where it was let go; the other side of the split contact stays as it was.
  expect(bent.in[0]).toBeLessThan(-17 / 3 - 1);
  expect(bent.out[0]).toBeCloseTo(4, 5);

  // With the value locked a key keeps it, wherever the hand goes; with the time locked its frame.
  const drag = async (frame: number) => {
    const at = await page.evaluate(([a, f]) => window.bradymotusTracks.key(a, f, true), [lift, frame] as const);
    await page.mouse.move(at.x, at.y);
    await page.mouse.down();
    await page.mouse.move(at.x + 30, at.y - 30, { steps: 4 });
    await page.mouse.up();
    return page.evaluate((a) => {
      const { frame } = window.bradymotus.selection.keys[0];
      return window.bradymotus.shot.curve(a).keys.find((k: any) => k.frame === frame);
    }, lift);
  };
  await page.getByRole('button', { name: 'Value stays while keys are dragged' }).click();
  const later = await drag(29);
  expect(later.frame).toBeGreaterThan(29);
  expect(later.value).toBeCloseTo(bent.value, 9);
  await page.getByRole('button', { name: 'Value stays while keys are dragged' }).click();
  await page.getByRole('button', { name: 'Frame stays while keys are dragged' }).click();
  const higher = await drag(later.frame);
  expect(higher.frame).toBe(later.frame);
  expect(higher.value).toBeGreaterThan(later.value + 0.01);
});

test('keys are moved, copied, pasted, scaled by a grip and removed in the tracks', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await phase(page, 'Polish');
  await settled(page);
  const bob = 'buoy/transform.translate.y';
  const key = await page.evaluate((a) => window.bradymotusTracks.key(a, 30, false), bob);
  const to = await page.evaluate(() => window.bradymotusTracks.frame(40));
  await page.mouse.move(key.x, key.y);
  await page.mouse.down();
  await page.mouse.move(key.x + 20, key.y, { steps: 3 });
  await page.mouse.move(to, key.y, { steps: 3 });
  await page.mouse.up();
  await expect.poll(() => keysOf(page, bob)).toEqual([0, 40, 60]);
  await page.keyboard.press('Control+c');
  await goTo(page, 80);
  await page.keyboard.press('Control+v');
  await expect.poll(() => keysOf(page, bob)).toEqual([0, 40, 60, 80]);
  await page.keyboard.press('Delete');
  await expect.poll(() => keysOf(page, bob)).toEqual([0, 40, 60]);
  // Take all of the row, then pull the last grip: the span 0–60 becomes 0–30.
  const first = await page.evaluate((a) => window.bradymotusTracks.key(a, 0, false), bob);
  const last = await page.evaluate((a) => window.bradymotusTracks.key(a, 60, false), bob);
  for (const frame of [0, 40, 60]) await pickKey(page, bob, frame, frame > 0);
  await settled(page);
  const top = (await page.getByTestId('tracks').boundingBox())!.y + 49;
  await page.mouse.move(last.x, top);
  await page.mouse.down();
  await page.mouse.move(last.x - 30, top, { steps: 2 });
  await page.mouse.move(first.x + (last.x - first.x) / 2, top, { steps: 3 });
  await page.mouse.up();
  await expect.poll(() => keysOf(page, bob)).toEqual([0, 20, 30]);
});

test('the tag at the end of a curve sets how it goes on', async ({ page }) => {
  await copy(page);
  await select(page, 'Fender');
  await phase(page, 'Polish');
  await settled(page);
  const end = await page.evaluate((a) => window.bradymotusTracks.key(a, 93, false), lift);
  await page.mouse.click(end.x + 45, end.y);
  await page.getByRole('radio', { name: 'Loop', exact: true }).click();
  await expect.poll(() => page.evaluate((a) => window.bradymotus.shot.curve(a).after.kind, lift)).toBe('loop');
  await goTo(page, 93 + 12);
  expect(await valueOf(page, lift)).toBeGreaterThan(3);
});

test('an easing from the shelf goes on to the selected keys', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await phase(page, 'Polish');
  await pickKey(page, 'buoy/transform.translate.y', 0);
  await page.getByRole('radio', { name: 'Out' }).click();
  await page.getByRole('button', { name: /^Bounce/ }).click();
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.shot.curve('buoy/transform.translate.y').keys[0].segment))
    .toEqual({ ease: 'bounce', direction: 'out' });
});

test('a pose is made a hold, and retimed by dragging its picture', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await page.keyboard.press('2');
  const pose = page.locator('[data-pose="30"]');
  await pose.click();
  await page.getByRole('button', { name: 'Hold', exact: true }).click();
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.shot.curve('buoy/transform.translate.y').keys[1].segment))
    .toBe('hold');
  const at = (await pose.boundingBox())!;
  await page.mouse.move(at.x + 40, at.y + 30);
  await page.mouse.down();
  await page.mouse.move(at.x + 80, at.y + 30, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await keysOf(page, 'buoy/transform.translate.y'))[1]).toBeGreaterThan(30);
});

test('poses are picked together, retimed by hand and by keyboard, and say which others they replace', async ({
  page,
}) => {
  await copy(page);
  await select(page, 'Buoy');
  await page.keyboard.press('2');
  const bob = 'buoy/transform.translate.y';
  const poses = page.locator('[data-pose]');
  await expect(page.getByTestId('pose-ruler')).toContainText('0');
  const frames = () => poses.evaluateAll((all) => all.map((p) => Number((p as HTMLElement).dataset.pose)));
  const before = await frames();
  expect(before.length).toBeGreaterThan(3);
  const [first, second, third] = before;
  // Where a picture stands says when its pose is: equal ways are equal times.
  const x = async (frame: number) => (await page.locator(`[data-pose="${frame}"]`).boundingBox())!.x;
  const perFrame = ((await x(second)) - (await x(first))) / (second - first);
  expect((await x(third)) - (await x(second))).toBeCloseTo(perFrame * (third - second), 0);
  // Two are picked, and go together by one frame with Alt and the arrow.
  await poses.nth(1).click();
  await poses.nth(2).click({ modifiers: ['Shift'] });
  await expect(page.locator('[data-pose][aria-pressed=true]')).toHaveCount(2);
  await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(frames).toEqual([first, second + 1, third + 1, ...before.slice(3)]);
  await page.keyboard.press('Alt+ArrowLeft');
  await expect.poll(frames).toEqual(before);
  // The arrows alone go from pose to pose.
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[data-pose][aria-pressed=true]')).toHaveAttribute('data-pose', String(second));
  await expect.poll(() => page.evaluate(() => window.bradymotus.frame)).toBe(second);
  // One that is dragged on to the next says that it replaces it, and does.
  const keys = await keysOf(page, bob);
  const from = (await page.locator(`[data-pose="${second}"]`).boundingBox())!;
  await page.mouse.move(from.x + 20, from.y + 30);
  await page.mouse.down();
  await page.mouse.move(from.x + 20 + perFrame * (third - second), from.y + 30, { steps: 6 });
  await expect(page.getByRole('status').filter({ hasText: `replaces the pose of ${third}` })).toBeVisible();
  await page.mouse.up();
  await expect.poll(frames).toEqual(before.filter((f) => f !== second));
  await page.keyboard.press('Control+z');
  await expect.poll(() => keysOf(page, bob)).toEqual(keys);
  // The scale is the hand's own, and the way between two pictures follows it.
  await page.getByRole('button', { name: 'Larger scale' }).click();
  await expect
    .poll(async () => ((await x(second)) - (await x(first))) / (second - first))
    .toBeGreaterThan(perFrame * 1.3);
});

test('pictures of poses are framed on what moves, also where the camera does not see it', async ({ page }) => {
  const shots = await (await page.request.get('/api/shots')).json();
  await open(page, `#${shots.find((s: { name: string }) => s.name === 'Fender, polished').id}`);
  await phase(page, 'Block');
  await select(page, 'Fender');
  // On frame 0 the fender hangs above the frame of the camera; on 29 it lies on the quay.
  for (const frame of [0, 29]) {
    const picture = page.locator(`[data-pose="${frame}"] img`);
    await expect
      .poll(() =>
        picture.evaluate(async (image: HTMLImageElement) => {
          // Another may just be taking its place: it is looked at the next time.
          if (
            !(await image.decode().then(
              () => true,
              () => false,
            ))
          )
            return 0;
          const canvas = new OffscreenCanvas(image.naturalWidth, image.naturalHeight);
          const context = canvas.getContext('2d')!;
          context.drawImage(image, 0, 0);
          const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
          let orange = 0;
          for (let i = 0; i < data.length; i += 4)
            if (data[i] > 120 && data[i] > 1.4 * data[i + 1] && data[i + 1] > 1.4 * data[i + 2]) orange++;
          return orange;
        }),
      )
      .toBeGreaterThan(100);
  }
});

test('it plays, at true speed and every frame', async ({ page }) => {
  await open(page);
  await page.keyboard.press('Space');
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.frame), {
      intervals: [100],
    })
    .toBeGreaterThan(12);
  await page.keyboard.press('Space');
  expect(await page.evaluate(() => window.bradymotus.player.playing)).toBe(false);
  await page.getByRole('button', { name: 'True speed' }).click();
  await page.keyboard.press('Home');
  const seen = await page.evaluate(async () => {
    const s = window.bradymotus;
    const frames = [s.frame];
    s.player.play();
    while (frames.length < 6) {
      await new Promise((done) => requestAnimationFrame(done));
      if (s.frame !== frames.at(-1)) frames.push(s.frame);
    }
    s.player.stop();
    return frames;
  });
  expect(seen).toEqual([0, 1, 2, 3, 4, 5]);
});

test('two windows on one shot stay in step, and an edit made behind is put on top', async ({ page, context }) => {
  const id = await copy(page);
  const other = await context.newPage();
  await open(other, `#${id}`);
  await page.evaluate(() =>
    window.bradymotus.shot.commit({
      kind: 'setValues',
      values: [{ address: 'buoy/transform.translate.z', value: 5 }],
    }),
  );
  await expect.poll(() => valueOf(other, 'buoy/transform.translate.z')).toBe(5);
  // Both at once: neither is lost.
  await Promise.all([
    page.evaluate(() =>
      window.bradymotus.shot.commit({
        kind: 'setValues',
        values: [{ address: 'buoy/transform.translate.z', value: 6 }],
      }),
    ),
    other.evaluate(() =>
      window.bradymotus.shot.commit({
        kind: 'setValues',
        values: [{ address: 'buoy/transform.translate.x', value: -3 }],
      }),
    ),
  ]);
  for (const p of [page, other]) {
    await expect.poll(() => valueOf(p, 'buoy/transform.translate.z')).toBe(6);
    await expect.poll(() => valueOf(p, 'buoy/transform.translate.x')).toBe(-3);
    await saved(p);
  }
});

test('a server that cannot be reached is said, and nothing is lost', async ({ page }) => {
  await copy(page);
  await page.route('**/journal', (route) => route.abort());
  await rename(page, 'buoy', 'Red buoy');
  await expect(page.getByTestId('saved')).toContainText('1 change kept');
  await page.unroute('**/journal');
  await saved(page);
});

test('a shot is made, an object added, parented, hidden, locked and removed', async ({ page }) => {
  await open(page);
  await page.keyboard.press('Control+o');
  await page.getByLabel('Name of a new shot').fill('Pier');
  await page.getByRole('button', { name: 'New shot' }).click();
  await expect(page.getByRole('button', { name: 'Pier' })).toBeVisible();
  // A new shot says what to do first, in a view that can be moved.
  await expect(page.getByTestId('first-step')).toContainText('Add what is to move');
  await expect(page.getByLabel('What view 1 shows')).toHaveValue('free');
  await page.getByTestId('first-step').getByRole('button', { name: 'Box' }).click();
  await expect(page.getByTestId('first-step')).toHaveCount(0);
  expect(await page.evaluate(() => window.bradymotus.selection.nodes.map((n: any) => n.name))).toEqual(['Box']);
  // The grid is seen on the ground.
  const stage = (await page.getByTestId('stage').boundingBox())!;
  const clip = { x: stage.x + 100, y: stage.y + stage.height - 120, width: 300, height: 100 };
  const ground = async () => {
    let picture = await page.screenshot({ clip });
    await expect
      .poll(async () => {
        const before = picture;
        picture = await page.screenshot({ clip });
        return picture.equals(before);
      })
      .toBe(true);
    return picture;
  };
  const withGrid = await ground();
  await page.keyboard.press('g');
  await expect.poll(async () => (await ground()).equals(withGrid)).toBe(false);
  await page.keyboard.press('g');
  await expect.poll(async () => (await ground()).equals(withGrid)).toBe(true);
  for (const kind of ['Group', 'Sphere']) {
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await page.getByRole('menuitem', { name: kind, exact: true }).click();
  }
  await page.getByRole('treeitem', { name: 'Sphere' }).dragTo(page.getByRole('treeitem', { name: 'Group' }));
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.shot.scene.nodes.find((n: any) => n.name === 'Sphere').parent))
    .toMatch(/^group-/);
  await page.getByRole('treeitem', { name: 'Sphere' }).hover();
  await page.getByRole('button', { name: 'Hide Sphere' }).click();
  await expect(page.getByRole('button', { name: 'Show Sphere' })).toBeVisible();
  await page.getByRole('treeitem', { name: 'Sphere' }).first().click();
  await page.keyboard.press('Delete');
  await expect(page.getByRole('treeitem', { name: 'Sphere' })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('treeitem', { name: 'Sphere' })).toHaveCount(1);
});

test('a material is made, copied, named and shared, and an object is duplicated with it', async ({ page }) => {
  await copy(page);
  await select(page, 'water');
  const surface = page.getByLabel('Material', { exact: true });
  const sea = await surface.inputValue();
  await page.getByRole('button', { name: 'Copy the material' }).click();
  const copied = await surface.inputValue();
  expect(copied).not.toBe(sea);
  const roughness = (id: string) => valueOf(page, `${id}/look.roughness`);
  expect(await roughness(copied)).toBe(await roughness(sea));
  await page.getByRole('button', { name: 'Rename the material' }).click();
  await page.getByLabel('Name of the material').fill('Tide');
  await page.getByLabel('Name of the material').press('Enter');
  await expect(surface.locator('option:checked')).toHaveText('Tide');
  await page.getByRole('button', { name: 'New material' }).click();
  expect(await roughness(await surface.inputValue())).toBe(0.6);
  await page.keyboard.press('Control+z');
  await expect(surface.locator('option:checked')).toHaveText('Tide');
  // A dimension is shown while it is dragged, and is one step in the history.
  const width = page.getByRole('textbox', { name: 'Width' });
  const steps = () => page.evaluate(() => window.bradymotus.shot.history.steps.length as number);
  const before = await steps();
  const box = (await width.boundingBox())!;
  await page.mouse.move(box.x + 40, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 90, box.y + 10);
  await expect.poll(() => valueOf(page, 'water/shape.width')).toBe(400.5);
  expect(await steps()).toBe(before);
  await page.mouse.up();
  await expect.poll(steps).toBe(before + 1);
  await page.keyboard.press('Control+d');
  await expect(page.getByText('On 2 objects: a change shows on all of them.')).toBeVisible();
  expect(await page.evaluate(() => window.bradymotus.selection.nodes.map((n: { name: string }) => n.name))).toEqual([
    'Sea 2',
  ]);
  await saved(page);
});

test('a bad file that is dropped is refused where it was dropped', async ({ page }) => {
  await open(page);
  await page.keyboard.press('Control+o');
  await page.getByLabel('Shot file').setInputFiles({
    name: 'cut.shot.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"version":1,"name":"x"'),
  });
  await expect(page.getByRole('alert')).toContainText('cut off');
});

test('a model is dropped into the shot, posed by a joint, taken back and brought again', async ({ page }) => {
  await copy(page);
  const nodes = () => page.evaluate(() => window.bradymotus.shot.scene.nodes.length);
  const before = await nodes();
  const model = readFileSync(new URL('../../demo/gull.glb', import.meta.url)).toString('base64');
  await page.evaluate((base64) => {
    const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
    const files = new DataTransfer();
    files.items.add(new File([bytes], 'gull.glb'));
    document
      .querySelector('canvas')!
      .dispatchEvent(new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true }));
  }, model);
  await expect(page.getByText(/gull\.glb: .*10 joints/)).toBeVisible({ timeout: 30_000 });
  expect(await nodes()).toBe(before + 14);
  await expect(page.getByRole('heading', { name: 'Gull' })).toBeVisible();
  // Its mesh has come, and goes along with a joint that is turned.
  const shape = () =>
    page.evaluate(() => {
      const { shot } = window.bradymotus;
      const mesh = shot.scene.nodes.find((n: { name: string }) => n.name === 'Plumage')!;
      const positions = shot.shown!.positions(mesh.index);
      return { count: positions.length, sum: positions.reduce((s: number, x: number) => s + Math.abs(x), 0) };
    });
  await expect.poll(async () => (await shape()).count).toBeGreaterThan(10_000);
  const rest = await shape();
  await page.getByLabel('Filter the objects by name').fill('left shoulder');
  await page.getByRole('treeitem').filter({ hasText: 'left shoulder' }).click();
  await page.getByRole('textbox', { name: 'Quaternion Z' }).fill('-0.6');
  await page.getByRole('textbox', { name: 'Quaternion Z' }).press('Enter');
  expect(Math.abs((await shape()).sum - rest.sum)).toBeGreaterThan(5);
  await page.getByLabel('Filter the objects by name').fill('');
  const undo = page.getByRole('button', { name: 'Undo' });
  await undo.click();
  await undo.click();
  expect(await nodes()).toBe(before);
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(nodes).toBe(before + 14);
  await saved(page);
  // It is there when the shot is opened again.
  await page.reload();
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  await expect.poll(async () => (await shape()).count).toBeGreaterThan(10_000);
});

test('a material is dragged from the shelf onto an object, given maps, and a picture is seen on it', async ({
  page,
}) => {
  const problems: string[] = [];
  page.on('console', (m) => m.type() === 'error' && problems.push(m.text()));
  await copy(page);
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Box', exact: true }).click();
  await page.keyboard.press('f');
  await settled(page);
  const name = () => page.evaluate(() => window.bradymotus.selection.nodes[0].name as string);
  expect(await name()).toBe('Box');
  const middle = await page.evaluate(() => {
    const m = window.bradymotusStage.mirror.items.get(window.bradymotus.selection.ids[0]).object.matrix.elements;
    return window.bradymotusStage.project(m[12], m[13], m[14]);
  });
  const values = page.getByRole('region', { name: 'Values' });
  await values.getByText('Materials', { exact: true }).click();
  const stage = (await page.getByTestId('stage').boundingBox())!;
  await values
    .getByRole('button', { name: 'Brass' })
    .dragTo(page.getByTestId('stage'), { targetPosition: { x: middle.x - stage.x, y: middle.y - stage.y } });
  await expect(values.getByLabel('Material', { exact: true })).toHaveText(/Brass/);
  expect(
    await page.evaluate(() => window.bradymotus.shot.scene.materials.find((m: any) => m.name === 'Brass')),
  ).toBeTruthy();
  await saved(page);
  await values.getByLabel('Add a map').selectOption('bump');
  await values.getByLabel('What the bump map shows').selectOption('bricks');
  await values.getByLabel('How the bump map is laid on').selectOption('box');
  await values.getByLabel('Add a map').selectOption('emission');
  const picture = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAEElEQVR4nGP4z8AARAwQCgAf7gP9i18U1AAAAABJRU5ErkJggg==',
    'base64',
  );
  const chooser = page.waitForEvent('filechooser');
  await values.getByLabel('Choose a picture for the emission map').click();
  await (await chooser).setFiles({ name: 'red.png', mimeType: 'image/png', buffer: picture });
  await expect(values.getByLabel('What the emission map shows')).toHaveText(/red\.png/);
  // All of the box glows red now.
  const seen = () => pixelAt(page, { x: middle.x - 12, y: middle.y + 14 });
  await expect.poll(async () => (await seen())[0]).toBeGreaterThan(200);
  const [r, g, b] = await seen();
  expect(r).toBeGreaterThan(2 * Math.max(g, b));
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(values.getByLabel('What the emission map shows')).not.toHaveText(/red\.png/);
  expect(problems).toEqual([]);
});

test('a film is dropped for reference and shows the frame of the playhead', async ({ page }, info) => {
  const file = info.outputPath('colours.mp4');
  // A second of red, then a second of blue.
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'color=red:size=64x36:rate=24:duration=1'],
    ...['-f', 'lavfi', '-i', 'color=blue:size=64x36:rate=24:duration=1'],
    ...['-filter_complex', '[0][1]concat', '-pix_fmt', 'yuv420p', file],
  ]);
  await copy(page);
  await goTo(page, 10);
  await page.evaluate(
    (bytes) => {
      const files = new DataTransfer();
      files.items.add(new File([new Uint8Array(bytes)], 'colours.mp4'));
      document
        .querySelector('canvas')!
        .dispatchEvent(new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true }));
    },
    [...readFileSync(file)],
  );
  await expect(page.locator('[id^="node-reference"]')).toBeVisible({ timeout: 30_000 });
  await page.keyboard.press('f');
  await settled(page);
  const place = await page.evaluate(() => {
    const view = window.bradymotusStage;
    const m = view.mirror.items.get(window.bradymotus.selection.ids[0]).object.matrix.elements;
    return view.project(m[12] - 0.9, m[13] - 0.6, m[14]);
  });
  const seen = async () => {
    const [r, , b] = await pixelAt(page, place);
    return r > 2 * b ? 'red' : b > 2 * r ? 'blue' : 'neither';
  };
  // It begins at frame 10: the change of colour is at frame 34.
  for (const [frame, colour] of [
    [10, 'red'],
    [33, 'red'],
    [34, 'blue'],
    [80, 'blue'],
    [0, 'red'],
  ] as const) {
    await goTo(page, frame);
    await expect.poll(seen, { message: `frame ${frame}` }).toBe(colour);
  }
});

test('a drawing is dropped, cut, given a bevel, seen in four views, framed by a camera of its own and turned with two keys', async ({
  page,
}) => {
  await copy(page);
  const drawing =
    '<svg xmlns="http://www.w3.org/2000/svg"><circle id="plate" cx="50" cy="50" r="50" fill="#c33"/><rect id="slot" x="40" y="-10" width="20" height="60" fill="#fff"/></svg>';
  await page.evaluate((text) => {
    const files = new DataTransfer();
    files.items.add(new File([text], 'sign.svg'));
    document
      .querySelector('canvas')!
      .dispatchEvent(new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true }));
  }, drawing);
  await expect(page.getByText(/sign\.svg: 2 outlines/)).toBeVisible({ timeout: 30_000 });
  const row = (name: string) => page.getByRole('treeitem').filter({ hasText: new RegExp(`^\\s*${name}\\s*$`) });
  await page.getByLabel('Filter the objects by name').fill('slot');
  await row('slot').click();
  await page.getByLabel('Filter the objects by name').fill('plate');
  await row('plate').click({ modifiers: ['Control'] });
  await page.getByLabel('Filter the objects by name').fill('');
  const triangles = () => page.getByTestId('counts').textContent();
  await page.getByRole('button', { name: 'Search for a command' }).click();
  await page.keyboard.type('cut the selected outlines');
  await page.keyboard.press('Enter');
  await expect(row('slot')).toHaveCount(0);
  const plain = await triangles();
  await page.getByRole('textbox', { name: 'Bevel', exact: true }).fill('0.03');
  await page.getByRole('textbox', { name: 'Bevel', exact: true }).press('Enter');
  await expect.poll(triangles).not.toBe(plain);

  // Four views: one tells of itself what it shows, F is for the one that the pointer is in, and a click there picks.
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: '4 views' }).click();
  await row('sign').click();
  const stage = (await page.getByTestId('stage').boundingBox())!;
  const [right, low] = [stage.x + stage.width * 0.75, stage.y + stage.height * 0.75];
  await expect(page.getByLabel('What view 4 shows')).toHaveValue('front');
  await page.mouse.move(right, low);
  const eyes = () =>
    page.evaluate(() =>
      window.bradymotusStage.panes.map((p: any) => {
        const c = p.camera();
        return [c.zoom, ...c.position.toArray()].map((v: number) => Math.round(v * 1000) / 1000);
      }),
    );
  const before = await eyes();
  await page.keyboard.press('f');
  await expect.poll(async () => (await eyes())[3]).not.toEqual(before[3]);
  await settled(page);
  expect((await eyes()).slice(0, 3)).toEqual(before.slice(0, 3));
  await page.keyboard.press('Escape');
  // Below its middle: the slot is cut from above.
  await page.mouse.click(right, low + stage.height * 0.08);
  expect(await page.evaluate(() => window.bradymotus.selection.nodes.map((n: any) => n.name))).toEqual(['sign']);
  await page.getByLabel('How view 4 draws').selectOption('lines');
  await settled(page);

  // A camera where the free view stands.
  await page.mouse.move(right, stage.y + stage.height * 0.25);
  await page.keyboard.press('f');
  await settled(page);
  const seen = await page.evaluate(() => window.bradymotusStage.panes[1].camera().matrixWorld.toArray() as number[]);
  await page.keyboard.press('Shift+C');
  await expect(page.getByRole('heading', { name: /^Camera/ })).toBeVisible();
  const stands = await page.evaluate(() => {
    const { shot, selection } = window.bradymotus;
    return [...shot.shown.matrices.slice(16 * selection.nodes[0].index, 16 * selection.nodes[0].index + 16)];
  });
  for (let i = 0; i < 16; i++) expect(stands[i]).toBeCloseTo(seen[i], 3);
  await page.getByRole('button', { name: '1 view', exact: true }).click();

  // A turntable with two keys.
  await row('sign').click();
  const turn = page.getByRole('textbox', { name: 'Rotation Y' });
  // K in a field keys its channel alone.
  await turn.click();
  await page.keyboard.press('k');
  await page.keyboard.press('Escape');
  await page.keyboard.press('End');
  await turn.click();
  await page.keyboard.type('360');
  await page.keyboard.press('Enter');
  await page.keyboard.press('k');
  const id = await page.evaluate(() => window.bradymotus.selection.ids[0]);
  expect(await keysOf(page, `${id}/transform.rotate.y`)).toEqual([0, 119]);
  await saved(page);
});

test('a sequence is rendered, watched, played, stopped, resumed and made a film', async ({ page }) => {
  await copy(page);
  await phase(page, 'Deliver');
  await page.getByRole('radio', { name: /^Draft/ }).click();
  await page.getByLabel('Width').fill('96');
  await page.getByLabel('Width').press('Enter');
  await page.getByLabel('Frames', { exact: true }).fill('24-33');
  await page.getByLabel('Frames', { exact: true }).press('Enter');
  await page.getByRole('button', { name: 'Render 24-33' }).click();
  const job = page.locator('[data-render]').first();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 24');
  await page.getByRole('button', { name: 'Next frame' }).click();
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 25');
  await page.getByRole('button', { name: 'Play the sequence' }).click();
  await expect(page.getByTestId('sequence-frame')).not.toHaveText('frame 25');
  // The keys of time belong to the pictures while they are shown; where they stop is the playhead of the shot.
  await page.keyboard.press('End');
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 33');
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 32');
  expect(await page.evaluate(() => window.bradymotus.frame)).toBe(32);
  // By the ruler below the pictures, and by a number that is typed.
  const ruler = (await page.getByTestId('frame-ruler').boundingBox())!;
  await page.mouse.click(ruler.x + 1, ruler.y + 6);
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 24');
  expect(await page.evaluate(() => window.bradymotus.frame)).toBe(0);
  await goTo(page, 30);
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 30');
  await expect(job.getByRole('button', { name: 'Restore this version' })).toBeDisabled();
  const film = page.waitForEvent('download');
  await job.getByRole('button', { name: 'Film' }).click();
  await page.getByRole('link', { name: 'Download film' }).click();
  const path = await (await film).path();
  const probe = execFileSync('ffprobe', [
    '-v',
    'error',
    '-count_frames',
    '-show_entries',
    'stream=codec_name,nb_read_frames',
    '-of',
    'csv=p=0',
    path,
  ]).toString();
  expect(probe.trim()).toBe('h264,10');
  // Another phase and back: the settings are still the same.
  await phase(page, 'Polish');
  await phase(page, 'Deliver');
  await expect(page.getByRole('button', { name: 'Render 24-33' })).toBeVisible();
  await expect(page.getByLabel('Width')).toHaveValue('96');
  // A sequence is removed, and taken back.
  await job.getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('[data-render]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(job).toHaveAttribute('data-state', 'done');
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 30');
  await page.getByLabel('File name').fill('no-number.png');
  await page.getByRole('button', { name: /^Render frame/ }).click();
  await expect(page.getByRole('alert')).toContainText('#');
});

test('an answer that comes after the news of a render does not put it back', async ({ page }) => {
  await copy(page);
  await phase(page, 'Deliver');
  await page.getByRole('radio', { name: /^Draft/ }).click();
  await page.getByLabel('Width').fill('32');
  await page.getByLabel('Width').press('Enter');
  let answer = () => {};
  await page.route('**/api/renders', async (route) => {
    const response = await route.fetch();
    await new Promise<void>((done) => (answer = done));
    await route.fulfill({ response });
  });
  await page.getByRole('button', { name: /^Render frame/ }).click();
  const job = page.locator('[data-render]').first();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  const answered = page.waitForResponse('**/api/renders');
  answer();
  await (await answered).finished();
  // The answer is taken up, and with it the sequence is chosen.
  await expect(page.getByTestId('sequence-frame')).toHaveText('frame 0');
  await expect(job).toHaveAttribute('data-state', 'done');
});

test('a render is stopped and resumed', async ({ page }) => {
  await copy(page);
  await phase(page, 'Deliver');
  await page.getByRole('button', { name: /^Render 0-119/ }).click();
  const job = page.locator('[data-render]').first();
  await expect(job.getByTestId('progress')).toContainText(/[1-9]\d* of 120 .* left/, { timeout: 60_000 });
  await job.getByRole('button', { name: 'Stop' }).click();
  await expect(job).toHaveAttribute('data-state', 'cancelled');
  await job.getByRole('button', { name: 'Resume' }).click();
  await expect(job).toHaveAttribute('data-state', /queued|running/);
  await job.getByRole('button', { name: 'Stop' }).click();
  await expect(job).toHaveAttribute('data-state', 'cancelled');
});

test('commands are found by search, shortcuts can be changed, and the theme changes', async ({ page }) => {
  await open(page);
  await page.keyboard.press('Control+k');
  await page.getByLabel('Command', { exact: true }).fill('theme');
  await page.keyboard.press('Enter');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'paper');
  await page.keyboard.press('Shift+?');
  await page.getByLabel('Filter the shortcuts').fill('next frame');
  await page.getByRole('button', { name: 'Change the shortcut of Next frame' }).click();
  await page.keyboard.press('n');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('n');
  await expect.poll(() => page.evaluate(() => window.bradymotus.frame)).toBe(1);
});

test('a drag is one transaction: Escape takes it back, figures take the place of the hand', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  const x = 'buoy/transform.translate.x';
  const before = await valueOf(page, x);
  const revision = () => page.evaluate(() => window.bradymotus.shot.history.revision as number);
  const arrow = async () => {
    await settled(page);
    const pivot = await page.evaluate(() => {
      const p = window.bradymotusStage.mirror.pivotOf('buoy');
      return window.bradymotusStage.project(p.x, p.y, p.z);
    });
    await page.mouse.move(pivot.x + 50, pivot.y);
    await page.waitForFunction(() => window.bradymotusStage.handles.gizmo.axis === 'X');
    await page.mouse.down();
    await page.mouse.move(pivot.x + 90, pivot.y, { steps: 4 });
    await expect(page.getByTestId('readout')).toContainText('Move X');
  };
  await arrow();
  expect(await valueOf(page, x)).not.toBe(before);
  // Nothing gets in between.
  await page.keyboard.press('Delete');
  await page.keyboard.press('3');
  expect(await page.evaluate(() => window.bradymotus.phase)).toBe('set');
  await page.keyboard.press('Escape');
  await expect.poll(() => valueOf(page, x)).toBeCloseTo(before, 9);
  await page.mouse.up();
  expect(await revision()).toBe(0);
  await arrow();
  await page.keyboard.type('2.5');
  await expect.poll(() => valueOf(page, x)).toBeCloseTo(before + 2.5, 6);
  await page.keyboard.press('Enter');
  await page.mouse.up();
  expect(await revision()).toBe(1);
  expect(await valueOf(page, x)).toBeCloseTo(before + 2.5, 6);
});

test('several objects keep their own values when one is dragged or a sum is typed', async ({ page }) => {
  await copy(page);
  await select(page, 'Buoy');
  await page.keyboard.down('Control');
  await select(page, 'Fender');
  await page.keyboard.up('Control');
  const z = (id: string) => valueOf(page, `${id}/transform.translate.z`);
  const [a, b] = [await z('buoy'), await z('fender')];
  const field = page.locator('[data-channel="fender/transform.translate.z"]').getByRole('textbox');
  const at = (await field.boundingBox())!;
  await page.mouse.move(at.x + 40, at.y + 10);
  await page.mouse.down();
  await page.mouse.move(at.x + 140, at.y + 10, { steps: 5 });
  await page.mouse.up();
  expect([await z('buoy'), await z('fender')]).toEqual([expect.closeTo(a + 1, 6), expect.closeTo(b + 1, 6)]);
  await field.click();
  await page.keyboard.type('+5');
  await page.keyboard.press('Tab');
  expect([await z('buoy'), await z('fender')]).toEqual([expect.closeTo(a + 6, 6), expect.closeTo(b + 6, 6)]);
  // Tab has gone to the next field; a bad number is said and changes nothing.
  await expect(page.locator('[data-channel="fender/transform.rotate.x"]').getByRole('textbox')).toBeFocused();
  await page.keyboard.type('much');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('“much” is no number');
});

test('the Select tool draws a box, a menu opens at the pointer, and Escape selects nothing', async ({ page }) => {
  await copy(page);
  await page.keyboard.press('p');
  const stage = (await page.getByTestId('stage').boundingBox())!;
  await page.mouse.move(stage.x + 60, stage.y + 320);
  await page.mouse.down();
  await page.mouse.move(stage.x + stage.width - 20, stage.y + stage.height - 20, { steps: 4 });
  await page.mouse.up();
  const chosen = () => page.evaluate(() => window.bradymotus.selection.ids as string[]);
  await expect.poll(async () => (await chosen()).length).toBeGreaterThan(1);
  expect(await chosen()).not.toContain('quay');
  await page.keyboard.press('Escape');
  await expect.poll(chosen).toEqual([]);
  const buoy = await page.evaluate(() => window.bradymotusStage.project(-1.75, 0.5, 2.3));
  await page.mouse.click(buoy.x, buoy.y, { button: 'right' });
  await page.getByRole('menuitem', { name: /^Duplicate/ }).click();
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.shot.scene.nodes.some((n: any) => n.name === 'Buoy 2')))
    .toBe(true);
});

test('what was done while the server was away survives a reload and is sent afterwards', async ({ page }) => {
  const id = await copy(page);
  await page.route('**/journal', (route) => route.abort());
  await rename(page, 'buoy', 'Red buoy');
  await expect(page.getByTestId('saved')).toContainText('1 change kept');
  await page.unroute('**/journal');
  page.on('dialog', (dialog) => void dialog.accept());
  await open(page, `#${id}`);
  await page.reload();
  await page.waitForFunction(() => window.bradymotus?.ready);
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.byId.get('buoy').name)).toBe('Red buoy');
  await saved(page);
  const file = await (await page.request.get(`/api/shots/${id}/file`)).json();
  expect(file.nodes.find((n: { id: string }) => n.id === 'buoy').name).toBe('Red buoy');
});

for (const theme of ['ink', 'paper']) {
  test(`the interface is accessible in ${theme}`, async ({ page }) => {
    await open(page);
    if (theme === 'paper') await page.getByRole('button', { name: 'Theme' }).click();
    for (const key of ['1', '2', '3', '4']) {
      await page.keyboard.press(key);
      await settled(page);
      // One heading a page is for documents; colours are measured once their transitions have ended.
      const { violations } = await new AxeBuilder({ page }).disableRules(['page-has-heading-one']).analyze();
      expect(violations.map((v) => `${v.id}: ${v.nodes[0].html}`)).toEqual([]);
      // Nothing is smaller than 12 px.
      const small = await page.evaluate(() =>
        [...document.querySelectorAll('body *')]
          .filter((e) => [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent!.trim()))
          .filter((e) => parseFloat(getComputedStyle(e).fontSize) < 12)
          .map((e) => `${e.tagName}: ${e.textContent!.trim().slice(0, 30)}`),
      );
      expect(small).toEqual([]);
    }
  });
}

test('the engine in the browser and on the server give the same bits', async ({ page }) => {
  const id = await copy(page);
  const file = `${root}/.build/e2e-same.shot.json`;
  const { writeFileSync } = await import('node:fs');
  writeFileSync(file, await (await page.request.get(`/api/shots/${id}/file`)).text());
  for (const frame of [0, 29, 57, 91.25]) {
    const native = JSON.parse(
      execFileSync(`${root}/src/Bradymotus.Cli/bin/Release/net10.0/bradymotus`, [
        'sample',
        file,
        '--frame',
        String(frame),
      ]).toString(),
    );
    const browser = await page.evaluate((f) => {
      const s = window.bradymotus.shot;
      s.engine.evaluate(f);
      return s.scene.nodes.map((n: any) => Array.from(s.engine.matrices.slice(16 * n.index, 16 * n.index + 16)));
    }, frame);
    native.nodes.forEach((n: { path: string; world: number[] }, i: number) => {
      // What goes to the graphics card is rounded to 32 bits, on both sides the same; even the signs of zeros are.
      expect(browser[i], `${n.path} on frame ${frame}`).toEqual(n.world.map(Math.fround));
    });
  }
});

test('a key and a frame are dragged on the motion path in the stage', async ({ page }) => {
  await copy(page);
  await select(page, 'Fender');
  await phase(page, 'Block');
  await goTo(page, 29);
  await settled(page);
  const on = (frame: number) =>
    page.evaluate((f) => {
      const { shot } = window.bradymotus;
      const path = shot.engine.path('fender', shot.scene.playFirst, shot.scene.playLast);
      const i = 3 * (f - shot.scene.playFirst);
      return window.bradymotusStage.project(path[i], path[i + 1], path[i + 2]) as { x: number; y: number };
    }, frame);
  const drag = async (from: { x: number; y: number }, dx: number, dy: number) => {
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(from.x + dx, from.y + dy, { steps: 4 });
    await expect(page.getByTestId('readout')).toBeVisible();
    await page.mouse.up();
  };
  const label = () => page.evaluate(() => window.bradymotus.shot.history.steps.at(-1).label as string);
  const top = await on(41);
  await drag(top, 30, -40);
  await expect.poll(label).toBe('Move “Fender” on its path');
  const moved = await on(41);
  expect(Math.hypot(moved.x - top.x - 30, moved.y - top.y + 40)).toBeLessThan(2);
  // The eye has not turned, and the object stays selected.
  expect(await page.evaluate(() => window.bradymotus.selection.ids)).toEqual(['fender']);
  const [tick, later] = [await on(35), await on(37)];
  await drag(tick, later.x - tick.x, later.y - tick.y);
  await expect.poll(label).toBe('Retime “Fender” on its path');
  const now = await on(35);
  expect(Math.hypot(now.x - later.x, now.y - later.y)).toBeLessThan(4);
  await page.mouse.click(moved.x, moved.y);
  await expect.poll(() => page.evaluate(() => window.bradymotus.frame)).toBe(41);
});

test('the path of a point of the surface is drawn where the pointer is, and taken away by number', async ({ page }) => {
  const id = await copy(page);
  await phase(page, 'Block');
  await goTo(page, 20);
  await settled(page);
  const at = await page.evaluate(() => {
    const path = window.bradymotus.shot.engine.path('fender', 20, 20);
    return window.bradymotusStage.project(path[0], path[1] + 0.3, path[2]) as { x: number; y: number };
  });
  const traced = () =>
    page.evaluate(() => window.bradymotus.shot.byId.get('fender-ball').data.traced as number[] | undefined);
  // The pictures of the poses, which show other frames, are drawn by then.
  await page.mouse.move(at.x, at.y);
  await page.keyboard.press('Shift+T');
  await expect.poll(async () => (await traced())?.length).toBe(1);
  const vertex = (await traced())![0];
  await page.mouse.click(at.x, at.y, { button: 'right' });
  await page.getByRole('menuitem', { name: 'Path of the point here' }).click();
  await expect.poll(traced).toBeUndefined();
  await page.keyboard.press('Control+z');
  await expect.poll(traced).toEqual([vertex]);

  await select(page, 'Fender');
  for (const key of ['ArrowRight', 'ArrowDown', 'ArrowRight']) await page.keyboard.press(key);
  await page.locator('#node-fender-ball').click();
  const list = page.getByTestId('traced');
  await list.getByRole('textbox').fill('100000');
  await expect(list.getByRole('alert')).toContainText('A number from 0');
  await list.getByRole('textbox').fill(String(vertex === 3 ? 4 : 3));
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await traced())?.length).toBe(2);
  await list.getByRole('button', { name: `Take away the path of point ${vertex}` }).click();
  await expect.poll(async () => (await traced())?.length).toBe(1);

  // Where the address names no shot, the page opens the one that was open last.
  await saved(page);
  await page.goto('about:blank');
  await open(page);
  expect(await page.evaluate(() => window.bradymotus.shotId)).toBe(id);
});

test('a layer: added, posed in, faded, muted and merged', async ({ page }) => {
  await copy(page);
  await select(page, 'Fender');
  await phase(page, 'Polish');
  await page.keyboard.press('Shift+L');
  const strip = page.getByRole('option', { name: 'Layer 1' });
  await expect(strip).toBeVisible();
  const below = await keysOf(page, lift);
  await goTo(page, 30);
  const before = await valueOf(page, lift);
  await page.keyboard.press('a');
  const field = page.getByRole('textbox', { name: 'Position Y', exact: true });
  await field.click();
  await field.fill('+1');
  await field.press('Enter');
  await field.blur();
  await page.keyboard.press('a');
  await expect.poll(() => valueOf(page, lift)).toBeCloseTo(before + 1, 6);
  expect(await keysOf(page, lift)).toEqual(below);

  const fader = page.getByRole('slider', { name: 'Weight of Layer 1' });
  const bar = (await fader.boundingBox())!;
  await page.mouse.move(bar.x + bar.width - 2, bar.y + 8);
  await page.mouse.down();
  await page.mouse.move(bar.x + bar.width / 2, bar.y + 8, { steps: 4 });
  await page.mouse.up();
  await expect.poll(() => valueOf(page, lift)).toBeCloseTo(before + 0.5, 1);
  const faded = await valueOf(page, lift);
  const mute = strip.getByRole('button', { name: 'Mute Layer 1' });
  await mute.click();
  await expect.poll(() => valueOf(page, lift)).toBeCloseTo(before, 9);
  await mute.click();
  await strip.click({ button: 'right', position: { x: 12, y: 10 } });
  await page.getByRole('menuitem', { name: 'Merge into the channels' }).click();
  await expect(strip).toBeHidden();
  await expect.poll(() => valueOf(page, lift)).toBeCloseTo(faded, 6);
  await saved(page);
  await page.reload();
  await page.waitForFunction(() => window.bradymotus?.ready);
  await goTo(page, 30);
  await expect.poll(() => valueOf(page, lift)).toBeCloseTo(faded, 6);
});

test('a bouncing ball: added, posed, retimed on the strip, split at the contact, looped, checked, staggered, heard and rendered', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await open(page);
  // What a hand does, counted: presses of keys and of the button.
  let steps = 0;
  const press = (keys: string) => (steps++, page.keyboard.press(keys));
  const click = (what: ReturnType<Page['locator']>) => (steps++, what.click());
  const command = async (words: string) => {
    await press('Control+k');
    await page.keyboard.type(words);
    await press('Enter');
  };
  await press('Control+o');
  await click(page.getByRole('button', { name: 'New shot' }));
  await page.waitForFunction(() => window.bradymotus.shot.scene.name !== 'Lantern Quay' && window.bradymotus.ready);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await command('add: ball');
  await page.waitForFunction(() => window.bradymotus.selection.ids.length === 1);
  const ball = await page.evaluate(() => window.bradymotus.selection.ids[0] as string);
  const height = `${ball}/transform.translate.y`;

  // Four poses, by the number in the values with automatic keying: in the air, on the floor, up again, on the floor.
  await press('2');
  await press('a');
  await expect(page.getByTestId('auto-sign')).toBeVisible();
  const field = page.getByRole('textbox', { name: 'Position Y', exact: true });
  const type = async (where: ReturnType<Page['locator']>, number: number) => {
    await click(where);
    await where.fill(String(number));
    await where.press('Enter');
    await where.blur();
    steps++;
  };
  const pose = async (frame: number, y: number) => {
    await type(page.getByRole('textbox', { name: 'Frame', exact: true }), frame);
    await expect.poll(() => page.evaluate(() => window.bradymotus.frame)).toBe(frame);
    await type(field, y);
    await expect.poll(() => valueOf(page, height)).toBe(y);
  };
  await click(field);
  await press('k');
  await pose(8, 2.5);
  await pose(18, 0.5);
  await press('a');
  await expect.poll(() => keysOf(page, height)).toEqual([0, 8, 18]);

  // Its top comes too early: the pose is dragged on the strip to where it belongs.
  const picture = page.locator('[data-pose="8"]');
  const box = (await picture.boundingBox())!;
  await page.mouse.move(box.x + 60, box.y + 30);
  await page.mouse.down();
  // The strip has a scale of its own: as far as the next picture is away, so many frames are.
  const next = (await page.locator('[data-pose="18"]').boundingBox())!;
  await page.mouse.move(box.x + 60 + (next.x - box.x) / 10, box.y + 30, { steps: 5 });
  await page.mouse.up();
  steps++;
  await expect.poll(() => keysOf(page, height)).toEqual([0, 9, 18]);

  // At the floor the handles are split and straight, so that it meets it at speed.
  await press('3');
  await page.waitForFunction((a) => window.bradymotusTracks?.key(a, 0, true), height);
  await settled(page);
  for (const frame of [0, 18]) {
    const at = await page.evaluate(([a, f]) => window.bradymotusTracks.key(a, f, true), [height, frame] as const);
    await page.mouse.click(at.x, at.y);
    steps++;
    await click(page.getByRole('button', { name: 'Split' }));
    await click(page.getByRole('button', { name: 'Straight' }));
  }
  // The curve repeats itself after its last key.
  const end = await page.evaluate((a) => window.bradymotusTracks.key(a, 18, false), height);
  await page.mouse.click(end.x + 45, end.y);
  steps++;
  await click(page.getByRole('radio', { name: 'Loop', exact: true }));
  await expect.poll(() => page.evaluate((a) => window.bradymotus.shot.curve(a).after.kind, height)).toBe('loop');
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => window.bradymotus.findings.current, null, { timeout: 60_000 });
  expect(
    await page.evaluate(() => window.bradymotus.findings.list.map((f: { sentence: string }) => f.sentence)),
  ).toEqual([]);

  // A playback range with both ends of the loop hitches: the check says so, and mends it.
  const ruler = (await page.getByLabel('Keys and curves').boundingBox())!;
  const across = await page.evaluate(() => {
    const { frame } = window.bradymotusTracks;
    return { from: frame(window.bradymotus.shot.scene.playLast), to: frame(18) };
  });
  await page.mouse.move(across.from, ruler.y + 6);
  await page.mouse.down();
  await page.mouse.move(across.to, ruler.y + 6, { steps: 4 });
  await page.mouse.up();
  steps++;
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.scene.playLast)).toBe(18);
  await expect(page.getByRole('button', { name: '1 finding' })).toBeVisible({ timeout: 60_000 });
  await press('w');
  await click(page.getByRole('button', { name: /Play frames 0 to 17/ }));
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.scene.playLast)).toBe(17);
  await press('w');

  // Three of them, each six frames after the one before.
  await page.locator(`#node-${ball}`).click();
  await page.getByTestId('stage').hover();
  await press('Control+d');
  await press('Control+d');
  const all = await page.evaluate(() =>
    window.bradymotus.shot.scene.nodes.filter((n: any) => n.kind === 'mesh').map((n: any) => n.id),
  );
  const balls = all.filter((id: string) => id === ball || !id.startsWith('ground')).slice(-3);
  for (const [i, id] of balls.entries())
    await page.locator(`#node-${id}`).click({ modifiers: i > 0 ? ['Control'] : [] });
  await click(page.getByRole('button', { name: 'Tools' }));
  await click(page.getByText('Stagger…'));
  await page.getByLabel('Frames an object').fill('6');
  await press('Enter');
  await click(page.getByRole('button', { name: 'Apply' }));
  await expect
    .poll(() => Promise.all(balls.map(async (id: string) => (await keysOf(page, `${id}/transform.translate.y`))[0])))
    .toEqual([0, 6, 12]);
  // A thump for each touch of the floor, dropped at the first frame, and heard while it plays.
  await press('Home');
  const thump = execFileSync('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', "aevalsrc='sin(2*PI*90*t)*exp(-20*t)':s=48000:d=0.5", '-f', 'wav', '-'],
  ]);
  const files = await page.evaluateHandle((bytes) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], 'thump.wav'));
    return transfer;
  }, thump.toString('base64'));
  await page.dispatchEvent('[data-testid=stage]', 'drop', { dataTransfer: files });
  steps++;
  await page.waitForFunction(() => window.bradymotus.sounds.peaks.size === 1, null, { timeout: 30_000 });
  expect(await page.evaluate(() => window.bradymotus.shot.scene.sounds[0].start)).toBe(0);
  await press('Space');
  await page.waitForFunction(() => window.bradymotus.player.rate > 0 && window.bradymotus.sounds.heard.length === 1);
  await press('Space');

  // By its bar it is moved to where the ball touches the floor.
  const bar = await page.evaluate(() => ({
    from: window.bradymotusTracks.frame(3),
    to: window.bradymotusTracks.frame(21),
  }));
  await page.mouse.move(bar.from, ruler.y + 65);
  await page.mouse.down();
  await page.mouse.move(bar.to, ruler.y + 65, { steps: 4 });
  await page.mouse.up();
  steps++;
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.scene.sounds[0].start)).toBe(18);

  // A preview of the loop, rendered and played.
  await press('4');
  await click(page.getByRole('radio', { name: /^Draft/ }));
  await type(page.getByLabel('Width'), 96);
  await click(page.getByRole('button', { name: /^Render 0-17/ }));
  await expect(page.locator('[data-render]').first()).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  await click(page.getByRole('button', { name: 'Play the sequence' }));
  await expect(page.getByTestId('sequence-frame')).not.toHaveText('frame 0');
  test.info().annotations.push({ type: 'steps', description: `${steps} presses and clicks` });
  expect(steps).toBeLessThan(80);
});
