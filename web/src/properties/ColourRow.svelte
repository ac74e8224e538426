<script lang="ts">
  import { Color } from 'three';
  import { type ChannelView } from '../engine/engine';
  import ChannelName from './ChannelName.svelte';
  import KeyPip from './KeyPip.svelte';
  import { session } from '../stores/session.svelte';

  // The three channels of a colour, as one swatch. Channels hold linear light; a swatch shows sRGB.
  let { channels, label }: { channels: ChannelView[]; label: string } = $props();

  const hex = $derived.by(() => {
    void session.shot.evaluated;
    const [r, g, b] = channels.map((c) => Math.min(1, Math.max(0, session.shot.shown?.values[c.index] ?? 0)));
    return `#${new Color(r, g, b).getHexString()}`;
  });

  function set(value: string, commit: boolean) {
    const c = new Color(value);
    session.shot.pose(
      [c.r, c.g, c.b].map((v, i) => ({ address: channels[i].address, value: Math.round(v * 1e5) / 1e5 })),
      commit,
    );
  }
</script>

<div class="flex h-8 items-center gap-2 px-2 text-xs" role="group" aria-label={label}>
  <KeyPip {channels} {label} />
  <ChannelName {channels} {label} />
  <input
    type="color"
    aria-label={label}
    class="h-6 grow cursor-pointer rounded-field border border-base-300"
    value={hex}
    oninput={(e) => set(e.currentTarget.value, false)}
    onchange={(e) => set(e.currentTarget.value, true)}
  />
</div>
