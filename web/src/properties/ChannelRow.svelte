<script lang="ts">
  import { newEdit } from '../edits/edit';
  import Lock from '@lucide/svelte/icons/lock';
  import { type ChannelView } from '../engine/engine';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { session } from '../stores/session.svelte';
  import { channelMenu } from './channelMenu';
  import ChannelName from './ChannelName.svelte';
  import KeyPip from './KeyPip.svelte';
  import NumberField from '../widgets/NumberField.svelte';

  let { channel, others = [] }: { channel: ChannelView; others?: ChannelView[] } = $props();

  const all = $derived([channel, ...others]);
  const value = $derived(channel.whole ? Math.round(session.shot.valueOf(channel)) : session.shot.valueOf(channel));
  const mixed = $derived(others.some((o) => Math.abs(session.shot.valueOf(o) - value) > 1e-6));
  const locked = $derived(session.shot.scene.locked.has(channel.address));
  // What the numbers were when a hand took them: each object changes from its own.
  let starts: Map<string, number> | null = null;
  const changed = (change: (old: number) => number) => {
    starts ??= new Map(all.map((c) => [c.address, session.shot.valueOf(c)]));
    const from = starts;
    // What counts things goes from one whole number to the next.
    const held = (c: ChannelView, v: number) => (c.whole ? Math.round(v) : v);
    return all.map((c) => ({ address: c.address, value: held(c, change(from.get(c.address) ?? c.default)) }));
  };

  function commit(change: (old: number) => number) {
    const values = changed(change);
    starts = null;
    session.shot.pose(values, true);
  }

  function cancel() {
    starts = null;
    session.shot.try(null);
  }

  const unlock = () =>
    session.shot.commit(newEdit('lockChannels', { channels: all.map((c) => c.address), locked: false }));
</script>

<div
  class="flex h-7 items-center gap-2 px-2"
  role="group"
  aria-label={channel.label}
  data-channel={channel.address}
  oncontextmenu={(e) => contextMenu.open(e, channelMenu(all))}
>
  {#if locked}
    <button
      class="grid h-6 w-6 shrink-0 place-items-center rounded-field hover:bg-base-300"
      tabindex="-1"
      aria-label="Locked: unlock {channel.label}"
      title="Locked: neither drags nor keys change it. Click to unlock"
      onclick={unlock}><Lock size={13} /></button
    >
  {:else}<KeyPip channels={all} shown={[channel]} label={channel.label} />{/if}
  <ChannelName channels={all} label={channel.label} />
  <div class="min-w-0 grow">
    {#if channel.stepped}
      <input
        type="checkbox"
        class="toggle toggle-sm"
        checked={value >= 0.5}
        disabled={locked}
        aria-label={channel.label}
        onchange={(e) =>
          commit(
            (
              (on) => () =>
                on
            )(e.currentTarget.checked ? 1 : 0),
          )}
      />
    {:else}
      <NumberField
        {value}
        {mixed}
        {locked}
        step={channel.step}
        unit={channel.unit}
        label={channel.label}
        standard={channel.default}
        ontry={(change) => session.shot.pose(changed(change), false)}
        oncommit={commit}
        oncancel={cancel}
      />
    {/if}
  </div>
</div>
