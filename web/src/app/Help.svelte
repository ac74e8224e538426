<script lang="ts">
  // The list of shortcuts: those of the part that has the focus, or all; found by a word, changed, cleared, taken to another browser.
  import Download from '@lucide/svelte/icons/download';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import Upload from '@lucide/svelte/icons/upload';
  import X from '@lucide/svelte/icons/x';
  import { untrack } from 'svelte';
  import { RadioGroup } from 'bits-ui';
  import { commands, readable, shortcutOf, type Command } from '../commands';
  import { clashOf, exportShortcuts, importShortcuts, keysOf, setShortcut } from '../commands/ownShortcuts';
  import { session } from '../stores/session.svelte';
  import { ui, type Part } from '../stores/ui.svelte';
  import { preferences } from '../stores/preferences.svelte';
  import Dialog from '../widgets/Dialog.svelte';

  const parts: Record<Part, { name: string; hand: string }> = {
    stage: {
      name: 'The stage',
      hand: 'Drag turns the view, the wheel goes nearer, the middle button shifts it; Ctrl snaps the handles.',
    },
    list: {
      name: 'The scene list',
      hand: 'Arrows go from row to row, ← and → close and open; drag into an object to parent, between two to reorder.',
    },
    tracks: {
      name: 'The tracks',
      hand: 'Ctrl+wheel zooms, Shift+wheel shifts; a double click puts a key on the curve, Alt splits a handle.',
    },
    poses: {
      name: 'The poses',
      hand: 'Drag retimes, with Alt a copy; arrows go from pose to pose, Alt+← → retimes; + and − change the scale.',
    },
  };
  // The dialog takes the focus itself: what had it before is meant.
  const part = untrack(() => ui.part);
  let shown = $state<'part' | 'all' | 'clashes'>('part');
  let query = $state('');
  let waiting = $state<string | null>(null);

  const clashes = $derived(commands.filter((c) => clashOf(c)));
  const found = $derived.by(() => {
    const words = query.trim().toLowerCase().split(/\s+/).filter(Boolean);
    const scope = shown === 'clashes' ? clashes : commands;
    return scope.filter((c) => {
      const text = `${c.title} ${c.group} ${c.once ?? ''} ${readable(shortcutOf(c))}`.toLowerCase();
      // A word finds everywhere.
      const isHere = words.length > 0 || shown !== 'part' || c.where?.includes(part);
      return isHere && words.every((w) => text.includes(w));
    });
  });
  const groups = $derived([...new Set(found.map((c) => c.group))]);

  function capture(e: KeyboardEvent, command: Command) {
    if (waiting !== command.id || e.key === 'Tab') return;
    e.preventDefault();
    e.stopPropagation();
    const keys = keysOf(e);
    if (!keys) return;
    waiting = null;
    if (e.key === 'Escape') return;
    change(command, keys);
  }

  /** Undo of what has just been done with them. */
  const back = (shortcuts: Record<string, string>) => ({
    label: 'Undo',
    run: () => {
      preferences.shortcuts = shortcuts;
    },
  });

  function change(command: Command, keys: string) {
    const before = $state.snapshot(preferences.shortcuts);
    const lost = setShortcut(command, keys);
    if (lost) session.messages.say(`“${lost.title}” has lost ${readable(keys)}.`, back(before));
  }

  function reset() {
    const before = $state.snapshot(preferences.shortcuts);
    preferences.shortcuts = {};
    session.messages.say('All shortcuts are as usual.', back(before));
  }

  function download() {
    const url = URL.createObjectURL(new Blob([exportShortcuts()], { type: 'application/json' }));
    Object.assign(document.createElement('a'), { href: url, download: 'shortcuts.json' }).click();
    setTimeout(() => URL.revokeObjectURL(url), 1000);
  }

  async function take(e: Event & { currentTarget: HTMLInputElement }) {
    const [file] = e.currentTarget.files ?? [];
    e.currentTarget.value = '';
    if (!file) return;
    const before = $state.snapshot(preferences.shortcuts);
    try {
      if (file.size > 1e6) throw new Error('This is no file of shortcuts: choose one that was exported here.');
      const { taken, unknown } = importShortcuts(await file.text());
      const left = unknown.length > 0 ? ` ${unknown.length} of commands that are not known were left out.` : '';
      session.messages.say(`${taken === 1 ? 'One shortcut' : `${taken} shortcuts`} taken over.${left}`, back(before));
    } catch (error) {
      session.messages.say((error as Error).message);
    }
  }
</script>

<Dialog onleave={() => ui.leave('help')} title="Shortcuts" wide>
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <input
      class="input input-sm w-56"
      placeholder="Filter by word or key"
      aria-label="Filter the shortcuts"
      bind:value={query}
    />
    <RadioGroup.Root class="join" bind:value={shown} aria-label="Which shortcuts" orientation="horizontal">
      {#each [['part', parts[part].name], ['all', 'All'], ['clashes', `Conflicts (${clashes.length})`]] as const as [value, name] (value)}
        <RadioGroup.Item {value} class="btn join-item btn-sm {shown === value ? 'btn-primary' : ''}"
          >{name}</RadioGroup.Item
        >
      {/each}
    </RadioGroup.Root>
    <span class="grow"></span>
    <button class="btn btn-sm" onclick={download}><Download size={14} />Export</button>
    <label class="btn btn-sm focus-within:outline-2 focus-within:outline-primary"
      ><Upload size={14} />Import<input
        type="file"
        class="sr-only"
        accept="application/json,.json"
        aria-label="Import shortcuts"
        onchange={take}
      /></label
    >
    <button class="btn btn-sm" onclick={reset}>Reset all</button>
  </div>
  <p class="mb-3 text-sm">
    {shown === 'part' && !query ? parts[part].hand : 'Click a shortcut and press other keys to change it; × clears it.'}
  </p>
  <div class="columns-2 gap-6 max-md:columns-1">
    {#each groups as group (group)}
      <section class="mb-4 break-inside-avoid-column">
        <h3 class="pb-1 text-sm font-semibold text-secondary">{group}</h3>
        {#each found.filter((c) => c.group === group) as command (command.id)}
          {@const clash = clashOf(command)}
          <div class="flex items-center justify-between gap-1 py-0.5 text-[13px]">
            <span class="grow"
              >{command.title}{#if command.where && shown !== 'part'}
                <span class="text-xs text-base-content/75"
                  >· {command.where.map((p) => parts[p].name.replace('The ', '')).join(', ')}</span
                >{/if}</span
            >
            {#if clash}<span
                class="flex items-center gap-1 text-xs text-warning"
                title="“{clash.title}” has the same keys: only one of the two is reached"
                ><TriangleAlert size={13} />conflict</span
              >{/if}
            <button
              class="kbd min-h-6 shrink-0 {waiting === command.id ? 'bg-primary/40' : ''}"
              aria-label="Change the shortcut of {command.title}"
              onclick={() => (waiting = command.id)}
              onblur={() => (waiting = null)}
              onkeydown={(e) => capture(e, command)}
              >{waiting === command.id ? 'press keys' : readable(shortcutOf(command)) || '–'}</button
            >
            <button
              class="btn btn-square btn-ghost btn-xs {shortcutOf(command) ? '' : 'invisible'}"
              title="Clear"
              aria-label="Clear the shortcut of {command.title}"
              onclick={() => change(command, '')}><X size={13} /></button
            >
          </div>
        {/each}
      </section>
    {:else}<p class="text-sm">
        {shown === 'clashes' && !query
          ? 'No two commands have the same keys.'
          : 'No shortcut of that name. Try another word.'}
      </p>{/each}
  </div>
</Dialog>
