<script lang="ts">
  // How the stage is looked at: the buttons at its right edge.
  import Camera from '@lucide/svelte/icons/camera';
  import Columns2 from '@lucide/svelte/icons/columns-2';
  import Frame from '@lucide/svelte/icons/frame';
  import Grid2x2 from '@lucide/svelte/icons/grid-2x2';
  import Grid3x3 from '@lucide/svelte/icons/grid-3x3';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import Maximize from '@lucide/svelte/icons/maximize';
  import Square from '@lucide/svelte/icons/square';
  import Video from '@lucide/svelte/icons/video';
  import { run, tip } from '../commands';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import GhostSettings from './GhostSettings.svelte';

  const camera = $derived(viewState.throughCamera ? session.shot.scene.camera : null);
</script>

<div class="absolute top-2 right-2 flex gap-1">
  {#if session.phase === 'set'}
    <div class="join" role="group" aria-label="How many views">
      {#each [1, 2, 4] as const as n (n)}
        <button
          class="btn join-item btn-square btn-sm {viewState.layout === n ? 'btn-primary' : 'border-0 bg-base-100/75'}"
          title={tip(`views.${n}`)}
          aria-label="{n} {n === 1 ? 'view' : 'views'}"
          aria-pressed={viewState.layout === n}
          onclick={() => run(`views.${n}`)}
          >{#if n === 1}<Square size={14} />{:else if n === 2}<Columns2 size={14} />{:else}<Grid2x2
              size={14}
            />{/if}</button
        >
      {/each}
    </div>
  {/if}
  {#if camera}
    <button
      class="btn btn-square btn-sm {viewState.steerCamera ? 'btn-primary' : 'border-0 bg-base-100/75'}"
      title={viewState.steerCamera
        ? 'Moving the view moves the camera: click to lock it'
        : 'The camera is locked against the view: click to steer it'}
      aria-label="Move camera with view"
      aria-pressed={viewState.steerCamera}
      onclick={() => (viewState.steerCamera = !viewState.steerCamera)}
      >{#if viewState.steerCamera}<LockOpen size={16} />{:else}<Lock size={16} />{/if}</button
    >
  {/if}
  <button
    class="btn btn-square btn-sm {camera ? 'btn-primary' : 'border-0 bg-base-100/75'}"
    title={tip('camera')}
    aria-label="Look through the camera"
    aria-pressed={!!camera}
    disabled={!session.shot.scene.camera}
    onclick={() => (viewState.throughCamera = !viewState.throughCamera)}><Camera size={16} /></button
  >
  {#if camera}
    <button
      class="btn btn-square btn-sm {preferences.guides === 'none' ? 'border-0 bg-base-100/75' : 'btn-primary'}"
      title={tip('guides')}
      aria-label="Lines in the frame: {preferences.guides}"
      onclick={() => run('guides')}><Frame size={16} /></button
    >
  {:else}
    <button
      class="btn btn-square btn-sm border-0 bg-base-100/75"
      title={tip('camera.fromView')}
      aria-label="Make a camera from the view"
      onclick={() => run('camera.fromView')}><Video size={16} /></button
    >
  {/if}
  <button
    class="btn btn-square btn-sm border-0 bg-base-100/75"
    title={tip('fit')}
    aria-label="Fit"
    onclick={() => ui.fit++}><Maximize size={16} /></button
  >
  <GhostSettings />
  <button
    class="btn btn-square btn-sm {preferences.grid ? 'btn-primary' : 'border-0 bg-base-100/75'}"
    title={tip('grid')}
    aria-label="Grid"
    aria-pressed={preferences.grid}
    onclick={() => (preferences.grid = !preferences.grid)}><Grid3x3 size={16} /></button
  >
</div>
