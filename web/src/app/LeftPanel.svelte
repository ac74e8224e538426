<script lang="ts">
  // The scene and the libraries, one at a time, beside the stage in every phase.
  import { tip } from '../commands';
  import SceneList from '../objects/SceneList.svelte';
  import SavedShelf from '../poses/SavedShelf.svelte';
  import { viewState } from '../stores/viewState.svelte';

  const tabs = [
    { shelf: false, label: 'Scene', title: 'The objects of the shot' },
    { shelf: true, label: 'Poses', title: tip('shelf') },
  ];
</script>

<div class="flex h-full flex-col bg-base-100">
  <div class="flex h-8 shrink-0 items-stretch border-b border-base-300 px-1" role="tablist" aria-label="Left panel">
    {#each tabs as t (t.label)}
      <button
        class="border-b-2 px-2 text-xs font-semibold {viewState.shelf === t.shelf
          ? 'border-primary'
          : 'border-transparent text-base-content/75 hover:bg-base-300'}"
        role="tab"
        aria-selected={viewState.shelf === t.shelf}
        title={t.title}
        onclick={() => (viewState.shelf = t.shelf)}>{t.label}</button
      >
    {/each}
  </div>
  <div class="min-h-0 grow">
    {#if viewState.shelf}<SavedShelf />{:else}<SceneList />{/if}
  </div>
</div>
