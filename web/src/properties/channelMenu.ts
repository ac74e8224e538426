// What a right button offers for channels.
import { newEdit } from '../edits/edit';
import { type ChannelView } from '../engine/engine';
import { session } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';
import { type MenuItem } from '../widgets/contextMenu.svelte';
import { muteRows } from './mute';
import { copyValues, pasteValues } from './values';

/** What can be done with a channel, of one object or of several. */
export function channelMenu(channels: ChannelView[]): (MenuItem | null)[] {
  const addresses = channels.map((c) => c.address);
  const keyed = addresses.filter((a) => session.shot.keysOf(a).length > 0);
  const here = addresses.filter((a) => session.shot.hasKey(a, session.frame));
  const locked = addresses.every((a) => session.shot.scene.locked.has(a));
  return [
    { title: 'Choose it, for keys, in-betweens and tools', run: () => session.selection.choose(addresses, true) },
    { title: 'Key it here', run: () => session.shot.keyNow(addresses) },
    ...(here.length > 0
      ? [
          {
            title: 'Remove the key here',
            run: () =>
              session.shot.commit(
                newEdit('removeKeys', { keys: here.map((address) => ({ address, frame: session.frame })) }),
              ),
          },
        ]
      : []),
    {
      title:
        keyed.length > 0 && keyed.every((a) => session.shot.scene.muted.has(a)) ? 'Unmute' : 'Mute: it stays as it is',
      run: () => muteRows(addresses),
    },
    {
      title: locked ? 'Unlock' : 'Lock: neither drags nor keys change it',
      run: () => session.shot.commit(newEdit('lockChannels', { channels: addresses, locked: !locked })),
    },
    {
      title: 'Remove all its keys',
      run: () =>
        keyed.length > 0 &&
        session.shot.commit(
          newEdit('removeKeys', {
            keys: keyed.flatMap((address) => session.shot.keysOf(address).map((frame) => ({ address, frame }))),
          }),
        ),
    },
    null,
    { title: 'Copy the value', run: () => copyValues(channels.slice(0, 1)) },
    { title: 'Paste the value', run: () => pasteValues(channels, true) },
    {
      title: `Reset to ${channels[0].default}`,
      run: () =>
        session.shot.pose(
          channels.map((c) => ({ address: c.address, value: c.default })),
          true,
        ),
    },
    {
      title: 'Open its curve in Polish',
      run: () => {
        session.phase = 'polish';
        viewState.lanes = new Set([...viewState.lanes, ...keyed]);
      },
    },
  ];
}
