<script lang="ts">
  import Box from '@lucide/svelte/icons/box';
  import Camera from '@lucide/svelte/icons/camera';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Eye from '@lucide/svelte/icons/eye';
  import EyeOff from '@lucide/svelte/icons/eye-off';
  import Folder from '@lucide/svelte/icons/folder';
  import Lightbulb from '@lucide/svelte/icons/lightbulb';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import Plus from '@lucide/svelte/icons/plus';
  import Sun from '@lucide/svelte/icons/sun';
  import type { Edit, NodeView } from '../engine/engine';
  import { newNode, type NewKind } from '../state/creation';
  import { session } from '../state/session.svelte';
  import { ui } from '../state/ui.svelte';

  const closed = $derived(ui.closed.groups);
  let renaming = $state<string | null>(null);
  let dropTarget = $state<string | null>(null);
  let addOpen = $state(false);

  const icons = { group: Folder, mesh: Box, camera: Camera, sun: Sun, lamp: Lightbulb };
  const kinds: { kind: NewKind; label: string }[] = [
    { kind: 'box', label: 'Box' },
    { kind: 'sphere', label: 'Ball' },
    { kind: 'cylinder', label: 'Cylinder' },
    { kind: 'torus', label: 'Ring' },
    { kind: 'plane', label: 'Plane' },
    { kind: 'group', label: 'Group' },
    { kind: 'camera', label: 'Camera' },
    { kind: 'sun', label: 'Sun' },
    { kind: 'lamp', label: 'Lamp' },
  ];

  interface Line {
    node: NodeView;
    depth: number;
    children: number;
  }

  const lines = $derived.by(() => {
    const children = new Map<string | null, NodeView[]>();
    for (const n of session.scene.nodes) {
      const list = children.get(n.parent);
      if (list) list.push(n);
      else children.set(n.parent, [n]);
    }
    const out: Line[] = [];
    const walk = (parent: string | null, depth: number) => {
      for (const node of children.get(parent) ?? []) {
        const count = children.get(node.id)?.length ?? 0;
        out.push({ node, depth, children: count });
        if (!closed.has(node.id)) walk(node.id, depth + 1);
      }
    };
    walk(null, 0);
    return out;
  });

  // A shot opens with its groups closed: what moves is at the top.
  $effect(() => {
    const shot = session.shotId;
    if (shot === ui.closed.shot || session.scene.nodes.length === 0) return;
    ui.closed = { shot, groups: new Set(session.scene.nodes.filter((n) => n.kind === 'group').map((n) => n.id)) };
  });

  const visible = (node: NodeView) => {
    void session.evaluated;
    const channel = session.channel.get(`${node.id}/visible`);
    return !channel || (session.shown?.values[channel.index] ?? 1) >= 0.5;
  };

  function toggle(id: string) {
    const next = new Set(closed);
    if (!next.delete(id)) next.add(id);
    ui.closed = { shot: session.shotId, groups: next };
  }

  function rename(node: NodeView, name: string) {
    renaming = null;
    if (name.trim() && name !== node.name) session.commit({ kind: 'rename', id: node.id, name });
  }

  function setLocked(node: NodeView) {
    const data = { ...node.data, locked: !node.locked };
    session.commit({ kind: 'replaceNode', node: data } as unknown as Edit);
  }

  function drop(e: DragEvent, target: NodeView | null) {
    e.preventDefault();
    e.stopPropagation();
    dropTarget = null;
    const ids = e.dataTransfer?.getData('application/x-nodes');
    if (ids)
      session.commit({
        kind: 'reparent',
        ids: JSON.parse(ids),
        parent: target?.id ?? null,
        frame: session.frame,
      } as Edit);
  }

  function keydown(e: KeyboardEvent, i: number) {
    const { node } = lines[i];
    const move = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (move) {
      const next = lines[i + move];
      if (next) {
        session.select([next.node.id]);
        document.getElementById(`node-${next.node.id}`)?.focus();
      }
    } else if (e.key === 'ArrowRight' && closed.has(node.id)) toggle(node.id);
    else if (e.key === 'ArrowLeft' && !closed.has(node.id) && lines[i].children) toggle(node.id);
    else if (e.key === 'F2' || e.key === 'Enter') renaming = node.id;
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Scene">
  <header class="flex h-10 shrink-0 items-center justify-between border-b border-base-300 px-3">
    <h2
      class="text-sm font-semibold"
      title="{session.scene.nodes.length} objects, {session.scene.materials.length} materials"
    >
      Scene
    </h2>
    <div class="relative">
      <button
        class="btn btn-ghost btn-sm"
        aria-haspopup="menu"
        aria-expanded={addOpen}
        title="Add an object"
        onclick={() => (addOpen = !addOpen)}><Plus size={16} />Add</button
      >
      {#if addOpen}
        <ul
          class="menu absolute right-0 z-30 w-36 rounded-box border border-base-300 bg-base-200 p-1 shadow-xl"
          role="menu"
        >
          {#each kinds as { kind, label } (kind)}
            <li role="none">
              <button role="menuitem" onclick={() => ((addOpen = false), newNode(kind))}>{label}</button>
            </li>
          {/each}
        </ul>
      {/if}
    </div>
  </header>
  <div
    class="grow overflow-y-auto py-1"
    role="tree"
    tabindex="-1"
    aria-label="Objects"
    ondragover={(e) => e.preventDefault()}
    ondrop={(e) => drop(e, null)}
  >
    {#each lines as { node, depth, children }, i (node.id)}
      {@const Icon = icons[node.kind]}
      {@const chosen = session.selection.includes(node.id)}
      <div
        id="node-{node.id}"
        class="group flex h-7 items-center gap-1 pr-1 text-[13px] {chosen
          ? 'bg-primary/25'
          : 'hover:bg-base-200'} {dropTarget === node.id ? 'outline-2 outline-primary' : ''}"
        style="padding-left:{6 + depth * 14}px"
        role="treeitem"
        tabindex={chosen || (i === 0 && session.selection.length === 0) ? 0 : -1}
        aria-selected={chosen}
        aria-level={depth + 1}
        aria-expanded={children ? !closed.has(node.id) : undefined}
        draggable={renaming !== node.id}
        title={children ? `${node.name}: ${children} inside` : node.name}
        onclick={(e) => session.select([node.id], e.shiftKey || e.ctrlKey)}
        ondblclick={() => (renaming = node.id)}
        onkeydown={(e) => renaming !== node.id && keydown(e, i)}
        ondragstart={(e) =>
          e.dataTransfer?.setData('application/x-nodes', JSON.stringify(chosen ? session.selection : [node.id]))}
        ondragover={(e) => {
          e.preventDefault();
          dropTarget = node.id;
        }}
        ondragleave={() => (dropTarget = null)}
        ondrop={(e) => drop(e, node)}
      >
        {#if children}
          <button
            class="btn btn-square btn-ghost btn-xs"
            tabindex="-1"
            aria-label="{closed.has(node.id) ? 'Open' : 'Close'} {node.name}"
            onclick={(e) => (e.stopPropagation(), toggle(node.id))}
          >
            {#if closed.has(node.id)}<ChevronRight size={14} />{:else}<ChevronDown size={14} />{/if}
          </button>
        {:else}<span class="w-6 shrink-0"></span>{/if}
        <Icon size={14} class="shrink-0 text-secondary" />
        {#if renaming === node.id}
          <!-- svelte-ignore a11y_autofocus -->
          <input
            class="input input-xs grow"
            value={node.name}
            autofocus
            aria-label="Name"
            onfocus={(e) => e.currentTarget.select()}
            onblur={(e) => rename(node, e.currentTarget.value)}
            onkeydown={(e) => (e.key === 'Enter' ? e.currentTarget.blur() : e.key === 'Escape' && (renaming = null))}
          />
        {:else}
          <span class="grow truncate {visible(node) ? '' : 'line-through opacity-60'}">{node.name}</span>
        {/if}
        <button
          class="btn btn-square btn-ghost btn-xs {visible(node)
            ? 'opacity-0 group-hover:opacity-100 focus:opacity-100'
            : ''}"
          tabindex="-1"
          aria-label="{visible(node) ? 'Hide' : 'Show'} {node.name}"
          title={visible(node) ? 'Hide' : 'Show'}
          onclick={(e) => (
            e.stopPropagation(),
            session.pose([{ address: `${node.id}/visible`, value: visible(node) ? 0 : 1 }], true)
          )}
        >
          {#if visible(node)}<Eye size={14} />{:else}<EyeOff size={14} />{/if}
        </button>
        <button
          class="btn btn-square btn-ghost btn-xs {node.locked
            ? ''
            : 'opacity-0 group-hover:opacity-100 focus:opacity-100'}"
          tabindex="-1"
          aria-label="{node.locked ? 'Unlock' : 'Lock'} {node.name}"
          title={node.locked ? 'Unlock' : 'Lock: it can no longer be picked or moved in the view'}
          onclick={(e) => (e.stopPropagation(), setLocked(node))}
        >
          {#if node.locked}<Lock size={14} />{:else}<LockOpen size={14} />{/if}
        </button>
      </div>
    {:else}
      <p class="p-4 text-sm text-base-content/80">The shot is empty. Add an object to begin.</p>
    {/each}
  </div>
</section>
