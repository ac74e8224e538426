<script lang="ts">
  import { untrack } from 'svelte';
  import X from '@lucide/svelte/icons/x';
  import { curveTools, meantChannels, type Field } from './curveTools';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import TimeGraph from './TimeGraph.svelte';

  // A tool for curves with its numbers: what it would do is shown at once, and kept or left.
  const tool = $derived(curveTools.find((t) => t.id === ui.curveTool));
  let values = $state<Record<string, number>>({});
  let refusal = $state('');
  let before = $state(0);
  let after = $state(0);
  let shown = $state.raw<Field[]>([]);
  let picture = $state.raw<number[]>([]);
  // What a drag of a number starts from.
  let base: Record<string, number> = {};

  const count = () => meantChannels().reduce((n, a) => n + session.shot.keysOf(a).length, 0);

  // What a tool starts from is taken once, when it is opened.
  $effect(() => {
    const opened = tool;
    if (!opened) return;
    untrack(() => {
      session.shot.try(null);
      ui.retimePoints = [];
      shown = opened.fields();
      base = Object.fromEntries(shown.map((f) => [f.id, f.value]));
      values = { ...base };
      before = count();
      attempt();
    });
    return () => session.shot.try(null);
  });

  function attempt() {
    // Made of the shot as it is, not of what was tried before.
    session.shot.try(null);
    const outcome = tool!.make?.(values, false) ?? session.shot.try(tool!.edit!(values));
    refusal = outcome.refusal ?? '';
    if (tool!.isDrawn && !refusal) {
      const frames = session.shot.engine!.retimePicture(tool!.edit!(values));
      const [first, last] = [frames[0], frames[frames.length - 1]];
      picture = frames.map((f) => (f - first) / (last - first || 1));
    }
    after = count();
  }

  function set(id: string, change: (old: number) => number, isDone: boolean) {
    values = { ...values, [id]: change(base[id]) };
    if (isDone) base = { ...values };
    attempt();
  }

  function keep() {
    session.shot.try(null);
    if (tool!.make) {
      if (!tool!.make(values, true).refusal) ui.curveTool = null;
      return;
    }
    const edit = tool!.edit!(values);
    // What it says is asked of the shot before, and stays where it is refused.
    tool!.done?.(edit);
    if (session.shot.commit(edit)) ui.curveTool = null;
  }

  function keydown(e: KeyboardEvent) {
    if (e.key === 'Escape') {
      ui.curveTool = null;
      e.stopPropagation();
    } else if (e.key === 'Enter' && !(e.target as HTMLElement).closest('input, button')) keep();
  }
</script>

<svelte:window onkeydowncapture={keydown} />
{#if tool}
  <section
    class="absolute right-3 bottom-14 z-30 w-72 rounded-box border border-base-300 bg-base-200 p-3 shadow-xl"
    aria-label={tool.title}
  >
    <header class="flex items-center justify-between pb-1">
      <h2 class="text-sm font-semibold">{tool.title}</h2>
      <button
        class="btn btn-square btn-ghost btn-xs"
        aria-label="Leave it as it was"
        title="Leave it as it was (Esc)"
        onclick={() => (ui.curveTool = null)}><X size={14} /></button
      >
    </header>
    <p class="pb-2 text-xs text-base-content/80">{tool.hint}</p>
    {#each shown as field (field.id)}
      <div class="flex items-center justify-between gap-2 py-0.5 text-[13px]">
        <span>{field.label}</span>
        <div class={field.options ? 'w-36' : 'w-24'}>
          {#if field.options}
            <select
              class="select select-xs w-full"
              aria-label={field.label}
              value={String(values[field.id] ?? field.value)}
              onchange={(e) => {
                const to = Number(e.currentTarget.value);
                set(field.id, () => to, true);
              }}
              >{#each field.options as option, i (option)}<option value={String(i)}>{option}</option>{/each}</select
            >
          {:else}<NumberField
              value={values[field.id] ?? field.value}
              step={field.step}
              label={field.label}
              ontry={(change) => set(field.id, change, false)}
              oncommit={(change) => set(field.id, change, true)}
              oncancel={() => set(field.id, (old) => old, true)}
            />{/if}
        </div>
      </div>
    {/each}
    {#if tool.isDrawn}<TimeGraph {picture} onchange={attempt} />{/if}
    <!-- Its room is always there: nothing jumps from under the hand. -->
    <div class="min-h-6 pt-2 text-xs">
      {#if refusal}<p class="text-error" role="alert">{refusal}</p>
      {:else if before !== after}<p class="text-base-content/80" role="status">{before} keys become {after}.</p>{/if}
    </div>
    <div class="flex justify-end gap-2 pt-1">
      <button class="btn btn-sm" onclick={() => (ui.curveTool = null)}>Cancel</button>
      <button class="btn btn-primary btn-sm" disabled={refusal !== ''} onclick={keep}>Apply</button>
    </div>
  </section>
{/if}
