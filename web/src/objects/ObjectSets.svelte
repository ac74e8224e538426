<script lang="ts">
  // The sets of objects that are kept, above the list: a click selects one.
  import { newEdit } from '../edits/edit';
  import { session } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import NameField from '../widgets/NameField.svelte';
  import { changeSet, objectsOf, selectSet, type ObjectSet } from './sets';

  let renaming = $state<string | null>(null);

  function menu(e: MouseEvent, set: ObjectSet) {
    contextMenu.open(e, [
      { title: 'Select', run: () => selectSet(set) },
      { title: 'Add to the selection', run: () => selectSet(set, true) },
      { title: 'Isolate', run: () => (viewState.isolated = objectsOf(set)) },
      null,
      { title: 'Rename', run: () => (renaming = set.id) },
      { title: 'Replace by the selection', run: () => changeSet(set, { nodes: session.selection.ids }) },
      { title: 'Remove the set', run: () => session.shot.commit(newEdit('removeSets', { ids: [set.id] })) },
    ]);
  }
</script>

{#if session.shot.scene.sets.length > 0}
  <div class="flex max-h-20 shrink-0 flex-wrap gap-1 overflow-y-auto px-2 pb-1" role="group" aria-label="Sets">
    {#each session.shot.scene.sets as set (set.id)}
      {#if renaming === set.id}
        <NameField
          value={set.name}
          label="Name of the set"
          class="h-6 w-28"
          onname={(name) => changeSet(set, { name })}
          onend={() => (renaming = null)}
        />
      {:else}
        <button
          class="btn h-6 max-w-full truncate px-2 text-xs font-normal btn-xs"
          title="{objectsOf(set).length} objects: click to select them, with Shift or Ctrl beside what is selected"
          onclick={(e) => selectSet(set, e.shiftKey || e.ctrlKey || e.metaKey)}
          oncontextmenu={(e) => menu(e, set)}>{set.name}</button
        >
      {/if}
    {/each}
  </div>
{/if}
