// Everything that drags. A drag is one transaction: while it goes on, nothing else gets in between; Escape, a cancelled
// pointer or the end of what is dragged takes it back, letting go or Enter keeps it, and typed figures take the place of the hand.
import { sum } from './sum';

/** What a drag does. All but cancel and commit may be left out. */
export interface Hand {
  /** The pointer has gone somewhere. */
  move?(event: PointerEvent): void;
  /** A number was typed, or taken back. */
  type?(value: number | null): void;
  commit(event?: PointerEvent): void;
  cancel(): void;
}

class Gestures {
  /** The drag that goes on. */
  current = $state.raw<Hand | null>(null);
  /** A few words on how far it has gone; shown where it goes on. */
  readout = $state('');
  /** What has been typed meanwhile. */
  typed = $state('');
  private release: (() => void) | null = null;

  get busy() {
    return this.current !== null;
  }

  /** Begins a drag whose pointer somebody else follows: they call end. */
  begin(hand: Hand) {
    this.cancel();
    this.current = hand;
    this.readout = this.typed = '';
    const keys = (e: KeyboardEvent) => this.key(e);
    const blur = () => this.cancel();
    window.addEventListener('keydown', keys, { capture: true });
    window.addEventListener('blur', blur);
    this.release = () => {
      window.removeEventListener('keydown', keys, { capture: true });
      window.removeEventListener('blur', blur);
    };
  }

  /** Begins a drag with the pointer that was just put down on an element. */
  follow(event: PointerEvent, hand: Hand) {
    const element = event.currentTarget as HTMLElement;
    this.begin(hand);
    const { pointerId } = event;
    try {
      element.setPointerCapture(pointerId);
    } catch {
      // A pointer that is gone already: its end comes all the same.
    }
    const own = (e: PointerEvent) => e.pointerId === pointerId;
    const move = (e: PointerEvent) => own(e) && this.typed === '' && hand.move?.(e);
    const up = (e: PointerEvent) => {
      if (!own(e)) return;
      this.end();
      hand.commit(e);
    };
    const lost = (e: PointerEvent) => own(e) && this.cancel();
    element.addEventListener('pointermove', move);
    element.addEventListener('pointerup', up);
    element.addEventListener('pointercancel', lost);
    element.addEventListener('lostpointercapture', lost);
    const release = this.release;
    this.release = () => {
      release?.();
      element.removeEventListener('pointermove', move);
      element.removeEventListener('pointerup', up);
      element.removeEventListener('pointercancel', lost);
      element.removeEventListener('lostpointercapture', lost);
    };
  }

  /** The drag is over; what becomes of it, its hand says. */
  end() {
    this.release?.();
    this.release = null;
    this.current = null;
    this.readout = this.typed = '';
  }

  commit() {
    const hand = this.current;
    this.end();
    hand?.commit();
  }

  cancel() {
    const hand = this.current;
    if (!hand) return;
    this.end();
    hand.cancel();
  }

  private key(e: KeyboardEvent) {
    // Ctrl, Shift and Alt steer the drag itself.
    if (['Control', 'Shift', 'Alt', 'Meta'].includes(e.key)) return;
    e.preventDefault();
    e.stopPropagation();
    const hand = this.current;
    if (e.key === 'Escape') this.cancel();
    else if (e.key === 'Enter') this.commit();
    else if (hand?.type && (/^[0-9.,+\-*/]$/.test(e.key) || e.key === 'Backspace')) {
      this.typed = e.key === 'Backspace' ? this.typed.slice(0, -1) : this.typed + e.key;
      hand.type(this.typed === '' ? null : sum(this.typed, 0));
    }
  }
}

export const gestures = new Gestures();
