// Curves that are left out for a while.
import { newEdit } from '../edits/edit';
import { session } from '../stores/session.svelte';

const isFree = (a: string) => session.shot.keysOf(a).length > 0 && !session.shot.scene.locked.has(a);

/** Mutes curves, so that their channels stay as they are on this frame, or lets all of them be heard again. */
export function muteRows(addresses: string[]) {
  const keyed = addresses.filter(isFree);
  if (keyed.length === 0) return session.messages.say('There are no keys here to mute that are not locked.');
  const muted = !keyed.every((a) => session.shot.scene.muted.has(a));
  session.shot.commit(newEdit('muteChannels', { channels: keyed, muted, frame: session.frame }));
}

/** Whether of all these rows only some are heard. */
export function isSolo(addresses: string[], all: string[]): boolean {
  const { muted } = session.shot.scene;
  const others = all.filter((a) => !addresses.includes(a));
  return others.length > 0 && others.every((a) => muted.has(a)) && addresses.every((a) => !muted.has(a));
}

/** Of all rows only these are heard from now on; where that is so already all are. */
export function soloRows(addresses: string[], all: string[]) {
  all = all.filter(isFree);
  addresses = addresses.filter(isFree);
  const was = isSolo(addresses, all);
  const others = all.filter((a) => !addresses.includes(a));
  if (others.length === 0) return session.messages.say('There are no other keys here that could be muted.');
  const mute = (channels: string[], muted: boolean) =>
    newEdit('muteChannels', { channels, muted, frame: session.frame });
  const edits = was ? [mute(all, false)] : [mute(others, true), mute(addresses, false)];
  session.shot.commit(newEdit('batch', { label: was ? 'Solo off' : 'Solo', edits }));
}
