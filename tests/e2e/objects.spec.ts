// Objects: added where one looks, put in order, isolated, selected by what they are, kept as sets. By mouse and keyboard alone.
import { expect, type Page } from '@playwright/test';
import { copy, phase, saved, select, settled, test } from './page';

const names = (page: Page) =>
  page.locator('[role=treeitem]').evaluateAll((rows) => rows.map((r) => r.textContent!.trim()));
const chosen = (page: Page) =>
  page.locator('[role=treeitem][aria-selected=true]').evaluateAll((rows) => rows.map((r) => r.textContent!.trim()));

/** Drags a row of the list to a part of the height of another. */
async function dragRow(page: Page, from: string, to: string, part: number) {
  const [a, b] = [page.locator(`#node-${from}`), page.locator(`#node-${to}`)];
  const size = (await b.boundingBox())!;
  await a.dragTo(b, { targetPosition: { x: size.width / 2, y: size.height * part } });
}

test('rows change their order by drag and by keyboard, and undo brings it back', async ({ page }) => {
  await copy(page);
  const before = await names(page);
  const at = (list: string[], name: string) => list.indexOf(name);
  await dragRow(page, 'fender', 'lighthouse', 0.1);
  await expect.poll(async () => at(await names(page), 'Fender') + 1).toBe(at(before, 'Lighthouse') + 1);
  expect((await names(page)).toSorted()).toEqual(before.toSorted());
  // It stands where it stood: only the list is another.
  await page.locator('#node-fender').click();
  await page.keyboard.press('Control+ArrowUp');
  await expect.poll(async () => at(await names(page), 'Fender')).toBe(at(before, 'Lighthouse') - 1);
  await page.keyboard.press('Control+ArrowDown');
  await page.keyboard.press('Control+ArrowDown');
  await expect.poll(async () => at(await names(page), 'Fender')).toBe(at(before, 'Lighthouse') + 1);
  // Into the middle of a row hangs it below.
  await dragRow(page, 'fender', 'buoy', 0.5);
  await expect.poll(() => page.evaluate(() => window.bradymotus.shot.byId.get('fender')!.parent)).toBe('buoy');
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
  await expect.poll(() => names(page)).toEqual(before);
  await saved(page);
});

test('new objects stand beside each other where one looks, and none in another', async ({ page }) => {
  await copy(page);
  const add = async (name: string) => {
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await page.getByRole('menuitem', { name, exact: true }).click();
    await settled(page);
  };
  for (const name of ['Box', 'Sphere', 'Box']) await add(name);
  const boxes = await page.evaluate(() => {
    const { scene } = window.bradymotus.shot;
    const added = scene.nodes.slice(-3);
    return added.map((n) => window.bradymotus.shot.engine.bounds([n.id]) as number[]);
  });
  for (const [i, a] of boxes.entries()) {
    // On the ground, which may be the sea or the quay, and never below it.
    expect(a[1]).toBeGreaterThan(-0.5);
    for (const b of boxes.slice(i + 1)) {
      const apart = [0, 1, 2].some((axis) => a[axis + 3] <= b[axis] + 1e-6 || b[axis + 3] <= a[axis] + 1e-6);
      expect(apart).toBe(true);
    }
  }
  // They can be seen: each lies in the picture.
  const stage = (await page.getByTestId('stage').boundingBox())!;
  for (const a of boxes) {
    const middle = [0, 1, 2].map((i) => (a[i] + a[i + 3]) / 2) as [number, number, number];
    const p = await page.evaluate((m) => window.bradymotusStage.project(...m), middle);
    expect(p.x).toBeGreaterThan(stage.x);
    expect(p.x).toBeLessThan(stage.x + stage.width);
    expect(p.y).toBeGreaterThan(stage.y);
    expect(p.y).toBeLessThan(stage.y + stage.height);
  }
});

test('what is isolated is seen alone, also after a reload, and what lies one behind the other is listed', async ({
  page,
}) => {
  await copy(page);
  await select(page, 'Buoy');
  const seen = () =>
    page.evaluate(() => [...window.bradymotusStage.mirror.items.values()].filter((i) => i.mesh?.visible).length);
  const all = await seen();
  await page.keyboard.press('i');
  await expect(page.getByTestId('isolated')).toContainText('Buoy');
  await expect.poll(seen).toBeLessThan(all);
  // What is hidden is not met by a click.
  const fender = await page.evaluate(() => {
    const m = window.bradymotusStage.mirror.items.get('fender')!.object.matrix.elements;
    return window.bradymotusStage.project(m[12], m[13], m[14]);
  });
  await page.mouse.click(fender.x, fender.y);
  expect(await chosen(page)).not.toContain('Fender');
  await page.reload();
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  await expect(page.getByTestId('isolated')).toContainText('Buoy');
  await page.getByRole('button', { name: 'Show all' }).click();
  await expect.poll(seen).toBe(all);
  // A second buoy before the first: a copy that stands in the same place.
  await select(page, 'Buoy');
  await page.keyboard.press('Control+d');
  await settled(page);
  const at = await page.evaluate(() => window.bradymotusStage.project(-1.75, 0.5, 2.3));
  await page.mouse.move(at.x, at.y, { steps: 3 });
  await page.getByTestId('stage').focus();
  await page.keyboard.press('u');
  const items = page.getByRole('menuitemradio');
  expect(await items.count()).toBeGreaterThan(1);
  const name = (await items.nth(1).textContent())!;
  await items.nth(1).click();
  const selected = await page.evaluate(() => window.bradymotus.selection.nodes[0].name as string);
  expect(name).toContain(selected);
});

test('objects are selected by name, by kind, by material and by the sets that are kept', async ({ page }) => {
  await copy(page);
  const filter = page.getByLabel('Filter the objects by name');
  await filter.fill('lamp');
  await filter.press('Enter');
  const found = await chosen(page);
  expect(found.length).toBeGreaterThan(1);
  expect(found.every((n) => /lamp/i.test(n))).toBe(true);
  const menu = async (...path: string[]) => {
    await page.getByRole('button', { name: 'Select', exact: true }).and(page.locator('[aria-haspopup=menu]')).click();
    for (const name of path.slice(0, -1)) {
      await page.getByRole('menuitem', { name }).hover();
      await page.getByRole('menuitem', { name }).press('ArrowRight');
    }
    await page.getByRole('menuitem', { name: path.at(-1)! }).click();
  };
  // The selection is kept as a set, and is there after something else was selected.
  await menu('Keep as a set');
  await filter.press('Escape');
  await menu('Of a kind', 'Cameras');
  expect((await chosen(page)).toSorted()).toEqual(['Fender close-up', 'Quay camera']);
  const set = page.getByRole('group', { name: 'Sets' }).getByRole('button');
  await set.click();
  await expect
    .poll(() => page.evaluate(() => window.bradymotus.selection.nodes.map((n: { name: string }) => n.name)))
    .toEqual(found);
  // It has a name of its own, and undo takes that back.
  await set.click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.keyboard.type('Lights');
  await page.keyboard.press('Enter');
  await expect(set).toHaveText('Lights');
  await saved(page);
  await page.reload();
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
  await expect(set).toHaveText('Lights');
  // All that has the red of the harbour, and nothing else.
  await menu('With a material', 'Harbour red');
  const materials = await page.evaluate(() =>
    window.bradymotus.selection.nodes.map((n: { data: { material: string } }) => n.data.material as string),
  );
  expect(materials.length).toBeGreaterThan(2);
  expect(new Set(materials).size).toBe(1);
});

test('the stage is used by keyboard: objects one after another, the view, the menu', async ({ page }) => {
  await copy(page);
  await phase(page, 'Set');
  await page.keyboard.press('c');
  const stage = page.getByTestId('stage');
  await stage.focus();
  await page.keyboard.press('n');
  const first = await chosen(page);
  await page.keyboard.press('n');
  const second = await chosen(page);
  expect(second).not.toEqual(first);
  await page.keyboard.press('b');
  expect(await chosen(page)).toEqual(first);
  const eye = () =>
    page.evaluate(() => window.bradymotusStage.cameras.free.position.toArray().map((v: number) => Math.round(v * 100)));
  for (const key of ['Control+ArrowLeft', 'Control+ArrowUp', 'Control+Shift+ArrowRight', 'PageUp']) {
    const before = await eye();
    await page.keyboard.press(key);
    await expect.poll(eye, key).not.toEqual(before);
  }
  await page.keyboard.press('Shift+F10');
  await expect(page.getByRole('menu')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(stage).toBeFocused();
});
