<script lang="ts" module>
  import type { Snippet } from 'svelte';

  /** A panel at a side of what is large. */
  export interface Side {
    /** What it holds, said on the rail that is left when it is folded away, and to a screen reader. */
    label: string;
    /** In pixels of the page. */
    size: number;
    least: number;
    shut: boolean;
    /** How to fold it, with the shortcut. */
    hint: string;
    content: Snippet;
    onsize(size: number): void;
    onshut(shut: boolean): void;
  }
</script>

<script lang="ts">
  // What is large, with panels at its sides that are sized, folded away and brought back. Sizes are in pixels, and stay when the window changes.
  import { Pane, PaneGroup, PaneResizer } from 'paneforge';
  import { untrack } from 'svelte';

  let {
    direction,
    before,
    after,
    main,
  }: { direction: 'horizontal' | 'vertical'; before?: Side | null; after?: Side | null; main: Snippet } = $props();

  const across = $derived(direction === 'horizontal');
  let width = $state(window.innerWidth);
  let height = $state(window.innerHeight);
  const total = $derived(Math.max(1, across ? width : height));
  /** What is large keeps so much, however large its sides were made in another window. */
  const MAIN = 160;
  const RAIL = 24;
  const open = $derived([before, after].filter((s) => s && !s.shut).length);
  // A pane that goes with its side asks once more how small it may be.
  const part = (side: Side | null | undefined) =>
    side ? (100 * Math.max(side.least, Math.min(side.size, (total - MAIN) / Math.max(1, open)))) / total : 0;
  const idOf = (side: Side) => `pane-${side.label.replaceAll(' ', '-')}`;
  const least = (side: Side | null | undefined) => (side ? Math.min(part(side), (100 * side.least) / total) : 0);

  let beforePane = $state<Pane>();
  let afterPane = $state<Pane>();
  // Whether a hand, or a key, is on a border: everything else that changes sizes is no wish of anybody.
  let byHand = false;
  let began = 0;
  const sides = $derived([
    [beforePane, before],
    [afterPane, after],
  ] as const);
  $effect(() => {
    void [total, before?.size, after?.size];
    const now = sides;
    untrack(() => {
      if (byHand) return;
      for (const [pane, side] of now)
        if (pane && side && Math.abs(pane.getSize() - part(side)) > 0.01) pane.resize(part(side));
    });
  });

  function sized(side: Side, percent: number) {
    const size = Math.round((percent * total) / 100);
    if (byHand && size > 0 && size !== side.size) side.onsize(size);
  }
  /** The border goes with its panel, and would not say that the hand has left it. */
  function collapsed(side: Side) {
    if (!byHand) return;
    byHand = false;
    // It comes back as large as it was before the hand made it small.
    side.onsize(began);
    side.onshut(true);
  }
  function keyed(e: KeyboardEvent) {
    if (!e.key.startsWith('Arrow')) return;
    byHand = true;
    setTimeout(() => (byHand = false));
  }
</script>

{#snippet rail(side: Side)}
  <button
    class="flex shrink-0 items-center justify-center bg-base-200 text-xs hover:bg-base-300 {across
      ? 'h-full [writing-mode:vertical-rl]'
      : 'w-full'}"
    style="{across ? 'width' : 'height'}:{RAIL}px"
    title={side.hint}
    aria-expanded="false"
    onclick={() => side.onshut(false)}>{side.label}</button
  >
{/snippet}

{#snippet border(side: Side)}
  <!-- Wider for the hand than for the eye. -->
  <PaneResizer
    class="group relative shrink-0 bg-base-300 outline-none {across ? 'w-px' : 'h-px'}"
    aria-label="Border of {side.label}"
    title="Drag to size {side.label}; double click to fold it away"
    onDraggingChange={(on: boolean) => {
      byHand = on;
      if (on) began = side.size;
    }}
    onkeydowncapture={keyed}
    ondblclick={() => side.onshut(true)}
  >
    <span
      class="absolute z-20 rounded-full group-hover:bg-primary/60 group-focus-visible:bg-primary group-data-[active=pointer]:bg-primary {across
        ? 'inset-y-0 -left-1 w-2 cursor-col-resize'
        : 'inset-x-0 -top-1 h-2 cursor-row-resize'}"
    ></span>
  </PaneResizer>
{/snippet}

<div class="flex h-full min-h-0 w-full min-w-0 {across ? 'flex-row' : 'flex-col'}">
  {#if before?.shut}{@render rail(before)}{/if}
  <div class="min-h-0 min-w-0 grow" bind:clientWidth={width} bind:clientHeight={height}>
    <PaneGroup {direction} keyboardResizeBy={2}>
      {#if before && !before.shut}
        <Pane
          bind:this={beforePane}
          id={idOf(before)}
          order={1}
          defaultSize={part(before)}
          minSize={least(before)}
          collapsible
          collapsedSize={0}
          onCollapse={() => before && collapsed(before)}
          onResize={(p) => before && sized(before, p)}>{@render before.content()}</Pane
        >
        {@render border(before)}
      {/if}
      <Pane id="pane-main-{direction}" order={2} minSize={1}>{@render main()}</Pane>
      {#if after && !after.shut}
        {@render border(after)}
        <Pane
          bind:this={afterPane}
          id={idOf(after)}
          order={3}
          defaultSize={part(after)}
          minSize={least(after)}
          collapsible
          collapsedSize={0}
          onCollapse={() => after && collapsed(after)}
          onResize={(p) => after && sized(after, p)}>{@render after.content()}</Pane
        >
      {/if}
    </PaneGroup>
  </div>
  {#if after?.shut}{@render rail(after)}{/if}
</div>
