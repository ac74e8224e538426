<script lang="ts">
  import { onMount } from 'svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { isSoftware } from '../viewport/view/software';
  import { ui } from '../stores/ui.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import { drawTracks } from './draw';
  import { place } from './hit';
  import type { Palette } from './model';
  import EndsMenu from './graph/EndsMenu.svelte';
  import { endsMenu } from './graph/ends.svelte';
  import { cursorAt, drop, insert, keydown, press, wheel } from './hand';
  import LayerStrip from './layers/LayerStrip.svelte';
  import MarkerFields from './markers/MarkerFields.svelte';
  import OverlayLegend from './graph/OverlayLegend.svelte';
  import { paletteOf } from './palette';
  import { LABELS, TracksPanel } from './panel.svelte';
  import Playhead from './Playhead.svelte';
  import RowLabels from './rows/RowLabels.svelte';
  import SoundFields from './sounds/SoundFields.svelte';
  import { openMenu } from './tracksMenu';

  const panel = new TracksPanel();
  let canvas: HTMLCanvasElement;
  let box: HTMLDivElement;
  let cursor = $state('default');
  const layersShown = $derived(viewState.layers ?? session.shot.scene.layers.length > 0);

  // The colours are asked for once a theme: asking makes the browser work out every style.
  let colours: { theme: string; palette: Palette } | null = null;
  let requested = 0;
  /** Pictures drawn, and the time they took; for measuring. */
  let drawn = 0;
  let spent = 0;
  $effect(() => {
    void [panel.shown, preferences.theme];
    requested ||= requestAnimationFrame(() => {
      requested = 0;
      if (!canvas || !session.shot.engine) return;
      const { width, height } = panel.size;
      const ratio = devicePixelRatio;
      if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
        canvas.width = Math.round(width * ratio);
        canvas.height = Math.round(height * ratio);
      }
      // Without a graphics card a canvas in plain memory is three times as fast as one that pretends to be on a card.
      const g = canvas.getContext('2d', { willReadFrequently: isSoftware() })!;
      g.setTransform(ratio, 0, 0, ratio, 0, 0);
      if (colours?.theme !== preferences.theme) colours = { theme: preferences.theme, palette: paletteOf(box) };
      const start = performance.now();
      drawTracks(g, panel.model(), colours.palette);
      spent += performance.now() - start;
      drawn++;
    });
  });
  let fits = ui.fit;
  $effect(() => {
    if (ui.fit === fits) return;
    fits = ui.fit;
    if (ui.part === 'tracks') panel.fit();
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
    const channels = panel.rows.flatMap((r) => (r.kind === 'channel' ? [r.address] : []));
    if (channels.length > 0 && channels.length < 60 && !channels.some((a) => viewState.lanes.has(a)))
      viewState.openFor(channels.slice(0, Math.max(1, Math.floor(panel.room / 300))));
  });

  onMount(() => {
    panel.canvas = canvas;
    const observer = new ResizeObserver(() => {
      panel.size = { width: Math.max(50, box.clientWidth - LABELS), height: box.clientHeight };
      if (!viewState.tracksTime && box.clientWidth > LABELS) panel.fit();
    });
    observer.observe(box);
    // For tests: where a key lies in the page.
    const onPage = (address: string, frame: number, lane: boolean, side?: 'in' | 'out') => {
      const at = place(panel.model(), address, frame, lane, side);
      const rect = canvas.getBoundingClientRect();
      return at && { x: rect.left + at.x, y: rect.top + at.y };
    };
    Object.assign(window, {
      bradymotusTracks: {
        key: (address: string, frame: number, lane: boolean) => onPage(address, frame, lane),
        handle: (address: string, frame: number, side: 'in' | 'out') => onPage(address, frame, true, side),
        drawn: () => drawn,
        spent: () => spent,
        frame: (frame: number) => canvas.getBoundingClientRect().left + panel.time.x(frame),
      },
    });
    return () => {
      endsMenu.shown = null;
      observer.disconnect();
      if (gestures.busy) gestures.cancel();
    };
  });
</script>

<div class="flex h-full w-full" data-part="tracks">
  {#if layersShown}<LayerStrip />{/if}
  <div bind:this={box} class="relative flex h-full min-w-0 grow overflow-hidden bg-base-100" data-testid="tracks">
    <RowLabels
      labels={panel.labels}
      heard={panel.heard}
      scroll={panel.scroll}
      width={LABELS}
      {layersShown}
      onfit={() => panel.fit()}
      onopen={(address) => panel.toggle(address)}
      onselect={(row) => panel.selectRow(row)}
      onsound={(id) => (panel.soundOpen = { id, x: 8 })}
    />
    {#if viewState.overlay}<OverlayLegend
        channels={panel.overlaid}
        more={panel.meantOver.length - panel.overlaid.length}
        width={LABELS}
        height={panel.overlayHeight}
      />{/if}
    <canvas
      bind:this={canvas}
      class="block outline-none"
      style="width:{panel.size.width}px;height:{panel.size.height}px;cursor:{cursor};touch-action:none"
      tabindex="0"
      data-tracks
      aria-label="Keys and curves"
      onpointerdown={(e) => press(panel, e)}
      onpointermove={(e) => gestures.busy || (cursor = cursorAt(panel, e))}
      ondblclick={(e) => insert(panel, e)}
      onwheel={(e) => wheel(panel, e)}
      oncontextmenu={(e) => openMenu(panel, e)}
      onkeydown={(e) => keydown(panel, e)}
      ondragover={(e) => e.preventDefault()}
      ondrop={(e) => drop(panel, e)}
    ></canvas>
    <Playhead time={panel.time} width={panel.size.width} />
    {#if gestures.readout && ui.part === 'tracks'}
      <div
        class="pointer-events-none absolute top-16 right-3 z-10 rounded bg-base-200/90 px-3 py-1 text-sm tabular-nums"
        role="status"
        data-testid="tracks-readout"
      >
        {gestures.readout}{#if gestures.typed}<span class="pl-2 font-semibold text-primary">{gestures.typed}</span>{/if}
      </div>
    {/if}
    {#if panel.markerOpen}<MarkerFields
        id={panel.markerOpen.id}
        left={Math.min(panel.markerOpen.x + LABELS, panel.size.width + LABELS - 270)}
        onclose={() => (panel.markerOpen = null)}
      />{/if}
    {#if panel.soundOpen}<SoundFields
        id={panel.soundOpen.id}
        top={panel.body + 2}
        left={Math.max(4, Math.min(panel.soundOpen.x + LABELS, panel.size.width + LABELS - 300))}
        onclose={() => (panel.soundOpen = null)}
      />{/if}
    {#if panel.rows.length === 0}
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
