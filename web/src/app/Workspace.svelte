<script lang="ts">
  // The stage with what lies round it. It stays the same in all phases but the last: what is below it changes, and how large it is.
  import { tip } from '../commands';
  import PoseStrip from '../poses/PoseStrip.svelte';
  import KeyFields from '../curves/KeyFields.svelte';
  import { side } from '../stores/panels.svelte';
  import { session } from '../stores/session.svelte';
  import Transport from '../timeline/Transport.svelte';
  import Values from '../values/Values.svelte';
  import Stage from '../viewport/Stage.svelte';
  import type { StageView } from '../viewport/view/view';
  import Split from '../widgets/Split.svelte';
  import LeftPanel from './LeftPanel.svelte';
  import CurvePanel from './CurvePanel.svelte';

  let view = $state.raw<StageView | null>(null);
  const below = $derived(session.phase === 'block' ? 'poses' : session.phase === 'polish' ? 'tracks' : null);
</script>

{#snippet left()}
  {#if session.seen}<LeftPanel />{/if}
{/snippet}
{#snippet right()}
  {#if session.seen}<Values />{/if}
{/snippet}
{#snippet stage()}<Stage onview={(v) => (view = v)} />{/snippet}
{#snippet upper()}
  <Split
    direction="horizontal"
    before={side('left', 'Scene', tip('panel.left'), left)}
    after={side('right', 'Values', tip('panel.right'), right)}
    main={stage}
  />
{/snippet}
{#snippet lower()}
  {#if below === 'poses'}<PoseStrip {view} />{:else}<CurvePanel />{/if}
{/snippet}

<div class="min-h-0 grow">
  <Split
    direction="vertical"
    main={upper}
    after={below ? side(below, below === 'poses' ? 'Poses' : 'Tracks', tip('panel.below'), lower) : null}
  />
</div>
{#snippet keyFields()}<KeyFields />{/snippet}
<Transport middle={below === 'tracks' ? keyFields : undefined} />
