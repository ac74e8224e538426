<script lang="ts">
  // The tools of the stage, at its left edge.
  import MousePointer2 from '@lucide/svelte/icons/mouse-pointer-2';
  import Move3d from '@lucide/svelte/icons/move-3d';
  import Rotate3d from '@lucide/svelte/icons/rotate-3d';
  import Scale3d from '@lucide/svelte/icons/scale-3d';
  import { tip } from '../commands';
  import { preferences } from '../stores/preferences.svelte';
  import SnapSettings from './SnapSettings.svelte';
  import { session, type Tool } from '../stores/session.svelte';

  const toolButtons: { tool: Tool; icon: typeof Move3d; label: string }[] = [
    { tool: 'select', icon: MousePointer2, label: 'Select' },
    { tool: 'move', icon: Move3d, label: 'Move' },
    { tool: 'rotate', icon: Rotate3d, label: 'Rotate' },
    { tool: 'scale', icon: Scale3d, label: 'Scale' },
  ];
  const axes = { world: 'World', parent: 'Parent', local: 'Local' } as const;
  const nextAxes = { world: 'parent', parent: 'local', local: 'world' } as const;
</script>

<div class="absolute top-9 left-2 flex flex-col gap-1">
  {#each toolButtons as { tool, icon: Icon, label } (tool)}
    <button
      class="btn btn-square btn-sm {session.tool === tool ? 'btn-primary' : 'border-0 bg-base-100/75'}"
      title={tip(`tool.${tool}`, label)}
      aria-label={label}
      aria-pressed={session.tool === tool}
      onclick={() => (session.tool = tool)}><Icon size={16} /></button
    >
  {/each}
  <button
    class="btn h-7 border-0 bg-base-100/75 px-1.5 text-xs font-normal btn-sm"
    title={tip('axes', `Handles along the ${preferences.axes} axes: click for another`)}
    aria-label="Axes of the handles: {axes[preferences.axes]}"
    onclick={() => (preferences.axes = nextAxes[preferences.axes])}>{axes[preferences.axes]}</button
  >
  <SnapSettings />
</div>
