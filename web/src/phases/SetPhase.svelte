<script lang="ts">
  import SceneList from '../panels/SceneList.svelte';
  import Transport from '../panels/Transport.svelte';
  import Values from '../panels/Values.svelte';
  import { session } from '../state/session.svelte';
  import Stage from '../stage/Stage.svelte';
</script>

<div class="flex min-h-0 grow">
  <div class="w-56 shrink-0 border-r border-base-300">
    {#if session.seen}<SceneList />{/if}
  </div>
  <div class="min-w-0 grow"><Stage /></div>
  <div class="w-72 shrink-0 border-l border-base-300">
    {#if session.seen}<Values />{/if}
  </div>
</div>
<Transport />
