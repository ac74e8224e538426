<script lang="ts">
  // Ghosts on or off; how many there are, and of which frames.
  import Ghost from '@lucide/svelte/icons/ghost';
  import { run, tip } from '../commands';
  import { preferences } from '../stores/preferences.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import Popup from '../widgets/Popup.svelte';

  let isOpen = $state(false);
</script>

<Popup bind:open={isOpen} label="Ghosts">
  {#snippet trigger(props)}
    <button
      {...props}
      class="btn btn-square btn-sm {preferences.ghosts.on ? 'btn-primary' : 'border-0 bg-base-100/75'}"
      title="{tip('ghosts')}; with the right button or ↓: how many, and which"
      aria-label="Ghosts"
      aria-pressed={preferences.ghosts.on}
      onclick={() => run('ghosts')}
      onkeydown={(e) => {
        if (e.key !== 'ArrowDown') return;
        e.preventDefault();
        isOpen = true;
      }}
      oncontextmenu={(e) => {
        e.preventDefault();
        isOpen = !isOpen;
      }}><Ghost size={16} /></button
    >
  {/snippet}
  <label class="flex items-center justify-between py-0.5"
    >On each side
    <div class="w-16">
      <NumberField
        label="Ghosts on each side"
        whole
        step={0.1}
        least={1}
        most={12}
        value={preferences.ghosts.count}
        oncommit={(_, to) => (preferences.ghosts.count = to)}
      />
    </div></label
  >
  <label class="flex items-center justify-between py-0.5"
    >On
    <select class="select select-xs w-28" bind:value={preferences.ghosts.every}>
      <option value={0}>keys</option>
      {#each [1, 2, 3, 4, 6, 8, 12] as n (n)}<option value={n}>every {n} frames</option>{/each}
    </select></label
  >
  <label class="flex items-center justify-between py-0.5"
    >Fade with distance
    <input type="checkbox" class="checkbox checkbox-xs" bind:checked={preferences.ghosts.fade} /></label
  >
  <p class="pt-1 text-xs text-base-content/75">Before: blue lines. After: filled amber.</p>
</Popup>
