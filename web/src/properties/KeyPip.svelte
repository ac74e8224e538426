<script lang="ts">
  // The key button of a channel, of several objects or of a colour: says whether it is keyed, and keys it here.
  import { newEdit } from '../edits/edit';
  import type { ChannelView } from '../engine/engine';
  import { session } from '../stores/session.svelte';

  let {
    channels,
    shown = channels,
    label,
  }: {
    /** All that a click keys. */
    channels: ChannelView[];
    /** Those whose state it shows. */
    shown?: ChannelView[];
    label: string;
  } = $props();

  // The state is told by shape: a ring, a half, a full pip, a full one with a dash.
  const state = $derived(
    shown.some((c) => session.shot.waiting.has(c.address))
      ? 'waiting'
      : shown.some((c) => session.shot.hasKey(c.address, session.frame))
        ? 'here'
        : shown.some((c) => session.shot.keysOf(c.address).length > 0)
          ? 'elsewhere'
          : 'never',
  );
  const words = {
    never: 'Not keyed: key it here',
    elsewhere: 'Keyed on other frames: key it here',
    here: 'Keyed on this frame: remove this key',
    waiting: 'Changed and not keyed yet: key it here',
  };

  function key() {
    const addresses = channels.map((c) => c.address);
    if (state === 'here') {
      const there = addresses
        .filter((a) => session.shot.hasKey(a, session.frame))
        .map((address) => ({ address, frame: session.frame }));
      session.shot.commit(newEdit('removeKeys', { keys: there }));
    } else session.shot.keyNow(addresses);
  }
</script>

<button
  class="grid h-6 w-6 shrink-0 place-items-center rounded-field hover:bg-base-300"
  tabindex="-1"
  data-state={state}
  aria-label="{words[state]}: {label}"
  title={words[state]}
  onclick={key}
>
  <svg width="16" height="16" viewBox="-8 -8 16 16" aria-hidden="true" style="color:var(--family-{channels[0].family})">
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
