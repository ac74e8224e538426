<script lang="ts">
  // Materials to start from, and those of the shot: a click gives one to what is selected, a drag to what it is dropped on.
  import { assign, assignFromShelf, MATERIAL_DRAG, shelf } from './materials';
  import { session } from '../stores/session.svelte';
  import { picture } from '../widgets/pictureQueue';

  const meshes = $derived(session.selection.nodes.filter((n) => n.kind === 'mesh'));

  function take(from: 'shelf' | 'shot', id: string) {
    if (meshes.length === 0)
      return session.messages.say('Select a mesh to give it the material, or drag the material onto one.');
    if (from === 'shot') assign(meshes, id);
    else void assignFromShelf(meshes, id).catch((e: Error) => session.messages.say(e.message));
  }

  const drag = (e: DragEvent, from: 'shelf' | 'shot', id: string) =>
    e.dataTransfer?.setData(MATERIAL_DRAG, `${from} ${id}`);
</script>

<details class="px-3 pt-3" data-testid="shelf">
  <summary class="cursor-pointer text-xs font-semibold">Materials</summary>
  {#await shelf()}
    <p class="pt-2 text-xs text-base-content/75">Coming…</p>
  {:then items}
    <div class="grid grid-cols-[repeat(auto-fill,minmax(3.75rem,1fr))] gap-1 pt-2">
      {#each items as item (item.id)}
        <button
          class="flex flex-col items-center gap-0.5 rounded-field p-0.5 hover:bg-base-300"
          draggable="true"
          title="{item.name}: click for what is selected, or drag onto an object"
          onclick={() => take('shelf', item.id)}
          ondragstart={(e) => drag(e, 'shelf', item.id)}
        >
          <img
            {@attach picture(`/api/materials/${item.id}/picture`)}
            alt=""
            class="aspect-square w-full rounded-field bg-base-300"
            draggable="false"
          />
          <span class="line-clamp-2 w-full text-center text-xs leading-tight">{item.name}</span>
        </button>
      {/each}
    </div>
  {:catch e}
    <p class="pt-2 text-xs">{(e as Error).message}</p>
  {/await}
  {#if session.shot.scene.materials.length > 0}
    <h4 class="pt-2 text-xs text-base-content/75">In this shot</h4>
    <div class="flex flex-wrap gap-1 pt-1">
      {#each session.shot.scene.materials as m (m.id)}
        <button
          class="btn btn-xs"
          draggable="true"
          title="{m.name}: click for what is selected, or drag onto an object"
          onclick={() => take('shot', m.id)}
          ondragstart={(e) => drag(e, 'shot', m.id)}>{m.name}</button
        >
      {/each}
    </div>
  {/if}
</details>
