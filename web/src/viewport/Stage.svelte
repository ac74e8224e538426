<script lang="ts">
  import Camera from '@lucide/svelte/icons/camera';
  import Columns2 from '@lucide/svelte/icons/columns-2';
  import Grid2x2 from '@lucide/svelte/icons/grid-2x2';
  import Square from '@lucide/svelte/icons/square';
  import Ghost from '@lucide/svelte/icons/ghost';
  import Frame from '@lucide/svelte/icons/frame';
  import Video from '@lucide/svelte/icons/video';
  import Grid3x3 from '@lucide/svelte/icons/grid-3x3';
  import Move3d from '@lucide/svelte/icons/move-3d';
  import MousePointer2 from '@lucide/svelte/icons/mouse-pointer-2';
  import Rotate3d from '@lucide/svelte/icons/rotate-3d';
  import Scale3d from '@lucide/svelte/icons/scale-3d';
  import Maximize from '@lucide/svelte/icons/maximize';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import { onMount, untrack } from 'svelte';
  import { run, tip } from '../commands';
  import { labelOf, newNode } from '../objects/creation';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { canDrop, dropOn } from '../stores/drops';
  import { preferences } from '../stores/preferences.svelte';
  import { session, type Tool } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import { viewState, type Layout, type Look, type Shading } from '../stores/viewState.svelte';
  import { stageView } from './view/shared';
  import { hitPath, pathHand, placeOf, type PathHit, type PathView, type Point } from './overlays/pathHand';
  import NumberField from '../widgets/NumberField.svelte';
  import { toggleTraced, type Trace, Traces } from './overlays/traces.svelte';
  import { partsOf } from './view/pane';
  import type { Region, StageView } from './view/view';

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
  const looks = { camera: 'Through the camera', free: 'Free view', top: 'Top', front: 'Front', right: 'Right side' };
  const shadings = { shaded: 'Shaded', edges: 'With edges', lines: 'Wireframe', flat: 'Unlit' };
  const title = $derived(titleOf(viewState.pane));

  /** Nothing to animate yet: light, ground and cameras only. */
  const bare = $derived(
    !!session.shotId && session.shot.scene.nodes.every((n) => n.locked || (n.kind !== 'mesh' && n.kind !== 'group')),
  );

  let ghostsOpen = $state(false);

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
  // Poses before and after, once nothing moves: while a hand drags or time runs there is none to spare.
  $effect(() => {
    void [session.shot.changed, session.frame, session.selection.ids];
    const { on, count, every, fade } = preferences.ghosts;
    if (!view || !session.shot.engine) return;
    const { engine } = session.shot;
    const beside = (frame: number) => {
      engine.beside.evaluate(frame);
      return engine.beside;
    };
    const poses = on && !session.player.playing ? ghostPoses(count, every) : [];
    const timer = setTimeout(() => view?.setGhosts(poses, beside, fade), gestures.busy ? 200 : 40);
    return () => clearTimeout(timer);
  });

  /** The frames of ghosts: those with keys of the selection, or every so many. */
  function ghostPoses(count: number, every: number) {
    const { ids } = session.selection;
    if (every > 0)
      return Array.from({ length: count }, (_, n) => n + 1).flatMap((place) => [
        { frame: session.frame - place * every, place: -place },
        { frame: session.frame + place * every, place },
      ]);
    const frames = new Set<number>();
    for (const id of session.shot.family(ids))
      for (const address of session.shot.keyedOwners.get(id) ?? [])
        for (const f of session.shot.keysOf(address)) frames.add(f);
    const sorted = [...frames].sort((a, b) => a - b);
    const before = sorted.filter((f) => f < session.frame).slice(-count);
    const after = sorted.filter((f) => f > session.frame).slice(0, count);
    return [
      ...before.map((frame, i) => ({ frame, place: i - before.length })),
      ...after.map((frame, i) => ({ frame, place: i + 1 })),
    ];
  }

  // So many motion paths are drawn at the most.
  const PATHS = 20;
  // The motion path of the last selected object, with its keys, and fainter those of the others. It is the same on every frame, and worked out when something has changed.
  let path = $state.raw<PathView | null>(null);
  $effect(() => {
    void session.shot.changed;
    const { engine, animated } = session.shot;
    if (!view || !engine) return;
    const moves = (node: string) => {
      for (let at: string | undefined = node; at; at = session.shot.byId.get(at)?.parent ?? undefined)
        if ([...(animated.get(at) ?? [])].some((a) => a.includes('/transform.'))) return true;
      return false;
    };
    const id = session.selection.ids.at(-1);
    const others = session.selection.ids.slice(-PATHS, -1).filter(moves);
    view.setOtherPaths(others.map((o) => engine.path(o, session.shot.scene.playFirst, session.shot.scene.playLast)));
    if (!id || !moves(id)) {
      path = null;
      return view.setPath(null, []);
    }
    const { playFirst, playLast } = session.shot.scene;
    const keys = [
      ...new Set(
        ['x', 'y', 'z'].flatMap((c) => session.shot.keysOf(session.shot.here(`${id}/transform.translate.${c}`))),
      ),
    ].sort((a, b) => a - b);
    const way = { node: id, first: playFirst, points: engine.path(id, playFirst, playLast), keys, handles: null };
    path = way;
    const seen = keys.filter((f) => f >= playFirst && f <= playLast);
    view.setPath(
      way.points,
      seen.flatMap((f) => placeOf(way, f)),
    );
  });
  // The handles of the key under the playhead; none while it plays.
  const handled = $derived.by<PathView | null>(() => {
    const { frame } = session;
    if (!path || session.player.playing || !path.keys.includes(frame)) return path;
    const ends = session.shot.engine!.pathHandles(path.node, frame);
    const end = (i: number) => (Number.isNaN(ends[i] ?? NaN) ? null : (ends.slice(i, i + 3) as Point));
    return { ...path, handles: { frame, in: end(0), out: end(3) } };
  });
  $effect(() => {
    const { playFirst, playLast } = session.shot.scene;
    const { frame, in: before, out: after } = handled?.handles ?? { frame: NaN, in: null, out: null };
    const isSeen = frame >= playFirst && frame <= playLast;
    view?.setPathHandles([before, after].flatMap((e) => (e && isSeen ? [...placeOf(handled!, frame), ...e] : [])));
  });

  // The motion paths of chosen vertices, which are there whatever is selected.
  const traces = new Traces();
  $effect(() => {
    void [session.shot.changed, session.shot.scene];
    // What is seen before the engine runs has no paths yet.
    if (session.ready) untrack(() => traces.follow());
    return () => traces.stop();
  });
  $effect(() => view?.setTraces(traces.list));
  $effect(() =>
    view?.setTraceMarks(
      traces.list.map((t) => placeOf(t, session.frame)).flatMap((p) => (Number.isFinite(p[0]) ? p : [])),
    ),
  );

  /** What lies below the pointer of the motion path of the selected object, or of one of a vertex, unless a handle of the object is nearer. */
  function pathAt(event: PointerEvent): { path: PathView | Trace; hit: PathHit } | null {
    if (!view || view.handles.hovered) return null;
    for (const path of [...(handled ? [handled] : []), ...traces.list]) {
      const hit = hitPath(view, path, event.clientX, event.clientY);
      if (hit) return { path, hit };
    }
    return null;
  }

  /** Takes what lies on a motion path. */
  function takePath(event: PointerEvent) {
    const taken = event.button === 0 ? pathAt(event) : null;
    if (!taken) return;
    event.stopPropagation();
    box.focus({ preventScroll: true });
    down.button = -1;
    const { path, hit } = taken;
    if ('vertex' in path) session.goTo(hit.frame);
    else gestures.follow(event, pathHand(session, view!, path, hit, event));
  }

  const pathWords = {
    key: 'Drag the key in space; with Alt its handles. Click: go to its frame',
    in: 'Drag the handle to bend the path',
    out: 'Drag the handle to bend the path',
    tick: 'Drag the frame along the path to retime it. Click: go to it',
  };
  function overPath(event: PointerEvent) {
    if (event.buttons > 0) return;
    pointer = { x: event.clientX, y: event.clientY };
    const { path, hit } = pathAt(event) ?? {};
    const isVertex = path && 'vertex' in path;
    box.style.cursor = hit ? (isVertex ? 'pointer' : 'grab') : '';
    const what = hit ? `${hit.kind === 'tick' ? 'Frame' : 'Key'} ${hit.frame}` : '';
    if (!hit) box.title = '';
    else if (isVertex)
      box.title = `${what} of point ${path.vertex} of “${session.shot.byId.get(path.node)?.name}”. Click: go to it`;
    else box.title = `${what}. ${pathWords[hit.kind]}`;
  }

  // Where the pointer was last: what is pointed at when a key is pressed.
  let pointer = { x: -1, y: -1 };
  onMount(() => {
    ui.trace = () => trace(pointer.x, pointer.y);
    return () => (ui.trace = null);
  });

  /** Draws the motion path of the vertex at a point of the page, or takes away the one that is drawn there. */
  function trace(x: number, y: number) {
    const near = (t: Trace) => {
      const p = view!.project(...placeOf(t, session.frame));
      return Math.hypot(p.x - x, p.y - y) < 8;
    };
    const drawn = traces.list.find(near);
    const at = drawn ? { node: session.shot.byId.get(drawn.node)!, vertex: drawn.vertex } : view?.vertexAt(x, y);
    if (at) toggleTraced(at.node, at.vertex);
    else session.messages.say('Point at a surface first: the path of its nearest vertex is drawn.');
  }

  /** The one canvas of the stage is wherever the stage is shown. */
  function holdCanvas(node: HTMLElement) {
    const { root } = stageView();
    node.append(root);
    return { destroy: () => root.remove() };
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
    const node = view?.nodeAt(event.clientX, event.clientY);
    if (node && !view!.isSelected(node)) view!.pickAt(event.clientX, event.clientY, false);
    contextMenu.open(
      event,
      node || session.selection.ids.length > 0
        ? [
            { command: 'key' },
            { command: 'hold' },
            null,
            { command: 'duplicate' },
            { command: 'copyObjects' },
            { command: 'paste' },
            { command: 'removeObjects' },
            null,
            { command: 'fit' },
            { command: 'hide' },
            { command: 'lock' },
            null,
            { title: 'Path of the point here', run: () => trace(event.clientX, event.clientY) },
          ]
        : [
            { command: 'paste' },
            { command: 'selectObjects' },
            null,
            { command: 'fit' },
            { command: 'camera' },
            { command: 'grid' },
          ],
    );
  }

  const toolButtons: { tool: Tool; icon: typeof Move3d; label: string }[] = [
    { tool: 'select', icon: MousePointer2, label: 'Select' },
    { tool: 'move', icon: Move3d, label: 'Move' },
    { tool: 'rotate', icon: Rotate3d, label: 'Rotate' },
    { tool: 'scale', icon: Scale3d, label: 'Scale' },
  ];
  const axes = { world: 'World', parent: 'Parent', local: 'Local' } as const;
  const nextAxes = { world: 'parent', parent: 'local', local: 'world' } as const;
  const snaps = {
    grid: { label: 'Steps', words: 'steps', next: 'vertex' },
    vertex: { label: 'Vertex', words: 'the vertex below the pointer', next: 'surface' },
    surface: { label: 'Surface', words: 'the surface below the pointer', next: 'grid' },
  } as const;
  const relative = (r: Region) => {
    const rect = box.getBoundingClientRect();
    return `left:${Math.min(r.x0, r.x1) - rect.left}px;top:${Math.min(r.y0, r.y1) - rect.top}px;width:${Math.abs(r.x1 - r.x0)}px;height:${Math.abs(r.y1 - r.y0)}px`;
  };
</script>

<svelte:window
  onkeydown={(e) => e.key === 'Control' && view?.handles.snap(true, preferences.snapTo)}
  onkeyup={(e) => e.key === 'Control' && view?.handles.snap(false)}
  onblur={() => view?.handles.snap(false)}
/>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  bind:this={box}
  class="relative h-full w-full overflow-hidden bg-(--stage) outline-none"
  role="application"
  aria-label="Stage: {title}"
  tabindex="0"
  data-testid="stage"
  data-part="stage"
  ondragover={(e) => canDrop(e) && e.preventDefault()}
  ondrop={(e) => dropOn(e, () => view?.nodeAt(e.clientX, e.clientY))}
>
  <div
    use:holdCanvas
    class="h-full w-full"
    role="presentation"
    onpointerdowncapture={takePath}
    onpointermove={overPath}
    onpointerdown={pointerdown}
    onpointerup={pointerup}
    oncontextmenu={(e) => e.preventDefault()}
  ></div>

  {#each parts as at (at.i)}
    {@const through = cameraOf(at.i)}
    <div
      class="pointer-events-none absolute overflow-hidden {layout > 1 && at.i === viewState.pane
        ? 'ring-1 ring-primary/70 ring-inset'
        : ''}"
      style="left:{at.x}px;top:{at.y}px;width:{at.width}px;height:{at.height}px"
    >
      {#if through && view}
        {@const frame = frameOf(at)}
        <div
          class="absolute border border-primary/80"
          style="left:{frame.x}px;top:{frame.y}px;width:{frame.width}px;height:{frame.height}px;box-shadow:0 0 0 4000px color-mix(in oklab, var(--stage) 62%, transparent)"
          data-testid="camera-frame"
        >
          {#if preferences.guides === 'thirds'}
            {#each [1, 2] as i (i)}
              <div class="absolute inset-y-0 w-px bg-white/45" style="left:{(100 * i) / 3}%"></div>
              <div class="absolute inset-x-0 h-px bg-white/45" style="top:{(100 * i) / 3}%"></div>
            {/each}
          {:else if preferences.guides === 'safe'}
            <div
              class="absolute inset-[3.5%] border border-white/60"
              title="What moves stays within (EBU R 95: 93 %)"
            ></div>
            <div
              class="absolute inset-[5%] border border-dashed border-white/60"
              title="Words stay within (EBU R 95: 90 %)"
            ></div>
          {/if}
        </div>
      {/if}
      <div class="absolute left-2 flex items-center gap-1 {layout > 1 ? 'bottom-2' : 'top-2'}">
        <div class="relative rounded bg-base-100/70 px-2 py-0.5 text-xs">
          {titleOf(at.i)}
          {#if tools}<select
              class="pointer-events-auto absolute inset-0 cursor-pointer opacity-0"
              aria-label="What view {at.i + 1} shows"
              title="What this view shows: click for another"
              value={viewState.panes[at.i].look}
              onchange={(e) => ((viewState.pane = at.i), (viewState.panes[at.i].look = e.currentTarget.value as Look))}
            >
              {#each Object.entries(looks) as [look, label] (look)}<option
                  value={look}
                  disabled={look === 'camera' && !session.shot.scene.camera}>{label}</option
                >{/each}
            </select>{/if}
        </div>
        {#if tools}<div class="relative rounded bg-base-100/70 px-2 py-0.5 text-xs">
            {shadings[viewState.panes[at.i].shading]}
            <select
              class="pointer-events-auto absolute inset-0 cursor-pointer opacity-0"
              aria-label="How view {at.i + 1} draws"
              title="How this view draws: click for another"
              value={viewState.panes[at.i].shading}
              onchange={(e) => (viewState.panes[at.i].shading = e.currentTarget.value as Shading)}
            >
              {#each Object.entries(shadings) as [how, label] (how)}<option value={how}>{label}</option>{/each}
            </select>
          </div>{/if}
      </div>
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
      <button
        class="btn h-7 border-0 bg-base-100/75 px-1.5 text-xs font-normal btn-sm"
        title="With Ctrl held, handles snap to {snaps[preferences.snapTo].words}: click for another"
        aria-label="What handles snap to: {snaps[preferences.snapTo].label}"
        onclick={() => (preferences.snapTo = snaps[preferences.snapTo].next)}>{snaps[preferences.snapTo].label}</button
      >
    </div>
    <div class="absolute top-2 right-2 flex gap-1">
      {#if session.phase === 'set'}
        <div class="join" role="group" aria-label="How many views">
          {#each [1, 2, 4] as const as n (n)}
            <button
              class="btn join-item btn-square btn-sm {viewState.layout === n
                ? 'btn-primary'
                : 'border-0 bg-base-100/75'}"
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
      <div class="relative">
        <button
          class="btn btn-square btn-sm {preferences.ghosts.on ? 'btn-primary' : 'border-0 bg-base-100/75'}"
          title="{tip('ghosts')}; with the right button: how many, and which"
          aria-label="Ghosts"
          aria-pressed={preferences.ghosts.on}
          onclick={() => run('ghosts')}
          oncontextmenu={(e) => {
            e.preventDefault();
            ghostsOpen = !ghostsOpen;
          }}><Ghost size={16} /></button
        >
        {#if ghostsOpen}
          <div
            class="absolute top-10 right-0 z-20 w-52 rounded-box border border-base-300 bg-base-200 p-3 text-[13px] shadow-xl"
            role="dialog"
            aria-label="Ghosts"
          >
            <label class="flex items-center justify-between py-0.5"
              >On each side
              <div class="w-16">
                <NumberField
                  label="Ghosts on each side"
                  whole
                  step={0.1}
                  least={1}
                  most={12}
                  value={preferences.ghosts.count}
                  oncommit={(_, to) => (preferences.ghosts.count = to)}
                />
              </div></label
            >
            <label class="flex items-center justify-between py-0.5"
              >On
              <select class="select select-xs w-28" bind:value={preferences.ghosts.every}>
                <option value={0}>keys</option>
                {#each [1, 2, 3, 4, 6, 8, 12] as n (n)}<option value={n}>every {n} frames</option>{/each}
              </select></label
            >
            <label class="flex items-center justify-between py-0.5"
              >Fade with distance
              <input type="checkbox" class="checkbox checkbox-xs" bind:checked={preferences.ghosts.fade} /></label
            >
            <p class="pt-1 text-xs text-base-content/75">Before: blue lines. After: filled amber.</p>
            <button class="btn mt-2 w-full btn-xs" onclick={() => (ghostsOpen = false)}>Close</button>
          </div>
        {/if}
      </div>
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
