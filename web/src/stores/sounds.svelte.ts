// The sounds of the open shot: fetched and decoded once, drawn as waveforms, and heard with the playhead.
import type { Sound } from '../engine/engine';
import { preferences } from './preferences.svelte';
import type { Session } from './session.svelte';

/** The lowest and the highest of stretches of a sound, ever coarser, so that any zoom is drawn from few of them. */
export class Peaks {
  private static readonly finest = 256;
  private readonly levels: Float32Array[] = [];

  constructor(
    channels: Float32Array[],
    readonly rate: number,
  ) {
    const { length } = channels[0];
    const count = Math.ceil(length / Peaks.finest);
    const first = new Float32Array(2 * count);
    for (let i = 0; i < count; i++) {
      let [low, high] = [Infinity, -Infinity];
      for (const samples of channels)
        for (let s = i * Peaks.finest; s < Math.min(length, (i + 1) * Peaks.finest); s++) {
          low = Math.min(low, samples[s]);
          high = Math.max(high, samples[s]);
        }
      first.set([low, high], 2 * i);
    }
    this.levels.push(first);
    for (let level = first; level.length > 2;) {
      const half = new Float32Array(2 * Math.ceil(level.length / 4));
      for (let i = 0; i < half.length; i += 2) {
        half[i] = Math.min(level[2 * i], level[2 * i + 2] ?? Infinity);
        half[i + 1] = Math.max(level[2 * i + 1], level[2 * i + 3] ?? -Infinity);
      }
      this.levels.push((level = half));
    }
    this.most = this.levels.at(-1)!.reduce((a, v) => Math.max(a, Math.abs(v)), 0);
  }

  /** How far it goes from 0. */
  readonly most: number;

  /** The lowest and the highest between two times in seconds; null where there is nothing. */
  between(from: number, to: number): [number, number] | null {
    const wide = ((to - from) * this.rate) / Peaks.finest;
    const level = Math.min(this.levels.length - 1, Math.max(0, Math.floor(Math.log2(Math.max(1, wide)))));
    const values = this.levels[level];
    const each = Peaks.finest * 2 ** level;
    const first = Math.max(0, Math.floor((from * this.rate) / each));
    const last = Math.min(values.length / 2 - 1, Math.floor((to * this.rate) / each));
    if (last < first) return null;
    let [low, high] = [Infinity, -Infinity];
    for (let i = first; i <= last; i++) {
      low = Math.min(low, values[2 * i]);
      high = Math.max(high, values[2 * i + 1]);
    }
    return [low, high];
  }
}

interface Voice {
  sound: Sound;
  source: AudioBufferSourceNode;
  gain: GainNode;
}

/** How long a grain is when one scrubs, at least. */
export const GRAIN = 0.07;
const FADE = 0.006;

/** A grain comes and goes softly, or it clicks. */
export function soften(gain: AudioParam, level: number, now: number, seconds: number) {
  gain.setValueAtTime(0, now);
  gain.linearRampToValueAtTime(level, now + FADE);
  gain.setValueAtTime(level, now + seconds - FADE);
  gain.linearRampToValueAtTime(0, now + seconds);
}

/** What is given to the device now is heard so many seconds later. */
export const lateness = (context: AudioContext) => context.outputLatency || context.baseLatency || 0;

export class Sounds {
  /** The waveforms that have come, by asset. */
  peaks = $state.raw<ReadonlyMap<string, Peaks>>(new Map());
  private readonly buffers = new Map<string, AudioBuffer>();
  private readonly asked = new Set<string>();
  private context: AudioContext | null = null;
  private voices: Voice[] = [];
  private grains: Voice[] = [];
  private known = '';

  constructor(private readonly session: Session) {}

  get list(): Sound[] {
    return this.session.shot.scene.sounds;
  }

  /** The shot may have other sounds. */
  changed() {
    const now = JSON.stringify(this.list);
    if (now === this.known) return;
    this.known = now;
    for (const sound of this.list) void this.fetch(sound);
    if (this.voices.length > 0) this.session.player.hear();
  }

  private async fetch({ asset, name }: Sound) {
    if (this.asked.has(asset) || typeof OfflineAudioContext === 'undefined') return;
    this.asked.add(asset);
    try {
      const answer = await fetch(`/api/assets/${asset}`);
      if (!answer.ok) throw new Error();
      // Needs no device, and nobody who has clicked first.
      const buffer = await new OfflineAudioContext(2, 1, 48000).decodeAudioData(await answer.arrayBuffer());
      this.buffers.set(asset, buffer);
      const channels = Array.from({ length: buffer.numberOfChannels }, (_, c) => buffer.getChannelData(c));
      this.peaks = new Map([...this.peaks, [asset, new Peaks(channels, buffer.sampleRate)]]);
      if (this.session.player.playing) this.session.player.hear();
    } catch {
      this.asked.delete(asset);
      this.session.messages.say(`The sound “${name}” could not be fetched: check that the server is running.`);
    }
  }

  private level(sound: Sound): number {
    const { shot } = this.session;
    const channel = shot.channelsOf(sound.id)[0];
    return channel ? Math.min(4, Math.max(0, shot.valueOf(channel))) : 1;
  }

  private ready(): AudioContext | null {
    if (!preferences.sound || this.list.length === 0 || typeof AudioContext === 'undefined') return null;
    this.context ??= new AudioContext({ latencyHint: 'interactive' });
    void this.context.resume();
    return this.context;
  }

  /** A sound from a frame on, for so long; null where it is not heard there. */
  private voice(context: AudioContext, sound: Sound, frame: number, seconds: number | null): Voice | null {
    const buffer = this.buffers.get(sound.asset);
    const at = (frame - sound.start) / this.session.shot.scene.rate;
    if (!buffer || sound.muted || at >= buffer.duration || (seconds !== null && at + seconds <= 0)) return null;
    const source = context.createBufferSource();
    const gain = context.createGain();
    source.buffer = buffer;
    source.connect(gain).connect(context.destination);
    gain.gain.value = this.level(sound);
    const [now, wait, into] = [context.currentTime, Math.max(0, -at), Math.max(0, at)];
    if (seconds === null) source.start(now + wait, into);
    else {
      source.start(now + wait, into, seconds - wait);
      soften(gain.gain, gain.gain.value, now, seconds);
    }
    return { sound, source, gain };
  }

  /** From a frame on, which may lie between two, at true speed. */
  start(frame: number) {
    this.stop();
    const context = this.ready();
    if (!context) return;
    const late = lateness(context) * this.session.shot.scene.rate;
    this.voices = this.list.flatMap((s) => this.voice(context, s, frame + late, null) ?? []);
  }

  /** The levels of the frame that is shown. */
  follow() {
    for (const { sound, gain } of this.voices) gain.gain.value = this.level(sound);
  }

  /** A short grain of what is heard on a frame. */
  scrub(frame: number) {
    if (this.list.length === 0 || this.voices.length > 0) return;
    this.silence(this.grains);
    const context = this.ready();
    if (!context) return;
    const length = Math.max(GRAIN, 1 / this.session.shot.scene.rate);
    this.grains = this.list.flatMap((s) => this.voice(context, s, frame, length) ?? []);
  }

  stop() {
    this.silence(this.voices);
    this.silence(this.grains);
    this.voices = [];
    this.grains = [];
  }

  private silence(voices: Voice[]) {
    for (const { source, gain } of voices) {
      source.stop();
      gain.disconnect();
    }
  }

  /** What is heard now; for tests. */
  get heard(): string[] {
    return this.voices.map((v) => v.sound.id);
  }
}
