<script lang="ts">
  import { addressOf, type ChannelView, type Edit } from '../engine/engine';
  import { session } from '../state/session.svelte';
  import NumberField from './NumberField.svelte';

  let { channel, others = [] }: { channel: ChannelView; others?: ChannelView[] } = $props();

  const address = $derived(addressOf(channel));
  const value = $derived((void session.evaluated, session.shown?.values[channel.index] ?? 0));
  const keyed = $derived(channel.keys.length > 0);
  const keyedHere = $derived(channel.keys.includes(session.frame));
  const waiting = $derived(session.waiting.has(address));
  // The state is told by shape: a ring, a half, a full pip, a full one with a dash.
  const state = $derived(waiting ? 'waiting' : keyedHere ? 'here' : keyed ? 'elsewhere' : 'never');
  const words = {
    never: 'Not keyed: key it here',
    elsewhere: 'Keyed on other frames: key it here',
    here: 'Keyed on this frame: remove this key',
    waiting: 'Changed and not keyed yet: key it here',
  };

  const all = (v: number) => [channel, ...others].map((c) => ({ address: addressOf(c), value: v }));

  function key() {
    const addresses = [channel, ...others].map(addressOf);
    if (state === 'here') {
      const keys = addresses
        .filter((a) => session.channel.get(a)?.keys.includes(session.frame))
        .map((a) => ({ address: a, frame: session.frame }));
      session.commit({ kind: 'removeKeys', keys } as Edit);
    } else session.keyNow(addresses);
  }
</script>

<div class="flex h-7 items-center gap-2 px-2" data-channel={address} data-state={state}>
  <button
    class="grid h-6 w-6 shrink-0 place-items-center rounded-field hover:bg-base-300"
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
  </button>
  <span class="w-24 shrink-0 truncate text-xs" title={channel.label}>{channel.label}</span>
  <div class="min-w-0 grow">
    {#if channel.stepped}
      <input
        type="checkbox"
        class="toggle toggle-sm"
        checked={value >= 0.5}
        aria-label={channel.label}
        onchange={(e) => session.pose(all(e.currentTarget.checked ? 1 : 0), true)}
      />
    {:else}
      <NumberField
        {value}
        step={channel.step}
        unit={channel.unit}
        label={channel.label}
        ontry={(v) => session.pose(all(v), false)}
        oncommit={(v) => session.pose(all(v), true)}
      />
    {/if}
  </div>
</div>
