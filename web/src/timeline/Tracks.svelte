<script lang="ts">
  import { newEdit } from '../edits/edit';
  import { onMount } from 'svelte';
  import { baseOf } from '../engine/engine';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import { channelMenu } from '../properties/channelMenu';
  import { gestures, type Hand } from '../widgets/gestures.svelte';
  import { preferences } from '../stores/preferences.svelte';
  import { keyId, session } from '../stores/session.svelte';
  import { isSoftware } from '../viewport/view/software';
  import { TimeScale } from '../stores/timeScale';
  import { ui } from '../stores/ui.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import * as drags from './drags';
  import { drawTracks } from './draw';
  import { areaOf, HEAD, scaleIn, SOUND, SPEED, type Lane, type Palette, type TracksModel } from './model';
  import { hitTest, type Hit } from './hit';
  import {
    byKind,
    layoutRows,
    ROW,
    rowAt,
    shownOwners,
    valueRange,
    yOf,
    type ValueScale,
    type HeadRow,
  } from './layout';
  import EndsMenu from './graph/EndsMenu.svelte';
  import { curvesOfTag, endsMenu, openEnds } from './graph/ends.svelte';
  import LayerStrip from './layers/LayerStrip.svelte';
  import MarkerFields from './markers/MarkerFields.svelte';
  import OverlayLegend from './graph/OverlayLegend.svelte';
  import { paletteOf } from './palette';
  import RowLabels from './rows/RowLabels.svelte';
  import SoundFields from './sounds/SoundFields.svelte';

  let canvas: HTMLCanvasElement;
  let box: HTMLDivElement;
  let size = $state({ width: 600, height: 200 });
  let scroll = $state(0);
  let marquee = $state.raw<TracksModel['box']>(null);
  let lasso = $state.raw<TracksModel['lasso']>(null);
  let markerOpen = $state<{ id: string; x: number } | null>(null);
  let soundOpen = $state<{ id: string; x: number } | null>(null);
  let cursor = $state('default');
  let scales = new Map<string, ValueScale>();
  const labelWidth = 190;
  // What is looked at stays when the phase changes and comes back.
  const time = $derived(viewState.tracksTime ?? new TimeScale(-2, 8));

  const animatedOf = (id: string) => {
    const keyed = session.shot.animated.get(id);
    const wanted = viewState.rowFilter.trim().toLowerCase();
    const name = session.shot.byId.get(id)?.name.toLowerCase() ?? '';
    return session.shot
      .channelsOf(id)
      .filter(
        (c) =>
          (keyed?.has(baseOf(c.address)) || (viewState.allRows && session.selection.ids.includes(id))) &&
          (wanted === '' || name.includes(wanted) || c.label.toLowerCase().includes(wanted) || c.family === wanted),
      );
  };
  const layersShown = $derived(viewState.layers ?? session.shot.scene.layers.length > 0);
  const sounds = $derived(session.shot.scene.sounds);
  // Where the rows begin: below the ruler and the sounds.
  const body = $derived(HEAD + SOUND * sounds.length);
  const noLanes: ReadonlySet<string> = new Set();
  const rows = $derived.by(() => {
    const owners = shownOwners(
      session.shot.scene.nodes,
      [...session.shot.scene.materials, ...session.shot.scene.layers, ...sounds],
      session.shot.family(session.selection.ids),
      (id) => session.shot.animated.has(id) || (viewState.allRows && session.selection.ids.includes(id)),
    );
    const groups = viewState.rowsBy === 'kind' ? byKind(owners, animatedOf) : { owners, channelsOf: animatedOf };
    return layoutRows(
      groups.owners,
      groups.channelsOf,
      viewState.overlay ? noLanes : viewState.lanes,
      size.height - body,
      body - HEAD,
    );
  });
  // What can be muted of the rows.
  const heard = $derived(
    rows.flatMap((r) => (r.kind === 'channel' && session.shot.keysOf(r.address).length > 0 ? [r.address] : [])),
  );
  const contentHeight = $derived(rows.length > 0 ? rows[rows.length - 1].top + rows[rows.length - 1].height : 0);
  // The labels that can be seen.
  const labels = $derived.by(() => {
    const first = Math.max(0, rowAt(rows, scroll) - 2);
    return rows.slice(first, rowAt(rows, scroll + size.height) + 2);
  });
  // The large lane shows the channels of the selected keys, or all rows while there are few.
  const meantOver = $derived.by(() => {
    if (!viewState.overlay) return [];
    const channels = rows.flatMap((r) => (r.kind === 'channel' ? [r.channel] : []));
    const meant = new Set(session.selection.keys.map((k) => k.address));
    const chosen = viewState.lanes.size > 0 ? channels.filter((c) => viewState.lanes.has(c.address)) : [];
    const of = meant.size > 0 ? channels.filter((c) => meant.has(c.address) || viewState.lanes.has(c.address)) : chosen;
    return of.length > 0 ? of : channels;
  });
  // More than these cannot be told apart.
  const overlaid = $derived(meantOver.slice(0, 48));
  const overlayHeight = $derived(viewState.overlay ? Math.max(150, Math.round((size.height - body) * 0.62)) : 0);
  const selected = $derived(new Set(session.selection.keys.map(keyId)));
  const range = $derived.by(() => {
    let [first, last] = [Infinity, -Infinity];
    for (const k of session.selection.keys) {
      first = Math.min(first, k.frame);
      last = Math.max(last, k.frame);
    }
    return last > first ? { first, last } : null;
  });

  function model(): TracksModel {
    const s = session.shot.scene;
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
      curve: (a) => session.shot.curve(a),
      keysOf: (a) => session.shot.keysOf(a),
      sample: (a, first, step, count) => session.shot.engine!.sample(a, first, step, count),
      sum: summed,
      scales,
      box: marquee,
      range,
      findings: session.findings.frames,
      kept: session.shot.kept,
      muted: session.shot.scene.muted,
      markers: s.markers,
      sounds: sounds.map((sound) => {
        const peaks = session.sounds.peaks.get(sound.asset);
        const { id, name, start, seconds, muted } = sound;
        return {
          id,
          name,
          start,
          seconds,
          muted,
          between: peaks ? (from, to) => peaks.between(from, to) : null,
          most: peaks?.most ?? 1,
        };
      }),
      overlay: viewState.overlay ? overlay() : null,
      lasso,
      slopes: (a, first, step, count, acceleration) => session.shot.engine!.slopes(a, first, step, count, acceleration),
    };
  }

  // Summing up is work, and the same while it plays: until something changes, or other time is shown.
  const sums = new Map<string, { of: string; values: number[] }>();
  function summed(address: string, first: number, step: number, count: number): number[] | null {
    if (!session.shot.isSummed(address)) return null;
    const of = `${session.shot.changed} ${first} ${step} ${count}`;
    let known = sums.get(address);
    if (known?.of !== of)
      sums.set(address, (known = { of, values: session.shot.engine!.sampleSum(address, first, step, count) }));
    return known.values;
  }

  // In one scale, that stays while a hand drags.
  let common: { of: string; scale: ValueScale } | null = null;
  function overlay(): TracksModel['overlay'] {
    const of = overlaid.map((c) => c.address).join();
    if (viewState.oneScale && common?.of !== of) {
      const ranges = overlaid.flatMap((c) => {
        const curve = session.shot.curve(c.address);
        return curve ? [valueRange(curve)] : [];
      });
      common = {
        of,
        scale: { low: Math.min(...ranges.map((r) => r.low)), high: Math.max(...ranges.map((r) => r.high)) },
      };
    }
    return {
      top: size.height - overlayHeight,
      height: overlayHeight,
      speed: viewState.speed ? SPEED : 0,
      channels: overlaid,
      scale: viewState.oneScale && overlaid.length > 0 ? common!.scale : null,
    };
  }

  // The colours are asked for once a theme: asking makes the browser work out every style.
  let colours: { theme: string; palette: Palette } | null = null;
  let requested = 0;
  /** Pictures drawn; for measuring. */
  let drawn = 0;
  let spent = 0;
  $effect(() => {
    // Everything that is drawn, so that a change of any of it draws again.
    void [
      session.shot.changed,
      session.frame,
      rows,
      scroll,
      time,
      size.width,
      size.height,
      selected,
      marquee,
      range,
      session.findings.frames,
      session.shot.kept,
      session.shot.scene.markers,
      sounds,
      session.sounds.peaks,
      overlaid,
      overlayHeight,
      viewState.oneScale,
      viewState.speed,
      lasso,
      preferences.theme,
    ];
    requested ||= requestAnimationFrame(() => {
      requested = 0;
      if (!canvas || !session.shot.engine) return;
      const ratio = devicePixelRatio;
      if (canvas.width !== Math.round(size.width * ratio) || canvas.height !== Math.round(size.height * ratio)) {
        canvas.width = Math.round(size.width * ratio);
        canvas.height = Math.round(size.height * ratio);
      }
      // Without a graphics card a canvas in plain memory is three times as fast as one that pretends to be on a card.
      const g = canvas.getContext('2d', { willReadFrequently: isSoftware() })!;
      g.setTransform(ratio, 0, 0, ratio, 0, 0);
      if (colours?.theme !== preferences.theme) colours = { theme: preferences.theme, palette: paletteOf(box) };
      const start = performance.now();
      drawTracks(g, model(), colours.palette);
      spent += performance.now() - start;
      drawn++;
    });
  });
  // The scale of a lane is its own, and settles when the hand lets go.
  $effect(() => {
    void session.shot.changed;
    if (gestures.busy) return;
    scales.clear();
    common = null;
  });
  // Rows may vanish below where one has scrolled to.
  $effect(() => {
    const to = clampScroll(scroll);
    if (to !== scroll) scroll = to;
  });
  let fits = ui.fit;
  $effect(() => {
    if (ui.fit === fits) return;
    fits = ui.fit;
    if (ui.part === 'tracks') fit();
  });
  // Lanes that are open stay so in another layer, whose keys are others.
  let layer = session.shot.layer;
  $effect(() => {
    if (session.shot.layer === layer) return;
    layer = session.shot.layer;
    viewState.lanes = new Set([...viewState.lanes].map(session.shot.here));
    session.selection.keys = [];
  });
  // What is selected is opened, as large as there is room, unless something of it is open already; what was opened for the selection before is closed.
  let openedFor = '';
  $effect(() => {
    const of = session.selection.ids.join();
    if (of === openedFor || session.shotId === null) return;
    openedFor = of;
    viewState.closeOpened();
    if (of === '') return;
    const channels = rows.flatMap((r) => (r.kind === 'channel' ? [r.address] : []));
    if (channels.length > 0 && channels.length < 60 && !channels.some((a) => viewState.lanes.has(a)))
      viewState.openFor(channels.slice(0, Math.max(1, Math.floor((size.height - body) / 300))));
  });

  onMount(() => {
    const observer = new ResizeObserver(() => {
      size = { width: Math.max(50, box.clientWidth - labelWidth), height: box.clientHeight };
      if (!viewState.tracksTime && box.clientWidth > labelWidth) fit();
    });
    observer.observe(box);
    // For tests: where a key lies in the page.
    Object.assign(window, {
      bradymotusTracks: {
        key: (address: string, frame: number, lane: boolean) => place(address, frame, lane),
        handle: (address: string, frame: number, side: 'in' | 'out') => place(address, frame, true, side),
        drawn: () => drawn,
        spent: () => spent,
        frame: (frame: number) => canvas.getBoundingClientRect().left + time.x(frame),
      },
    });
    return () => {
      endsMenu.shown = null;
      observer.disconnect();
      if (gestures.busy) gestures.cancel();
    };
  });

  function place(address: string, frame: number, lane: boolean, side?: 'in' | 'out') {
    const row = rows.find((r) => r.kind === 'channel' && r.address === address);
    if (!row || row.kind !== 'channel') return null;
    const rect = canvas.getBoundingClientRect();
    const key = session.shot.curve(address)!.keys.find((k) => k.frame === frame)!;
    const [df, dv] = side ? key[side] : [0, 0];
    const at: Lane = { address, row: viewState.overlay ? null : row };
    const scale = scaleIn(model(), at, session.shot.curve(address)!);
    const area = areaOf(model(), at);
    const y = lane ? yOf(key.value + dv, scale, area.top, area.height) : HEAD + row.top - scroll + ROW / 2;
    return { x: rect.left + time.x(frame + df), y: rect.top + y };
  }

  /** Shows the selected keys, or all that there are, wherever they lie. */
  function fit() {
    let [first, last] = [Infinity, -Infinity];
    const take = (f: number) => {
      first = Math.min(first, f);
      last = Math.max(last, f);
    };
    if (session.selection.keys.length > 1) for (const k of session.selection.keys) take(k.frame);
    else {
      take(session.shot.scene.first);
      take(session.shot.scene.last);
      for (const r of rows)
        if (r.kind === 'channel') {
          const frames = session.shot.keysOf(r.address);
          if (frames.length > 0) {
            take(frames[0]);
            take(frames[frames.length - 1]);
          }
        }
    }
    viewState.tracksTime = TimeScale.fit(first, Math.max(last, first + 1), size.width);
  }

  const point = (e: MouseEvent) => {
    const rect = canvas.getBoundingClientRect();
    return { x: e.clientX - rect.left, y: e.clientY - rect.top };
  };
  const snapped = (frame: number) => (preferences.snap ? Math.round(frame) : Math.round(frame * 100) / 100);
  const board: drags.Board = {
    session,
    model,
    point,
    snapped,
    get snap() {
      return preferences.snap;
    },
    get time() {
      return time;
    },
    set time(to) {
      viewState.tracksTime = to;
    },
    get scroll() {
      return scroll;
    },
    set scroll(to) {
      scroll = clampScroll(to);
    },
    get marquee() {
      return marquee;
    },
    set marquee(to) {
      marquee = to;
    },
    get lasso() {
      return lasso;
    },
    set lasso(to) {
      lasso = to;
    },
  };

  function pointerdown(e: PointerEvent) {
    // A press on another tag opens the menu for that.
    endsMenu.shown = null;
    markerOpen = null;
    soundOpen = null;
    canvas.focus({ preventScroll: true });
    const hand = handFor(e);
    if (hand) gestures.follow(e, atTheEdge(hand));
  }

  function handFor(e: PointerEvent): Hand | null {
    const { x, y } = point(e);
    if (e.button === 1 || (e.button === 2 && e.altKey)) return drags.pan(board, x, y);
    if (e.button !== 0) return null;
    const hit = hitTest(model(), x, y);
    const add = e.shiftKey || e.ctrlKey;
    switch (hit.kind) {
      case 'ruler':
        session.player.stop();
        session.goTo(time.frame(x));
        return drags.scrub(board);
      case 'playRange':
        return drags.playbackRange(board, hit.end);
      case 'grip':
        return drags.scale(board, hit.end, x, range!.first, range!.last);
      case 'tag':
        endsMenu.shown = { channels: curvesOfTag(hit.address), end: hit.end, x: e.clientX, y: e.clientY };
        return null;
      case 'marker':
        return drags.marker(board, hit.id, () => {
          session.goTo(session.shot.scene.markers.find((m) => m.id === hit.id)?.frame ?? session.frame);
          markerOpen = { id: hit.id, x };
        });
      case 'sound':
        return drags.sound(board, hit.id, x, () => (soundOpen = { id: hit.id, x }));
      case 'handle':
        return drags.handle(board, hit, e.altKey);
      case 'keys':
        return keysHand(hit, x, y, add);
      default:
        if (e.altKey) return drags.lasso(board, x, y, add ? session.selection.keys : []);
        return drags.box(board, x, y, add ? session.selection.keys : [], () => {
          if (!add) session.selection.keys = [];
          if (hit.kind === 'row' && hit.row.kind === 'head') selectRow(hit.row);
        });
    }
  }

  function keysHand(hit: Extract<Hit, { kind: 'keys' }>, x: number, y: number, add: boolean): Hand {
    const { selection } = session;
    const already = hit.keys.every((k) => selected.has(keyId(k)));
    if (!already) {
      selection.keys = add ? [...selection.keys, ...hit.keys.filter((k) => !selected.has(keyId(k)))] : hit.keys;
      return drags.keys(board, hit, x, y, () => undefined);
    }
    // Whether a click takes it out or leaves it alone is known only when the hand lets go.
    const hits = new Set(hit.keys.map(keyId));
    return drags.keys(board, hit, x, y, () => {
      selection.keys = add ? selection.keys.filter((k) => !hits.has(keyId(k))) : hit.keys;
    });
  }

  /** Opens or closes a lane; one that is opened is brought into view. */
  function toggle(address: string) {
    viewState.toggleLane(address);
    const row = rows.find((r) => r.kind === 'channel' && r.address === address);
    if (!row || !viewState.lanes.has(address)) return;
    const room = size.height - body;
    const top = row.top - (body - HEAD);
    if (top + row.height > scroll + room) scroll = clampScroll(Math.min(top, top + row.height - room + 8));
  }

  /** The object of a row; of a row of one kind, all objects that are in it. */
  function selectRow(row: HeadRow) {
    const ids = [...new Set(row.channels.map((c) => c.owner))].filter((id) => session.shot.byId.has(id));
    if (ids.length > 0) session.selection.select(ids);
  }

  /** While a hand drags beyond an edge, the tracks scroll under it. */
  function atTheEdge(hand: Hand): Hand {
    let last: PointerEvent | null = null;
    let running = 0;
    const stop = () => cancelAnimationFrame(running);
    const step = () => {
      running = 0;
      if (!last || gestures.current !== watched) return;
      const { x } = point(last);
      const beyond = x < 0 ? x : x > size.width ? x - size.width : 0;
      if (beyond === 0) return;
      viewState.tracksTime = time.panned(-Math.sign(beyond) * Math.min(24, 4 + Math.abs(beyond) / 6));
      hand.move?.(last);
      running = requestAnimationFrame(step);
    };
    const watched: Hand = {
      ...hand,
      move: (e) => {
        last = e;
        hand.move?.(e);
        running ||= requestAnimationFrame(step);
      },
      commit: (e) => (stop(), hand.commit(e)),
      cancel: () => (stop(), hand.cancel()),
    };
    return watched;
  }

  function pointermove(e: PointerEvent) {
    if (gestures.busy) return;
    const { x, y } = point(e);
    const kinds: Partial<Record<Hit['kind'], string>> = {
      keys: 'grab',
      handle: 'grab',
      grip: 'ew-resize',
      playRange: 'ew-resize',
      ruler: 'col-resize',
      marker: 'pointer',
      tag: 'pointer',
    };
    cursor = kinds[hitTest(model(), x, y).kind] ?? 'default';
  }

  function dblclick(e: MouseEvent) {
    const { x, y } = point(e);
    const hit = hitTest(model(), x, y);
    if (hit.kind === 'segment' || (hit.kind === 'row' && hit.row.kind === 'channel')) {
      const address = hit.kind === 'segment' ? hit.key.address : (hit.row as { address: string }).address;
      const frame = snapped(time.frame(x));
      if (session.shot.commit(newEdit('insertKeys', { keys: [{ address, frame }] })))
        session.selection.keys = [{ address, frame }];
    }
  }

  function wheel(e: WheelEvent) {
    e.preventDefault();
    if (e.ctrlKey || e.metaKey) viewState.tracksTime = time.zoomed(point(e).x, Math.exp(-e.deltaY * 0.002));
    else if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY))
      viewState.tracksTime = time.panned(-(e.deltaX || e.deltaY));
    else scroll = clampScroll(scroll + e.deltaY);
  }

  const clampScroll = (to: number) =>
    Math.max(0, Math.min(to, Math.max(0, contentHeight - size.height + overlayHeight + HEAD + 20)));

  /** The keyboard's way through the tracks: up and down from row to row, [ and ] from key to key, Ctrl and arrows move. */
  function keydown(e: KeyboardEvent) {
    const channels = rows.flatMap((r) => (r.kind === 'channel' ? [r] : []));
    const current = session.selection.keys.at(-1);
    const at = channels.findIndex((r) => r.address === current?.address);
    const pick = (address: string, frame: number) => {
      session.selection.keys = [{ address, frame }];
      session.goTo(frame);
      const row = channels.find((r) => r.address === address)!;
      const top = row.top - (body - HEAD);
      if (top < scroll || top + row.height > scroll + size.height - body) scroll = clampScroll(top - 40);
    };
    const nearestKey = (address: string) =>
      session.shot
        .keysOf(address)
        .reduce((a, b) => (Math.abs(b - session.frame) < Math.abs(a - session.frame) ? b : a));
    const nudge = { ArrowLeft: { frames: -1 }, ArrowRight: { frames: 1 } }[e.key];
    if ((e.ctrlKey || e.metaKey) && nudge && session.selection.keys.length > 0) {
      const keys = session.selection.keys;
      if (session.shot.commit(newEdit('transformKeys', { keys, by: nudge })))
        session.selection.keys = keys.map((k) => ({ ...k, frame: k.frame + nudge.frames }));
    } else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && channels.length > 0) {
      const to = at < 0 ? 0 : Math.max(0, Math.min(channels.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1)));
      pick(channels[to].address, nearestKey(channels[to].address));
    } else if ((e.key === '[' || e.key === ']') && current) {
      const frames = session.shot.keysOf(current.address);
      const to = frames[frames.indexOf(current.frame) + (e.key === ']' ? 1 : -1)];
      if (to !== undefined) pick(current.address, to);
    } else if (e.key === 'Enter' && current) toggle(current.address);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }

  const openEndsFor = (address: string, e: MouseEvent) =>
    (endsMenu.shown = { channels: curvesOfTag(address), end: 'after', x: e.clientX, y: e.clientY });

  function openMenu(e: MouseEvent) {
    const { x, y } = point(e);
    const hit = hitTest(model(), x, y);
    if (e.altKey) return e.preventDefault();
    if (hit.kind === 'keys' && !hit.keys.every((k) => selected.has(keyId(k)))) session.selection.keys = hit.keys;
    const channel =
      hit.kind === 'row' && hit.row.kind === 'channel'
        ? hit.row.channel
        : hit.kind === 'segment'
          ? (session.shot.channelAt(hit.key.address) ?? null)
          : null;
    contextMenu.open(
      e,
      hit.kind !== 'keys' && channel
        ? [...channelMenu([channel]), null, { title: 'Cycles …', run: () => openEndsFor(channel.address, e) }]
        : [
            { command: 'copyKeys' },
            { command: 'paste' },
            { command: 'removeKeys' },
            null,
            { command: 'segment.bezier' },
            { command: 'segment.linear' },
            { command: 'segment.hold' },
            null,
            { command: 'handle.auto' },
            { command: 'handle.smooth' },
            { command: 'handle.flat' },
            { command: 'reverse' },
            { command: 'stagger' },
            { title: 'Cycles …', run: () => openEnds('after', { x: e.clientX, y: e.clientY }) },
            null,
            { command: 'fit' },
          ],
    );
  }

  function drop(e: DragEvent) {
    const text = e.dataTransfer?.getData('application/x-ease');
    if (!text) return;
    e.preventDefault();
    const { x, y } = point(e);
    const hit = hitTest(model(), x, y);
    if (hit.kind === 'segment')
      session.shot.commit(newEdit('setSegments', { keys: [hit.key], segment: JSON.parse(text) }));
    else session.messages.say('Drop it between two keys.');
  }
</script>

<div class="flex h-full w-full" data-part="tracks">
  {#if layersShown}<LayerStrip />{/if}
  <div bind:this={box} class="relative flex h-full min-w-0 grow overflow-hidden bg-base-100" data-testid="tracks">
    <RowLabels
      {labels}
      {heard}
      {scroll}
      width={labelWidth}
      {layersShown}
      onfit={fit}
      onopen={toggle}
      onselect={selectRow}
      onsound={(id) => (soundOpen = { id, x: 8 })}
    />
    {#if viewState.overlay}<OverlayLegend
        channels={overlaid}
        more={meantOver.length - overlaid.length}
        width={labelWidth}
        height={overlayHeight}
      />{/if}
    <canvas
      bind:this={canvas}
      class="block outline-none"
      style="width:{size.width}px;height:{size.height}px;cursor:{cursor};touch-action:none"
      tabindex="0"
      data-tracks
      aria-label="Keys and curves"
      onpointerdown={pointerdown}
      onpointermove={pointermove}
      ondblclick={dblclick}
      onwheel={wheel}
      oncontextmenu={openMenu}
      onkeydown={keydown}
      ondragover={(e) => e.preventDefault()}
      ondrop={drop}
    ></canvas>
    {#if gestures.readout && ui.part === 'tracks'}
      <div
        class="pointer-events-none absolute top-16 right-3 z-10 rounded bg-base-200/90 px-3 py-1 text-sm tabular-nums"
        role="status"
        data-testid="tracks-readout"
      >
        {gestures.readout}{#if gestures.typed}<span class="pl-2 font-semibold text-primary">{gestures.typed}</span>{/if}
      </div>
    {/if}
    {#if markerOpen}<MarkerFields
        id={markerOpen.id}
        left={Math.min(markerOpen.x + labelWidth, size.width + labelWidth - 270)}
        onclose={() => (markerOpen = null)}
      />{/if}
    {#if soundOpen}<SoundFields
        id={soundOpen.id}
        top={body + 2}
        left={Math.max(4, Math.min(soundOpen.x + labelWidth, size.width + labelWidth - 300))}
        onclose={() => (soundOpen = null)}
      />{/if}
    {#if rows.length === 0}
      <div
        class="pointer-events-none absolute inset-0 grid place-items-center pt-10 text-center text-sm text-base-content/80"
      >
        <p>
          {session.selection.ids.length > 0 ? 'Nothing here is keyed yet.' : 'Nothing is keyed yet.'}<br />Move the
          playhead, pose an object, and press
          <kbd class="kbd kbd-sm">K</kbd>.
        </p>
      </div>
    {/if}
    {#if endsMenu.shown}<EndsMenu asked={endsMenu.shown} />{/if}
  </div>
</div>
