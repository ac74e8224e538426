<script lang="ts">
  // Channels that belong together in one row: x, y and z, or a colour with its swatch. It opens into one row a channel.
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import { Color } from 'three';
  import { type ChannelView } from '../engine/engine';
  import { session } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { channelMenu } from './channelMenu';
  import ChannelName from './ChannelName.svelte';
  import ChannelNumber from './ChannelNumber.svelte';
  import ChannelRow from './ChannelRow.svelte';
  import type { Group } from './grouped';
  import KeyPip from './KeyPip.svelte';

  let {
    group,
    othersOf = () => [],
  }: {
    group: Group;
    /** The same channel of the other objects. */ othersOf?: (channel: ChannelView) => ChannelView[];
  } = $props();

  const all = $derived(group.channels.flatMap((c) => [c, ...othersOf(c)]));
  const open = $derived(viewState.openGroups.has(group.id));

  // Channels hold linear light, and may be brighter than 1; a swatch shows sRGB, and of what is brighter its hue.
  const light = $derived.by(() => {
    void session.shot.evaluated;
    return group.channels.map((c) => Math.max(0, session.shot.shown?.values[c.index] ?? 0));
  });
  const brightness = $derived(Math.max(1, ...light));
  const hex = $derived.by(() => {
    const [r, g, b] = light.map((v) => v / brightness);
    return `#${new Color(r, g, b).getHexString()}`;
  });
  let before = 1;
  function paint(value: string, commit: boolean) {
    const { r, g, b } = new Color(value);
    const values = [r, g, b].map((v) => Math.round(v * before * 1e5) / 1e5);
    session.shot.pose(
      group.channels.flatMap((c, i) => [c, ...othersOf(c)].map((o) => ({ address: o.address, value: values[i] }))),
      commit,
    );
  }

  /** Tab goes from number to number; the row is opened and folded from any of them. */
  function keydown(e: KeyboardEvent) {
    if (!e.altKey || !['ArrowRight', 'ArrowLeft'].includes(e.key) || (e.key === 'ArrowRight') === open) return;
    e.preventDefault();
    e.stopPropagation();
    viewState.toggleGroup(group.id);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
  class="flex h-7 items-center gap-1 pr-2 pl-2"
  role="group"
  aria-label={group.label}
  data-group={group.id}
  onkeydown={keydown}
  oncontextmenu={(e) => contextMenu.open(e, channelMenu(all))}
>
  <KeyPip channels={all} shown={group.channels} label={group.label} />
  <ChannelName channels={all} label={group.label} narrow />
  {#if group.isColour}
    <input
      type="color"
      aria-label={group.label}
      title="{group.label}: click to choose"
      class="h-6 w-6 shrink-0 cursor-pointer rounded-field border border-base-300"
      value={hex}
      onpointerdown={() => (before = brightness)}
      onfocus={() => (before = brightness)}
      oninput={(e) => paint(e.currentTarget.value, false)}
      onchange={(e) => paint(e.currentTarget.value, true)}
    />
  {/if}
  {#if open}
    <span class="grow"></span>
  {:else}
    <div class="flex min-w-0 grow gap-0.5">
      {#each group.channels as channel (channel.address)}
        <div
          class="min-w-0 grow basis-0"
          role="presentation"
          data-channel={channel.address}
          oncontextmenu={(e) => contextMenu.open(e, channelMenu([channel, ...othersOf(channel)]))}
        >
          <ChannelNumber {channel} others={othersOf(channel)} tight digits={group.isColour ? 2 : 3} />
        </div>
      {/each}
    </div>
  {/if}
  <button
    class="grid h-6 w-4 shrink-0 place-items-center rounded-field hover:bg-base-300"
    tabindex="-1"
    aria-expanded={open}
    aria-label="{open ? 'Fold' : 'Open'} {group.label}"
    title={open ? 'One row for all of it (Alt+←)' : 'One row for each number, with its own key button (Alt+→)'}
    onclick={() => viewState.toggleGroup(group.id)}
    >{#if open}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}</button
  >
</div>
{#if open}
  {#each group.channels as channel (channel.address)}
    <ChannelRow {channel} others={othersOf(channel)} inner />
  {/each}
{/if}
