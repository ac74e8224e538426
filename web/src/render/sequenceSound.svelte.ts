// What is heard under finished pictures: mixed by the server from the state of the shot that made them, played in time with them.
import { GRAIN, lateness, soften } from '../stores/sounds.svelte';

/** Longer ones would take too much memory once they are decoded. */
const MOST_SECONDS = 900;

export class SequenceSound {
  /** There is something to be heard. */
  there = $state(false);
  private buffer: AudioBuffer | null = null;
  private context: AudioContext | null = null;
  private voices: { source: AudioBufferSourceNode; gain: GainNode }[] = [];
  private wanted = '';

  /** Fetches the sound of so many finished pictures of a sequence. */
  async load(id: string, count: number, seconds: number) {
    const what = `${id}/${count}`;
    if (what === this.wanted) return;
    this.wanted = what;
    this.stop();
    this.buffer = null;
    this.there = false;
    if (count === 0 || seconds > MOST_SECONDS || typeof OfflineAudioContext === 'undefined') return;
    try {
      const answer = await fetch(`/api/renders/${id}/sound`);
      if (answer.status !== 200) return;
      const buffer = await new OfflineAudioContext(2, 1, 48000).decodeAudioData(await answer.arrayBuffer());
      if (this.wanted !== what) return;
      this.buffer = buffer;
      this.there = true;
    } catch {
      // Played without it; asked for again with the next sequence.
      if (this.wanted === what) this.wanted = '';
    }
  }

  /** From a time in seconds on, over and over as the pictures are. */
  start(at: number) {
    this.stop();
    const voice = this.voice();
    if (!voice) return;
    const { source } = voice;
    source.loop = true;
    source.start(this.context!.currentTime, (at + lateness(this.context!)) % this.buffer!.duration);
  }

  /** A short grain of what is heard at a time. */
  scrub(at: number) {
    this.stop();
    const voice = this.voice();
    if (!voice) return;
    voice.source.start(this.context!.currentTime, at, GRAIN);
    soften(voice.gain.gain, 1, this.context!.currentTime, GRAIN);
  }

  stop() {
    for (const { source, gain } of this.voices) {
      source.stop();
      gain.disconnect();
    }
    this.voices = [];
  }

  private voice() {
    if (!this.buffer || typeof AudioContext === 'undefined') return null;
    this.context ??= new AudioContext({ latencyHint: 'interactive' });
    void this.context.resume();
    const source = this.context.createBufferSource();
    const gain = this.context.createGain();
    source.buffer = this.buffer;
    source.connect(gain).connect(this.context.destination);
    this.voices.push({ source, gain });
    return { source, gain };
  }
}
