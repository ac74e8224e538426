<script lang="ts">
  import Wrench from '@lucide/svelte/icons/wrench';
  import X from '@lucide/svelte/icons/x';
  import type { Finding } from '../engine/engine';
  import { tip } from '../commands';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';

  // What the motion checks found: click to go there, mend with a click.
  const { findings } = session;
  const words: Record<Finding['kind'], string> = {
    loopSeam: 'Loop seam',
    doubledFrame: 'Duplicate frame',
    drift: 'Drift',
    contact: 'Intersection',
    slide: 'Slide',
    overshoot: 'Overshoot',
    spacing: 'Spacing',
    kink: 'Kink',
    volume: 'Volume',
    bounce: 'Bounce',
    flip: 'Flip',
    idleKeys: 'Redundant keys',
  };
  let kind = $state<Finding['kind'] | ''>('');
  const kinds = $derived([...new Set(findings.list.map((f) => f.kind))]);
  /** By kind, in the order in which these come first. */
  const groups = $derived(
    kinds
      .filter((k) => kind === '' || !kinds.includes(kind) || k === kind)
      .map((k) => {
        const list = findings.list.filter((f) => f.kind === k);
        return { kind: k, list, mends: list.filter((f) => f.mend) };
      }),
  );
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
  <div class="min-h-0 grow overflow-y-auto pb-4">
    {#each groups as { kind: k, list, mends } (k)}
      <section aria-label={words[k] ?? k}>
        <h3 class="sticky top-0 flex min-h-9 items-center justify-between bg-base-200 py-0.5 pr-2 pl-4 text-[13px]">
          <span
            ><b>{words[k] ?? k}</b>{#if list.length > 1}<span class="pl-2 text-xs text-base-content/75 tabular-nums"
                >{list.length}</span
              >{/if}</span
          >
          {#if mends.length > 1}
            <button
              class="btn font-normal btn-sm"
              disabled={!findings.current}
              title="Fix all of these in one step: undo brings them back"
              onclick={() => findings.mendAll(mends)}
              ><Wrench size={14} class="shrink-0" />Fix {mends.length === list.length
                ? `all ${mends.length}`
                : `${mends.length} of them`}</button
            >
          {/if}
        </h3>
        <ol>
          {#each list as finding, i (i)}
            <li class="border-b border-base-300/60 px-3 py-1.5 text-[13px]">
              <button
                class="flex w-full items-baseline justify-between gap-3 rounded-field p-1 text-left hover:bg-base-200"
                title="Go to frame {finding.first}"
                onclick={() => findings.show(finding)}
              >
                <span>{finding.sentence}</span>
                <span class="shrink-0 text-xs text-base-content/75 tabular-nums">{where(finding)}</span>
              </button>
              <div class="flex items-start gap-1">
                {#if finding.mend}
                  <button
                    class="btn h-auto min-h-7 w-0 grow justify-start py-1 text-left font-normal text-wrap btn-xs"
                    disabled={!findings.current}
                    title="Fix it: undo brings it back"
                    onclick={() => findings.mend(finding)}
                    ><Wrench size={14} class="shrink-0" /><span>{finding.mend}</span></button
                  >
                {/if}
                <button
                  class="btn min-h-7 shrink-0 font-normal btn-ghost btn-xs"
                  title="Ignore it, on whatever frame"
                  onclick={() => findings.mean(finding)}>Ignore</button
                >
              </div>
            </li>
          {/each}
        </ol>
      </section>
    {/each}
  </div>
  {#if session.shot.scene.meant.length > 0}
    <p class="flex items-center justify-between border-t border-base-300 px-3 py-1.5 text-xs">
      {session.shot.scene.meant.length === 1 ? 'One is ignored.' : `${session.shot.scene.meant.length} are ignored.`}
      <button class="btn btn-ghost btn-xs" onclick={() => findings.findAgain()}>Show ignored</button>
    </p>
  {/if}
  {#if findings.list.length === 0}
    <p class="absolute inset-x-6 top-1/3 text-center text-sm text-base-content/80">
      {findings.current
        ? 'No issues found. The motion is read again after every change: loops, contacts, drifts, arcs, squashes, bounces and keys.'
        : 'The motion is being read…'}
    </p>
  {/if}
</aside>
