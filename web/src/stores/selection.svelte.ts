import { untrack } from 'svelte';
import { baseOf, type NodeView } from '../engine/engine';
import { gestures } from '../widgets/gestures.svelte';
import type { Session } from './session.svelte';

export interface KeyRef {
  address: string;
  frame: number;
}

export const keyId = (k: KeyRef) => `${k.address}@${k.frame}`;

/** What was selected is known of so many states of the shot. */
const REMEMBERED = 40;

/** What is selected: objects, in the order in which they were taken, some of their channels where not all are meant, and keys. */
export class Selection {
  #ids = $state.raw<string[]>([]);
  #keys = $state.raw<KeyRef[]>([]);
  // What was selected last in each state of the shot, so that undo brings it back with what was gone.
  // As addresses without a layer.
  #channels = $state.raw<string[]>([]);
  readonly #known = new Map<number, { ids: string[]; keys: KeyRef[] }>();
  // The states that a change led to which took something selected away, and those that it came from.
  readonly #bereft = new Map<number, number>();
  #state = -1;
  /** Where a range begins when the next click takes one. */
  anchor: string | null = null;

  constructor(private readonly session: Session) {}

  get ids(): string[] {
    return this.#ids;
  }

  set ids(ids: string[]) {
    this.leaveChannels(ids);
    this.#ids = ids;
    this.remember();
  }

  get keys(): KeyRef[] {
    return this.#keys;
  }

  set keys(keys: KeyRef[]) {
    this.#keys = keys;
    this.remember();
  }

  /** Where other objects are selected, what was chosen of these is meant no more, and could not be seen. */
  private leaveChannels(ids: string[]) {
    const now = untrack(() => this.#ids);
    if (ids.length !== now.length || ids.some((id) => !now.includes(id))) this.#channels = [];
  }

  /** While a hand drags, what is selected runs ahead of the shot. Whoever selects does not depend on what was selected. */
  private remember = () =>
    untrack(() => {
      if (gestures.busy) return;
      // The newest last, and no more than undo is likely to come by: thousands of keys may be selected in each.
      this.#known.delete(this.#state);
      this.#known.set(this.#state, { ids: this.#ids, keys: this.#keys });
      if (this.#known.size > REMEMBERED) this.#known.delete(this.#known.keys().next().value!);
    });

  /** The channels that are meant of the selected objects, in the layer that is worked in; none where all are. */
  channels = $derived.by(() => {
    const { shot } = this.session;
    return this.#channels.filter((a) => shot.channelAt(a)).map(shot.here);
  });

  /** Chooses channels; with add, those that are chosen already are taken out and the rest put in. The same again leaves all of them. */
  choose(addresses: string[], add = false) {
    const these = addresses.map(baseOf);
    const chosen = new Set(this.#channels);
    const isSame = chosen.size === these.length && these.every((a) => chosen.has(a));
    if (!add) this.#channels = isSame ? [] : these;
    else if (these.every((a) => chosen.has(a))) this.#channels = this.#channels.filter((a) => !these.includes(a));
    else this.#channels = [...new Set([...this.#channels, ...these])];
  }

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

  /**
   * What a click on an object takes: the topmost group that it is in, since that carries the motion; where something of that is selected already,
   * the next on the way down to what was clicked.
   */
  targetOf(node: NodeView): string {
    const { byId } = this.session.shot;
    const chain: NodeView[] = [];
    for (let n: NodeView | undefined = node; n; n = n.parent ? byId.get(n.parent) : undefined) chain.unshift(n);
    const at = chain.findIndex((n) => this.ids.includes(n.id));
    return at < 0 ? chain[0].id : chain[Math.min(at + 1, chain.length - 1)].id;
  }

  clear() {
    this.ids = [];
    this.keys = [];
  }

  /** A shot was opened: nothing is known of it. */
  begin(state: number) {
    this.#known.clear();
    this.#bereft.clear();
    this.#state = state;
  }

  /** The shot is in another state. What is gone is not selected any more; the rest stays, and what undo brings back is selected as it was. */
  follow(state: number) {
    const { shot } = this.session;
    const before = this.#state;
    this.#state = state;
    const [ids, keys] = [this.#ids.filter((id) => shot.byId.has(id)), shot.present(this.#keys)];
    const isBereft = ids.length < this.#ids.length || keys.length < this.#keys.length;
    const known =
      before !== state && (isBereft || this.#bereft.get(before) === state) ? this.#known.get(state) : undefined;
    if (known && known.ids.every((id) => shot.byId.has(id)) && shot.present(known.keys).length === known.keys.length) {
      this.leaveChannels(known.ids);
      [this.#ids, this.#keys] = [known.ids, known.keys];
      return;
    }
    if (!isBereft) return;
    this.#bereft.set(state, before);
    if (ids.length < this.#ids.length) this.ids = ids;
    if (keys.length < this.#keys.length) this.keys = keys;
  }
}
