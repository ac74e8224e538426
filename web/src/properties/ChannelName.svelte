<script lang="ts">
  // The name of a channel: a click chooses it, so that keys, in-betweens and tools are for the chosen channels only.
  import type { ChannelView } from '../engine/engine';
  import { session } from '../stores/session.svelte';

  let {
    channels,
    label,
    narrow = false,
  }: { channels: ChannelView[]; label: string; /** Beside several numbers. */ narrow?: boolean } = $props();

  const addresses = $derived(channels.map((c) => c.address));
  const chosen = $derived(
    session.selection.channels.length > 0 && addresses.every((a) => session.selection.channels.includes(a)),
  );
  const muted = $derived(session.shot.scene.muted.has(addresses[0]));
</script>

<button
  class="h-6 {narrow ? 'w-[4.25rem]' : 'w-24'} shrink-0 truncate rounded-field text-left text-xs {chosen
    ? 'bg-primary/25 px-1 outline-1 outline-primary'
    : 'hover:bg-base-300'} {muted ? 'line-through opacity-70' : ''}"
  aria-pressed={chosen}
  aria-label="Choose {label}"
  tabindex="-1"
  title="{label}{muted
    ? ': muted, curve ignored'
    : ''}. Click to choose it, Shift for more: keys, in-betweens and tools are for the chosen channels only"
  onclick={(e) => session.selection.choose(addresses, e.shiftKey || e.ctrlKey || e.metaKey)}>{label}</button
>
