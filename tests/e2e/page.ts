// What every test of the page needs: opens it on a copy of the demo, and asks the shot what it is.
import { expect, type Page, test as plain } from '@playwright/test';

declare global {
  interface Window {
    /* eslint-disable @typescript-eslint/no-explicit-any */
    bradymotus: any;
    bradymotusStage: any;
    bradymotusTracks: any;
  }
}

/** A test of the page: whatever the page throws on the way fails it, also where all that is looked at is right. */
export const test = plain.extend({
  page: async ({ page }, use) => {
    const thrown: string[] = [];
    page.on('pageerror', (error) => thrown.push(error.stack ?? error.message));
    await use(page);
    expect(thrown).toEqual([]);
  },
});

export const root = new URL('../..', import.meta.url).pathname;
export const lift = 'fender/transform.translate.y';

export async function open(page: Page, hash = '') {
  await page.goto('/' + hash);
  await page.waitForFunction(() => window.bradymotusStage?.drawn > 0 && window.bradymotus.ready);
}

/** A copy of the demo shot, so that tests do not meet. */
export async function copy(page: Page): Promise<string> {
  const shots = await (await page.request.get('/api/shots')).json();
  const demo = shots.find((s: { name: string }) => s.name === 'Lantern Quay');
  const made = await (await page.request.post(`/api/shots/${demo.id}/duplicate`)).json();
  await open(page, `#${made.id}`);
  return made.id;
}

export const valueOf = (page: Page, address: string) =>
  page.evaluate((a) => {
    const s = window.bradymotus.shot;
    return s.engine.values[s.channelAt(a).index] as number;
  }, address);
export const keysOf = (page: Page, address: string) =>
  page.evaluate((a) => window.bradymotus.shot.keysOf(a).slice() as number[], address);
/** What was asked for has been drawn, and nothing more is waiting to be. */
export const settled = (page: Page) =>
  page.evaluate(async () => {
    for (let still = 0, drawn = -1; still < 3;) {
      await new Promise((done) => requestAnimationFrame(done));
      still = window.bradymotusStage.drawn === drawn ? still + 1 : 0;
      drawn = window.bradymotusStage.drawn;
    }
  });
/** What the stage draws at a point of the page: red, green, blue. */
export const pixelAt = (page: Page, at: { x: number; y: number }) =>
  page.evaluate(({ x, y }) => {
    const view = window.bradymotusStage;
    view.draw();
    const gl = view.renderer.getContext();
    const box = view.canvas.getBoundingClientRect();
    const ratio = view.canvas.width / box.width;
    const pixel = new Uint8Array(4);
    const [left, up] = [(x - box.left) * ratio, view.canvas.height - (y - box.top) * ratio];
    gl.readPixels(left, up, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
    return [...pixel.slice(0, 3)];
  }, at);
export const saved = (page: Page) => expect(page.getByTestId('saved')).toHaveText('Saved');
export const phase = (page: Page, name: string) => page.getByRole('button', { name, exact: true }).click();
export const select = (page: Page, name: string) => page.locator(`#node-${name.toLowerCase()}`).click();

/** Types a frame into the field below the stage. */
export async function goTo(page: Page, frame: number) {
  const field = page.getByRole('textbox', { name: 'Frame', exact: true });
  await field.fill(String(frame));
  await field.press('Enter');
  await field.blur();
  await expect.poll(() => page.evaluate(() => window.bradymotus.frame as number)).toBe(frame);
}

/** Renames an object in the list. */
export async function rename(page: Page, id: string, name: string) {
  await page.locator(`#node-${id}`).click();
  await page.keyboard.press('F2');
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
}

/** Presses on a key in the tracks; with add beside those that are selected. */
export async function pickKey(page: Page, address: string, frame: number, add = false) {
  await settled(page);
  const at = await page.evaluate(([a, f]) => window.bradymotusTracks.key(a, f, false), [address, frame] as const);
  if (add) await page.keyboard.down('Shift');
  await page.mouse.click(at.x, at.y);
  if (add) await page.keyboard.up('Shift');
}
