<script lang="ts">
  import { areApart, commands, readable, shortcutOf, type Command } from '../commands';
  import { ui } from '../stores/ui.svelte';
  import { preferences } from '../stores/preferences.svelte';
  import Dialog from '../widgets/Dialog.svelte';

  let waiting = $state<string | null>(null);
  const groups = [...new Set(commands.map((c) => c.group))];

  function capture(e: KeyboardEvent, command: Command) {
    if (waiting !== command.id) return;
    e.preventDefault();
    e.stopPropagation();
    if (['Control', 'Shift', 'Alt', 'Meta'].includes(e.key)) return;
    waiting = null;
    if (e.key === 'Escape') return;
    // By what it writes, so that it is where the letter is on any keyboard.
    const letter = e.key === ' ' ? 'Space' : e.key.length === 1 ? e.key.toLowerCase() : e.key;
    const keys = [e.ctrlKey || e.metaKey ? '$mod' : '', e.shiftKey ? 'Shift' : '', e.altKey ? 'Alt' : '', letter]
      .filter(Boolean)
      .join('+');
    // A shortcut belongs to one command in each part of the page: who had it loses it.
    for (const other of commands)
      if (other.id !== command.id && shortcutOf(other) === keys && !areApart(other, command))
        preferences.shortcuts[other.id] = '';
    preferences.shortcuts[command.id] = keys;
  }
</script>

<Dialog onleave={() => ui.leave('help')} title="Shortcuts" wide>
  <p class="mb-3 text-sm">
    Click a shortcut and press other keys to change it. In the stage: drag turns the view, the wheel goes nearer, the
    middle button shifts it; Ctrl snaps the handles. In the tracks: Ctrl+wheel zooms, Shift+wheel shifts, a double click
    puts a key on the curve, Alt splits a handle.
  </p>
  <div class="columns-2 gap-6">
    {#each groups as group (group)}
      <section class="mb-4 break-inside-avoid">
        <h3 class="pb-1 text-sm font-semibold text-secondary">{group}</h3>
        {#each commands.filter((c) => c.group === group) as command (command.id)}
          <div class="flex items-center justify-between gap-2 py-0.5 text-[13px]">
            <span>{command.title}</span>
            <button
              class="kbd kbd-sm shrink-0 {waiting === command.id ? 'bg-primary/40' : ''}"
              aria-label="Change the shortcut of {command.title}"
              onclick={() => (waiting = command.id)}
              onkeydown={(e) => capture(e, command)}
              >{waiting === command.id ? 'press keys' : readable(shortcutOf(command)) || '–'}</button
            >
          </div>
        {/each}
      </section>
    {/each}
  </div>
  <button class="btn btn-sm" onclick={() => (preferences.shortcuts = {})}>Back to the usual shortcuts</button>
</Dialog>
