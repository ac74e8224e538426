// @vitest-environment jsdom
// Layers: their strips, what is posed and keyed in them, and the rows of the tracks, on the real engine.
import { cleanup, fireEvent, render, screen, within } from '@testing-library/svelte';
import { tick } from 'svelte';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openDemo } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { curveTools } = await import('../../web/src/curves/curveTools');
const { default: LayerStrip } = await import('../../web/src/timeline/layers/LayerStrip.svelte');
const lift = 'fender/transform.translate.y';

const value = (address = lift) => session.shot.valueOf(session.shot.channelAt(address)!);
const layer = () => session.shot.layer!;
const inLayer = (address = lift, id = layer()) => `${address}@${id}`;
const at = (address: string, frame: number) => session.shot.engine!.sample(address, frame, 1, 1)[0];

beforeEach(async () => {
  session = await openDemo();
  session.phase = 'polish';
  session.selection.select(['fender']);
});
afterEach(cleanup);

describe('a layer', () => {
  it('takes what is posed and keyed, and leaves the keys below alone', () => {
    const below = session.shot.keysOf(lift).slice();
    session.goTo(30);
    const before = value();
    run('layer.new');
    expect(session.shot.scene.layers).toMatchObject([{ name: 'Layer 1' }]);
    expect(layer()).toBe(session.shot.scene.layers[0].id);
    session.autoKey = true;
    session.shot.pose([{ address: session.shot.here(lift), value: before + 0.5 }], true);
    expect(value()).toBeCloseTo(before + 0.5, 9);
    expect(session.shot.keysOf(inLayer())).toEqual([30]);
    expect(session.shot.keysOf(lift)).toEqual(below);
    expect(at(inLayer(), 30)).toBeCloseTo(0.5, 9);
    expect(session.shot.engine!.sampleSum(inLayer(), 30, 1, 1)[0]).toBeCloseTo(before + 0.5, 9);
    session.shot.undo();
    expect(value()).toBeCloseTo(before, 9);
    session.shot.undo();
    expect([session.shot.layer, session.shot.scene.layers.length]).toEqual([null, 0]);
  });

  it('keys what is seen, changes that wait among it', () => {
    session.goTo(30);
    run('layer.newOverride');
    const seen = value();
    session.shot.keyNow([session.shot.here(lift)]);
    expect(at(inLayer(), 30)).toBeCloseTo(seen, 9);
    session.goTo(36);
    session.shot.pose([{ address: session.shot.here(lift), value: 3 }], true);
    expect([...session.shot.waiting]).toEqual([inLayer()]);
    run('key.changed');
    expect(session.shot.keysOf(inLayer())).toEqual([30, 36]);
    expect([at(inLayer(), 36), session.shot.waiting.size]).toEqual([3, 0]);
    // A change that waits is said by its channel, and taken along by a tool.
    session.goTo(33);
    session.shot.pose([{ address: session.shot.here(lift), value: 2 }], true);
    const tool = curveTools.find((t) => t.id === 'keyRange')!;
    const edit = tool.edit({ first: 30, last: 36 }) as { values: unknown };
    expect(edit.values).toEqual([{ address: inLayer(), value: 2 }]);
  });

  it('has the rows of all that is animated, and the keys of its own only', async () => {
    run('layer.new');
    expect(session.shot.keyedOwners.get('fender')).toBeUndefined();
    expect(session.shot.animated.get('fender')!.has(lift)).toBe(true);
    // What lies below is seen before the layer has a key.
    expect(session.shot.isSummed(lift)).toBe(true);
    expect(session.shot.isSummed('fender/visible')).toBe(false);
    session.shot.keyNow([session.shot.here(lift)]);
    expect(session.shot.keyedOwners.get('fender')).toEqual([inLayer()]);
    expect(session.shot.isSummed(lift)).toBe(true);
    run('layer.down');
    expect(session.shot.layer).toBeNull();
    expect(session.shot.keyedOwners.get('fender')).toContain(lift);
    run('layer.down');
    expect(session.messages.notice?.text).toContain('There is nothing below');
    run('layer.up');
    run('layer.up');
    expect(session.messages.notice?.text).toContain('There is no layer above');
  });

  it('has a weight that goes as far as the hand, however often it changes on the way', async () => {
    run('layer.new');
    const { default: Fields } = await import('../../web/src/timeline/sounds/SoundFields.svelte');
    render(LayerStrip);
    const layer = session.shot.scene.layers[0].id;
    const weight = () => session.shot.valueOf(session.shot.channelAt(`${layer}/weight`)!);
    session.shot.pose([{ address: `${layer}/weight`, value: 0.2 }], true);
    const hand = async (field: HTMLElement, ...to: number[]) => {
      const at = (clientX: number) => ({ clientX, clientY: 10, button: 0 });
      const send = (type: string, x: number) => {
        const event = new MouseEvent(type, { ...at(x), bubbles: true, cancelable: true });
        return fireEvent(field, Object.assign(event, { pointerId: 1 }));
      };
      await send('pointerdown', 100);
      for (const x of to) await send('pointermove', 100 + x);
      await send('pointerup', 100 + to.at(-1)!);
      await tick();
    };
    const field = await screen.findByRole('textbox', { name: /^Weight of/ });
    await hand(field, 5, 10, 15, 20, 25, 30);
    expect(weight()).toBeCloseTo(0.5, 6);
    await hand(field, 40, 80, 120);
    expect(weight()).toBe(1);
    session.shot.commit({
      kind: 'putSound',
      sound: { id: 'bell', name: 'Bell', asset: 'a'.repeat(64), seconds: 2, start: 10 },
    } as never);
    render(Fields, { id: 'bell', left: 0, top: 0, onclose: () => undefined });
    await hand(screen.getByRole('textbox', { name: 'First frame of the sound' }), 8, 16, 24, 32, 40);
    expect(session.shot.scene.sounds[0].start).toBe(20);
  });

  it('takes pasted keys, whatever layer they were copied from', () => {
    ui.part = 'tracks';
    session.selection.keys = session.shot
      .keysOf(lift)
      .slice(0, 2)
      .map((frame) => ({ address: lift, frame }));
    run('copyKeys');
    run('layer.new');
    session.goTo(40);
    run('paste');
    expect(session.shot.keysOf(inLayer())).toHaveLength(2);
    expect(session.shot.keysOf(inLayer())[0]).toBe(40);
  });

  it('is merged down and baked by command, and what is worked in afterwards is what it went into', () => {
    session.goTo(30);
    const before = value();
    run('layer.new');
    session.shot.commit({ kind: 'setValues', values: [{ address: inLayer(), value: 0.25 }] } as never);
    const first = layer();
    run('layer.new');
    session.shot.commit({ kind: 'setValues', values: [{ address: inLayer(), value: 1 }] } as never);
    run('layer.merge');
    expect([session.shot.layer, session.shot.scene.layers.length]).toEqual([first, 1]);
    expect(value()).toBeCloseTo(before + 1.25, 9);
    run('layer.bake');
    expect([session.shot.layer, session.shot.scene.layers.length]).toEqual([null, 0]);
    expect(value()).toBeCloseTo(before + 1.25, 9);
    run('layer.remove');
    expect(session.messages.notice?.text).toContain('This is below all layers');
    expect(session.shot.history!.steps.slice(-2).map((s) => s.label)).toEqual([
      'Merge the layer Layer 2 down',
      'Bake all layers',
    ]);
  });
});

describe('the strips', () => {
  const strip = (name: string) => within(screen.getByRole('option', { name }));

  it('are muted, soloed, locked, renamed and chosen', async () => {
    run('layer.new');
    session.shot.keyNow([session.shot.here(lift)]);
    render(LayerStrip);
    await fireEvent.click(strip('Layer 1').getByRole('button', { name: 'Mute Layer 1' }));
    await fireEvent.click(strip('Layer 1').getByRole('button', { name: 'Solo Layer 1' }));
    await fireEvent.click(strip('Layer 1').getByRole('button', { name: 'Lock Layer 1' }));
    expect(session.shot.scene.layers[0]).toMatchObject({ muted: true, solo: true, locked: true });
    session.shot.keyNow([session.shot.here(lift)]);
    expect(session.messages.notice?.text).toContain('“Layer 1” is locked');
    await fireEvent.dblClick(strip('Layer 1').getByTitle(/double click to rename/));
    const field = screen.getByRole('textbox', { name: 'Name of the layer' });
    await fireEvent.input(field, { target: { value: 'Breath' } });
    await fireEvent.keyDown(field, { key: 'Enter' });
    expect(session.shot.scene.layers[0].name).toBe('Breath');
    await fireEvent.click(screen.getByRole('option', { name: 'Base' }));
    expect(session.shot.layer).toBeNull();
    expect(screen.getByRole('option', { name: 'Base' }).getAttribute('aria-selected')).toBe('true');
  });

  it('have a weight that is set by the fader, typed and keyed', async () => {
    run('layer.new');
    render(LayerStrip);
    const weight = `${layer()}/weight`;
    const slider = screen.getByRole('slider', { name: 'Weight of Layer 1' });
    slider.getBoundingClientRect = () => ({ left: 0, width: 100, top: 0, height: 10 }) as DOMRect;
    slider.setPointerCapture = () => undefined;
    const pointer = (type: string, x: number) => {
      const event = new MouseEvent(type, { clientX: x, button: 0, bubbles: true });
      Object.assign(event, { pointerId: 1 });
      return fireEvent(slider, event);
    };
    await pointer('pointerdown', 80);
    await pointer('pointermove', 40);
    expect(value(weight)).toBe(0.4);
    await pointer('pointerup', 40);
    expect(value(weight)).toBe(0.4);
    await fireEvent.keyDown(slider, { key: 'ArrowLeft' });
    expect(value(weight)).toBe(0.35);
    session.goTo(10);
    await fireEvent.click(screen.getByRole('button', { name: 'Key the weight of Layer 1 here' }));
    expect(session.shot.keysOf(weight)).toEqual([10]);
    // Its row is in the tracks, whatever layer is worked in.
    expect(session.shot.animated.get(layer())!.has(weight)).toBe(true);
    expect(session.shot.here(weight)).toBe(weight);
  });

  it('say what a layer is for while there is none', () => {
    render(LayerStrip);
    expect(screen.getByText(/leaves its keys alone/)).toBeTruthy();
  });
});
