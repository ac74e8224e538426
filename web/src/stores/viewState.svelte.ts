// How a shot is looked at: its views, which rows are open, what is filtered. Each shot has its own; it comes back with the shot.
import { TimeScale } from './timeScale';

export type Axis = 'top' | 'front' | 'right';
/** What a view of the stage looks through or along. */
export type Look = 'free' | 'camera' | Axis;
export type Shading = 'shaded' | 'edges' | 'lines' | 'flat';
/** How many views there are. */
export type Layout = 1 | 2 | 4;

const LOOKS: Look[] = ['free', 'camera', 'top', 'front', 'right'];
const SHADINGS: Shading[] = ['shaded', 'edges', 'lines', 'flat'];

/** As a shot is looked at that nobody has looked at. */
const usual = () => ({
  panes: [
    { look: 'camera', shading: 'shaded' },
    { look: 'free', shading: 'shaded' },
    { look: 'top', shading: 'shaded' },
    { look: 'front', shading: 'shaded' },
  ] as { look: Look; shading: Shading }[],
  pane: 0,
  layout: 1 as Layout,
  clean: false,
  steerCamera: false,
  isolated: [] as string[],
  closed: null as string[] | null,
  lanes: [] as string[],
  openGroups: [] as string[],
  layers: null as boolean | null,
  shelf: false,
  overlay: false,
  oneScale: false,
  speed: false,
  rowsBy: 'object' as 'object' | 'kind',
  allRows: false,
  rowFilter: '',
  poseScale: 0,
  time: null as { start: number; pixelsPerFrame: number } | null,
});
export type Kept = ReturnType<typeof usual>;

const strings = (value: unknown): value is string[] =>
  Array.isArray(value) && value.every((v) => typeof v === 'string');

class ViewState {
  /** The views of the stage: what each looks through or along, and how it draws. */
  panes = $state(usual().panes);
  /** Which of them commands are for: where the pointer was last. */
  pane = $state(0);
  layout = $state<Layout>(1);
  /** Grid and helpers are off, to see the picture alone. */
  clean = $state(false);
  /** Whether moving the view through a camera moves the camera. Off, so that looking around cannot spoil a framed shot. */
  steerCamera = $state(false);
  /** Objects that are shown alone, with what hangs below them; none where all are. */
  isolated = $state.raw<string[]>([]);
  /** Groups that are closed in the list of objects; null until it has been seen. */
  closed = $state.raw<ReadonlySet<string> | null>(null);
  /** Channels whose lane is open. */
  lanes = $state.raw<ReadonlySet<string>>(new Set());
  /** What has a row together in the values and is opened into one row a channel. */
  openGroups = $state.raw<ReadonlySet<string>>(new Set());
  /** The strips of the layers beside the tracks; null shows them where there are layers. */
  layers = $state<boolean | null>(null);
  /** The library of poses and motions is shown in the place of the scene. */
  shelf = $state(false);
  /** The curves of what is selected lie over one another in one large lane. */
  overlay = $state(false);
  /** All of them in one scale, or each in its own. */
  oneScale = $state(false);
  /** Their speed below. */
  speed = $state(false);
  /** The rows of the tracks: by object, or those of one kind together. */
  rowsBy = $state<'object' | 'kind'>('object');
  /** Rows also of what has no keys, of the selected objects. */
  allRows = $state(false);
  /** Only rows with this in their name. */
  rowFilter = $state('');
  /** Pixels a frame of the pose strip; 0 as it fits. */
  poseScale = $state(0);
  /** The part of time that the tracks show; null until they have been seen. */
  tracksTime = $state.raw<TimeScale | null>(null);

  get throughCamera() {
    return this.panes[this.pane].look === 'camera';
  }

  set throughCamera(on: boolean) {
    this.panes[this.pane].look = on ? 'camera' : 'free';
  }

  // Lanes that a selection has opened, and no hand.
  private opened: readonly string[] = [];

  /** Opens lanes for what is selected. */
  openFor(addresses: string[]) {
    this.opened = addresses.filter((a) => !this.lanes.has(a));
    this.lanes = new Set([...this.lanes, ...addresses]);
  }

  /** Something else is selected: closes what the selection before has opened. */
  closeOpened() {
    const { opened } = this;
    if (opened.length > 0) this.lanes = new Set([...this.lanes].filter((a) => !opened.includes(a)));
    this.opened = [];
  }

  toggleLane(address: string) {
    this.opened = this.opened.filter((a) => a !== address);
    this.lanes = toggled(this.lanes, address);
  }

  toggleGroup(id: string) {
    this.openGroups = toggled(this.openGroups, id);
  }

  /** As plain data, to be kept; the same until something of it is another. */
  plain: Kept = $derived.by(() => {
    const { start, pixelsPerFrame } = this.tracksTime ?? { start: 0, pixelsPerFrame: 0 };
    return {
      panes: this.panes.map(({ look, shading }) => ({ look, shading })),
      pane: this.pane,
      layout: this.layout,
      clean: this.clean,
      steerCamera: this.steerCamera,
      isolated: this.isolated,
      closed: this.closed && [...this.closed],
      lanes: [...this.lanes],
      openGroups: [...this.openGroups],
      layers: this.layers,
      shelf: this.shelf,
      overlay: this.overlay,
      oneScale: this.oneScale,
      speed: this.speed,
      rowsBy: this.rowsBy,
      allRows: this.allRows,
      rowFilter: this.rowFilter,
      poseScale: this.poseScale,
      time: this.tracksTime && { start, pixelsPerFrame },
    };
  });

  /** Takes what was kept, or what is usual; what an older or a newer version has kept must not spoil the page. */
  take(kept: Partial<Kept> | null) {
    const all = usual();
    for (const key of Object.keys(all) as (keyof Kept)[]) {
      const value = kept?.[key];
      if (value !== undefined && value !== null && (all[key] === null || typeof value === typeof all[key]))
        Object.assign(all, { [key]: value });
    }
    const panes = Array.isArray(all.panes) ? all.panes : [];
    this.panes = usual().panes.map((p, i) => ({
      look: LOOKS.includes(panes[i]?.look) ? panes[i].look : p.look,
      shading: SHADINGS.includes(panes[i]?.shading) ? panes[i].shading : p.shading,
    }));
    this.pane = [0, 1, 2, 3].includes(all.pane) ? all.pane : 0;
    this.layout = ([1, 2, 4] as const).find((n) => n === all.layout) ?? 1;
    this.isolated = strings(all.isolated) ? all.isolated : [];
    this.closed = strings(all.closed) ? new Set(all.closed) : null;
    this.lanes = new Set(strings(all.lanes) ? all.lanes : []);
    this.opened = [];
    this.openGroups = new Set(strings(all.openGroups) ? all.openGroups : []);
    this.layers = typeof all.layers === 'boolean' ? all.layers : null;
    this.poseScale = Number.isFinite(all.poseScale) ? Math.max(0, all.poseScale) : 0;
    this.rowsBy = all.rowsBy === 'kind' ? 'kind' : 'object';
    const { start, pixelsPerFrame } = all.time ?? { start: NaN, pixelsPerFrame: NaN };
    this.tracksTime =
      Number.isFinite(start) && pixelsPerFrame > 0.001 && pixelsPerFrame < 1000
        ? new TimeScale(start, pixelsPerFrame)
        : null;
    const { clean, steerCamera, shelf, overlay, oneScale, speed, allRows, rowFilter } = all;
    Object.assign(this, { clean, steerCamera, shelf, overlay, oneScale, speed, allRows, rowFilter });
  }
}

function toggled(set: ReadonlySet<string>, id: string): ReadonlySet<string> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}

export const viewState = new ViewState();
