<script lang="ts">
  import type { Edit, Segment } from '../engine/engine';
  import { session } from '../state/session.svelte';

  // Small pictures of easings. The pictures are samples of the engine's own curves.
  const families = ['sine', 'quad', 'cubic', 'quart', 'quint', 'expo', 'circ', 'back', 'elastic', 'bounce'];
  let direction = $state<'in' | 'out' | 'inOut'>('inOut');

  const items = $derived<{ name: string; segment: Segment; ease: boolean }[]>([
    { name: 'Bézier', segment: 'bezier', ease: false },
    { name: 'Linear', segment: 'linear', ease: false },
    { name: 'Hold', segment: 'hold', ease: false },
    ...families.map((ease) => ({
      name: ease[0].toUpperCase() + ease.slice(1),
      segment: { ease, direction },
      ease: true,
    })),
  ]);

  const pictures = $derived.by(() => {
    const made = new Map<string, string>();
    if (!session.shot.engine) return made;
    for (const item of items) made.set(item.name, path(session.shot.engine.easePicture(item.segment)));
    return made;
  });

  const path = (values: number[]) =>
    values
      .map((v, i) => `${i ? 'L' : 'M'}${((40 * i) / (values.length - 1)).toFixed(2)} ${(22 - 16 * v).toFixed(2)}`)
      .join('');

  function apply(segment: Segment) {
    if (session.selection.keys.length === 0)
      return session.messages.say(
        'Select the keys that it shall start from, or drag it on to a stretch between two keys.',
      );
    session.shot.commit({ kind: 'setSegments', keys: session.selection.keys, segment } as Edit);
  }
</script>

<div
  class="flex h-14 shrink-0 items-center gap-1 overflow-x-auto border-b border-base-300 bg-base-100 px-2"
  aria-label="Ease shelf"
  role="toolbar"
>
  <div class="join mr-1 shrink-0" role="radiogroup" aria-label="Direction">
    {#each [['in', 'In'], ['out', 'Out'], ['inOut', 'Both']] as [d, label] (d)}
      <button
        class="btn join-item btn-xs {direction === d ? 'btn-primary' : ''}"
        role="radio"
        aria-checked={direction === d}
        onclick={() => (direction = d as typeof direction)}>{label}</button
      >
    {/each}
  </div>
  {#each items as item (item.name)}
    <button
      class="flex h-12 w-[52px] shrink-0 flex-col items-center rounded-field pt-0.5 hover:bg-base-300"
      title="{item.name}: click with keys selected, or drag on to a stretch between two keys"
      draggable="true"
      ondragstart={(e) => e.dataTransfer?.setData('application/x-ease', JSON.stringify(item.segment))}
      onclick={() => apply(item.segment)}
    >
      <svg class="text-secondary" width="40" height="28" viewBox="0 0 40 28" aria-hidden="true"
        ><path d={pictures.get(item.name)} fill="none" stroke="currentColor" stroke-width="2" /></svg
      >
      <span class="text-xs">{item.name}</span>
    </button>
  {/each}
</div>
