<script lang="ts">
  // A few fields that come up at a button and go with Escape or a click elsewhere; the focus then is at the button again.
  import type { Snippet } from 'svelte';
  import { Popover } from 'bits-ui';

  let {
    open = $bindable(false),
    label,
    side = 'bottom',
    align = 'end',
    trigger,
    children,
  }: {
    open?: boolean;
    label: string;
    side?: 'top' | 'right' | 'bottom' | 'left';
    align?: 'start' | 'center' | 'end';
    /** The button, which takes these attributes. */
    trigger: Snippet<[Record<string, unknown>]>;
    children: Snippet;
  } = $props();
</script>

<Popover.Root bind:open>
  <Popover.Trigger>
    {#snippet child({ props })}{@render trigger(props)}{/snippet}
  </Popover.Trigger>
  <Popover.Portal>
    <Popover.Content
      class="z-40 max-h-(--bits-popover-content-available-height) w-60 overflow-y-auto rounded-box border border-base-300 bg-base-100 p-3 text-[13px] text-base-content shadow-xl outline-none"
      {side}
      {align}
      sideOffset={6}
      collisionPadding={6}
      aria-label={label}
    >
      {@render children()}
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
