// @vitest-environment jsdom
// What is heard under finished pictures, with a sound device of straw.
import { beforeEach, describe, expect, it, vi } from 'vitest';

interface Source {
  loop: boolean;
  started: number[];
  stopped: boolean;
  ramps: [number, number][];
}
let sources: Source[] = [];
const asked: string[] = [];
let status = 200;

class Device {
  currentTime = 50;
  outputLatency = 0.04;
  destination = {};
  resume = async () => undefined;
  createGain = () => {
    const ramps: [number, number][] = [];
    const to = (v: number, t: number) => ramps.push([v, t]);
    return { ramps, gain: { setValueAtTime: to, linearRampToValueAtTime: to }, connect: () => 0, disconnect: () => 0 };
  };
  createBufferSource = () => {
    const source: Source = { loop: false, started: [], stopped: false, ramps: [] };
    sources.push(source);
    return Object.assign(source, {
      connect: (gain: { ramps: [number, number][] }) => {
        source.ramps = gain.ramps;
        return gain;
      },
      start: (...when: number[]) => (source.started = when),
      stop: () => (source.stopped = true),
    });
  };
}
vi.stubGlobal('AudioContext', Device);
vi.stubGlobal(
  'OfflineAudioContext',
  class {
    decodeAudioData = async () => ({ duration: 2 });
  },
);
vi.stubGlobal('fetch', async (path: string) => {
  asked.push(path);
  return { status, arrayBuffer: async () => new ArrayBuffer(8) };
});
const { SequenceSound } = await import('../../web/src/render/sequenceSound.svelte');
const last = () => sources.at(-1)!;

beforeEach(() => {
  sources = [];
  asked.length = 0;
  status = 200;
});

describe('the sound of a sequence', () => {
  it('plays on from any picture, round and round, and stops', async () => {
    const sound = new SequenceSound();
    sound.start(1);
    expect(sources).toEqual([]);
    await sound.load('a', 48, 2);
    expect([sound.there, asked]).toEqual([true, ['/api/renders/a/sound']]);
    // What is given to the device now is heard 0.04 s later, by when the pictures are as much further on.
    sound.start(0.5);
    expect(last()).toMatchObject({ loop: true, started: [50, 0.54], stopped: false });
    sound.start(5.97);
    expect(sources[0].stopped).toBe(true);
    expect(last().started[1]).toBeCloseTo(0.01, 6);
    sound.stop();
    expect(last().stopped).toBe(true);
  });

  it('gives a short, soft grain where one steps', async () => {
    const sound = new SequenceSound();
    await sound.load('a', 48, 2);
    sound.scrub(1.25);
    expect(last().started).toEqual([50, 1.25, 0.07]);
    expect(last().loop).toBe(false);
    expect(last().ramps[0][0]).toBe(0);
    expect(last().ramps.at(-1)![0]).toBe(0);
    expect(last().ramps.at(-1)![1]).toBeCloseTo(50.07, 6);
  });

  it('is fetched once for so many pictures, anew when there are more, and not for what is silent or far too long', async () => {
    const sound = new SequenceSound();
    await sound.load('a', 24, 1);
    await sound.load('a', 24, 1);
    expect(asked).toHaveLength(1);
    await sound.load('a', 30, 1.25);
    expect(asked).toHaveLength(2);
    status = 204;
    await sound.load('b', 24, 1);
    expect([sound.there, asked.length]).toEqual([false, 3]);
    sound.start(0);
    expect(sources).toEqual([]);
    status = 200;
    await sound.load('c', 24, 1000);
    await sound.load('d', 0, 0);
    expect([sound.there, asked.length]).toEqual([false, 3]);
    // The later one counts, whichever comes first.
    const slow = sound.load('e', 24, 1);
    await sound.load('f', 0, 0);
    await slow;
    expect(sound.there).toBe(false);
  });
});
