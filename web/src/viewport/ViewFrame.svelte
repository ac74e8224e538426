<script lang="ts">
  // What lies over one view of the stage: the frame of the camera with its lines, and what the view shows and how.
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { viewState, type Look, type Shading } from '../stores/viewState.svelte';
  import { looks, shadings } from './looks';

  let {
    i,
    frame,
    title,
    tools,
    low,
  }: {
    /** Which view it is. */
    i: number;
    /** The part that is rendered, in its pixels; null where it looks through no camera. */
    frame: { x: number; y: number; width: number; height: number } | null;
    title: string;
    tools: boolean;
    /** Its name stands at the lower edge: the tools are at the upper. */
    low: boolean;
  } = $props();
</script>

{#if frame}
  <div
    class="absolute border border-primary/80"
    style="left:{frame.x}px;top:{frame.y}px;width:{frame.width}px;height:{frame.height}px;box-shadow:0 0 0 4000px color-mix(in oklab, var(--stage) 62%, transparent)"
    data-testid="camera-frame"
  >
    {#if preferences.guides === 'thirds'}
      {#each [1, 2] as n (n)}
        <div class="absolute inset-y-0 w-px bg-white/45" style="left:{(100 * n) / 3}%"></div>
        <div class="absolute inset-x-0 h-px bg-white/45" style="top:{(100 * n) / 3}%"></div>
      {/each}
    {:else if preferences.guides === 'safe'}
      <div class="absolute inset-[3.5%] border border-white/60" title="What moves stays within (EBU R 95: 93 %)"></div>
      <div
        class="absolute inset-[5%] border border-dashed border-white/60"
        title="Text stays within (EBU R 95: 90 %)"
      ></div>
    {/if}
  </div>
{/if}
<div class="absolute left-2 flex items-center gap-1 {low ? 'bottom-2' : 'top-2'}">
  <div class="relative rounded bg-base-100/70 px-2 py-1 text-xs">
    {title}
    {#if tools}<select
        class="pointer-events-auto absolute inset-0 cursor-pointer opacity-0"
        aria-label="What view {i + 1} shows"
        title="What this view shows: click for another"
        value={viewState.panes[i].look}
        onchange={(e) => ((viewState.pane = i), (viewState.panes[i].look = e.currentTarget.value as Look))}
      >
        {#each Object.entries(looks) as [look, label] (look)}<option
            value={look}
            disabled={look === 'camera' && !session.shot.scene.camera}>{label}</option
          >{/each}
      </select>{/if}
  </div>
  {#if tools}<div class="relative rounded bg-base-100/70 px-2 py-1 text-xs">
      {shadings[viewState.panes[i].shading]}
      <select
        class="pointer-events-auto absolute inset-0 cursor-pointer opacity-0"
        aria-label="How view {i + 1} draws"
        title="How this view draws: click for another"
        value={viewState.panes[i].shading}
        onchange={(e) => (viewState.panes[i].shading = e.currentTarget.value as Shading)}
      >
        {#each Object.entries(shadings) as [how, label] (how)}<option value={how}>{label}</option>{/each}
      </select>
    </div>{/if}
</div>
