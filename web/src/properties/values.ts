// Numbers of channels, copied from one object to others.
import type { ChannelView } from '../engine/engine';
import { session } from '../stores/session.svelte';

/** What has been copied, by the paths of the channels. */
let copied = new Map<string, number>();

/** Takes the values of channels as they stand now. */
export function copyValues(channels: ChannelView[]) {
  copied = new Map(channels.map((c) => [c.path, session.shot.valueOf(c)]));
  session.messages.say(copied.size === 1 ? `${channels[0].label} is copied.` : `${copied.size} values are copied.`);
}

/** Gives them to the channels of the same kind; one value alone goes to any channels that are named. */
export function pasteValues(channels: ChannelView[], isNamed: boolean) {
  if (copied.size === 0) return session.messages.say('No values have been copied yet.');
  const [only] = copied.values();
  const values = channels
    .filter((c) => copied.has(c.path) || (isNamed && copied.size === 1))
    .map((c) => ({ address: c.address, value: copied.get(c.path) ?? only }));
  if (values.length === 0) return session.messages.say('None of the copied values belongs to a channel here.');
  session.shot.pose(values, true);
}

/** Puts channels back to what they are until somebody sets them. */
export function resetChannels(start: string) {
  const channels = session.selection.ids
    .flatMap((id) => session.shot.channelsOf(id))
    .filter((c) => c.path.replace('quaternion', 'rotate').startsWith(start) && !c.path.startsWith('transform.pivot'));
  session.shot.pose(
    channels.map((c) => ({ address: c.address, value: c.default })),
    true,
  );
}
