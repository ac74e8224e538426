// How far the keys of the shot reach: where they come to lie outside its range, that is said, and the range can grow.
import { newEdit } from '../edits/edit';
import type { Session } from './session.svelte';

export class KeyReach {
  private isKnown = false;
  private first = Infinity;
  private last = -Infinity;

  constructor(private readonly session: Session) {}

  /** Another shot is opened: what lies outside the range of that has been there. */
  forget() {
    this.isKnown = false;
  }

  /** Looks again, after every change; it speaks only when keys have come to lie further out than before. */
  look() {
    const { session } = this;
    const [first, last] = [this.first, this.last];
    ({ first: this.first, last: this.last } = session.shot.reach());
    const wasKnown = this.isKnown;
    this.isKnown = true;
    if (!wasKnown) return;
    const { scene } = session.shot;
    const out = [
      ...(this.first < first && this.first < scene.first
        ? [`begin on frame ${this.first}, the shot on ${scene.first}`]
        : []),
      ...(this.last > last && this.last > scene.last ? [`go on to frame ${this.last}, the shot to ${scene.last}`] : []),
    ];
    if (out.length === 0) return;
    const range = {
      first: Math.floor(Math.min(scene.first, this.first)),
      last: Math.ceil(Math.max(scene.last, this.last)),
    };
    session.messages.say(`Keys ${out.join('; they ')}.`, {
      label: `Make the shot ${range.first}–${range.last}`,
      run: () => session.shot.commit(newEdit('setShot', { range })),
    });
  }
}
