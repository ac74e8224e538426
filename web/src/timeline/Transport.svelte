<script lang="ts">
  import ChevronFirst from '@lucide/svelte/icons/chevron-first';
  import ChevronLast from '@lucide/svelte/icons/chevron-last';
  import CircleDot from '@lucide/svelte/icons/circle-dot';
  import Layers from '@lucide/svelte/icons/layers';
  import Volume2 from '@lucide/svelte/icons/volume-2';
  import VolumeX from '@lucide/svelte/icons/volume-x';
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import Repeat from '@lucide/svelte/icons/repeat';
  import Repeat1 from '@lucide/svelte/icons/repeat-1';
  import SkipBack from '@lucide/svelte/icons/skip-back';
  import SkipForward from '@lucide/svelte/icons/skip-forward';
  import StepBack from '@lucide/svelte/icons/step-back';
  import StepForward from '@lucide/svelte/icons/step-forward';
  import ArrowLeftRight from '@lucide/svelte/icons/arrow-left-right';
  import type { Snippet } from 'svelte';
  import { run, tip } from '../commands';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import NumberField from '../widgets/NumberField.svelte';

  /** What stands in the middle instead of the ruler, where the phase has a ruler of its own. */
  let { middle }: { middle?: Snippet } = $props();
  let track = $state<HTMLDivElement>();

  const layer = $derived(session.shot.scene.layers.find((l) => l.id === session.shot.layer));
  const scene = $derived(session.shot.scene);
  const share = (frame: number) => `${(100 * (frame - scene.first)) / Math.max(1, scene.last - scene.first)}%`;
  const keyFrames = $derived.by(() => {
    const { ids } = session.selection;
    const channels =
      ids.length > 0
        ? ids.flatMap((id) => session.shot.keyedOwners.get(id) ?? [])
        : [...session.shot.keyedOwners.values()].flat();
    const frames = new Set<number>();
    for (const address of channels)
      for (const f of session.shot.keysOf(address)) if (f >= scene.first && f <= scene.last) frames.add(f);
    // More marks than this would only be a stripe.
    const all = [...frames];
    return all.length > 800 ? all.filter((_, i) => i % Math.ceil(all.length / 800) === 0) : all;
  });
  // One line in pieces: where frames are dropped there are very many of them.
  const kept = $derived(session.shot.kept.map((f, i) => (i % 2 === 0 ? `M${f - 0.5} 0` : `H${f + 0.5}`)).join(''));
  const next = { loop: 'once', once: 'backForth', backForth: 'loop' } as const;
  const loopWords = { loop: 'Loop playback', once: 'Play once', backForth: 'Ping-pong playback' };

  function scrubbed(to: number) {
    session.player.stop();
    session.goTo(to);
  }

  function scrub(e: PointerEvent) {
    if (e.buttons !== 1 || !track) return;
    track.setPointerCapture(e.pointerId);
    session.player.stop();
    const rect = track.getBoundingClientRect();
    const at = scene.first + ((e.clientX - rect.left) / rect.width) * (scene.last - scene.first);
    session.goTo(Math.min(scene.last, Math.max(scene.first, at)));
  }
</script>

<div
  class="flex h-12 shrink-0 items-center gap-2 border-t border-base-300 bg-base-200 px-3"
  role="toolbar"
  aria-label="Transport"
>
  <div class="flex shrink-0 items-center">
    {#each [{ id: 'first', icon: ChevronFirst }, { id: 'previousKey', icon: SkipBack }, { id: 'back', icon: StepBack }] as { id, icon: Icon } (id)}
      <button class="btn btn-square btn-ghost btn-sm" title={tip(id)} aria-label={tip(id)} onclick={() => run(id)}
        ><Icon size={16} /></button
      >
    {/each}
    <button
      class="btn btn-square btn-primary btn-sm"
      title={tip('play')}
      aria-label={session.player.playing ? 'Stop' : 'Play'}
      onclick={() => run('play')}
    >
      {#if session.player.playing}<Pause size={16} />{:else}<Play size={16} />{/if}
    </button>
    {#each [{ id: 'next', icon: StepForward }, { id: 'nextKey', icon: SkipForward }, { id: 'last', icon: ChevronLast }] as { id, icon: Icon } (id)}
      <button class="btn btn-square btn-ghost btn-sm" title={tip(id)} aria-label={tip(id)} onclick={() => run(id)}
        ><Icon size={16} /></button
      >
    {/each}
  </div>
  <div class="w-20 shrink-0" data-testid="frame">
    <NumberField
      value={session.frame}
      step={0.25}
      label="Frame"
      oncommit={(_, to) => scrubbed(to)}
      ontry={(_, to) => scrubbed(to)}
    />
  </div>
  {#if middle}<div class="flex min-w-0 grow justify-center overflow-x-auto">{@render middle()}</div>
  {:else}
    <span class="w-14 shrink-0 text-xs text-base-content/75">{(session.frame / scene.rate).toFixed(2)} s</span>
    <div
      bind:this={track}
      class="relative h-8 min-w-0 grow cursor-col-resize rounded-field bg-base-100"
      role="slider"
      tabindex="-1"
      aria-label="Playhead"
      aria-valuemin={scene.first}
      aria-valuemax={scene.last}
      aria-valuenow={session.frame}
      onpointerdown={scrub}
      onpointermove={scrub}
    >
      <div
        class="absolute inset-y-0 rounded-field bg-primary/15"
        style="left:{share(scene.playFirst)};right:calc(100% - {share(scene.playLast)})"
      ></div>
      <svg
        class="pointer-events-none absolute inset-x-0 bottom-0 h-[3px] w-full stroke-accent/70"
        viewBox="{scene.first} -0.5 {Math.max(1, scene.last - scene.first)} 1"
        preserveAspectRatio="none"
        data-testid="kept"
        aria-hidden="true"><path d={kept} stroke-width="1" /></svg
      >
      {#each keyFrames as f (f)}<div
          class="absolute top-2 h-4 w-[5px] -translate-x-1/2 rounded-full bg-secondary"
          style="left:{share(f)}"
        ></div>{/each}
      {#each scene.markers.filter((m) => m.frame >= scene.first && m.frame <= scene.last) as m (m.id)}<div
          class="absolute bottom-0 h-2 w-1.5 -translate-x-1/2 rounded-t-full bg-warning"
          style="left:{share(m.frame)}"
          title="{m.name || 'Marker'}, frame {m.frame}{m.note ? `: ${m.note}` : ''}"
        ></div>{/each}
      {#each session.findings.frames as f (f)}<div
          class="absolute top-0 h-2 w-2 -translate-x-1/2 rounded-full bg-warning"
          style="left:{share(f)}"
        ></div>{/each}
      <div class="absolute inset-y-0 w-0.5 -translate-x-1/2 bg-primary" style="left:{share(session.frame)}"></div>
      <span class="absolute bottom-0 left-1 text-xs text-base-content/75">{scene.first}</span>
      <span class="absolute right-1 bottom-0 text-xs text-base-content/75">{scene.last}</span>
    </div>
  {/if}
  {#if layer}
    <button
      class="btn max-w-32 btn-sm btn-outline btn-primary"
      title="Poses and keys go into the layer {layer.name}. Click to see the layers"
      onclick={() => run('layers')}><Layers size={16} /><span class="truncate">{layer.name}</span></button
    >
  {/if}
  <button
    class="btn btn-sm {session.autoKey ? 'btn-primary' : 'btn-ghost'}"
    title={tip(
      'autoKey',
      session.autoKey ? 'Automatic keying is on: every change becomes a key' : 'Automatic keying is off',
    )}
    aria-pressed={session.autoKey}
    onclick={() => run('autoKey')}><CircleDot size={16} />Auto</button
  >
  {#if scene.sounds.length > 0}
    <button
      class="btn btn-square btn-ghost btn-sm"
      title={tip('sound.hear', preferences.sound ? 'Audio on' : 'Audio off')}
      aria-label={preferences.sound ? 'Audio on' : 'Audio off'}
      aria-pressed={preferences.sound}
      onclick={() => run('sound.hear')}
      >{#if preferences.sound}<Volume2 size={16} />{:else}<VolumeX size={16} />{/if}</button
    >
  {/if}
  <button
    class="btn btn-square btn-ghost btn-sm"
    title={loopWords[preferences.loop]}
    aria-label={loopWords[preferences.loop]}
    onclick={() => (preferences.loop = next[preferences.loop])}
  >
    {#if preferences.loop === 'loop'}<Repeat size={16} />{:else if preferences.loop === 'once'}<Repeat1
        size={16}
      />{:else}<ArrowLeftRight size={16} />{/if}
  </button>
  <button
    class="btn btn-ghost btn-sm w-28"
    title={preferences.trueSpeed
      ? 'True speed: pictures are dropped to keep time'
      : 'Every frame: each picture is shown, however long it takes'}
    onclick={() => (preferences.trueSpeed = !preferences.trueSpeed)}
    >{preferences.trueSpeed ? 'True speed' : 'Every frame'}</button
  >
  <button
    class="btn btn-ghost btn-sm w-24"
    title="Frames a second: reached / wanted. Click for the frame rate, range and resolution of the shot."
    onclick={() => (ui.dialog = 'shot')}
    data-testid="rate"
    >{session.player.playing && session.player.rate ? `${session.player.rate.toFixed(1)} / ` : ''}{Math.round(
      scene.rate * 100,
    ) / 100} fps</button
  >
</div>
