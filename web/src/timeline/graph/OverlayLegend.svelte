<script lang="ts">
  // Which curves lie over one another in the large lane.
  import type { ChannelView } from '../../engine/engine';
  import { session } from '../../stores/session.svelte';
  import { shadeOf } from './drawLanes';
  import type { Palette } from '../model';

  let {
    channels,
    more,
    width,
    height,
  }: {
    channels: ChannelView[];
    /** So many more were chosen than can be told apart. */
    more: number;
    width: number;
    height: number;
  } = $props();

  /** As in the canvas, with the theme's own variables. */
  const legendColour = (channel: ChannelView, i: number) =>
    shadeOf(
      { family: { [channel.family]: `var(--family-${channel.family})` }, text: 'var(--color-base-content)' } as Palette,
      channel,
      i,
      channels.length,
    );
</script>

<div
  class="absolute bottom-0 left-0 z-10 overflow-y-auto border-t-2 border-r border-base-300 bg-base-100 px-2 py-1 text-xs"
  style="width:{width}px;height:{height}px"
  role="list"
  aria-label="Overlaid curves"
>
  {#each channels as channel, i (channel.address)}
    <div class="flex items-center gap-1 py-0.5" role="listitem">
      <span class="h-1 w-4 shrink-0 rounded-full" style="background:{legendColour(channel, i)}"></span>
      <span class="grow truncate"
        >{channels.some((c) => c.owner !== channel.owner)
          ? `${session.shot.byId.get(channel.owner)?.name ?? channel.owner} · `
          : ''}{channel.label}</span
      >
      <span class="text-base-content/70 tabular-nums">{session.shot.valueOf(channel).toFixed(2)}</span>
    </div>
  {/each}
  <p class="pt-1 text-base-content/75">
    {more > 0 ? `${more} more do not lie here. ` : ''}Open rows, or select keys, to choose what lies here.
  </p>
</div>
