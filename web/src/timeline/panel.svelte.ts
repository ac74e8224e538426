// What the tracks show: rows, time, what is selected, what a hand draws. One derived model of it is drawn and asked; whatever changes it
// draws again, and nothing else does. The playhead and the frames that are kept change with every picture and lie over it (Playhead.svelte).
import { baseOf } from '../engine/engine';
import { gestures } from '../widgets/gestures.svelte';
import { preferences } from '../stores/preferences.svelte';
import { keyId, session } from '../stores/session.svelte';
import { TimeScale } from '../stores/timeScale';
import { viewState } from '../stores/viewState.svelte';
import type { Board } from './drags';
import { byKind, layoutRows, rowAt, shownOwners, valueRange, type HeadRow, type ValueScale } from './layout';
import { HEAD, SOUND, SPEED, type Overlay, type TracksModel } from './model';
import { inSteps } from './snapping';

/** How wide the names of the rows are, in pixels. */
export const LABELS = 190;
/** More curves than these cannot be told apart in one lane. */
const MOST_OVERLAID = 48;
const NO_LANES: ReadonlySet<string> = new Set();

/** Scales that stay while a hand drags. */
class Scales {
  readonly lanes = new Map<string, ValueScale>();
  private common: { of: string; scale: ValueScale } | null = null;

  /** The one scale of several curves. */
  of(addresses: readonly string[]): ValueScale {
    const of = addresses.join();
    if (this.common?.of !== of) {
      const ranges = addresses.flatMap((a) => session.shot.curve(a) ?? []).map(valueRange);
      const scale = { low: Math.min(...ranges.map((r) => r.low)), high: Math.max(...ranges.map((r) => r.high)) };
      this.common = { of, scale };
    }
    return this.common.scale;
  }
}

export class TracksPanel implements Board {
  readonly session = session;
  canvas: HTMLCanvasElement | null = null;
  size = $state.raw({ width: 600, height: 200 });
  private wantedScroll = $state(0);
  marquee = $state.raw<TracksModel['box']>(null);
  lasso = $state.raw<TracksModel['lasso']>(null);
  toward = $state.raw<TracksModel['toward']>(null);
  /** The marker or the sound whose fields are open, and where. */
  markerOpen = $state.raw<{ id: string; x: number } | null>(null);
  soundOpen = $state.raw<{ id: string; x: number } | null>(null);

  // What is looked at stays when the phase changes and comes back.
  private readonly shownTime = $derived(viewState.tracksTime ?? new TimeScale(-2, 8));
  readonly sounds = $derived(session.shot.scene.sounds);
  /** Where the rows begin: below the ruler and the sounds. */
  readonly body = $derived(HEAD + SOUND * this.sounds.length);
  readonly rows = $derived.by(() => {
    const { shot } = session;
    const { nodes, materials, layers } = shot.scene;
    const owners = shownOwners(
      nodes,
      [...materials, ...layers, ...this.sounds],
      shot.family(session.selection.ids),
      (id) => shot.animated.has(id) || (viewState.allRows && session.selection.ids.includes(id)),
    );
    const groups = viewState.rowsBy === 'kind' ? byKind(owners, animatedOf) : { owners, channelsOf: animatedOf };
    const lanes = viewState.overlay ? NO_LANES : viewState.lanes;
    return layoutRows(groups.owners, groups.channelsOf, lanes, this.room, this.body - HEAD);
  });
  /** What can be muted of the rows. */
  readonly heard = $derived(
    this.rows.flatMap((r) => (r.kind === 'channel' && session.shot.keysOf(r.address).length > 0 ? [r.address] : [])),
  );
  /** The rows that can be seen, for their labels. */
  readonly labels = $derived.by(() => {
    const first = Math.max(0, rowAt(this.rows, this.scroll) - 2);
    return this.rows.slice(first, rowAt(this.rows, this.scroll + this.size.height) + 2);
  });
  /** What the large lane is for: the channels of the selected keys, or all rows while there are few. */
  readonly meantOver = $derived.by(() => {
    if (!viewState.overlay) return [];
    const channels = this.rows.flatMap((r) => (r.kind === 'channel' ? [r.channel] : []));
    const meant = new Set(session.selection.keys.map((k) => k.address));
    const chosen = viewState.lanes.size > 0 ? channels.filter((c) => viewState.lanes.has(c.address)) : [];
    const of = meant.size > 0 ? channels.filter((c) => meant.has(c.address) || viewState.lanes.has(c.address)) : chosen;
    return of.length > 0 ? of : channels;
  });
  readonly overlaid = $derived(this.meantOver.slice(0, MOST_OVERLAID));
  readonly overlayHeight = $derived(viewState.overlay ? Math.max(150, Math.round(this.room * 0.62)) : 0);
  readonly selected = $derived(new Set(session.selection.keys.map(keyId)));
  /** From the first to the last of the selected keys; null where that is no span. */
  readonly range = $derived.by(() => {
    let [first, last] = [Infinity, -Infinity];
    for (const k of session.selection.keys) {
      first = Math.min(first, k.frame);
      last = Math.max(last, k.frame);
    }
    return last > first ? { first, last } : null;
  });
  private settled = new Scales();
  private readonly scales = $derived.by(() => {
    if (gestures.busy) return this.settled;
    void session.shot.changed;
    return (this.settled = new Scales());
  });
  private readonly overlay = $derived.by<Overlay | null>(() => {
    if (!viewState.overlay) return null;
    return {
      top: this.size.height - this.overlayHeight,
      height: this.overlayHeight,
      speed: viewState.speed ? SPEED : 0,
      channels: this.overlaid,
      scale:
        viewState.oneScale && this.overlaid.length > 0 ? this.scales.of(this.overlaid.map((c) => c.address)) : null,
    };
  });
  private readonly strips = $derived(
    this.sounds.map(({ id, name, start, seconds, muted, asset }) => {
      const peaks = session.sounds.peaks.get(asset);
      const between = peaks ? (from: number, to: number) => peaks.between(from, to) : null;
      return { id, name, start, seconds, muted, between, most: peaks?.most ?? 1 };
    }),
  );
  /** All that is drawn; it is another whenever something of it is. */
  readonly shown = $derived.by<TracksModel>(() => {
    const { shot } = session;
    // Curves are asked of the engine when they are drawn.
    void shot.changed;
    const s = shot.scene;
    return {
      rows: this.rows,
      scroll: this.scroll,
      time: this.shownTime,
      width: this.size.width,
      height: this.size.height,
      rate: s.rate,
      first: s.first,
      last: s.last,
      playFirst: s.playFirst,
      playLast: s.playLast,
      selected: this.selected,
      curve: (a) => shot.curve(a),
      keysOf: (a) => shot.keysOf(a),
      sample: (a, first, step, count) => shot.engine!.sample(a, first, step, count),
      sum: (a, first, step, count) => this.summed(a, first, step, count),
      slopes: (a, first, step, count, acceleration) => shot.engine!.slopes(a, first, step, count, acceleration),
      scales: this.scales.lanes,
      box: this.marquee,
      lasso: this.lasso,
      toward: this.toward,
      range: this.range,
      findings: session.findings.frames,
      muted: s.muted,
      markers: s.markers,
      sounds: this.strips,
      overlay: this.overlay,
    };
  });

  model() {
    return this.shown;
  }

  /** The height that rows have. */
  get room() {
    return this.size.height - this.body;
  }

  get scroll() {
    return this.clamped(this.wantedScroll);
  }

  set scroll(to: number) {
    this.wantedScroll = this.clamped(to);
  }

  get time() {
    return this.shownTime;
  }

  set time(to: TimeScale) {
    viewState.tracksTime = to;
  }

  get snap() {
    return preferences.steps.frames > 0;
  }

  get near() {
    return preferences.near;
  }

  snapped(frame: number) {
    return inSteps(frame, preferences.steps.frames, session.shot.scene.first);
  }

  point(e: MouseEvent) {
    const rect = this.canvas!.getBoundingClientRect();
    return { x: e.clientX - rect.left, y: e.clientY - rect.top };
  }

  // Rows may vanish below where one has scrolled to.
  private clamped(to: number) {
    const last = this.rows.at(-1);
    const content = last ? last.top + last.height : 0;
    return Math.max(0, Math.min(to, Math.max(0, content - this.size.height + this.overlayHeight + HEAD + 20)));
  }

  // Summing up is work, and the same while it plays: until something changes, or other time is shown.
  private readonly sums = new Map<string, { of: string; values: number[] }>();
  private summed(address: string, first: number, step: number, count: number): number[] | null {
    if (!session.shot.isSummed(address)) return null;
    const of = `${session.shot.changed} ${first} ${step} ${count}`;
    let known = this.sums.get(address);
    if (known?.of !== of)
      this.sums.set(address, (known = { of, values: session.shot.engine!.sampleSum(address, first, step, count) }));
    return known.values;
  }

  /** Brings a row into view, at the top where it is higher than the room. */
  reveal(address: string) {
    const row = this.rows.find((r) => r.kind === 'channel' && r.address === address);
    if (!row) return;
    const top = row.top - (this.body - HEAD);
    if (top < this.scroll) this.scroll = top;
    else if (top + row.height > this.scroll + this.room) this.scroll = Math.min(top, top + row.height - this.room + 8);
  }

  /** Opens or closes a lane; one that is opened is brought into view. */
  toggle(address: string) {
    viewState.toggleLane(address);
    if (viewState.lanes.has(address)) this.reveal(address);
  }

  /** The object of a row; of a row of one kind, all objects that are in it. */
  selectRow(row: HeadRow) {
    const ids = [...new Set(row.channels.map((c) => c.owner))].filter((id) => session.shot.byId.has(id));
    if (ids.length > 0) session.selection.select(ids);
  }

  /** Shows the selected keys, or all that there are, wherever they lie. */
  fit() {
    let [first, last] = [Infinity, -Infinity];
    const take = (f: number) => {
      first = Math.min(first, f);
      last = Math.max(last, f);
    };
    if (session.selection.keys.length > 1) for (const k of session.selection.keys) take(k.frame);
    else {
      take(session.shot.scene.first);
      take(session.shot.scene.last);
      for (const r of this.rows) {
        const frames = r.kind === 'channel' ? session.shot.keysOf(r.address) : [];
        for (const f of [frames[0], frames.at(-1)]) if (f !== undefined) take(f);
      }
    }
    this.time = TimeScale.fit(first, Math.max(last, first + 1), this.size.width);
  }
}

function animatedOf(id: string) {
  const { shot, selection } = session;
  const keyed = shot.animated.get(id);
  const wanted = viewState.rowFilter.trim().toLowerCase();
  const name = shot.byId.get(id)?.name.toLowerCase() ?? '';
  return shot
    .channelsOf(id)
    .filter(
      (c) =>
        (keyed?.has(baseOf(c.address)) || (viewState.allRows && selection.ids.includes(id))) &&
        (wanted === '' || name.includes(wanted) || c.label.toLowerCase().includes(wanted) || c.family === wanted),
    );
}
