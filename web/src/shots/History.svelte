<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';

  const steps = $derived((session.shot.history?.steps ?? []).filter((s) => s.revision === s.content).reverse());
</script>

<aside
  class="absolute top-0 right-0 z-30 flex h-[calc(100%-3rem)] w-72 flex-col border-l border-base-300 bg-base-100 shadow-xl"
  aria-label="History"
>
  <header class="flex h-10 items-center justify-between border-b border-base-300 px-3">
    <h2 class="text-sm font-semibold">History</h2>
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Close the history"
      title="Close (H)"
      onclick={() => (ui.dialog = null)}><X size={16} /></button
    >
  </header>
  <p class="px-3 py-2 text-xs text-base-content/80">
    Every state is kept. Click one to go back to it; what came after stays in the list.
  </p>
  <ol class="grow overflow-y-auto pb-4">
    {#each steps as step (step.revision)}
      <li>
        <button
          class="flex w-full items-center gap-2 px-3 py-1 text-left text-[13px] hover:bg-base-200 {step.content ===
          session.shot.history?.content
            ? 'bg-primary/25 font-semibold'
            : ''}"
          aria-current={step.content === session.shot.history?.content}
          onclick={() => session.shot.restore(step.revision)}
        >
          <span class="w-8 shrink-0 text-right text-xs text-base-content/75">{step.revision}</span><span
            class="truncate"
            title={step.label}>{step.label}</span
          >
        </button>
      </li>
    {/each}
  </ol>
</aside>
