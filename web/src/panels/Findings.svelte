<script lang="ts">
  import Wrench from '@lucide/svelte/icons/wrench';
  import X from '@lucide/svelte/icons/x';
  import type { Finding } from '../engine/engine';
  import { tip } from '../state/commands';
  import { session } from '../state/session.svelte';
  import { ui } from '../state/ui.svelte';

  // What the motion checks found: click to go there, mend with a click.
  const { findings } = session;
  const words: Record<string, string> = {
    loopSeam: 'Loop seam',
    doubledFrame: 'Doubled frame',
    drift: 'Drift',
    contact: 'Contact',
    slide: 'Slide',
    overshoot: 'Overshoot',
    spacing: 'Spacing',
    kink: 'Kink',
    volume: 'Volume',
    bounce: 'Bounce',
    flip: 'Flip',
    idleKeys: 'Idle keys',
  };
  let kind = $state('');
  const kinds = $derived([...new Set(findings.list.map((f) => f.kind))]);
  const shown = $derived(findings.list.filter((f) => kind === '' || !kinds.includes(kind) || f.kind === kind));
  const where = (f: Finding) => (f.first === f.last ? `${f.first}` : `${f.first}–${f.last}`);
</script>

<aside
  class="absolute top-0 right-0 z-30 flex h-[calc(100%-3rem)] w-80 flex-col border-l border-base-300 bg-base-100 shadow-xl"
  aria-label="Findings"
>
  <header class="flex h-10 shrink-0 items-center justify-between border-b border-base-300 px-3">
    <h2 class="text-sm font-semibold">Findings{findings.list.length > 0 ? ` (${findings.list.length})` : ''}</h2>
    <span class="grow pl-2 text-xs text-base-content/75" role="status">{findings.current ? '' : 'checking…'}</span>
    <button
      class="btn btn-square btn-ghost btn-sm"
      aria-label="Close the findings"
      title={tip('findings', 'Close')}
      onclick={() => (ui.dialog = null)}><X size={16} /></button
    >
  </header>
  {#if kinds.length > 1}
    <select class="select select-sm m-2 w-auto" aria-label="Kind of findings" bind:value={kind}>
      <option value="">All kinds</option>
      {#each kinds as k (k)}<option value={k}>{words[k] ?? k}</option>{/each}
    </select>
  {/if}
  <ol class="min-h-0 grow overflow-y-auto pb-4">
    {#each shown as finding, i (i)}
      <li class="border-b border-base-300/60 px-3 py-2 text-[13px]">
        <button
          class="block w-full rounded-field p-1 text-left hover:bg-base-200"
          title="Go to frame {finding.first}"
          onclick={() => findings.show(finding)}
        >
          <span class="flex items-baseline justify-between pb-0.5"
            ><b>{words[finding.kind] ?? finding.kind}</b><span class="text-xs text-base-content/75 tabular-nums"
              >frame {where(finding)}</span
            ></span
          >
          {finding.sentence}
        </button>
        {#if finding.mend}
          <button
            class="btn mt-1 h-auto min-h-7 w-full justify-start py-1 text-left font-normal btn-xs"
            disabled={!findings.current}
            title="Mend it: undo brings it back"
            onclick={() => findings.mend(finding)}><Wrench size={14} class="shrink-0" />{finding.mend}</button
          >
        {/if}
        <button
          class="btn mt-1 font-normal btn-ghost btn-xs"
          title="It is meant so, on whatever frame: the checks say nothing of it any more"
          onclick={() => findings.mean(finding)}>It is meant</button
        >
      </li>
    {/each}
  </ol>
  {#if session.shot.scene.meant.length > 0}
    <p class="flex items-center justify-between border-t border-base-300 px-3 py-1.5 text-xs">
      {session.shot.scene.meant.length === 1 ? 'One is meant so.' : `${session.shot.scene.meant.length} are meant so.`}
      <button class="btn btn-ghost btn-xs" onclick={() => findings.findAgain()}>Find them again</button>
    </p>
  {/if}
  {#if findings.list.length === 0}
    <p class="absolute inset-x-6 top-1/3 text-center text-sm text-base-content/80">
      {findings.current
        ? 'Nothing stands out. The motion is read again after every change: loops, contacts, drifts, arcs, squashes, bounces and keys.'
        : 'The motion is being read…'}
    </p>
  {/if}
</aside>
