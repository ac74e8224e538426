<script lang="ts">
  // The surface of what is selected: which material, its numbers in groups, and its maps.
  import { newEdit } from '../edits/edit';
  import CopyPlus from '@lucide/svelte/icons/copy-plus';
  import Pencil from '@lucide/svelte/icons/pencil';
  import Plus from '@lucide/svelte/icons/plus';
  import type { ChannelView, NodeView } from '../engine/engine';
  import { assign, newMaterial } from './materials';
  import { session } from '../stores/session.svelte';
  import ChannelRows from '../properties/ChannelRows.svelte';
  import MapSection from './MapSection.svelte';
  import NameField from '../widgets/NameField.svelte';

  let { node }: { node: NodeView } = $props();

  const meshes = $derived(session.selection.nodes.filter((n) => n.kind === 'mesh'));
  const material = $derived(session.shot.scene.materials.find((m) => m.id === node.data.material));
  const channels = $derived(material ? session.shot.channelsOf(material.id) : []);
  const sharers = $derived(
    material ? session.shot.scene.nodes.filter((n) => n.data.material === material.id).length : 0,
  );
  let renaming = $state(false);

  const groups: { label: string; is: (path: string) => boolean }[] = [
    { label: '', is: (p) => /^look\.(color\.|roughness|metallic|opacity)/.test(p) },
    { label: 'Emission', is: (p) => p.startsWith('look.emission') },
    { label: 'Glass', is: (p) => /^look\.(ior|glass|thin)$/.test(p) },
    { label: 'Coat', is: (p) => p.startsWith('look.coat') },
    { label: 'Sheen', is: (p) => p.startsWith('look.sheen') },
    { label: 'Subsurface', is: (p) => p.startsWith('look.subsurface') },
  ];
  /** Whether somebody has set something of a group: it is shown open then. */
  const isInUse = (list: ChannelView[]) =>
    list.some(
      (c) =>
        !c.path.includes('olor.') &&
        (session.shot.keysOf(c.address).length > 0 || Math.abs(session.shot.valueOf(c) - c.default) > 1e-9),
    );
</script>

{#snippet rows(list: ChannelView[])}
  <ChannelRows channels={list} />
{/snippet}

<h3 class="flex items-center gap-2 px-3 pt-3 pb-1 text-xs font-semibold">
  <span class="h-2 w-2 rounded-full" style="background:var(--family-look)"></span>Material
</h3>
<div class="flex items-center gap-1 px-3 pb-1">
  {#if renaming && material}
    <NameField
      value={material.name}
      label="Name of the material"
      class="grow"
      onname={(name) => session.shot.commit(newEdit('rename', { id: material.id, name }))}
      onend={() => (renaming = false)}
    />
  {:else}
    <select
      class="select min-w-0 grow select-xs"
      aria-label="Material"
      value={material?.id ?? ''}
      onchange={(e) => assign(meshes, e.currentTarget.value)}
    >
      <option value="">none: plain grey</option>
      {#each session.shot.scene.materials as m (m.id)}<option value={m.id}>{m.name}</option>{/each}
    </select>
  {/if}
  <button
    class="btn btn-square btn-ghost btn-xs"
    aria-label="New material"
    title="A new material for what is selected"
    onclick={() => newMaterial(meshes)}><Plus size={14} /></button
  >
  {#if material}
    <button
      class="btn btn-square btn-ghost btn-xs"
      aria-label="Copy the material"
      title="A copy of this material, with its keys, for what is selected"
      onclick={() => newMaterial(meshes, material.id)}><CopyPlus size={14} /></button
    >
    <button
      class="btn btn-square btn-ghost btn-xs"
      aria-label="Rename the material"
      title="Rename this material"
      onclick={() => (renaming = true)}><Pencil size={14} /></button
    >
  {/if}
</div>
{#if sharers > 1}<p class="px-3 pb-1 text-xs text-base-content/75">
    On {sharers} objects: a change shows on all of them.
  </p>{/if}
{#if material}
  {#each groups as { label, is } (label)}
    {@const list = channels.filter((c) => is(c.path))}
    {#if !label}{@render rows(list)}{:else}
      <details open={isInUse(list)}>
        <summary class="flex h-7 cursor-pointer items-center px-3 text-xs">{label}</summary>
        {@render rows(list)}
      </details>
    {/if}
  {/each}
  <MapSection material={material.id} />
{/if}
