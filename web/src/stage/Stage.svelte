<script lang="ts">
  import Camera from '@lucide/svelte/icons/camera';
  import Grid3x3 from '@lucide/svelte/icons/grid-3x3';
  import Move3d from '@lucide/svelte/icons/move-3d';
  import MousePointer2 from '@lucide/svelte/icons/mouse-pointer-2';
  import Rotate3d from '@lucide/svelte/icons/rotate-3d';
  import Scale3d from '@lucide/svelte/icons/scale-3d';
  import Maximize from '@lucide/svelte/icons/maximize';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import { onMount } from 'svelte';
  import { tip } from '../state/commands';
  import { preferences } from '../state/preferences.svelte';
  import { session, type Tool } from '../state/session.svelte';
  import { ui } from '../state/ui.svelte';
  import { stageView } from './shared';
  import type { StageView } from './view';

  let { tools = true, onview }: { tools?: boolean; onview?: (view: StageView) => void } = $props();

  let box: HTMLDivElement;
  let view = $state.raw<StageView | null>(null);
  let size = $state({ width: 1, height: 1 });
  let down = { x: 0, y: 0, button: -1 };

  const camera = $derived(ui.throughCamera ? session.scene.camera : null);
  const frame = $derived(
    view ? view.frameOf(size.width, size.height, session.scene.width / session.scene.height) : null,
  );
  const title = $derived(
    camera
      ? `Through ${session.byId.get(camera)?.name ?? 'camera'} · ${session.scene.width}×${session.scene.height}`
      : 'Free view',
  );

  onMount(() => {
    const made = stageView();
    view = made;
    onview?.(made);
    const observer = new ResizeObserver(() => {
      size = { width: box.clientWidth, height: box.clientHeight };
      made.resize(size.width, size.height);
    });
    observer.observe(box);
    return () => {
      observer.disconnect();
    };
  });

  $effect(() => {
    void session.changed;
    if (view && session.shown && session.shotId) view.setScene(session.shown, session.scene);
  });
  $effect(() => {
    void session.evaluated;
    view?.update();
  });
  $effect(() => view?.setSelection(session.selection));
  $effect(() => view?.setTool(session.tool));
  $effect(() => {
    if (view) view.gridVisible = preferences.grid;
  });
  $effect(() => {
    if (!view) return;
    view.cameraId = camera;
    view.steer = ui.steerCamera;
    view.orbitWithLeft(!camera || ui.steerCamera);
    view.request();
  });
  let fits = ui.fit;
  $effect(() => {
    if (ui.fit !== fits && view) {
      fits = ui.fit;
      if (ui.throughCamera) ui.throughCamera = false;
      view.fit();
    }
  });
  // The way of the last selected object, with its keys.
  $effect(() => {
    void session.changed;
    if (!view || !session.engine) return;
    const id = session.selection.at(-1);
    const channels = id ? (session.channelsByOwner.get(id) ?? []) : [];
    const frames = new Set(channels.filter((c) => c.path.startsWith('transform.translate')).flatMap((c) => c.keys));
    if (!id || frames.size === 0) return view.setTrail(null, []);
    const { playFirst, playLast } = session.scene;
    const points = session.engine.path(id, playFirst, playLast);
    const keys = [...frames]
      .filter((f) => f >= playFirst && f <= playLast)
      .flatMap((f) => [0, 1, 2].map((axis) => points[3 * Math.round(f - playFirst) + axis]));
    view.setTrail(points, keys);
  });

  /** The one canvas of the stage is wherever the stage is shown. */
  function holdCanvas(node: HTMLElement) {
    const { canvas } = stageView();
    node.append(canvas);
    return { destroy: () => canvas.remove() };
  }

  function pointerdown(event: PointerEvent) {
    down = { x: event.clientX, y: event.clientY, button: event.button };
    if (camera && ui.steerCamera) view?.beginSteering();
    box.focus({ preventScroll: true });
  }

  function pointerup(event: PointerEvent) {
    const moved = Math.hypot(event.clientX - down.x, event.clientY - down.y);
    if (event.button === 0 && down.button === 0 && moved < 4)
      view?.pickAt(event.clientX, event.clientY, event.shiftKey || event.ctrlKey);
  }

  const toolButtons: { tool: Tool; icon: typeof Move3d; label: string }[] = [
    { tool: 'pick', icon: MousePointer2, label: 'Pick' },
    { tool: 'move', icon: Move3d, label: 'Move' },
    { tool: 'turn', icon: Rotate3d, label: 'Turn' },
    { tool: 'scale', icon: Scale3d, label: 'Scale' },
  ];
</script>

<svelte:window
  onkeydown={(e) => e.key === 'Control' && view?.snap(true)}
  onkeyup={(e) => e.key === 'Control' && view?.snap(false)}
/>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  bind:this={box}
  class="relative h-full w-full overflow-hidden bg-(--stage) outline-none"
  role="application"
  aria-label="Stage: {title}"
  tabindex="0"
  data-testid="stage"
>
  <div
    use:holdCanvas
    class="h-full w-full"
    role="presentation"
    onpointerdown={pointerdown}
    onpointerup={pointerup}
    oncontextmenu={(e) => e.preventDefault()}
  ></div>

  {#if camera && frame}
    <div
      class="pointer-events-none absolute border border-primary/80"
      style="left:{frame.x}px;top:{frame.y}px;width:{frame.width}px;height:{frame.height}px;box-shadow:0 0 0 4000px color-mix(in oklab, var(--stage) 62%, transparent)"
      data-testid="camera-frame"
    ></div>
  {/if}

  <div class="pointer-events-none absolute top-2 left-2 rounded bg-base-100/70 px-2 py-0.5 text-xs">{title}</div>

  {#if tools}
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
    </div>
    <div class="absolute top-2 right-2 flex gap-1">
      {#if camera}
        <button
          class="btn btn-square btn-sm {ui.steerCamera ? 'btn-primary' : 'border-0 bg-base-100/75'}"
          title={ui.steerCamera
            ? 'Moving the view moves the camera: click to lock it'
            : 'The camera is locked against the view: click to steer it'}
          aria-label="Steer the camera"
          aria-pressed={ui.steerCamera}
          onclick={() => (ui.steerCamera = !ui.steerCamera)}
          >{#if ui.steerCamera}<LockOpen size={16} />{:else}<Lock size={16} />{/if}</button
        >
      {/if}
      <button
        class="btn btn-square btn-sm {camera ? 'btn-primary' : 'border-0 bg-base-100/75'}"
        title={tip('camera')}
        aria-label="Look through the camera"
        aria-pressed={!!camera}
        disabled={!session.scene.camera}
        onclick={() => (ui.throughCamera = !ui.throughCamera)}><Camera size={16} /></button
      >
      <button
        class="btn btn-square btn-sm border-0 bg-base-100/75"
        title={tip('fit')}
        aria-label="Fit"
        onclick={() => ui.fit++}><Maximize size={16} /></button
      >
      <button
        class="btn btn-square btn-sm {preferences.grid ? 'btn-primary' : 'border-0 bg-base-100/75'}"
        title={tip('grid')}
        aria-label="Grid"
        aria-pressed={preferences.grid}
        onclick={() => (preferences.grid = !preferences.grid)}><Grid3x3 size={16} /></button
      >
    </div>
  {/if}
</div>
