import type { TimeScale } from './timeScale';

// Which dialogs and lanes are open: belongs to the window, not to the shot.
/** The parts of the page that keys, copying and fitting are for. */
export type Part = 'stage' | 'list' | 'tracks' | 'poses';

/** What a view of the stage looks through or along, how it draws, and how many there are. */
export type Axis = 'top' | 'front' | 'right';
export type Look = 'free' | 'camera' | Axis;
export type Shading = 'shaded' | 'edges' | 'lines' | 'flat';
export type Layout = 1 | 2 | 4;

export type Dialog = 'search' | 'library' | 'history' | 'findings' | 'help' | 'shot' | 'import' | null;

/** What plays finished pictures, while it is on the screen: the keys of time are then its own. */
export interface SequenceKeys {
  toggle(direction: 1 | -1): void;
  step(by: number): void;
  end(last: boolean): void;
}

class Ui {
  sequence: SequenceKeys | null = null;
  dialog = $state<Dialog>(null);
  /** Where the time of a range goes through that is drawn: parts of the new length, and of the range; both rise. */
  retimePoints = $state.raw<[number, number][]>([]);
  /** The tool for curves whose numbers are open. */
  curveTool = $state<string | null>(null);
  /** What the last import has to say for itself. */
  importReport = $state.raw<{ name: string; imported: string[]; skipped: string[] } | null>(null);
  /** The views of the stage: what each looks through or along, and how it draws. */
  panes = $state<{ look: Look; shading: Shading }[]>([
    { look: 'camera', shading: 'shaded' },
    { look: 'free', shading: 'shaded' },
    { look: 'top', shading: 'shaded' },
    { look: 'front', shading: 'shaded' },
  ]);
  /** Which of them commands are for: where the pointer was last. */
  pane = $state(0);
  layout = $state<Layout>(1);
  /** Grid and helpers are off, to see the picture alone. */
  clean = $state(false);

  /** A dialog that takes all keys; a list beside the work does not. */
  get isModal() {
    return this.dialog !== null && this.dialog !== 'history' && this.dialog !== 'findings';
  }

  /** Closes a dialog, unless another has come in its place. */
  leave(dialog: Dialog) {
    if (this.dialog === dialog) this.dialog = null;
  }

  get throughCamera() {
    return this.panes[this.pane].look === 'camera';
  }

  set throughCamera(on: boolean) {
    this.panes[this.pane].look = on ? 'camera' : 'free';
  }

  /** Whether moving the view through a camera moves the camera. Off, so that looking around cannot spoil a framed shot. */
  steerCamera = $state(false);
  /** The part that has the focus: where one has pressed, or gone by keyboard, last. What the pointer happens to be over means nothing. */
  part = $state<Part>('stage');
  /** Draws the motion path of the point below the pointer, or takes it away; null while there is no stage. */
  trace: (() => void) | null = null;
  /** Counts requests to fit the view. */
  fit = $state(0);
  /** Groups that are closed in the list of objects, and of which shot. */
  closed = $state.raw<{ shot: string | null; groups: ReadonlySet<string> }>({ shot: null, groups: new Set() });
  /** Channels whose lane is open. */
  lanes = $state.raw<ReadonlySet<string>>(new Set());

  /** The strips of the layers beside the tracks; null shows them where there are layers. */
  layers = $state<boolean | null>(null);
  /** The shelf of poses and motions is shown. */
  shelf = $state(false);
  /** The curves of what is selected lie over one another in one large lane. */
  overlay = $state(false);
  /** All of them in one scale, or each in its own. */
  oneScale = $state(false);
  /** Their speed below. */
  speed = $state(false);
  /** Keys and handles that are dragged keep their frame, or their value. */
  lockFrame = $state(false);
  lockValue = $state(false);
  /** Handles that are dragged keep their length, as it is seen. */
  lockLength = $state(false);
  /** Which side of a key gets another kind of handle. */
  handleSide = $state<'both' | 'in' | 'out'>('both');
  /** The rows of the tracks: by object, or those of one kind together. */
  rowsBy = $state<'object' | 'kind'>('object');
  /** Rows also of what has no keys, of the selected objects. */
  allRows = $state(false);
  /** Only rows with this in their name. */
  rowFilter = $state('');

  /** The part of time that the tracks show; null until they have been seen. */
  tracksTime = $state.raw<TimeScale | null>(null);

  /** What has a row together in the values and is opened into one row a channel. */
  openGroups = $state.raw<ReadonlySet<string>>(new Set());

  toggleGroup(id: string) {
    const next = new Set(this.openGroups);
    if (!next.delete(id)) next.add(id);
    this.openGroups = next;
  }

  toggleLane(address: string) {
    const next = new Set(this.lanes);
    if (!next.delete(address)) next.add(address);
    this.lanes = next;
  }
}

export const ui = new Ui();
