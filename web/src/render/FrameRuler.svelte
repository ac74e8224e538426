<script lang="ts">
  // The time of finished pictures: frames with numbers, a band where they are planned, filled where they are done, and the playhead; beside it the frame, to be typed.
  import type { RenderView } from '../api/client';
  import { session } from '../stores/session.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { rulerStep } from '../widgets/rulerStep';
  import { framesOf, spanOf } from './frameSteps';
  import { renderSettings } from './renderSettings.svelte';

  interface Span {
    first: number;
    last: number;
  }
  let {
    sequence = null,
    frame,
    onframe,
  }: {
    /** The sequence that is shown. */
    sequence?: RenderView | null;
    frame: number;
    onframe: (frame: number) => void;
  } = $props();

  const scene = $derived(session.shot.scene);
  /** What would be rendered now. */
  const asked = $derived.by(() => {
    const settings = renderSettings(session.shotId);
    const is = framesOf(settings.rangeOf(scene), settings.step);
    return 'text' in is ? spanOf(is.text) : null;
  });
  const planned = $derived(sequence ? spanOf(sequence.frames) : null);
  const first = $derived(Math.min(scene.playFirst, planned?.first ?? Infinity, asked?.first ?? Infinity));
  const last = $derived(Math.max(scene.playLast, planned?.last ?? -Infinity, asked?.last ?? -Infinity));

  let box: HTMLDivElement;
  let width = $state(600);
  /** Half a frame of room on both sides, so that each frame has a width of its own. */
  const pixels = $derived(Math.max(1, width) / (last - first + 1));
  const x = (f: number) => (f - first + 0.5) * pixels;
  const step = $derived(rulerStep(pixels));
  const marks = $derived.by(() => {
    const from = Math.ceil(first / step) * step;
    return Array.from({ length: Math.max(0, Math.floor((last - from) / step) + 1) }, (_, i) => from + i * step);
  });
  const band = (s: Span) => `left:${x(s.first - 0.5)}px;width:${Math.max(2, (s.last - s.first + 1) * pixels)}px`;
  const held = (f: number) => Math.min(last, Math.max(first, Math.round(f)));

  function down(e: PointerEvent) {
    if (e.button !== 0) return;
    const before = frame;
    const to = (m: PointerEvent) =>
      onframe(held(first - 0.5 + (m.clientX - box.getBoundingClientRect().left) / pixels));
    to(e);
    gestures.follow(e, { move: to, commit: () => undefined, cancel: () => onframe(before) });
  }

  function keydown(e: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[e.key];
    if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey) return;
    if (by) onframe(held(frame + by));
    else if (e.key === 'Home') onframe(first);
    else if (e.key === 'End') onframe(last);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<div
  bind:this={box}
  bind:clientWidth={width}
  class="relative h-10 min-w-0 grow cursor-ew-resize overflow-hidden rounded-field bg-base-100 text-xs"
  style="touch-action:none"
  role="slider"
  tabindex="0"
  aria-label="Frame"
  aria-valuemin={first}
  aria-valuemax={last}
  aria-valuenow={held(frame)}
  title="Frames: drag to go along; the keys ← and → step"
  data-testid="frame-ruler"
  onpointerdown={down}
  onkeydown={keydown}
>
  {#if asked}
    <span
      class="pointer-events-none absolute top-0 h-full border-x border-primary/70 bg-primary/10"
      style={band(asked)}
      data-band="asked"
    ></span>
  {/if}
  {#each marks as f (f)}
    <span class="pointer-events-none absolute top-0 h-2 border-l border-base-content/50" style="left:{x(f)}px"></span>
    {#if x(f) < width - 20}<span
        class="pointer-events-none absolute top-2 pl-1 text-base-content/80"
        style="left:{x(f)}px">{f}</span
      >{/if}
  {/each}
  {#if planned}
    <span
      class="pointer-events-none absolute bottom-1 h-2 rounded-sm border border-accent/70"
      style={band(planned)}
      data-band="planned"
    ></span>
  {/if}
  {#each sequence?.doneRanges ?? [] as s (s.first)}
    <span class="pointer-events-none absolute bottom-1 h-2 rounded-sm bg-accent" style={band(s)} data-band="done"
    ></span>
  {/each}
  {#each scene.markers.filter((m) => m.frame >= first && m.frame <= last) as m (m.id)}
    <span
      class="absolute top-0 h-full w-1 border-l-2 border-warning"
      style="left:{x(m.frame)}px"
      title={m.name || 'Marker'}
    ></span>
  {/each}
  <span class="pointer-events-none absolute inset-y-0 w-0.5 bg-primary" style="left:{x(held(frame)) - 1}px"></span>
</div>
<div class="w-16 shrink-0">
  <NumberField
    label="Frame"
    whole
    step={0.25}
    value={frame}
    oncommit={(_, to) => onframe(to)}
    ontry={(_, to) => onframe(to)}
  />
</div>
