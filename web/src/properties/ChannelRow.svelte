<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { newEdit } from '../edits/edit';
  import { type ChannelView } from '../engine/engine';
  import { session } from '../stores/session.svelte';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { channelMenu } from './channelMenu';
  import ChannelName from './ChannelName.svelte';
  import ChannelNumber from './ChannelNumber.svelte';
  import KeyPip from './KeyPip.svelte';

  let {
    channel,
    others = [],
    inner = false,
  }: {
    channel: ChannelView;
    others?: ChannelView[];
    /** One of those that have a row together. */ inner?: boolean;
  } = $props();

  const all = $derived([channel, ...others]);
  const locked = $derived(session.shot.scene.locked.has(channel.address));
  const unlock = () =>
    session.shot.commit(newEdit('lockChannels', { channels: all.map((c) => c.address), locked: false }));
</script>

<div
  class="flex h-7 items-center gap-1 pr-2 {inner ? 'pl-5' : 'pl-2'}"
  role="group"
  aria-label={channel.label}
  data-channel={channel.address}
  oncontextmenu={(e) => contextMenu.open(e, channelMenu(all))}
>
  {#if locked}
    <button
      class="grid h-6 w-6 shrink-0 place-items-center rounded-field hover:bg-base-300"
      aria-label="Locked: unlock {channel.label}"
      title="Locked: neither drags nor keys change it. Click to unlock"
      onclick={unlock}><Lock size={13} /></button
    >
  {:else}<KeyPip channels={all} shown={[channel]} label={channel.label} />{/if}
  <ChannelName channels={all} label={channel.label} />
  <div class="min-w-0 grow"><ChannelNumber {channel} {others} /></div>
</div>
