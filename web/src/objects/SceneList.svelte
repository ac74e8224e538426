<script lang="ts">
  import { newEdit } from '../edits/edit';
  import Search from '@lucide/svelte/icons/search';
  import { tick, untrack } from 'svelte';
  import type { NodeView } from '../engine/engine';
  import { setLocked, setVisible } from './objectCommands';
  import { objectMenu } from './objectMenu';
  import AddMenu from './AddMenu.svelte';
  import { session } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import { canDrop, dropOn } from '../stores/drops';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { dropPlace, type Where, zoneOf } from './reordering';
  import { sceneLines, slice } from './sceneLines';
  import RowGlyphs, { type Glyph } from './RowGlyphs.svelte';
  import SelectMenu from './SelectMenu.svelte';
  import ObjectSets from './ObjectSets.svelte';
  import NameField from '../widgets/NameField.svelte';

  const ROW = 28;
  const closed = $derived(viewState.closed ?? new Set<string>());
  let renaming = $state<string | null>(null);
  // Where what is dragged would go: into a row, or between two.
  let dropAt = $state.raw<{ id: string; where: Where } | null>(null);
  let filter = $state('');
  let list: HTMLDivElement;
  let scroll = $state(0);
  let height = $state(400);

  const lines = $derived(sceneLines(session.shot.children, closed, filter));
  // Only the rows that can be seen are in the page.
  const shown = $derived(slice(lines.length, ROW, scroll, height));
  const selected = $derived(new Set(session.selection.ids));
  // The list is one stop of the Tab key: the row selected last, or the first that can be seen.
  const stop = $derived.by(() => {
    const last = session.selection.ids.at(-1);
    const rows = lines.slice(shown.first, shown.last);
    return (rows.find((l) => l.node.id === last) ?? rows.find((l) => selected.has(l.node.id)) ?? rows[0])?.node.id;
  });

  // A shot opens with its groups closed: what moves is at the top.
  $effect(() => {
    const { nodes } = session.shot.scene;
    if (viewState.closed === null && nodes.length > 0)
      viewState.closed = new Set(nodes.filter((n) => n.kind === 'group').map((n) => n.id));
  });

  // What is picked elsewhere is brought into view, its groups opened.
  $effect(() => {
    const id = session.selection.ids.at(-1);
    if (id && id !== clicked) untrack(() => void reveal(id));
    clicked = null;
  });
  let clicked: string | null = null;
  // Groups that were opened for what is selected, and by nobody else.
  let opened: string[] = [];

  async function reveal(id: string) {
    const above: string[] = [];
    for (let n = session.shot.byId.get(id); n?.parent; n = session.shot.byId.get(n.parent)) above.push(n.parent);
    // What was opened for the selection before is closed again.
    const left = opened.filter((g) => !above.includes(g));
    opened = [...opened.filter((g) => above.includes(g)), ...above.filter((g) => closed.has(g))];
    if (left.length > 0 || opened.some((g) => closed.has(g)))
      viewState.closed = new Set([...[...closed].filter((g) => !above.includes(g)), ...left]);
    await tick();
    toRow(lines.findIndex((l) => l.node.id === id));
  }

  function toRow(i: number) {
    if (i < 0 || !list) return;
    const top = i * ROW;
    if (top < list.scrollTop) list.scrollTop = top;
    else if (top + ROW > list.scrollTop + list.clientHeight) list.scrollTop = top + ROW - list.clientHeight;
  }

  function visible(node: NodeView) {
    void session.shot.evaluated;
    const place = session.shot.scene.channels.indexOf(node.id, 'visible');
    return place < 0 || (session.shot.shown?.values[place] ?? 1) >= 0.5;
  }

  function toggle(id: string) {
    const next = new Set(closed);
    if (!next.delete(id)) next.add(id);
    opened = opened.filter((g) => g !== id);
    viewState.closed = next;
  }

  /** All that the filter finds is selected. */
  function selectFound() {
    const found = lines.filter(({ node }) => node.name.toLowerCase().includes(filter.trim().toLowerCase()));
    session.selection.select(found.map(({ node }) => node.id));
  }

  function click(e: MouseEvent, i: number) {
    const { node } = lines[i];
    clicked = node.id;
    const from = lines.findIndex((l) => l.node.id === session.selection.anchor);
    if (e.shiftKey && from >= 0) {
      const [a, b] = [Math.min(from, i), Math.max(from, i)];
      const { anchor } = session.selection;
      session.selection.select(lines.slice(a, b + 1).map((l) => l.node.id));
      session.selection.anchor = anchor;
    } else session.selection.select([node.id], e.ctrlKey || e.metaKey);
  }

  function menu(e: MouseEvent, node: NodeView) {
    if (!selected.has(node.id)) {
      clicked = node.id;
      session.selection.select([node.id]);
    }
    contextMenu.open(e, [{ title: 'Rename', run: () => (renaming = node.id) }, ...objectMenu()]);
  }

  /** Where what is dragged would go: what is put onto an object always goes into it. */
  const zoneAt = (e: DragEvent): Where => {
    if (canDrop(e)) return 'in';
    const rect = (e.currentTarget as HTMLElement).getBoundingClientRect();
    return zoneOf((e.clientY - rect.top) / rect.height);
  };

  function drop(e: DragEvent, target: NodeView | null) {
    const ids = e.dataTransfer?.getData('application/x-nodes');
    dropAt = null;
    if (target && canDrop(e)) {
      e.preventDefault();
      e.stopPropagation();
      return dropOn(e, () => target);
    }
    if (!ids) return;
    e.preventDefault();
    e.stopPropagation();
    const moving = JSON.parse(ids) as string[];
    const place = target
      ? dropPlace(session.shot.children, closed, target, zoneAt(e), moving)
      : { parent: null, before: null };
    // With Alt it goes along to where its numbers say under the new parent.
    session.shot.commit(newEdit('reparent', { ids: moving, ...place, frame: session.frame, keep: !e.altKey }));
  }

  function keydown(e: KeyboardEvent, i: number) {
    const { node, children } = lines[i];
    const move = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10, Home: -Infinity, End: Infinity }[e.key];
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (move) {
      const to = Math.max(0, Math.min(lines.length - 1, i + move));
      const next = lines[to].node;
      clicked = next.id;
      session.selection.select([next.id], e.shiftKey && !selected.has(next.id));
      toRow(to);
      void tick().then(() => document.getElementById(`node-${next.id}`)?.focus());
    } else if (e.key === 'ArrowRight' && closed.has(node.id)) toggle(node.id);
    else if (e.key === 'ArrowLeft' && !closed.has(node.id) && children) toggle(node.id);
    else if (e.key === 'F2' || e.key === 'Enter') renaming = node.id;
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

{#snippet glyph(name: Glyph, tint = '')}
  <svg class="shrink-0 {tint}" width="14" height="14" aria-hidden="true"><use href="#glyph-{name}" /></svg>
{/snippet}

<section class="flex h-full flex-col bg-base-100" aria-label="Scene" data-part="list">
  <RowGlyphs />
  <div class="flex h-10 shrink-0 items-center gap-1 px-2">
    <label
      class="flex h-7 min-w-0 grow items-center gap-1 rounded-field bg-base-200 px-2 text-xs"
      title="Enter selects all that is found. {session.shot.scene.nodes.length} objects, {session.shot.scene.materials
        .length} materials"
    >
      <Search size={12} />
      <input
        class="w-full bg-transparent outline-none"
        placeholder="Filter"
        aria-label="Filter the objects by name"
        bind:value={filter}
        onkeydown={(e) => {
          if (e.key === 'Escape' && filter) [filter] = ['', e.stopPropagation()];
          else if (e.key === 'Enter' && filter.trim()) selectFound();
          else return;
          e.preventDefault();
        }}
      />
    </label>
    <SelectMenu />
    <AddMenu />
  </div>
  <ObjectSets />
  <div
    bind:this={list}
    bind:clientHeight={height}
    class="min-h-0 grow overflow-y-auto py-1 [contain:layout_paint_style]"
    role="tree"
    tabindex="-1"
    aria-label="Objects"
    onscroll={(e) => (scroll = e.currentTarget.scrollTop)}
    ondragover={(e) => e.preventDefault()}
    ondrop={(e) => drop(e, null)}
  >
    <div class="relative" role="presentation" style="height:{lines.length * ROW}px">
      {#each lines.slice(shown.first, shown.last) as { node, depth, children }, n (node.id)}
        {@const i = shown.first + n}
        {@const chosen = selected.has(node.id)}
        <div
          id="node-{node.id}"
          class="group absolute inset-x-0 flex h-7 [contain:layout_style] items-center gap-1 pr-1 text-[13px] {chosen
            ? 'bg-primary/25'
            : 'hover:bg-base-200'} {dropAt?.id === node.id ? `drop-${dropAt.where}` : ''}"
          style="top:{i * ROW}px;padding-left:{6 + Math.min(depth, 12) * 14}px"
          role="treeitem"
          tabindex={node.id === stop ? 0 : -1}
          aria-selected={chosen}
          aria-level={depth + 1}
          aria-posinset={i + 1}
          aria-setsize={lines.length}
          aria-expanded={children ? !closed.has(node.id) : undefined}
          draggable={renaming !== node.id}
          title={children ? `${node.name}: ${children} inside` : node.name}
          onclick={(e) => click(e, i)}
          ondblclick={() => (renaming = node.id)}
          oncontextmenu={(e) => menu(e, node)}
          onkeydown={(e) => renaming !== node.id && keydown(e, i)}
          ondragstart={(e) =>
            e.dataTransfer?.setData('application/x-nodes', JSON.stringify(chosen ? session.selection.ids : [node.id]))}
          ondragover={(e) => {
            if (!canDrop(e) && !e.dataTransfer?.types.includes('application/x-nodes')) return;
            e.preventDefault();
            const where = zoneAt(e);
            if (dropAt?.id !== node.id || dropAt.where !== where) dropAt = { id: node.id, where };
          }}
          ondragleave={() => (dropAt = null)}
          ondragend={() => (dropAt = null)}
          ondrop={(e) => drop(e, node)}
        >
          {#if children}
            <button
              class="row-button"
              tabindex="-1"
              aria-label="{closed.has(node.id) ? 'Open' : 'Close'} {node.name}"
              onclick={(e) => (e.stopPropagation(), toggle(node.id))}
            >
              {@render glyph(closed.has(node.id) && !filter ? 'closed' : 'open')}
            </button>
          {:else}<span class="w-6 shrink-0"></span>{/if}
          {@render glyph(node.kind, 'text-secondary')}
          {#if renaming === node.id}
            <NameField
              value={node.name}
              label="Name"
              class="grow"
              onname={(name) => session.shot.commit(newEdit('rename', { id: node.id, name }))}
              onend={() => (renaming = null)}
            />
          {:else}
            <span class="grow truncate {visible(node) ? '' : 'line-through opacity-60'}">{node.name}</span>
          {/if}
          <button
            class="row-button {visible(node) ? 'idle' : ''}"
            tabindex="-1"
            aria-label="{visible(node) ? 'Hide' : 'Show'} {node.name}"
            title={visible(node) ? 'Hide' : 'Show'}
            onclick={(e) => (
              e.stopPropagation(),
              setVisible(chosen ? session.selection.ids : [node.id], !visible(node))
            )}
          >
            {@render glyph(visible(node) ? 'seen' : 'hidden')}
          </button>
          <button
            class="row-button {node.locked ? '' : 'idle'}"
            tabindex="-1"
            aria-label="{node.locked ? 'Unlock' : 'Lock'} {node.name}"
            title={node.locked ? 'Unlock' : 'Lock: it can no longer be selected or moved in the view'}
            onclick={(e) => (e.stopPropagation(), setLocked(chosen ? session.selection.ids : [node.id], !node.locked))}
          >
            {@render glyph(node.locked ? 'locked' : 'unlocked')}
          </button>
        </div>
      {/each}
    </div>
    {#if lines.length === 0}
      <p class="p-4 text-sm text-base-content/80">
        {filter ? `No object is named like “${filter}”.` : 'The shot is empty. Add an object to begin.'}
      </p>
    {/if}
  </div>
</section>

<style>
  /* Two in every row: a whole button of the theme costs more to style than the row itself. */
  .row-button {
    display: grid;
    place-items: center;
    flex-shrink: 0;
    width: 1.5rem;
    height: 1.5rem;
    border-radius: var(--radius-field);
    cursor: pointer;
  }
  .row-button:hover {
    background: var(--color-base-300);
  }
  .drop-in {
    outline: 2px solid var(--color-primary);
    outline-offset: -2px;
  }
  .drop-before {
    box-shadow: 0 -2px 0 var(--color-primary);
  }
  .drop-after {
    box-shadow: 0 2px 0 var(--color-primary);
  }
  /* What says nothing is not drawn until the row is pointed at. */
  :not(:hover) > .row-button.idle:not(:focus) > svg {
    display: none;
  }
</style>
