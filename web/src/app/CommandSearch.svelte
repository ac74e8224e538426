<script lang="ts">
  import Fuse from 'fuse.js';
  import { commands, readable, shortcutOf } from '../commands';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import Dialog from '../widgets/Dialog.svelte';
  import { focused } from '../widgets/focus';

  let query = $state('');
  let at = $state(0);

  interface Found {
    title: string;
    once?: string;
    group: string;
    keys: string;
    run(): void;
  }
  const all: Found[] = [
    ...commands.map((c) => ({ title: c.title, once: c.once, group: c.group, keys: shortcutOf(c), run: c.run })),
    ...session.shot.scene.nodes.map((n) => ({
      title: `Select ${n.name}`,
      group: 'Objects',
      keys: '',
      run: () => session.selection.select([n.id]),
    })),
  ];
  const fuse = new Fuse(all, {
    keys: [{ name: 'title', weight: 3 }, 'once', 'group'],
    threshold: 0.4,
    // What is found near the beginning of a title comes first.
    distance: 400,
    includeScore: true,
  });
  const found = $derived(query ? ranked(query) : all.slice(0, 30));

  /** A word that begins so counts more than letters inside one, and of two alike the one that people have a shortcut for. */
  function ranked(text: string): Found[] {
    const word = new RegExp(`(^|[^\\p{L}])${text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}`, 'iu');
    const better = ({ title, keys }: Found) => (word.test(title) ? 0.2 : 0) + (keys ? 0.15 : 0);
    return fuse
      .search(text, { limit: 60 })
      .map((r) => ({ item: r.item, score: (r.score ?? 1) - better(r.item) }))
      .sort((a, b) => a.score - b.score)
      .slice(0, 30)
      .map((r) => r.item);
  }

  function go(item: Found | undefined) {
    ui.dialog = null;
    item?.run();
  }

  function keydown(e: KeyboardEvent) {
    if (e.key === 'ArrowDown') at = Math.min(at + 1, found.length - 1);
    else if (e.key === 'ArrowUp') at = Math.max(at - 1, 0);
    else if (e.key === 'Enter') go(found[at]);
    else return;
    e.preventDefault();
    document.getElementById(`command-${at}`)?.scrollIntoView({ block: 'nearest' });
  }
</script>

<Dialog onleave={() => ui.leave('search')} title="Search for a command">
  <input
    class="input w-full"
    placeholder="What do you want to do?"
    aria-label="Command"
    {@attach focused}
    bind:value={query}
    oninput={() => (at = 0)}
    onkeydown={keydown}
  />
  <ul class="mt-2 flex h-80 flex-col overflow-y-auto" role="listbox" aria-label="Commands">
    {#each found as item, i (item.group + item.title + i)}
      <li>
        <button
          id="command-{i}"
          role="option"
          aria-selected={i === at}
          class="flex w-full items-center justify-between rounded-field px-3 py-1.5 text-left {i === at
            ? 'bg-primary/25'
            : 'hover:bg-base-200'}"
          onclick={() => go(item)}
        >
          <span>{item.title} <span class="text-xs text-base-content/75">{item.group}</span></span>
          {#if item.keys}<kbd class="kbd kbd-sm">{readable(item.keys)}</kbd>{/if}
        </button>
      </li>
    {:else}<li class="p-3 text-sm">Nothing of that name. Try another word.</li>{/each}
  </ul>
</Dialog>
