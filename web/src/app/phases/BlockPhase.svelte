<script lang="ts">
  import PoseStrip from '../../poses/PoseStrip.svelte';
  import SavedShelf from '../../poses/SavedShelf.svelte';
  import Transport from '../../timeline/Transport.svelte';
  import Values from '../../values/Values.svelte';
  import Stage from '../../viewport/Stage.svelte';
  import { ui } from '../../stores/ui.svelte';
  import type { StageView } from '../../viewport/view/view';

  let view = $state.raw<StageView | null>(null);
</script>

<div class="flex min-h-0 grow">
  {#if ui.shelf}<div class="w-60 shrink-0 border-r border-base-300"><SavedShelf /></div>{/if}
  <div class="min-w-0 grow"><Stage onview={(v) => (view = v)} /></div>
  <div class="w-72 shrink-0 border-l border-base-300"><Values /></div>
</div>
<div class="h-44 shrink-0 border-t border-base-300"><PoseStrip {view} /></div>
<Transport />
