<script lang="ts">
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import { onMount } from 'svelte';
  import type { Edit, Extrapolation } from '../engine/engine';
  import { tip } from '../state/commands';
  import { preferences } from '../state/preferences.svelte';
  import { keyId, session, type KeyRef } from '../state/session.svelte';
  import { ui } from '../state/ui.svelte';
  import { drawTracks, extrapolationWords, HEAD, type Palette, type TracksModel } from './draw';
  import { hitTest, keysIn, laneValue, type Hit } from './hit';
  import { layoutRows, ROW, shownOwners, TimeScale, valueRange, type ValueScale } from './layout';

  let canvas: HTMLCanvasElement;
  let box: HTMLDivElement;
  let size = $state({ width: 600, height: 200 });
  let scroll = $state(0);
  let time = $state.raw(new TimeScale(-2, 8));
  let marquee = $state.raw<TracksModel['box']>(null);
  let menu = $state<{ address: string; end: 'before' | 'after'; x: number; y: number } | null>(null);
  let cursor = $state('default');
  let scales = new Map<string, ValueScale>();
  let fitted = false;
  const labelWidth = 190;

  const rows = $derived.by(() => {
    const of = (id: string) => session.channelsByOwner.get(id) ?? [];
    const owners = shownOwners(session.scene.nodes, session.scene.materials, session.selection, (id) =>
      of(id).some((c) => c.keys.length > 0),
    );
    return layoutRows(owners, of, ui.lanes);
  });
  const contentHeight = $derived(rows.length > 0 ? rows[rows.length - 1].top + rows[rows.length - 1].height : 0);
  const selected = $derived(new Set(session.selectedKeys.map(keyId)));
  const range = $derived.by(() => {
    const frames = session.selectedKeys.map((k) => k.frame);
    const [first, last] = [Math.min(...frames), Math.max(...frames)];
    return frames.length > 1 && last > first ? { first, last } : null;
  });

  function model(): TracksModel {
    const s = session.scene;
    return {
      rows,
      scroll,
      time,
      width: size.width,
      height: size.height,
      rate: s.rate,
      first: s.first,
      last: s.last,
      playFirst: s.playFirst,
      playLast: s.playLast,
      frame: session.frame,
      selected,
      curve: (a) => session.curve(a),
      sample: (a, first, step, count) => session.engine!.sample(a, first, step, count),
      scales,
      box: marquee,
      range,
    };
  }

  function palette(): Palette {
    const css = getComputedStyle(box);
    const v = (name: string) => css.getPropertyValue(name).trim();
    const text = css.color;
    return {
      text,
      faint: `color-mix(in srgb, ${text} 62%, transparent)`,
      line: `color-mix(in srgb, ${text} 14%, transparent)`,
      back: v('--color-base-100'),
      lane: v('--color-base-200'),
      accent: v('--color-primary'),
      family: {
        move: v('--family-move'),
        turn: v('--family-turn'),
        scale: v('--family-scale'),
        shape: v('--family-shape'),
        look: v('--family-look'),
      },
    };
  }

  let requested = 0;
  $effect(() => {
    // Everything that is drawn, so that a change of any of it draws again.
    void [
      session.changed,
      session.frame,
      rows,
      scroll,
      time,
      size.width,
      size.height,
      selected,
      marquee,
      range,
      preferences.theme,
    ];
    requested ||= requestAnimationFrame(() => {
      requested = 0;
      if (!canvas || !session.engine) return;
      const ratio = devicePixelRatio;
      if (canvas.width !== Math.round(size.width * ratio) || canvas.height !== Math.round(size.height * ratio)) {
        canvas.width = Math.round(size.width * ratio);
        canvas.height = Math.round(size.height * ratio);
      }
      const g = canvas.getContext('2d')!;
      g.setTransform(ratio, 0, 0, ratio, 0, 0);
      drawTracks(g, model(), palette());
    });
  });
  // The scale of a lane is its own, and settles when the hand lets go.
  $effect(() => {
    void session.changed;
    if (!drag) scales.clear();
  });
  let fits = ui.fit;
  $effect(() => {
    if (ui.fit === fits) return;
    fits = ui.fit;
    fit();
  });

  onMount(() => {
    const observer = new ResizeObserver(() => {
      size = { width: Math.max(50, box.clientWidth - labelWidth), height: box.clientHeight };
      if (!fitted && box.clientWidth > labelWidth) {
        fitted = true;
        fit();
      }
    });
    observer.observe(box);
    // For tests: where a key lies in the page.
    Object.assign(window, {
      bradymotusTracks: {
        key: (address: string, frame: number, lane: boolean) => place(address, frame, lane),
        handle: (address: string, frame: number, side: 'in' | 'out') => place(address, frame, true, side),
        frame: (frame: number) => canvas.getBoundingClientRect().left + time.x(frame),
      },
    });
    return () => observer.disconnect();
  });

  function place(address: string, frame: number, lane: boolean, side?: 'in' | 'out') {
    const row = rows.find((r) => r.kind === 'channel' && r.address === address);
    if (!row) return null;
    const rect = canvas.getBoundingClientRect();
    const key = session.curve(address)!.keys.find((k) => k.frame === frame)!;
    const top = HEAD + row.top - scroll;
    const scale = valueRange(session.curve(address)!);
    const [df, dv] = side ? key[side] : [0, 0];
    const y = lane
      ? top + ROW + 4 + 158 - ((key.value + dv - scale.low) / (scale.high - scale.low)) * 158
      : top + ROW / 2;
    return { x: rect.left + time.x(frame + df), y: rect.top + y };
  }

  function fit() {
    const frames = session.selectedKeys.length > 1 ? session.selectedKeys.map((k) => k.frame) : [];
    const [first, last] =
      frames.length > 1 ? [Math.min(...frames), Math.max(...frames)] : [session.scene.first, session.scene.last];
    time = TimeScale.fit(first, Math.max(last, first + 1), size.width);
  }

  // Dragging: what was taken, and from where.
  type Drag =
    | { kind: 'scrub' }
    | { kind: 'pan'; x: number; y: number; time: TimeScale; scroll: number }
    | { kind: 'box'; x: number; y: number; add: KeyRef[] }
    | {
        kind: 'keys';
        x: number;
        y: number;
        keys: KeyRef[];
        value: number | null;
        hit: Extract<Hit, { kind: 'keys' }>;
        moved: boolean;
        edit: Edit | null;
      }
    | { kind: 'handle'; hit: Extract<Hit, { kind: 'handle' }>; edit: Edit | null; split: boolean }
    | { kind: 'scale'; end: 'first' | 'last' | 'middle'; x: number; first: number; last: number; edit: Edit | null }
    | { kind: 'playRange'; end: 'first' | 'last'; edit: Edit | null };
  let drag = $state.raw<Drag | null>(null);

  const point = (e: MouseEvent) => {
    const rect = canvas.getBoundingClientRect();
    return { x: e.clientX - rect.left, y: e.clientY - rect.top };
  };
  const snapped = (frame: number) => (preferences.snap ? Math.round(frame) : Math.round(frame * 100) / 100);

  function pointerdown(e: PointerEvent) {
    const { x, y } = point(e);
    menu = null;
    canvas.focus({ preventScroll: true });
    canvas.setPointerCapture(e.pointerId);
    const m = model();
    if (e.button === 1 || (e.button === 2 && e.altKey)) {
      drag = { kind: 'pan', x, y, time, scroll };
      return;
    }
    if (e.button !== 0) return;
    const hit = hitTest(m, x, y);
    const add = e.shiftKey || e.ctrlKey;
    switch (hit.kind) {
      case 'ruler':
        drag = { kind: 'scrub' };
        session.player.stop();
        session.goTo(time.frame(x));
        break;
      case 'playRange':
        drag = { kind: 'playRange', end: hit.end, edit: null };
        break;
      case 'grip':
        drag = { kind: 'scale', end: hit.end, x, first: range!.first, last: range!.last, edit: null };
        break;
      case 'tag':
        menu = hit;
        break;
      case 'handle':
        drag = { kind: 'handle', hit, edit: null, split: e.altKey };
        break;
      case 'keys': {
        const already = hit.keys.every((k) => selected.has(keyId(k)));
        if (add) {
          session.selectedKeys = already
            ? session.selectedKeys.filter((k) => !hit.keys.some((h) => keyId(h) === keyId(k)))
            : [...session.selectedKeys, ...hit.keys.filter((k) => !selected.has(keyId(k)))];
        } else if (!already) session.selectedKeys = hit.keys;
        const value = hit.lane
          ? session.curve(hit.keys[0].address)!.keys.find((k) => k.frame === hit.keys[0].frame)!.value
          : null;
        drag = { kind: 'keys', x, y, keys: session.selectedKeys, value, hit, moved: false, edit: null };
        break;
      }
      default:
        drag = { kind: 'box', x, y, add: add ? session.selectedKeys : [] };
    }
  }

  function pointermove(e: PointerEvent) {
    const { x, y } = point(e);
    if (!drag) {
      const hit = hitTest(model(), x, y);
      cursor =
        hit.kind === 'keys' || hit.kind === 'handle'
          ? 'grab'
          : hit.kind === 'grip' || hit.kind === 'playRange'
            ? 'ew-resize'
            : hit.kind === 'ruler'
              ? 'col-resize'
              : hit.kind === 'tag'
                ? 'pointer'
                : 'default';
      return;
    }
    const m = model();
    switch (drag.kind) {
      case 'scrub':
        session.goTo(time.frame(x));
        break;
      case 'pan':
        time = drag.time.panned(x - drag.x);
        scroll = clampScroll(drag.scroll - (y - drag.y));
        break;
      case 'box':
        marquee = { x0: drag.x, y0: drag.y, x1: x, y1: y };
        session.selectedKeys = merge(drag.add, keysIn(m, marquee));
        break;
      case 'playRange': {
        const { playFirst, playLast } = session.scene;
        const frame = Math.round(time.frame(x));
        const playRange =
          drag.end === 'first'
            ? { first: Math.min(frame, playLast), last: playLast }
            : { first: playFirst, last: Math.max(frame, playFirst) };
        drag.edit = { kind: 'setShot', playRange } as Edit;
        session.try(drag.edit);
        break;
      }
      case 'keys': {
        if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < 3) return;
        drag.moved = true;
        let frames = snapped((x - drag.x) / time.pixelsPerFrame);
        let value =
          drag.hit.lane && drag.value !== null
            ? laneValue(m, drag.hit.lane, y) - laneValue(m, drag.hit.lane, drag.y)
            : 0;
        // Shift keeps to the direction that was taken.
        if (e.shiftKey) {
          if (Math.abs(x - drag.x) > Math.abs(y - drag.y)) value = 0;
          else frames = 0;
        }
        const laneAddress = drag.hit.lane?.address;
        const own = drag.keys.filter((k) => k.address === laneAddress);
        const others = drag.keys.filter((k) => k.address !== laneAddress);
        const moves = [
          ...(own.length > 0 ? [{ kind: 'transformKeys', keys: own, by: { frames, value } }] : []),
          ...(others.length > 0 ? [{ kind: 'transformKeys', keys: others, by: { frames } }] : []),
        ];
        drag.edit = (
          moves.length === 1 ? moves[0] : { kind: 'batch', label: `Move ${drag.keys.length} keys`, edits: moves }
        ) as Edit;
        const outcome = session.try(drag.edit);
        if (outcome.refusal) drag.edit = null;
        else session.selectedKeys = drag.keys.map((k) => ({ ...k, frame: k.frame + frames }));
        break;
      }
      case 'handle': {
        const { key, side, row } = drag.hit;
        const at = session.curve(key.address)!.keys.find((k) => k.frame === key.frame)!;
        const df = time.frame(x) - key.frame;
        const frames = side === 'in' ? Math.min(0, df) : Math.max(0, df);
        const value = laneValue(m, row, y) - at.value;
        drag.edit = {
          kind: 'setHandle',
          key,
          side,
          handle: { kind: 'free', frames, value },
          ...(drag.split || e.altKey ? { joined: false } : {}),
        } as Edit;
        session.try(drag.edit);
        break;
      }
      case 'scale': {
        const moved = (x - drag.x) / time.pixelsPerFrame;
        const span = drag.last - drag.first;
        const by =
          drag.end === 'middle'
            ? { frames: snapped(moved) }
            : drag.end === 'last'
              ? {
                  framePivot: drag.first,
                  frameScale: Math.max(0.02, snapped(span + moved) / span),
                  snap: preferences.snap,
                }
              : {
                  framePivot: drag.last,
                  frameScale: Math.max(0.02, snapped(span - moved) / span),
                  snap: preferences.snap,
                };
        const edit = { kind: 'transformKeys', keys: dragKeys, by } as Edit;
        const outcome = session.try(edit);
        if (!outcome.refusal) {
          drag.edit = edit;
          const pivot = by.framePivot ?? 0;
          const scale = by.frameScale ?? 1;
          session.selectedKeys = dragKeys.map((k) => {
            const frame = pivot + (k.frame - pivot) * scale + (by.frames ?? 0);
            return { ...k, frame: by.snap ? Math.round(frame) : frame };
          });
        }
        break;
      }
    }
  }

  // The keys as they were when a grip was taken.
  let dragKeys: KeyRef[] = [];
  $effect(() => {
    if (drag?.kind === 'scale' && dragKeys.length === 0) dragKeys = session.selectedKeys;
    if (!drag) dragKeys = [];
  });

  function pointerup(e: PointerEvent) {
    const done = drag;
    drag = null;
    marquee = null;
    if (!done) return;
    const { x, y } = point(e);
    if (done.kind === 'box' && Math.hypot(x - done.x, y - done.y) < 3) {
      session.selectedKeys = [];
      const hit = hitTest(model(), x, y);
      if (hit.kind === 'row' && hit.row.kind === 'head') session.select([hit.row.owner]);
      return;
    }
    if (done.kind === 'keys' && !done.moved && !e.shiftKey && !e.ctrlKey) session.selectedKeys = done.hit.keys;
    if ('edit' in done && done.edit) {
      const chosen = session.selectedKeys;
      session.commit(done.edit);
      if (done.kind !== 'handle')
        session.selectedKeys = chosen.filter((k) => session.channel.get(k.address)?.keys.includes(k.frame));
    }
  }

  function cancelDrag() {
    if (!drag) return;
    if (drag.kind === 'keys') session.selectedKeys = drag.keys;
    if (drag.kind === 'scale') session.selectedKeys = dragKeys;
    drag = null;
    marquee = null;
    session.try(null);
  }

  function dblclick(e: MouseEvent) {
    const { x, y } = point(e);
    const hit = hitTest(model(), x, y);
    if (hit.kind === 'segment' || (hit.kind === 'row' && hit.row.kind === 'channel')) {
      const address = hit.kind === 'segment' ? hit.key.address : (hit.row as { address: string }).address;
      const frame = snapped(time.frame(x));
      if (session.commit({ kind: 'insertKeys', keys: [{ address, frame }] }))
        session.selectedKeys = [{ address, frame }];
    }
  }

  function wheel(e: WheelEvent) {
    e.preventDefault();
    if (e.ctrlKey || e.metaKey) time = time.zoomed(point(e).x, Math.exp(-e.deltaY * 0.002));
    else if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) time = time.panned(-(e.deltaX || e.deltaY));
    else scroll = clampScroll(scroll + e.deltaY);
  }

  const clampScroll = (to: number) => Math.max(0, Math.min(to, Math.max(0, contentHeight - size.height + HEAD + 20)));

  function merge(a: KeyRef[], b: KeyRef[]): KeyRef[] {
    const known = new Set(a.map(keyId));
    return [...a, ...b.filter((k) => !known.has(keyId(k)))];
  }

  function extrapolate(kind: Extrapolation['kind'], count: number) {
    const { address, end } = menu!;
    session.commit({ kind: 'setExtrapolation', channels: [address], [end]: { kind, count } } as unknown as Edit);
  }

  const current = $derived(menu ? session.curve(menu.address)?.[menu.end] : null);
  const repeats = ['loop', 'loopOffset', 'pingPong'];
  const words: Record<string, string> = {
    hold: 'Hold the value',
    linear: 'Go straight on',
    loop: 'Repeat',
    loopOffset: 'Repeat and climb',
    pingPong: 'Back and forth',
  };

  function drop(e: DragEvent) {
    const text = e.dataTransfer?.getData('application/x-ease');
    if (!text) return;
    e.preventDefault();
    const { x, y } = point(e);
    const hit = hitTest(model(), x, y);
    if (hit.kind === 'segment')
      session.commit({ kind: 'setSegments', keys: [hit.key], segment: JSON.parse(text) } as Edit);
    else session.say('Drop it between two keys.');
  }
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && (cancelDrag(), (menu = null))} />

<div bind:this={box} class="relative flex h-full w-full overflow-hidden bg-base-100" data-testid="tracks">
  <div class="relative h-full shrink-0 overflow-hidden border-r border-base-300" style="width:{labelWidth}px">
    <div
      class="absolute inset-x-0 top-0 z-10 flex items-center justify-between border-b border-base-300 bg-base-200 px-3"
      style="height:{HEAD}px"
    >
      <span class="text-sm font-semibold">Tracks</span>
      <button class="btn btn-ghost btn-xs" title={tip('fit', 'Fit all keys')} onclick={fit}>Fit</button>
    </div>
    <div class="absolute inset-x-0" style="top:{HEAD - scroll}px" role="tree" aria-label="Animated channels">
      {#each rows as row (row.kind === 'head' ? row.owner : row.address)}
        <div
          class="absolute inset-x-0 flex items-start border-b border-base-300/60 text-xs"
          style="top:{row.top}px;height:{row.height}px"
          role="treeitem"
          aria-selected={session.selection.includes(row.owner)}
        >
          {#if row.kind === 'head'}
            <button
              class="h-full w-full truncate bg-base-200 px-3 text-left font-semibold hover:bg-base-300 {session.selection.includes(
                row.owner,
              )
                ? 'text-primary'
                : ''}"
              title="Select {row.name}"
              onclick={() => session.byId.has(row.owner) && session.select([row.owner])}>{row.name}</button
            >
          {:else}
            <button
              class="flex w-full items-center gap-1 truncate px-2 text-left hover:bg-base-200"
              style="height:{ROW}px"
              aria-expanded={row.open}
              title={row.open ? 'Close the curve' : 'Open the curve'}
              onclick={() => ui.toggleLane(row.address)}
            >
              {#if row.open}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}
              <span class="h-3 w-1 rounded-full" style="background:var(--family-{row.channel.family})"></span>
              <span class="grow truncate">{row.channel.label}</span>
              <span class="text-base-content/70"
                >{session.evaluated >= 0 ? (session.shown?.values[row.channel.index] ?? 0).toFixed(2) : ''}</span
              >
            </button>
          {/if}
        </div>
      {/each}
    </div>
  </div>
  <canvas
    bind:this={canvas}
    class="block outline-none"
    style="width:{size.width}px;height:{size.height}px;cursor:{cursor};touch-action:none"
    tabindex="0"
    aria-label="Keys and curves"
    onpointerdown={pointerdown}
    onpointermove={pointermove}
    onpointerup={pointerup}
    onpointercancel={cancelDrag}
    ondblclick={dblclick}
    onwheel={wheel}
    oncontextmenu={(e) => e.preventDefault()}
    ondragover={(e) => e.preventDefault()}
    ondrop={drop}
  ></canvas>
  {#if rows.length === 0}
    <div
      class="pointer-events-none absolute inset-0 grid place-items-center pt-10 text-center text-sm text-base-content/80"
    >
      <p>
        {session.selection.length > 0 ? 'Nothing here is keyed yet.' : 'Nothing is keyed yet.'}<br />Move the playhead,
        pose an object, and press
        <kbd class="kbd kbd-sm">K</kbd>.
      </p>
    </div>
  {/if}
  {#if menu && current}
    <div
      class="absolute z-20 w-56 rounded-box border border-base-300 bg-base-200 p-2 shadow-xl"
      style="left:{Math.min(menu.x + labelWidth, size.width + labelWidth - 232)}px;top:{Math.min(
        menu.y + 4,
        size.height - 220,
      )}px"
      role="menu"
      aria-label="What the curve does {menu.end} its keys"
    >
      <p class="px-2 pb-1 text-xs text-base-content/75">
        {menu.end === 'before' ? 'Before the first key' : 'After the last key'}
      </p>
      {#each Object.keys(extrapolationWords) as kind (kind)}
        <button
          class="btn btn-ghost btn-sm w-full justify-start {current.kind === kind ? 'btn-active' : ''}"
          role="menuitemradio"
          aria-checked={current.kind === kind}
          onclick={() => extrapolate(kind as Extrapolation['kind'], repeats.includes(kind) ? (current.count ?? 0) : 0)}
          >{words[kind]}</button
        >
      {/each}
      {#if repeats.includes(current.kind)}
        <label class="flex items-center justify-between gap-2 px-3 pt-1 text-xs">
          Passes (0: for ever)
          <input
            class="input input-xs w-16 text-right"
            type="number"
            min="0"
            value={current.count ?? 0}
            onchange={(e) => extrapolate(current.kind, Math.max(0, Math.round(Number(e.currentTarget.value) || 0)))}
          />
        </label>
      {/if}
    </div>
  {/if}
</div>
