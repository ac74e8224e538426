<script lang="ts">
  // The 3D view: what is drawn in it, and what a pointer does there. What lies over it has components of its own.
  import { onMount, untrack } from 'svelte';
  import { tip } from '../commands';
  import { listUnder, stageMenu } from './stageMenu';
  import { holdStage } from '../stores/stageHand';
  import type { ViewCameras } from './view/cameras';
  import { labelOf, newNode } from '../objects/creation';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { canDrop, dropOn } from '../stores/drops';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import { viewState, type Layout } from '../stores/viewState.svelte';
  import { drawGhosts } from './ghostPoses.svelte';
  import { looks } from './looks';
  import { StagePaths } from './stagePaths.svelte';
  import ToolButtons from './ToolButtons.svelte';
  import ViewButtons from './ViewButtons.svelte';
  import ViewFrame from './ViewFrame.svelte';
  import { partsOf } from './view/pane';
  import type { Region } from './view/picking';
  import { stageView } from './view/shared';
  import type { StageView } from './view/view';

  let { tools = true, onview }: { tools?: boolean; onview?: (view: StageView) => void } = $props();

  let box: HTMLDivElement;
  let view = $state.raw<StageView | null>(null);
  let size = $state({ width: 1, height: 1 });
  let down = { x: 0, y: 0, button: -1 };
  let region = $state.raw<Region | null>(null);

  /** Only where there is room: elsewhere it is the view that was used last. */
  const layout = $derived<Layout>(session.phase === 'set' ? viewState.layout : 1);
  const parts = $derived(
    partsOf(layout, size.width, size.height).map((at, i) => ({ ...at, i: layout === 1 ? viewState.pane : i })),
  );
  const camera = $derived(viewState.throughCamera ? session.shot.scene.camera : null);
  const cameraOf = (i: number) => (viewState.panes[i].look === 'camera' ? session.shot.scene.camera : null);
  const frameOf = (at: { width: number; height: number }) =>
    view!.frameOf(at.width, at.height, session.shot.scene.width / session.shot.scene.height);
  const titleOf = (i: number) => {
    const id = cameraOf(i);
    const { width, height } = session.shot.scene;
    if (id) return `Through ${session.shot.byId.get(id)?.name ?? 'camera'} · ${width}×${height}`;
    return looks[viewState.panes[i].look === 'camera' ? 'free' : viewState.panes[i].look];
  };
  const title = $derived(titleOf(viewState.pane));

  /** Nothing to animate yet: light, ground and cameras only. */
  const bare = $derived(
    !!session.shotId && session.shot.scene.nodes.every((n) => n.locked || (n.kind !== 'mesh' && n.kind !== 'group')),
  );

  drawGhosts(() => view);
  const paths = new StagePaths(() => view);

  // Where the pointer was last: what is pointed at when a key is pressed.
  let pointer = { x: -1, y: -1 };

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
      if (gestures.busy) gestures.cancel();
    };
  });

  $effect(() => {
    void session.shot.changed;
    if (view && session.shot.shown && session.shotId) view.setScene(session.shot.shown, session.shot.scene);
  });
  $effect(() => {
    void session.shot.evaluated;
    view?.update();
  });
  $effect(() => view?.setSelection(session.selection.ids, session.shot.family(session.selection.ids)));
  $effect(() => view?.setTool(session.tool, preferences.axes));
  $effect(() => {
    if (view) view.gridVisible = preferences.grid;
  });
  $effect(() => {
    view?.layOut(
      layout,
      untrack(() => viewState.pane),
    );
  });
  $effect(() => {
    if (!view) return;
    for (const { i } of parts)
      view.look(i, viewState.panes[i].look, cameraOf(i), viewState.steerCamera, viewState.panes[i].shading);
    // With the Select tool the left button draws a box.
    view.orbitWithLeft(session.tool !== 'select');
  });
  $effect(() => {
    if (view) view.cleanLook = viewState.clean;
  });
  let fits = ui.fit;
  $effect(() => {
    if (ui.fit === fits || !view) return;
    fits = ui.fit;
    if (ui.part === 'tracks') return;
    if (camera)
      session.messages.say('This view is the camera’s, which stays where it is.', {
        label: 'Free view',
        run: () => {
          viewState.throughCamera = false;
          view?.fit();
        },
      });
    else view.fit();
  });
  // Nothing but what is isolated is seen; what is gone since is passed by.
  const isolated = $derived(viewState.isolated.filter((id) => session.shot.byId.has(id)));
  const alone = $derived(isolated.length > 0 ? session.shot.family(isolated) : null);
  $effect(() => view?.isolate(alone));

  /** A key moves the view; through a locked camera it says why not. */
  const moved = (move: (cameras: ViewCameras) => void) => {
    if (camera && !viewState.steerCamera)
      session.messages.say('This view is the camera’s, which stays where it is.', {
        label: 'Free view',
        run: () => (viewState.throughCamera = false),
      });
    else if (view) move(view.cameras);
  };

  onMount(() =>
    holdStage({
      trace: () => paths.trace(pointer.x, pointer.y),
      under: () => listUnder(view, pointer.x, pointer.y),
      menu: () => menuAt(...middle()),
      turn: (right, up) => moved((c) => c.turn(right, up)),
      shift: (right, up) => moved((c) => c.shift(right, up)),
      nearer: (factor) => moved((c) => c.nearer(factor)),
      lookedAt: () => view?.lookedAt() ?? [0, 0, 0],
    }),
  );

  /** Where a menu opens without a pointer: at the object selected last, or in the middle. */
  function middle(): [number, number] {
    const rect = box.getBoundingClientRect();
    const id = session.selection.ids.at(-1);
    const at = id && view ? view.project(...view.mirror.pivotOf(id).toArray()) : null;
    const isIn = at && at.x > rect.left && at.x < rect.right && at.y > rect.top && at.y < rect.bottom;
    return isIn ? [at.x, at.y] : [rect.left + rect.width / 2, rect.top + rect.height / 2];
  }

  /** The one canvas of the stage is wherever the stage is shown. */
  function holdCanvas(node: HTMLElement) {
    const { root } = stageView();
    node.append(root);
    return { destroy: () => root.remove() };
  }

  function takePath(event: PointerEvent) {
    if (!paths.take(event)) return;
    event.stopPropagation();
    box.focus({ preventScroll: true });
    down.button = -1;
  }

  function pointerdown(event: PointerEvent) {
    // A handle that was taken keeps its click.
    const taken = view?.handles.dragging ?? false;
    down = { x: event.clientX, y: event.clientY, button: taken ? -1 : event.button };
    box.focus({ preventScroll: true });
    if (taken || event.button !== 0 || session.tool !== 'select') return;
    const add = event.shiftKey || event.ctrlKey;
    const from = { x: event.clientX, y: event.clientY };
    gestures.follow(event, {
      move: (e) => {
        if (region || Math.hypot(e.clientX - from.x, e.clientY - from.y) > 4)
          region = { x0: from.x, y0: from.y, x1: e.clientX, y1: e.clientY };
      },
      commit: () => {
        if (region) {
          view?.pickIn(region, add);
          down.button = -1;
        }
        region = null;
      },
      cancel: () => {
        region = null;
        down.button = -1;
      },
    });
  }

  function pointerup(event: PointerEvent) {
    const moved = Math.hypot(event.clientX - down.x, event.clientY - down.y);
    if (moved >= 4 || event.button !== down.button) return;
    if (event.button === 0) view?.pickAt(event.clientX, event.clientY, event.shiftKey || event.ctrlKey);
    if (event.button === 2) menu(event);
    down.button = -1;
  }

  function menu(event: PointerEvent) {
    const [node] = view?.picking.nodesAt(event.clientX, event.clientY) ?? [];
    if (node && !view!.isSelected(node)) view!.pickAt(event.clientX, event.clientY, false);
    menuAt(event.clientX, event.clientY, node !== undefined);
  }

  const menuAt = (x: number, y: number, onObject = false) =>
    contextMenu.at(
      x,
      y,
      stageMenu(view, x, y, onObject, () => paths.trace(x, y)),
    );

  const relative = (r: Region) => {
    const rect = box.getBoundingClientRect();
    return `left:${Math.min(r.x0, r.x1) - rect.left}px;top:${Math.min(r.y0, r.y1) - rect.top}px;width:${Math.abs(r.x1 - r.x0)}px;height:${Math.abs(r.y1 - r.y0)}px`;
  };
</script>

<svelte:window
  onkeydown={(e) => e.key === 'Control' && view?.handles.snap(preferences.snapTo, preferences.steps)}
  onkeyup={(e) => e.key === 'Control' && view?.handles.snap(null, preferences.steps)}
  onblur={() => view?.handles.snap(null, preferences.steps)}
/>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  bind:this={box}
  class="stage relative h-full w-full overflow-hidden bg-(--stage) outline-none"
  role="application"
  aria-label="Stage: {title}"
  tabindex="0"
  data-testid="stage"
  data-part="stage"
  ondragover={(e) => canDrop(e) && e.preventDefault()}
  ondrop={(e) => dropOn(e, () => view?.picking.nodesAt(e.clientX, e.clientY)[0])}
  oncontextmenu={(e) => e.target === box && (e.preventDefault(), menuAt(...middle()))}
>
  <div
    use:holdCanvas
    class="h-full w-full"
    role="presentation"
    onpointerdowncapture={takePath}
    onpointermove={(e) => {
      if (e.buttons > 0) return;
      pointer = { x: e.clientX, y: e.clientY };
      paths.over(e, box);
    }}
    onpointerdown={pointerdown}
    onpointerup={pointerup}
    oncontextmenu={(e) => (e.preventDefault(), e.stopPropagation())}
  ></div>

  {#each parts as at (at.i)}
    {@const through = cameraOf(at.i)}
    <div
      class="pointer-events-none absolute overflow-hidden {layout > 1 && at.i === viewState.pane
        ? 'ring-1 ring-primary/70 ring-inset'
        : ''}"
      style="left:{at.x}px;top:{at.y}px;width:{at.width}px;height:{at.height}px"
    >
      <ViewFrame i={at.i} frame={through && view ? frameOf(at) : null} title={titleOf(at.i)} {tools} low={layout > 1} />
    </div>
  {/each}

  {#if tools && bare && session.shot.engine}
    <div
      class="absolute bottom-6 left-1/2 -translate-x-1/2 rounded-box bg-base-100/90 px-4 py-3 text-center text-sm whitespace-nowrap"
      data-testid="first-step"
    >
      <p class="pb-2">There is light, ground and a camera. Add what is to move:</p>
      {#each ['box', 'sphere', 'cylinder', 'group'] as const as kind (kind)}
        <button class="btn mx-0.5 btn-sm" onclick={() => newNode(kind)}>{labelOf(kind)}</button>
      {/each}
    </div>
  {/if}

  {#if region}
    <div class="pointer-events-none absolute border border-primary bg-primary/15" style={relative(region)}></div>
  {/if}

  {#if gestures.readout && (view?.handles.dragging || (gestures.busy && ui.part === 'stage'))}
    <div
      class="pointer-events-none absolute bottom-2 left-1/2 -translate-x-1/2 rounded bg-base-100/85 px-3 py-1 text-sm tabular-nums"
      role="status"
      data-testid="readout"
    >
      {gestures.readout}{#if gestures.typed}<span class="pl-2 font-semibold text-primary">{gestures.typed}</span>{/if}
    </div>
  {/if}

  {#if tools}
    {#if session.autoKey}
      <div class="pointer-events-none absolute inset-0 border-2 border-error" data-testid="auto-sign">
        <span class="absolute bottom-2 left-2 rounded-field bg-error px-2 text-xs font-semibold text-error-content"
          >Automatic keying</span
        >
      </div>
    {/if}
    {#if alone}
      <div
        class="absolute top-11 left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-field bg-base-100/90 px-3 py-1 text-xs"
        data-testid="isolated"
      >
        Isolated: {isolated.length === 1 ? session.shot.byId.get(isolated[0])?.name : `${isolated.length} objects`}
        <button class="btn btn-xs" title={tip('isolate')} onclick={() => (viewState.isolated = [])}>Show all</button>
      </div>
    {/if}
    <ToolButtons />
    <ViewButtons />
  {/if}
</div>

<style>
  /* Drawn over all that lies in it: a ring round the box itself would be below the picture. */
  .stage:focus-visible::after {
    content: '';
    position: absolute;
    inset: 0;
    border: 2px solid var(--color-primary);
    pointer-events: none;
  }
</style>
