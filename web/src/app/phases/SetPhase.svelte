<script lang="ts">
  import SceneList from '../../objects/SceneList.svelte';
  import Transport from '../../timeline/Transport.svelte';
  import Values from '../../values/Values.svelte';
  import { session } from '../../stores/session.svelte';
  import Stage from '../../viewport/Stage.svelte';
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
