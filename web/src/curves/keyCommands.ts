// Keying, interpolation and handles.
import { changedNewKeys, changedSegments, newEdit } from '../edits/edit';
import { meantSegments } from './curveTools';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { type Command, needChannel, needObject, withKeys } from '../commands/command';

export const keyCommands: Command[] = [
  {
    id: 'key',
    short: 'Key here',
    title: 'Key the selected objects on this frame',
    group: 'Keys',
    keys: 'k',
    run: () => keySelection(),
  },
  {
    id: 'hold',
    short: 'Key a hold',
    title: 'Key a hold on this frame, so that nothing drifts before a move',
    group: 'Keys',
    keys: 'Shift+K',
    run: holdHere,
  },
  {
    id: 'autoKey',
    title: 'Automatic keying on or off',
    group: 'Keys',
    keys: 'a',
    run: () => (session.autoKey = !session.autoKey),
  },
  {
    id: 'reverse',
    short: 'Reverse',
    title: 'Reverse the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => newEdit('reverseKeys', { keys })),
  },
  {
    id: 'stagger',
    short: 'Stagger',
    title: 'Stagger the selected keys by 3 frames an object',
    group: 'Keys',
    run: () => withKeys((keys) => newEdit('staggerKeys', { keys, frames: 3 })),
  },
  ...(['auto', 'smooth', 'flat', 'straight'] as const).map((kind) => ({
    id: `handle.${kind}`,
    short: `Handles: ${kind}`,
    title: `Handles of the selected keys: ${kind}`,
    group: 'Keys',
    keys: { flat: 'e', straight: 'd' }[kind as string],
    run: () =>
      withKeys((keys) =>
        newEdit('setHandleKinds', {
          keys,
          ...(ui.handleSide === 'both'
            ? { in: { kind }, out: { kind } }
            : { [ui.handleSide]: { kind }, joined: false }),
        }),
      ),
  })),
  {
    id: 'handle.side',
    title: 'Kinds of handles: for both sides of a key, the incoming one, or the outgoing one',
    group: 'Keys',
    run: () => (ui.handleSide = ({ both: 'in', in: 'out', out: 'both' } as const)[ui.handleSide]),
  },
  {
    id: 'tracks.lockLength',
    title: 'Lock of length: handles that are dragged only turn, or not',
    group: 'Keys',
    run: () => (ui.lockLength = !ui.lockLength),
  },
  {
    id: 'split',
    title: 'Split the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => newEdit('setHandleKinds', { keys, joined: false })),
  },
  {
    id: 'join',
    title: 'Join the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => newEdit('setHandleKinds', { keys, joined: true })),
  },
  {
    id: 'poses.toCurves',
    title: 'Convert holds to curves: poses go over into one another',
    once: 'To curves',
    group: 'Keys',
    run: toCurves,
  },
  ...(['bezier', 'linear', 'hold'] as const).map((segment) => ({
    id: `segment.${segment}`,
    short: segment === 'bezier' ? 'Bézier' : segment === 'linear' ? 'Linear' : 'Hold',
    title: `Interpolation of the selected keys: ${segment === 'bezier' ? 'Bézier' : segment}`,
    group: 'Keys',
    run: () => {
      const keys = meantSegments();
      if (keys.length === 0)
        return session.messages.say(
          'Select some keys first, or an object with the playhead between two of its poses: it is set on all its channels.',
        );
      session.shot.commit(newEdit('setSegments', { keys, segment }));
    },
  })),
  {
    id: 'key.changed',
    title: 'Key what has changed on this frame, and nothing else',
    group: 'Keys',
    keys: 'Shift+KeyJ',
    run: () =>
      session.shot.waiting.size > 0
        ? session.shot.keyNow([...session.shot.waiting])
        : session.messages.say('Nothing on this frame is changed and waits for a key.'),
  },
  ...(
    [
      ['transform.translate', 'position'],
      ['transform.rotate', 'rotation'],
      ['transform.scale', 'scale'],
      ['morph.', 'morph targets'],
      ['', 'all channels'],
    ] as const
  ).map(([start, words]) => ({
    id: `key.${start || 'all'}`,
    title: `Key: ${words}`,
    group: 'Keys',
    run: () => needObject() || session.shot.keyNow(selectedChannels(start)),
  })),
  ...(
    [
      ['transform.translate', 'position'],
      ['transform.rotate', 'rotation'],
      ['transform.scale', 'scale'],
      ['morph.', 'morph targets'],
    ] as const
  ).map(([start, words]) => ({
    id: `choose.${start}`,
    title: `Limit to these channels: ${words}, for keys, in-betweens and tools`,
    once: 'Choose channels',
    group: 'Keys',
    run: () => needObject() || session.selection.choose(selectedChannels(start)),
  })),
  {
    id: 'choose.none',
    title: 'Limit to these channels: all again',
    once: 'Choose channels',
    group: 'Keys',
    run: () => session.selection.choose([]),
  },
  ...(['bezier', 'linear', 'hold'] as const).map((segment) => ({
    id: `newKeys.${segment}`,
    short: segment === 'bezier' ? 'Bézier' : segment === 'linear' ? 'Linear' : 'Hold',
    title: `New keys of this shot: ${segment === 'bezier' ? 'Bézier' : segment}`,
    group: 'Keys',
    run: () => void session.shot.commit(changedNewKeys(session.shot.newKeys, { segment })),
  })),
  ...(['auto', 'smooth', 'flat', 'straight'] as const).map((kind) => ({
    id: `newHandles.${kind}`,
    short: `Handles: ${kind}`,
    title: `New keys of this shot: handles ${kind}`,
    group: 'Keys',
    run: () => void session.shot.commit(changedNewKeys(session.shot.newKeys, { handle: { kind } })),
  })),
  {
    id: 'tracks.lockFrame',
    title: 'Lock of time: keys that are dragged keep their frame, or not',
    group: 'Keys',
    run: () => (ui.lockFrame = !ui.lockFrame),
  },
  {
    id: 'tracks.lockValue',
    title: 'Lock of value: keys that are dragged keep their value, or not',
    group: 'Keys',
    run: () => (ui.lockValue = !ui.lockValue),
  },
  {
    id: 'paste.insert',
    title: 'Paste keys at the playhead, what comes later moves on',
    group: 'Keys',
    keys: '$mod+Shift+KeyV',
    run: () => session.clipboard.paste('insert'),
  },
  {
    id: 'paste.replace',
    title: 'Paste keys at the playhead in the place of what is there',
    group: 'Keys',
    keys: '$mod+Alt+KeyV',
    run: () => session.clipboard.paste('replace'),
  },
];

/** Of the selected objects, those of a kind. */
const selectedChannels = (start: string) =>
  session.selection.ids
    .flatMap((id) => session.shot.channelsOf(id))
    .filter((c) => c.path.replace('quaternion', 'rotate').startsWith(start))
    .map((c) => c.address);

function keySelection() {
  if (session.shot.waiting.size > 0 || !needChannel()) session.shot.keyNow(session.keyable());
}

function holdHere() {
  if (!needChannel()) session.shot.hold(session.keyable());
}

/** Held keys of the selected objects, or of all, go on as new keys of the shot do; where those hold too, as curves. What can only be on or off stays. */
function toCurves() {
  const { shot, selection, player, messages } = session;
  const owners = selection.ids.length > 0 ? [...shot.family(selection.ids)] : [...shot.keyedOwners.keys()];
  const keys = owners
    .flatMap((id) => [...(shot.keyedOwners.get(id) ?? [])])
    .filter((address) => !shot.channelAt(address)?.stepped)
    .flatMap((address) =>
      (shot.curve(address)?.keys ?? []).filter((k) => k.segment === 'hold').map(({ frame }) => ({ address, frame })),
    );
  if (keys.length === 0)
    return messages.say('No pose is held here by its keys: select objects that were blocked with held keys.');
  const { segment } = shot.newKeys;
  const edit = changedSegments(keys, segment === 'hold' ? 'bezier' : segment);
  // Played as it is from now on.
  if (shot.commit(edit)) player.stepped = false;
}
