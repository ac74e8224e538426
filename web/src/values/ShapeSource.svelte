<script lang="ts">
  // What a shape is made of that is no number: words and their font, the points of a path.
  import { changedNode } from '../edits/edit';
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import type { NodeView } from '../engine/engine';
  import { fonts, reword } from '../objects/outlines';
  import { session } from '../stores/session.svelte';

  let { node }: { node: NodeView } = $props();

  type Point = { x: number; y: number; z: number };
  const shape = $derived(
    node.data.shape as { kind: string; text?: string; font?: string; points?: Point[]; closed?: boolean },
  );
  const points = $derived(shape.points ?? []);

  const replace = (change: object) => session.shot.commit(changedNode(node, { shape: { ...shape, ...change } }));

  /** A point as it stands now: a channel may have moved it. */
  function at(i: number): Point {
    const axis = (name: string) => {
      const channel = session.shot.channelsOf(node.id).find((c) => c.path === `shape.point${i + 1}.${name}`);
      return channel ? session.shot.valueOf(channel) : 0;
    };
    return { x: axis('x'), y: axis('y'), z: axis('z') };
  }

  function extend() {
    const [a, b] = [at(points.length - 2), at(points.length - 1)];
    replace({ points: [...points, { x: 2 * b.x - a.x, y: 2 * b.y - a.y, z: 2 * b.z - a.z }] });
  }
</script>

{#if shape.text !== undefined}
  <div class="flex flex-col gap-1 px-3 pb-1">
    <textarea
      class="textarea min-h-12 w-full textarea-xs"
      rows="2"
      maxlength="200"
      aria-label="Words"
      value={shape.text}
      onchange={(e) => reword(node, e.currentTarget.value, shape.font ?? 'Sans')}
      onkeydown={(e) => e.stopPropagation()}></textarea>
    <label class="flex items-center gap-2 text-xs">
      <span class="w-24">Font</span>
      <select
        class="select grow select-xs"
        value={shape.font ?? 'Sans'}
        onchange={(e) => reword(node, shape.text!, e.currentTarget.value)}
      >
        {#await fonts() then names}
          {#each names as name (name)}<option>{name}</option>{/each}
        {:catch}
          <option>{shape.font ?? 'Sans'}</option>
        {/await}
      </select>
    </label>
  </div>
{:else if shape.kind === 'tube'}
  <div class="flex items-center gap-1 px-3 pb-1 text-xs">
    <span class="grow">{points.length} points</span>
    <button
      class="btn btn-square btn-xs"
      title="Take the last point away, with its keys"
      aria-label="Take the last point away"
      disabled={points.length <= 2}
      onclick={() => replace({ points: points.slice(0, -1) })}><Minus size={12} /></button
    >
    <button
      class="btn btn-square btn-xs"
      title="Add a point at the end"
      aria-label="Add a point"
      disabled={points.length >= 64}
      onclick={extend}><Plus size={12} /></button
    >
    <label class="ml-2 flex items-center gap-1">
      <input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={shape.closed ?? false}
        onchange={(e) => replace({ closed: e.currentTarget.checked })}
      />Closed
    </label>
  </div>
{/if}
