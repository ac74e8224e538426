<script lang="ts">
  // A dialog over everything else; it takes all keys until it is left. Messages and what is in progress stay above it.
  import X from '@lucide/svelte/icons/x';
  import { Dialog } from 'bits-ui';
  import type { Snippet } from 'svelte';

  let {
    title,
    wide = false,
    onleave,
    children,
  }: {
    title: string;
    wide?: boolean;
    /** It was closed, by whatever way. */ onleave: () => void;
    children: Snippet;
  } = $props();
  let body = $state<HTMLElement>();

  /** What there is to type comes first, not the button that closes it. */
  function first(e: Event) {
    const field = body?.querySelector<HTMLElement>(':is(input:not([type=file]), select, textarea):enabled');
    if (!field) return;
    e.preventDefault();
    field.focus();
  }
  /** What is above it belongs to the page, and leaves it open. */
  const isAbove = (e: Event) => e.target instanceof Element && e.target.closest('[data-above-dialogs]') !== null;
</script>

<Dialog.Root open onOpenChange={(on) => !on && onleave()}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
    <Dialog.Content
      class="fixed top-1/2 left-1/2 z-40 flex max-h-[85vh] -translate-x-1/2 -translate-y-1/2 flex-col rounded-box border border-base-300 bg-base-100 text-base-content shadow-xl {wide
        ? 'w-[920px] max-w-[92vw]'
        : 'w-[560px] max-w-[92vw]'}"
      preventScroll={false}
      preventBodyPointerEvents={false}
      onOpenAutoFocus={first}
      onInteractOutside={(e) => isAbove(e) && e.preventDefault()}
    >
      <header class="flex items-center justify-between border-b border-base-300 px-4 py-2">
        <Dialog.Title class="font-semibold">{title}</Dialog.Title>
        <Dialog.Close class="btn btn-square btn-ghost btn-sm" aria-label="Close" title="Close (Esc)"
          ><X size={16} /></Dialog.Close
        >
      </header>
      <div bind:this={body} class="min-h-0 grow overflow-y-auto p-4">{@render children()}</div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
