<script lang="ts">
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Columns2 from '@lucide/svelte/icons/columns-2';
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import SplitSquareHorizontal from '@lucide/svelte/icons/split-square-horizontal';
  import Volume2 from '@lucide/svelte/icons/volume-2';
  import VolumeX from '@lucide/svelte/icons/volume-x';
  import { onDestroy, onMount, untrack } from 'svelte';
  import type { RenderView } from '../api/client';
  import { session } from '../stores/session.svelte';
  import { run, tip } from '../commands';
  import { preferences } from '../stores/preferences.svelte';
  import { ui } from '../stores/ui.svelte';
  import { lastOf, plannedOf } from './frameSteps';
  import FrameRuler from './FrameRuler.svelte';
  import { SequenceSound } from './sequenceSound.svelte';
  import { endOf, pictureAt, timeOf } from './sequenceTime';

  // Plays finished pictures from memory, at the rate they were made for.
  let { sequence, other = null }: { sequence: RenderView; other?: RenderView | null } = $props();

  let canvas: HTMLCanvasElement;
  // The picture that plays; else it is the one on the playhead, which is that of the shot: what is seen here is found again there.
  let passing = $state(0);
  let playing = $state(false);
  let direction = 1;
  let wipe = $state(0.5);
  let mode = $state<'side' | 'wipe'>('side');
  const pictures = new Map<string, ImageBitmap>();
  let loaded = $state(0);

  const planned = $derived(plannedOf(sequence));
  const frames = $derived(planned.filter((f) => f.done).map((f) => f.frame));
  const at = $derived(Math.min(playing ? passing : lastUpTo(session.frame), Math.max(0, frames.length - 1)));
  const frame = $derived(frames.length > 0 ? frames[at] : null);
  const key = (id: string, f: number) => `${id}/${f}`;
  const isComing = $derived(['queued', 'running'].includes(sequence.state));
  const last = $derived(lastOf(sequence.frames) ?? 0);
  const time = $derived(timeOf(planned, last, !isComing));

  // Decoded pictures are large: of a long sequence those are kept that come next.
  const mostBytes = 600e6;
  const room = $derived(Math.max(12, Math.floor(mostBytes / (4 * sequence.width * sequence.height * (other ? 2 : 1)))));

  /** The picture of a frame, or of the last before it that there is; else the first. */
  function lastUpTo(to: number): number {
    let [low, high] = [0, frames.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (frames[middle] <= to) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, low - 1);
  }

  /** The pictures to have at hand, the shown one first. */
  function wanted(): { id: string; frame: number }[] {
    const there = new Set(other && plannedOf(other).flatMap((f) => (f.done ? f.frame : [])));
    const list = [];
    for (let i = 0; i < Math.min(room, frames.length); i++) {
      const f = frames[(((at + i * direction) % frames.length) + frames.length) % frames.length];
      list.push({ id: sequence.id, frame: f });
      if (other && there.has(f)) list.push({ id: other.id, frame: f });
    }
    return list;
  }

  let fetching = false;
  let gone = false;
  /** Fetches and decodes one picture after the other until all that is wanted is there. */
  async function load() {
    if (fetching) return;
    fetching = true;
    const missing = new Set<string>();
    // What is shown may go while a picture is on its way.
    while (!gone) {
      const list = wanted();
      const keep = new Set(list.map((w) => key(w.id, w.frame)));
      for (const [k, picture] of pictures) {
        if (keep.has(k)) continue;
        picture.close();
        pictures.delete(k);
      }
      const next = list.find((w) => !pictures.has(key(w.id, w.frame)) && !missing.has(key(w.id, w.frame)));
      if (!next) break;
      const k = key(next.id, next.frame);
      try {
        const answer = await fetch(`/api/renders/${next.id}/frames/${next.frame}`);
        if (!answer.ok) throw new Error(answer.statusText);
        const picture = await createImageBitmap(await answer.blob());
        if (gone) picture.close();
        else pictures.set(k, picture);
        loaded++;
      } catch {
        // Shown without it; asked for again when something else changes.
        missing.add(k);
      }
    }
    fetching = false;
  }

  $effect(() => {
    void [sequence, other, frames, room, at];
    void untrack(load);
  });

  // What is heard under the pictures, once there are no more to come.
  const sound = new SequenceSound();
  const seconds = (index: number) => (time.starts[index] ?? 0) / sequence.framesPerSecond;
  const heard = $derived(isComing ? 0 : frames.length);
  $effect(() => void sound.load(sequence.id, heard, time.count / sequence.framesPerSecond));
  const hear = () => preferences.sound && sound.scrub(seconds(at));

  onDestroy(() => {
    gone = true;
    sound.stop();
    for (const picture of pictures.values()) picture.close();
    pictures.clear();
  });

  $effect(() => {
    void [loaded, mode, wipe];
    if (!canvas || frame === null) return;
    const g = canvas.getContext('2d')!;
    const a = pictures.get(key(sequence.id, frame));
    const b = other ? pictures.get(key(other.id, frame)) : undefined;
    const side = other !== null && mode === 'side';
    const [w, h] = [sequence.width * (side ? 2 : 1), sequence.height];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    g.clearRect(0, 0, w, h);
    if (a) g.drawImage(a, 0, 0, sequence.width, h);
    if (b && side) g.drawImage(b, sequence.width, 0, sequence.width, h);
    else if (b) {
      const x = Math.round(w * wipe);
      g.drawImage(b, (b.width * x) / w, 0, b.width - (b.width * x) / w, b.height, x, 0, w - x, h);
      g.fillRect(x, 0, 1, h);
    }
  });

  // The picture from which it plays, and since when.
  let begun = { at: 0, time: 0 };
  $effect(() => {
    if (!playing) return;
    let request = 0;
    begun = { at: untrack(() => at), time: performance.now() };
    const tick = (now: number) => {
      const on = Math.floor(((now - begun.time) / 1000) * sequence.framesPerSecond);
      if (frames.length > 0)
        passing = pictureAt(time, direction > 0 ? time.starts[begun.at] + on : endOf(time, begun.at) - 1 - on);
      request = requestAnimationFrame(tick);
    };
    request = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(request);
  });

  $effect(() => {
    if (!playing || direction < 0 || !sound.there || !preferences.sound) return;
    sound.start(seconds(begun.at) + (performance.now() - begun.time) / 1000);
    return () => sound.stop();
  });

  /** Stops where it is, or at a picture. */
  const stop = (picture = at) => {
    playing = false;
    if (frames.length > 0) session.goTo(frames[picture], true);
  };
  const step = (by: number) => {
    if (frames.length > 0) stop((at + by + frames.length) % frames.length);
    hear();
  };
  function goTo(to: number) {
    playing = false;
    session.goTo(to, true);
    hear();
  }
  const toggle = (way: 1 | -1) => {
    if (playing) return stop();
    direction = way;
    passing = at;
    playing = true;
  };

  // What plays while this goes is found on the playhead.
  let seen: number | null = null;
  $effect(() => void (seen = frame));

  // While this is on the screen, the keys of time are for it.
  onMount(() => {
    ui.sequence = {
      toggle,
      step,
      end: (last) => stop(last ? Math.max(0, frames.length - 1) : 0),
    };
    return () => {
      if (playing && seen !== null) session.goTo(seen, true);
      ui.sequence = null;
    };
  });
</script>

<section class="flex h-full flex-col bg-(--stage)" aria-label="Picture">
  <div class="flex min-h-0 grow items-center justify-center p-3">
    {#if frame === null}
      <p class="text-sm">The first frame is on its way…</p>
    {/if}
    <canvas
      bind:this={canvas}
      class="h-full min-h-0 w-full min-w-0 object-contain {frame === null ? 'hidden' : ''}"
      aria-label="Frame {frame}"
      data-testid="picture"
    ></canvas>
  </div>
  <div
    class="flex h-12 shrink-0 items-center gap-2 border-t border-base-300 bg-base-200 px-3"
    role="toolbar"
    aria-label="Sequence"
  >
    <button
      class="btn btn-square btn-primary btn-sm"
      aria-label={playing ? 'Stop the sequence' : 'Play the sequence'}
      title={tip('play', playing ? 'Stop' : 'Play')}
      onclick={() => toggle(1)}
      >{#if playing}<Pause size={16} />{:else}<Play size={16} />{/if}</button
    >
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="One picture back"
      title={tip('back', 'One picture back')}
      onclick={() => step(-1)}><ChevronLeft size={16} /></button
    >
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Next frame"
      title={tip('next', 'Next frame')}
      onclick={() => step(1)}><ChevronRight size={16} /></button
    >
    <FrameRuler {sequence} frame={playing && frame !== null ? frame : session.frame} onframe={goTo} />
    <span
      class="w-16 shrink-0 text-right text-xs"
      title={frame !== null && !playing && frame !== session.frame
        ? `Frame ${session.frame} has no picture: the nearest before it is shown`
        : ''}
      data-testid="sequence-frame">frame {frame ?? '–'}</span
    >
    <span class="w-12 shrink-0 text-right text-xs text-base-content/75"
      >{Math.round(sequence.framesPerSecond * 100) / 100} fps</span
    >
    {#if sound.there}
      <button
        class="btn btn-square btn-sm {preferences.sound ? 'btn-primary' : 'btn-ghost'}"
        aria-label="Sound"
        aria-pressed={preferences.sound}
        title={tip('sound.hear', preferences.sound ? 'Do not hear the sound' : 'Hear the sound')}
        onclick={() => run('sound.hear')}
        >{#if preferences.sound}<Volume2 size={16} />{:else}<VolumeX size={16} />{/if}</button
      >
    {/if}
    {#if other}
      <button
        class="btn btn-square btn-sm {mode === 'side' ? 'btn-primary' : 'btn-ghost'}"
        aria-label="Side by side"
        title="Side by side"
        onclick={() => (mode = 'side')}><Columns2 size={16} /></button
      >
      <button
        class="btn btn-square btn-sm {mode === 'wipe' ? 'btn-primary' : 'btn-ghost'}"
        aria-label="Wipe"
        title="Wipe"
        onclick={() => (mode = 'wipe')}><SplitSquareHorizontal size={16} /></button
      >
      {#if mode === 'wipe'}<input
          type="range"
          class="range range-xs w-24"
          min="0"
          max="1"
          step="0.01"
          bind:value={wipe}
          aria-label="Wipe position"
        />{/if}
    {/if}
  </div>
</section>
