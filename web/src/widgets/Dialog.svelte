<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { Snippet } from 'svelte';
  import WorkStrip from './WorkStrip.svelte';

  /** @param onleave It was closed, by whatever way. */
  let {
    title,
    wide = false,
    onleave,
    children,
  }: { title: string; wide?: boolean; onleave: () => void; children: Snippet } = $props();
  let dialog: HTMLDialogElement | undefined = $state();
  let body: HTMLElement;

  /** At once: a browser that has much to do says late that a dialog was closed, and the next shortcut may be quicker. */
  function leave() {
    if (dialog?.open) dialog.close();
    onleave();
  }

  $effect(() => {
    if (!dialog) return;
    dialog.showModal();
    // What there is to type comes first, not the button that closes it.
    body.querySelector<HTMLElement>(':is(input:not([type=file]), select, textarea):enabled')?.focus();
  });
</script>

<dialog
  bind:this={dialog}
  class="modal"
  oncancel={(e) => (e.preventDefault(), leave())}
  onclose={leave}
  aria-label={title}
>
  <div
    class="modal-box flex max-h-[85vh] flex-col border border-base-300 bg-base-100 p-0 {wide
      ? 'w-[920px] max-w-[92vw]'
      : 'w-[560px]'}"
  >
    <header class="flex items-center justify-between border-b border-base-300 px-4 py-2">
      <h2 class="font-semibold">{title}</h2>
      <button class="btn btn-square btn-ghost btn-sm" aria-label="Close" title="Close (Esc)" onclick={leave}
        ><X size={16} /></button
      >
    </header>
    <div bind:this={body} class="min-h-0 grow overflow-y-auto p-4">{@render children()}</div>
  </div>
  <!-- What lies under a dialog cannot be reached: what takes its time is cancelled from here. -->
  <WorkStrip />
  <form method="dialog" class="modal-backdrop"><button aria-label="Close the dialog">close</button></form>
</dialog>
