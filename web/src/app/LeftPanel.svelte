<script lang="ts">
  // The scene and the libraries, one at a time, beside the stage in every phase.
  import { Tabs } from 'bits-ui';
  import { tip } from '../commands';
  import SceneList from '../objects/SceneList.svelte';
  import SavedShelf from '../poses/SavedShelf.svelte';
  import { viewState } from '../stores/viewState.svelte';

  const tabs = [
    { id: 'scene', label: 'Scene', title: 'The objects of the shot' },
    { id: 'poses', label: 'Poses', title: tip('shelf') },
  ];
</script>

<Tabs.Root
  class="flex h-full flex-col bg-base-100"
  bind:value={() => (viewState.shelf ? 'poses' : 'scene'), (tab) => (viewState.shelf = tab === 'poses')}
>
  <Tabs.List class="flex h-8 shrink-0 items-stretch border-b border-base-300 px-1" aria-label="Left panel">
    {#each tabs as { id, label, title } (id)}
      <Tabs.Trigger
        value={id}
        {title}
        class="border-b-2 border-transparent px-2 text-xs font-semibold text-base-content/75 hover:bg-base-300 data-[state=active]:border-primary data-[state=active]:text-base-content"
        >{label}</Tabs.Trigger
      >
    {/each}
  </Tabs.List>
  <Tabs.Content value="scene" class="min-h-0 grow" tabindex={-1}>
    {#if !viewState.shelf}<SceneList />{/if}
  </Tabs.Content>
  <Tabs.Content value="poses" class="min-h-0 grow" tabindex={-1}>
    {#if viewState.shelf}<SavedShelf />{/if}
  </Tabs.Content>
</Tabs.Root>
