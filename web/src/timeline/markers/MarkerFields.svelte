<script lang="ts">
  import { changedMarker, newEdit } from '../../edits/edit';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { untrack } from 'svelte';
  import X from '@lucide/svelte/icons/x';
  import type { SceneView } from '../../engine/engine';
  import { session } from '../../stores/session.svelte';
  import { focused } from '../../widgets/focus';

  type Marker = SceneView['markers'][number];

  // Name, colour and note of a marker.
  let { id, left, onclose }: { id: string; left: number; onclose: () => void } = $props();
  const marker = $derived(session.shot.scene.markers.find((m) => m.id === id));
  const colours = ['amber', 'teal', 'rose', 'sky', 'moss', 'stone'] as const;
  const put = (change: Partial<Marker>) => session.shot.commit(changedMarker(marker!, change));
  // What was typed is kept however one leaves, and taken back with Escape.
  let typed: { name?: string; note?: string } = {};
  // When the fields go, nobody says any more whose they were.
  const own = untrack(() => id);
  function keep() {
    const { name, note } = typed;
    typed = {};
    const marker = session.shot.scene.markers.find((m) => m.id === own);
    if (
      !marker ||
      ((name ?? marker.name ?? '') === (marker.name ?? '') && (note ?? marker.note ?? '') === (marker.note ?? ''))
    )
      return;
    session.shot.commit(
      changedMarker(marker, {
        ...(name === undefined ? {} : { name }),
        ...(note === undefined ? {} : { note: note || null }),
      }),
    );
  }
  // Leaving by a click elsewhere takes the field away before it could say that it has changed.
  $effect(() => () => untrack(keep));
  function escape(e: KeyboardEvent) {
    if (e.key !== 'Escape') return;
    e.stopPropagation();
    typed = {};
    onclose();
  }
  function remove() {
    typed = {};
    session.shot.commit(newEdit('removeMarkers', { ids: [id] }));
    onclose();
  }
</script>

<svelte:window onkeydowncapture={escape} />
{#if marker}
  <div
    class="absolute top-14 z-20 w-64 rounded-box border border-base-300 bg-base-200 p-2 text-sm shadow-xl"
    style="left:{left}px"
    role="dialog"
    aria-label="Marker"
  >
    <div class="flex items-center gap-1">
      <input
        class="input input-sm grow"
        aria-label="Name of the marker"
        placeholder="Name"
        maxlength="200"
        {@attach focused}
        value={marker.name ?? ''}
        oninput={(e) => (typed.name = e.currentTarget.value)}
        onchange={keep}
        onkeydown={(e) => e.key === 'Enter' && (keep(), onclose())}
      />
      <button class="btn btn-square btn-ghost btn-sm" aria-label="Remove the marker" title="Remove" onclick={remove}
        ><Trash2 size={14} /></button
      >
      <button class="btn btn-square btn-ghost btn-sm" aria-label="Close" title="Close (Esc)" onclick={onclose}
        ><X size={14} /></button
      >
    </div>
    <div class="flex gap-1 py-2" role="radiogroup" aria-label="Colour">
      {#each colours as colour (colour)}
        <button
          class="btn btn-xs {(marker.color ?? 'amber') === colour ? 'btn-active' : 'btn-ghost'} px-1.5 capitalize"
          role="radio"
          aria-checked={(marker.color ?? 'amber') === colour}
          onclick={() => put({ color: colour })}>{colour}</button
        >
      {/each}
    </div>
    <textarea
      class="textarea textarea-sm w-full"
      rows="2"
      aria-label="Note"
      placeholder="Note on frame {marker.frame}"
      maxlength="4000"
      value={marker.note ?? ''}
      oninput={(e) => (typed.note = e.currentTarget.value)}
      onchange={keep}></textarea>
  </div>
{/if}
