// @vitest-environment jsdom
// What is heard when: the commands and panels on the real engine, with a sound device of straw.
import { cleanup, fireEvent, render, screen } from '@testing-library/svelte';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { answers, openDemo, sent } from './real';

interface Source {
  buffer: { duration: number } | null;
  started: unknown[] | null;
  stopped: boolean;
  gain: number;
}
let sources: Source[] = [];
class Param {
  value = 1;
  ramps: [number, number][] = [];
  setValueAtTime = (v: number, t: number) => this.ramps.push([v, t]);
  linearRampToValueAtTime = (v: number, t: number) => this.ramps.push([v, t]);
}
class Device {
  currentTime = 100;
  outputLatency = 0;
  baseLatency = 0;
  destination = {};
  resume = async () => undefined;
  createGain = () => ({ gain: new Param(), connect: () => undefined, disconnect: () => undefined });
  createBufferSource = () => {
    const source = { buffer: null, started: null, stopped: false, gain: 1 } as Source;
    sources.push(source);
    return Object.assign(source, {
      connect: (to: { gain: Param }) => {
        Object.defineProperty(source, 'gain', { get: () => to.gain.value });
        return to;
      },
      start: (...when: unknown[]) => (source.started = when),
      stop: () => (source.stopped = true),
    });
  };
}
class Decoder {
  // Two seconds of silence, with one click.
  decodeAudioData = async () => ({
    duration: 2,
    sampleRate: 48000,
    numberOfChannels: 1,
    getChannelData: () => Object.assign(new Float32Array(96000), { 48000: 1 }),
  });
}
vi.stubGlobal('AudioContext', Device);
vi.stubGlobal('OfflineAudioContext', Decoder);

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { run } = await import('../../web/src/commands');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { takePictures } = await import('../../web/src/shots/reference');
const { default: SoundFields } = await import('../../web/src/timeline/sounds/SoundFields.svelte');
const asset = 'ab'.repeat(32);
const put = (change: object) =>
  session.shot.commit({
    kind: 'putSound',
    sound: { id: 'bell', name: 'Bell', asset, seconds: 2, ...change },
  } as never);
const last = () => sources.at(-1)!;

beforeEach(async () => {
  sources = [];
  preferences.sound = true;
  session = await openDemo();
  put({ start: 24 });
  await vi.waitFor(() => expect(session.sounds.peaks.has(asset)).toBe(true));
});
afterEach(() => {
  session.player.stop();
  cleanup();
});

describe('a sound', () => {
  it('comes with a file that is dropped, from the playhead on', async () => {
    session.shot.commit({ kind: 'removeSounds', ids: ['bell'] } as never);
    session.goTo(12);
    answers.set('POST /api/sounds', { status: 200, body: { asset, name: 'bell.wav', seconds: 2 } });
    expect(await takePictures([new File(['x'], 'bell.wav')])).toBe(true);
    expect(session.shot.scene.sounds).toMatchObject([{ name: 'bell.wav', asset, seconds: 2, start: 12 }]);
    expect(sent.some((s) => s.path === '/api/sounds')).toBe(true);
    answers.set('POST /api/sounds', { status: 422, body: { detail: 'no.wav is no sound that can be read.' } });
    await takePictures([new File(['x'], 'no.wav')]);
    expect(session.messages.notice?.text).toContain('no sound that can be read');
    expect(session.shot.scene.sounds).toHaveLength(1);
  });

  it('waits for its frame, is begun in its middle, and is not heard when it is over or muted', () => {
    session.sounds.start(12);
    // The demo runs at 24 frames a second: half a second to wait.
    expect(last().started).toEqual([100.5, 0]);
    session.sounds.start(36);
    expect(last().started).toEqual([100, 0.5]);
    expect(sources[0].stopped).toBe(true);
    sources = [];
    session.sounds.start(24 + 48);
    put({ start: 24, muted: true });
    session.sounds.start(30);
    expect([sources, session.sounds.heard]).toEqual([[], []]);
  });

  it('goes along while it plays, and a change of it is heard at once', () => {
    session.goTo(36);
    run('play');
    expect(session.sounds.heard).toEqual(['bell']);
    const before = last();
    put({ start: 30 });
    expect([before.stopped, last().stopped]).toEqual([true, false]);
    run('sound.hear');
    expect(session.sounds.heard).toEqual([]);
    run('sound.hear');
    expect(session.sounds.heard).toEqual(['bell']);
    run('play');
    expect(session.sounds.heard).toEqual([]);
  });

  it('has a level that is keyed like anything, and is heard as loud', () => {
    session.shot.commit({ kind: 'setKeys', frame: 30, values: [{ address: 'bell/level', value: 0.25 }] } as never);
    session.goTo(36);
    session.sounds.start(36);
    expect(last().gain).toBe(0.25);
    session.shot.commit({ kind: 'setKeys', frame: 30, values: [{ address: 'bell/level', value: 9 }] } as never);
    session.sounds.follow();
    // More than four times as loud nothing gets.
    expect(last().gain).toBe(4);
    expect(session.shot.animated.get('bell')!.has('bell/level')).toBe(true);
  });

  it('gives a short grain for each frame that one scrubs over, and none where it is silent', () => {
    session.goTo(40);
    expect(last().started).toEqual([100, expect.closeTo(16 / 24), expect.closeTo(0.07)]);
    const first = last();
    session.goTo(41);
    expect(first.stopped).toBe(true);
    const count = sources.length;
    session.goTo(3);
    expect(sources).toHaveLength(count);
  });

  it('is named, placed, muted and removed in its fields', async () => {
    const closed = vi.fn();
    render(SoundFields, { id: 'bell', left: 0, top: 0, onclose: closed });
    const name = screen.getByRole('textbox', { name: 'Name of the sound' });
    await fireEvent.change(name, { target: { value: 'Buoy bell' } });
    await fireEvent.click(screen.getByRole('checkbox'));
    expect(session.shot.scene.sounds[0]).toMatchObject({ name: 'Buoy bell', muted: true });
    const start = screen.getByRole('textbox', { name: 'First frame of the sound' });
    await fireEvent.focus(start);
    await fireEvent.input(start, { target: { value: '6' } });
    await fireEvent.keyDown(start, { key: 'Enter' });
    expect(session.shot.scene.sounds[0].start).toBe(6);
    await fireEvent.click(screen.getByRole('button', { name: 'Remove the sound' }));
    expect([session.shot.scene.sounds.length, closed.mock.calls.length]).toEqual([0, 1]);
    session.shot.undo();
    expect(session.shot.scene.sounds).toHaveLength(1);
  });
});
