<script lang="ts">
  // What changes with every picture, over the tracks: the playhead, and which frames are evaluated and kept. It moves; nothing else is drawn again.
  import { session } from '../stores/session.svelte';
  import type { TimeScale } from '../stores/timeScale';
  import { RULER } from './model';

  let { time, width }: { time: TimeScale; width: number } = $props();

  const x = $derived(Math.round(time.x(session.frame)));
  const kept = $derived.by(() => {
    let path = '';
    const { kept } = session.shot;
    for (let i = 0; i < kept.length; i += 2)
      path += `M${time.x(kept[i] - 0.5).toFixed(1)} 0H${time.x(kept[i + 1] + 0.5).toFixed(1)}`;
    return path;
  });
</script>

<div class="pointer-events-none absolute inset-y-0 right-0 overflow-hidden" style="width:{width}px" aria-hidden="true">
  <svg class="absolute left-0 h-0.5 w-full stroke-accent" style="top:{RULER - 2}px" data-testid="tracks-kept">
    <path d={kept} stroke-width="4" />
  </svg>
  <div class="absolute inset-y-0 left-0" style="transform:translateX({x}px)" data-testid="tracks-playhead">
    <div class="absolute inset-y-0 -left-px w-0.5 bg-primary"></div>
    <span
      class="absolute top-px left-0 min-w-6 -translate-x-1/2 rounded-md bg-primary px-1.5 text-center text-xs leading-[18px] font-semibold text-base-100"
      >{session.frame}</span
    >
  </div>
</div>
