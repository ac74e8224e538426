<script lang="ts">
  import KeyFields from '../panels/KeyFields.svelte';
  import EaseShelf from '../panels/EaseShelf.svelte';
  import Transport from '../panels/Transport.svelte';
  import Values from '../panels/Values.svelte';
  import Stage from '../stage/Stage.svelte';
  import { session } from '../state/session.svelte';
  import { run } from '../state/commands';
  import Tracks from '../tracks/Tracks.svelte';

  const handles = [
    { id: 'handle.auto', label: 'Auto', hint: 'flat at extremes, never beyond its keys' },
    { id: 'handle.smooth', label: 'Smooth', hint: 'through the key, may overshoot' },
    { id: 'handle.flat', label: 'Flat', hint: 'level' },
    { id: 'handle.straight', label: 'Straight', hint: 'aims at the neighbour' },
    { id: 'split', label: 'Split', hint: 'the two sides point apart' },
    { id: 'join', label: 'Join', hint: 'the two sides turn together' },
  ];
</script>

<div class="flex h-[38%] min-h-0 shrink-0">
  <div class="min-w-0 grow"><Stage /></div>
  <div class="w-72 shrink-0 border-l border-base-300"><Values /></div>
</div>
<div class="flex shrink-0 items-center border-y border-base-300 bg-base-100">
  <div class="min-w-0 grow"><EaseShelf /></div>
  <div class="flex shrink-0 items-center gap-1 px-2" role="toolbar" aria-label="Handles">
    {#each handles as h (h.id)}
      <button
        class="btn btn-xs"
        title="{h.label}: {h.hint}"
        disabled={session.selection.keys.length === 0}
        onclick={() => run(h.id)}>{h.label}</button
      >
    {/each}
  </div>
</div>
<div class="min-h-0 grow"><Tracks /></div>
<Transport>
  {#snippet middle()}<KeyFields />{/snippet}
</Transport>
