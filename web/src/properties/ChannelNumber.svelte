<script lang="ts">
  // The number of a channel, of one object or of several: each changes from its own. K keys it.
  import { type ChannelView } from '../engine/engine';
  import { session } from '../stores/session.svelte';
  import NumberField from '../widgets/NumberField.svelte';

  let {
    channel,
    others = [],
    tight = false,
    digits,
  }: {
    channel: ChannelView;
    others?: ChannelView[];
    /** With little room. */ tight?: boolean;
    /** Shown behind the point. */ digits?: number;
  } = $props();

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
</script>

{#if channel.stepped}
  <input
    type="checkbox"
    class="toggle toggle-sm"
    checked={value >= 0.5}
    disabled={locked}
    aria-label={channel.label}
    onchange={(e) => {
      const on = e.currentTarget.checked ? 1 : 0;
      commit(() => on);
    }}
  />
{:else}
  <NumberField
    {value}
    {mixed}
    {locked}
    {tight}
    {digits}
    step={channel.step}
    unit={tight ? '' : channel.unit}
    label={channel.label}
    standard={channel.default}
    ontry={(change) => session.shot.pose(changed(change), false)}
    oncommit={commit}
    oncancel={cancel}
    onkey={() => session.shot.keyNow(all.map((c) => c.address))}
  />
{/if}
