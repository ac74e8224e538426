<script lang="ts">
  import { ui } from '../state/ui.svelte';
  import Dialog from './Dialog.svelte';
</script>

<Dialog title={ui.importReport?.name ?? 'Report'}>
  {#if ui.importReport}
    <h3 class="text-sm font-semibold">There</h3>
    <ul class="mb-4 list-disc pl-5 text-sm">
      {#each ui.importReport.came as line (line)}<li>{line}</li>{/each}
    </ul>
    {#if ui.importReport.missed.length > 0}
      <h3 class="text-sm font-semibold">Left out, or in another form</h3>
      <ul class="list-disc pl-5 text-sm">
        {#each ui.importReport.missed as line (line)}<li>{line}</li>{/each}
      </ul>
    {/if}
  {/if}
</Dialog>
