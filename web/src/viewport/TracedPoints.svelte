<script lang="ts">
  // The points of a mesh whose motion path is drawn.
  import X from '@lucide/svelte/icons/x';
  import type { NodeView } from '../engine/engine';
  import { tip } from '../commands';
  import { tracedOf, traceVertices } from './overlays/traces.svelte';

  let { node, vertices }: { node: NodeView; vertices: number } = $props();

  const traced = $derived(tracedOf(node));
  let wanted = $state('');
  const number = $derived(/^\d+$/.test(wanted.trim()) ? Number(wanted) : NaN);
  const wrong = $derived(
    wanted.trim() === ''
      ? ''
      : !(number < vertices)
        ? `A number from 0 to ${vertices - 1}.`
        : traced.includes(number)
          ? 'Its path is drawn already.'
          : '',
  );

  function add() {
    if (wrong || Number.isNaN(number)) return;
    traceVertices(node, [...traced, number]);
    wanted = '';
  }
</script>

<div class="flex flex-wrap items-center gap-1 px-3 pb-1 text-xs" data-testid="traced">
  <span title={tip('tracePoint', 'Motion paths of points: point at the surface')}>Paths of points</span>
  {#each traced as vertex (vertex)}
    <button
      class="btn px-1.5 font-normal tabular-nums btn-xs"
      title={vertex < vertices ? 'Take its path away' : 'The mesh has no such point now. Take it away'}
      aria-label="Take away the path of point {vertex}"
      onclick={() =>
        traceVertices(
          node,
          traced.filter((v) => v !== vertex),
        )}><span class={vertex < vertices ? '' : 'line-through'}>{vertex}</span><X size={12} /></button
    >
  {/each}
  <input
    class="input w-20 input-xs {wrong ? 'input-error' : ''}"
    placeholder="Number"
    inputmode="numeric"
    aria-label="Number of a point to draw the path of"
    title={wrong || 'The number of a point, and Enter'}
    bind:value={wanted}
    onkeydown={(e) => (e.stopPropagation(), e.key === 'Enter' && add())}
  />
  {#if wrong}<span class="text-error" role="alert">{wrong}</span>{/if}
</div>
