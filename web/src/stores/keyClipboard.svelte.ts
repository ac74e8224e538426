// Keys that are copied, and where they go when they are put in.
import { newEdit } from '../edits/edit';
import { ownerOf, pathOf, type CopiedKeys } from '../engine/engine';
import type { Session } from './session.svelte';

export class KeyClipboard {
  private content = $state.raw<{ edit: CopiedKeys; first: number } | null>(null);

  constructor(private readonly session: Session) {}

  get isEmpty() {
    return this.content === null;
  }

  clear() {
    this.content = null;
  }

  /** Copies the selected keys. */
  copy() {
    const { keys } = this.session.selection;
    const edit = keys.length > 0 ? this.session.shot.engine!.copyKeys(keys) : null;
    if (!edit) return;
    this.content = { edit, first: keys.reduce((f, k) => Math.min(f, k.frame), Infinity) };
    this.session.messages.say(`${keys.length === 1 ? 'One key' : `${keys.length} keys`} copied.`);
  }

  /**
   * Puts the copied keys in so that the first lands under the playhead. Merging keeps what is on other frames; replacing takes away what
   * lies between the first and the last of them; inserting moves what comes later on by their length and a frame.
   */
  paste(how: 'merge' | 'insert' | 'replace' = 'merge') {
    if (!this.content) return;
    const { shot, selection, messages, frame } = this.session;
    const by = frame - this.content.first;
    const { channels } = this.content.edit;
    const moved = this.retargeted(channels)
      // They go into the layer that is worked in.
      .map((c) => ({ ...c, address: shot.here(c.address) }))
      .filter((c) => shot.channelAt(c.address))
      .map((c) => ({ ...c, keys: c.keys.map((k) => ({ ...k, frame: k.frame + by })) }));
    if (moved.length === 0)
      return messages.say(
        selection.channels.length > 0
          ? `Keys of ${channels.length} channels do not fit onto ${selection.channels.length}: choose as many, or leave the choice (Esc).`
          : 'These keys fit nothing here: select the object that shall get them, and paste again.',
      );
    const put = newEdit('putKeys', { channels: moved });
    const last = moved.flatMap((c) => c.keys).reduce((a, k) => Math.max(a, k.frame), -Infinity);
    const there = moved.flatMap((c) =>
      shot
        .keysOf(c.address)
        .filter((f) => f >= frame && (how === 'insert' || f <= last))
        .map((f) => ({ address: c.address, frame: f })),
    );
    const first =
      how === 'merge' || there.length === 0
        ? []
        : [
            how === 'insert'
              ? newEdit('transformKeys', { keys: there, by: { frames: last - frame + 1 } })
              : newEdit('removeKeys', { keys: there }),
          ];
    const edit = first.length > 0 ? newEdit('batch', { label: 'Paste keys', edits: [...first, put] }) : put;
    if (shot.commit(edit))
      selection.keys = moved.flatMap((c) => c.keys.map((k) => ({ address: c.address, frame: k.frame })));
  }

  /**
   * Where channels are chosen, keys go to those: to the same ones of what was copied, else one to each, or as many to as many in their order.
   * Keys of one object go to the selected one, where that is another; keys of several stay with theirs.
   */
  private retargeted<T extends { address: string }>(channels: T[]): T[] {
    const { ids, channels: chosen } = this.session.selection;
    if (chosen.length > 0) {
      const same = chosen.flatMap((address) =>
        channels.filter((c) => pathOf(c.address) === pathOf(address)).map((c) => ({ ...c, address })),
      );
      // Those of several objects would come to lie on one another.
      if (same.length > 0 && new Set(same.map((c) => c.address)).size === same.length) return same;
      if (channels.length === 1) return chosen.map((address) => ({ ...channels[0], address }));
      return channels.length === chosen.length ? channels.map((c, i) => ({ ...c, address: chosen[i] })) : [];
    }
    const owners = new Set(channels.map((c) => ownerOf(c.address)));
    if (owners.size !== 1 || ids.length === 0 || ids.some((id) => owners.has(id))) return channels;
    return ids.flatMap((id) =>
      channels.map((c) => ({ ...c, address: `${id}${c.address.slice(c.address.indexOf('/'))}` })),
    );
  }
}
