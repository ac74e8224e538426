<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { type ChannelView, type Edit } from '../engine/engine';
  import { contextMenu } from './contextMenu.svelte';
  import { session } from '../state/session.svelte';
  import { channelMenu } from '../state/commands';
  import NumberField from './NumberField.svelte';

  let { channel, others = [] }: { channel: ChannelView; others?: ChannelView[] } = $props();

  const all = $derived([channel, ...others]);
  const value = $derived(channel.whole ? Math.round(session.shot.valueOf(channel)) : session.shot.valueOf(channel));
  const mixed = $derived(others.some((o) => Math.abs(session.shot.valueOf(o) - value) > 1e-6));
  const keys = $derived(session.shot.keysOf(channel.address));
  const keyedHere = $derived(keys.includes(session.frame));
  const locked = $derived(session.shot.scene.locked.has(channel.address));
  const waiting = $derived(session.shot.waiting.has(channel.address));
  // The state is told by shape: a ring, a half, a full pip, a full one with a dash.
  const state = $derived(waiting ? 'waiting' : keyedHere ? 'here' : keys.length > 0 ? 'elsewhere' : 'never');
  const words = {
    never: 'Not keyed: key it here',
    elsewhere: 'Keyed on other frames: key it here',
    here: 'Keyed on this frame: remove this key',
    waiting: 'Changed and not keyed yet: key it here',
  };

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
    session.shot.commit({
      kind: 'lockChannels',
      channels: all.map((c) => c.address),
      locked: false,
    } as unknown as Edit);

  function key() {
    const addresses = all.map((c) => c.address);
    if (state === 'here') {
      const there = addresses
        .filter((a) => session.shot.hasKey(a, session.frame))
        .map((address) => ({ address, frame: session.frame }));
      session.shot.commit({ kind: 'removeKeys', keys: there } as Edit);
    } else session.shot.keyNow(addresses);
  }
</script>

<div
  class="flex h-7 items-center gap-2 px-2"
  role="group"
  aria-label={channel.label}
  data-channel={channel.address}
  data-state={state}
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
  {:else}<button
      class="grid h-6 w-6 shrink-0 place-items-center rounded-field hover:bg-base-300"
      tabindex="-1"
      aria-label="{words[state]}: {channel.label}"
      title={words[state]}
      onclick={key}
    >
      <svg width="16" height="16" viewBox="-8 -8 16 16" aria-hidden="true" style="color:var(--family-{channel.family})">
        <rect
          x="-4"
          y="-6.5"
          width="8"
          height="13"
          rx="4"
          fill={state === 'here' || state === 'waiting' ? 'currentColor' : 'none'}
          stroke="currentColor"
          stroke-width="1.6"
          stroke-dasharray={state === 'waiting' ? '2 2' : 'none'}
        />
        {#if state === 'elsewhere'}<path
            d="M0-6.500V6.500H0A4 4 0 0 1-4 2.500V-2.500A4 4 0 0 1 0-6.500Z"
            fill="currentColor"
          />{/if}
      </svg>
    </button>{/if}
  <span
    class="w-24 shrink-0 truncate text-xs {session.shot.scene.muted.has(channel.address)
      ? 'line-through opacity-70'
      : ''}"
    title={session.shot.scene.muted.has(channel.address)
      ? `${channel.label}: muted, its keys have no say`
      : channel.label}>{channel.label}</span
  >
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
