<script lang="ts">
  import { onMount } from 'svelte';
  import FrameRuler from '../render/FrameRuler.svelte';
  import Dailies from '../render/Dailies.svelte';
  import RenderSettings from '../render/RenderSettings.svelte';
  import SequencePlayer from '../render/SequencePlayer.svelte';
  import { renderSettings } from '../render/renderSettings.svelte';
  import { tip } from '../commands';
  import { side } from '../stores/panels.svelte';
  import Split from '../widgets/Split.svelte';
  import { session } from '../stores/session.svelte';

  // The shot does not play where nobody sees it.
  onMount(() => session.player.stop());

  const settings = $derived(renderSettings(session.shotId));
  const shown = $derived(session.renders.list.find((r) => r.id === settings.chosen) ?? session.renders.list[0] ?? null);
  const other = $derived(session.renders.list.find((r) => r.id === settings.compared && r.id !== shown?.id) ?? null);
</script>

{#snippet orders()}
  <div class="h-full overflow-y-auto bg-base-100">
    <RenderSettings onordered={(id) => (settings.chosen = id)} />
  </div>
{/snippet}
{#snippet player()}
  {#if shown}
    <SequencePlayer sequence={shown} {other} />
  {:else}
    <section class="flex h-full flex-col bg-(--stage)" aria-label="Picture">
      <div class="grid min-h-0 grow place-items-center p-8 text-center">
        <p class="max-w-sm text-sm">
          Nothing is rendered yet. Render the current frame first, look at it, then a small preview of all frames.
        </p>
      </div>
      <div
        class="flex h-12 shrink-0 items-center gap-2 border-t border-base-300 bg-base-200 px-3"
        role="toolbar"
        aria-label="Sequence"
      >
        <FrameRuler frame={session.frame} onframe={(to) => session.goTo(to)} />
      </div>
    </section>
  {/if}
{/snippet}
{#snippet dailies()}
  <div class="h-full overflow-y-auto bg-base-100">
    <Dailies
      chosen={shown?.id ?? null}
      compared={settings.compared}
      onchoose={(id) => (settings.chosen = id)}
      oncompare={(id) => (settings.compared = settings.compared === id ? null : id)}
    />
  </div>
{/snippet}

<div class="min-h-0 grow">
  <Split
    direction="horizontal"
    before={side('settings', 'Render settings', tip('panel.left'), orders)}
    after={side('dailies', 'Dailies', tip('panel.right'), dailies)}
    main={player}
  />
</div>
