// Keys in the tracks: removed, copied, all of them chosen.
import { type Command, keyedChannels, needKey } from '../commands/command';
import { forgetObjects } from '../objects/objects';
import { session } from '../stores/session.svelte';

export const clipboardCommands: Command[] = [
  {
    id: 'removeKeys',
    short: 'Remove keys',
    title: 'Remove the selected keys',
    group: 'Edit',
    keys: 'Delete',
    where: ['tracks'],
    run: () => needKey() || session.removeSelectedKeys(),
  },
  {
    id: 'copyKeys',
    short: 'Copy keys',
    title: 'Copy the selected keys',
    group: 'Edit',
    keys: '$mod+c',
    where: ['tracks'],
    run: () => needKey() || copyKeys(),
  },
  {
    id: 'selectKeys',
    title: 'Select all keys of the selected objects, or of everything',
    group: 'Edit',
    keys: '$mod+a',
    where: ['tracks'],
    run: () =>
      (session.selection.keys = keyedChannels().flatMap((address) =>
        session.shot.keysOf(address).map((frame) => ({ address, frame })),
      )),
  },
  {
    id: 'cut',
    title: 'Cut the selected keys',
    group: 'Edit',
    keys: '$mod+x',
    where: ['tracks'],
    run: () => {
      if (needKey()) return;
      copyKeys();
      session.removeSelectedKeys();
    },
  },
];

/** What is copied from now on are the selected keys. */
export function copyKeys() {
  forgetObjects();
  session.clipboard.copy();
}
