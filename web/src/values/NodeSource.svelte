<script lang="ts">
  // What a node is that is no number: the form of a control, what an instance draws, whose step a repeater takes, whom it follows.
  import { changedNode } from '../edits/edit';
  import type { NodeView } from '../engine/engine';
  import { makeReal } from '../objects/instances';
  import { session } from '../stores/session.svelte';
  import SunPlace from './SunPlace.svelte';

  let { node }: { node: NodeView } = $props();

  const data = $derived(node.data as { form?: string; of?: string; step?: string; follows?: string });
  const name = (id: string) => session.shot.byId.get(id)?.name ?? '';
  const replace = (change: Record<string, unknown>) => session.shot.commit(changedNode(node, change));
  /** What can give a step: anything that is not within the repeater, the controls first. */
  const steps = $derived.by(() => {
    if (node.kind !== 'repeat') return [];
    const inside = session.shot.family([node.id]);
    return session.shot.scene.nodes
      .filter((n) => !inside.has(n.id) || n.kind === 'control')
      .sort((a, b) => Number(b.kind === 'control') - Number(a.kind === 'control'))
      .slice(0, 200);
  });
  const lamps = { point: 'Point', spot: 'Spot', rectangle: 'Rectangle', disc: 'Disc' };
  const forms = { ring: 'Ring', box: 'Box', arrow: 'Arrow', ball: 'Ball' };
</script>

{#if node.kind === 'control'}
  <label class="flex items-center gap-2 px-3 pt-3 text-xs">
    <span class="w-24">Form</span>
    <select
      class="select grow select-xs"
      aria-label="Form of the control"
      value={data.form ?? 'ring'}
      onchange={(e) => replace({ form: e.currentTarget.value })}
    >
      {#each Object.entries(forms) as [form, label] (form)}<option value={form}>{label}</option>{/each}
    </select>
  </label>
{:else if node.kind === 'sun'}
  <SunPlace {node} />
{:else if node.kind === 'lamp'}
  <label class="flex items-center gap-2 px-3 pt-3 text-xs">
    <span class="w-24">Form</span>
    <select
      class="select grow select-xs"
      aria-label="Form of the lamp"
      value={data.form ?? 'point'}
      onchange={(e) => replace({ form: e.currentTarget.value })}
    >
      {#each Object.entries(lamps) as [form, label] (form)}<option value={form}>{label}</option>{/each}
    </select>
  </label>
{:else if node.kind === 'repeat'}
  <label class="flex items-center gap-2 px-3 pt-3 text-xs">
    <span class="w-24" title="Each copy stands to the last as this object stands to the repeater">Step from</span>
    <select
      class="select grow select-xs"
      aria-label="Where the step comes from"
      value={data.step ?? ''}
      onchange={(e) => replace({ step: e.currentTarget.value || undefined })}
    >
      <option value="">The numbers below</option>
      {#each steps as n (n.id)}<option value={n.id}>{n.name}</option>{/each}
    </select>
  </label>
{/if}
{#if node.kind === 'instance' || data.follows}
  <div class="flex items-center gap-1 px-3 pt-3 text-xs">
    <span class="grow truncate">
      {data.follows ? `Moves as ${name(data.follows)}` : `Instance of ${name(data.of ?? '')}`}
    </span>
    <button class="btn btn-xs" onclick={() => session.selection.select([data.follows ?? data.of!])}>Select it</button>
    <button class="btn btn-xs" title="Make it a copy of its own, that shares nothing" onclick={makeReal}
      >Make unique</button
    >
  </div>
{/if}
