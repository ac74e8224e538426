<script lang="ts">
  // Channels in order, with one row for what belongs together.
  import type { ChannelView } from '../engine/engine';
  import ChannelRow from './ChannelRow.svelte';
  import { grouped } from './grouped';
  import GroupRow from './GroupRow.svelte';

  let {
    channels,
    othersOf = () => [],
  }: { channels: ChannelView[]; othersOf?: (channel: ChannelView) => ChannelView[] } = $props();
</script>

{#each grouped(channels) as item ('path' in item ? item.path : item.id)}
  {#if 'path' in item}<ChannelRow channel={item} others={othersOf(item)} />{:else}<GroupRow
      group={item}
      {othersOf}
    />{/if}
{/each}
