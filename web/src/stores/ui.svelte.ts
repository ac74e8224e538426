// Which dialogs and tools are open, and what has the focus: of this window, whatever shot is open.

/** The parts of the page that keys, copying and fitting are for. */
export type Part = 'stage' | 'list' | 'tracks' | 'poses';

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
  /** The part that has the focus: where one has pressed, or gone by keyboard, last. What the pointer happens to be over means nothing. */
  part = $state<Part>('stage');
  /** Counts requests to fit the view. */
  fit = $state(0);
  /** Keys and handles that are dragged keep their frame, or their value. */
  lockFrame = $state(false);
  lockValue = $state(false);
  /** Handles that are dragged keep their length, as it is seen. */
  lockLength = $state(false);
  /** Which side of a key gets another kind of handle. */
  handleSide = $state<'both' | 'in' | 'out'>('both');

  /** A dialog that takes all keys; a list beside the work does not. */
  get isModal() {
    return this.dialog !== null && this.dialog !== 'history' && this.dialog !== 'findings';
  }

  /** Closes a dialog, unless another has come in its place. */
  leave(dialog: Dialog) {
    if (this.dialog === dialog) this.dialog = null;
  }
}

export const ui = new Ui();
