<script lang="ts">
  import { remaining, work } from './work.svelte';

  const shown = $derived(work.jobs.filter((j) => j.shown));
</script>

{#if shown.length > 0}
  <div class="toast toast-end z-50 mb-12 text-base-content" role="region" aria-label="In progress">
    {#each shown as job (job)}
      <div class="alert flex w-80 items-center gap-3 border border-base-300 bg-base-200 py-2 text-sm shadow-xl">
        <div class="min-w-0 grow">
          <p class="truncate" title={job.title}>{job.title}</p>
          <progress
            class="progress w-full progress-primary"
            aria-label={job.title}
            value={job.part ?? undefined}
            max="1"
          ></progress>
          <p class="text-xs text-base-content/80 tabular-nums">
            {job.part === null ? 'Working…' : `${Math.round(100 * job.part)} %`}{job.left === null
              ? ''
              : `, ${remaining(job.left)}`}
          </p>
        </div>
        <button class="btn btn-outline btn-sm" onclick={() => job.cancel()}>Cancel</button>
      </div>
    {/each}
  </div>
{/if}
