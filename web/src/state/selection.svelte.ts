import type { NodeView } from '../engine/engine';
import type { Session } from './session.svelte';

export interface KeyRef {
  address: string;
  frame: number;
}

export const keyId = (k: KeyRef) => `${k.address}@${k.frame}`;

/** What is selected: objects, in the order in which they were taken, and keys. */
export class Selection {
  ids = $state.raw<string[]>([]);
  keys = $state.raw<KeyRef[]>([]);
  /** Where a range begins when the next click takes one. */
  anchor: string | null = null;

  constructor(private readonly session: Session) {}

  nodes = $derived.by(() =>
    this.ids.map((id) => this.session.shot.byId.get(id)).filter((n): n is NodeView => n !== undefined),
  );

  /** With add, what is selected already is taken out and the rest put in. */
  select(ids: string[], add = false) {
    this.anchor = ids.at(-1) ?? null;
    this.ids = add
      ? [...this.ids.filter((id) => !ids.includes(id)), ...ids.filter((id) => !this.ids.includes(id))]
      : ids;
  }

  clear() {
    this.ids = [];
    this.keys = [];
  }

  /** What is gone is not selected any more; the rest stays. */
  forgetGone() {
    const { byId } = this.session.shot;
    if (this.ids.some((id) => !byId.has(id))) this.ids = this.ids.filter((id) => byId.has(id));
    const there = this.session.shot.present(this.keys);
    if (there.length !== this.keys.length) this.keys = there;
  }
}
