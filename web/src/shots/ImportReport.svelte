<script lang="ts">
  import { ui } from '../stores/ui.svelte';
  import Dialog from '../widgets/Dialog.svelte';
</script>

<Dialog onleave={() => ui.leave('import')} title={ui.importReport?.name ?? 'Report'}>
  {#if ui.importReport}
    <h3 class="text-sm font-semibold">Imported</h3>
    <ul class="mb-4 list-disc pl-5 text-sm">
      {#each ui.importReport.imported as line (line)}<li>{line}</li>{/each}
    </ul>
    {#if ui.importReport.skipped.length > 0}
      <h3 class="text-sm font-semibold">Skipped or converted</h3>
      <ul class="list-disc pl-5 text-sm">
        {#each ui.importReport.skipped as line (line)}<li>{line}</li>{/each}
      </ul>
    {/if}
  {/if}
</Dialog>
