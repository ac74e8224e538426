// Tools for curves, rows of the tracks.
import { newEdit } from '../edits/edit';
import { type Edit } from '../engine/engine';
import { muteRows, soloRows } from '../properties/mute';
import { curveTools, meantChannels, openTool } from './curveTools';
import { session } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';
import { type Command, needObject } from '../commands/command';

export const curveCommands: Command[] = [
  ...curveTools.map((tool) => ({
    id: `curve.${tool.id}`,
    once: tool.once,
    title: `${tool.title}: ${tool.hint[0].toLowerCase()}${tool.hint.slice(1, -1)}`,
    group: 'Keys',
    run: () => openTool(tool.id),
  })),
  {
    id: 'curve.idle',
    short: 'Remove redundant keys',
    title: 'Remove redundant keys, and all keys of channels that never move',
    once: 'Idle keys',
    group: 'Keys',
    run: () => forChannels((channels) => newEdit('removeIdleKeys', { channels })),
  },
  {
    id: 'curve.unroll',
    short: 'Remove rotation flips',
    title: 'Remove rotation flips, and turns the long way round',
    once: 'Unroll the rotations',
    group: 'Keys',
    run: () =>
      needObject() ||
      void session.shot.commit(
        newEdit('unrollRotations', { nodes: session.selection.ids, layer: session.shot.layer ?? undefined }),
      ),
  },
  {
    id: 'curve.seamless',
    short: 'Make loops seamless',
    title: 'Make loops seamless: value and speed of both ends equal',
    group: 'Keys',
    run: () => forChannels((channels) => newEdit('makeSeamless', { channels: channels.filter(repeats) })),
  },
  {
    id: 'curve.handles',
    short: 'Easings to handles',
    title: 'Turn the easings of the selected keys into handles',
    group: 'Keys',
    run: easesToHandles,
  },
  {
    id: 'curve.mirror',
    short: 'Mirror values',
    title: 'Mirror the selected keys in value, about the middle of their range',
    group: 'Keys',
    run: mirrorValues,
  },
  {
    id: 'rows.mute',
    title: 'Mute the curves of the selected keys or objects, or unmute them',
    group: 'Keys',
    run: () => muteRows(meantChannels()),
  },
  {
    id: 'rows.solo',
    title: 'Solo: of all curves only those of the selected keys or objects are active, or all again',
    group: 'Keys',
    run: () => soloRows(meantChannels(), [...session.shot.keyedOwners.values()].flat()),
  },
  {
    id: 'rows.byKind',
    title: 'Rows of the tracks by object or by kind',
    group: 'Keys',
    run: () => (viewState.rowsBy = viewState.rowsBy === 'object' ? 'kind' : 'object'),
  },
  {
    id: 'rows.all',
    title: 'Rows of the tracks also for channels without keys, of the selected objects, or not',
    group: 'Keys',
    run: () => (viewState.allRows = !viewState.allRows),
  },
  {
    id: 'tracks.overlay',
    title: 'Overlay curves in one large lane, or each in its row',
    once: 'Curves over one another',
    group: 'View',
    keys: 'o',
    run: () => (viewState.overlay = !viewState.overlay),
  },
  {
    id: 'tracks.oneScale',
    title: 'Overlaid curves in one scale, or each in its own',
    group: 'View',
    run: () => (viewState.oneScale = !viewState.oneScale),
  },
  {
    id: 'tracks.speed',
    title: 'Speed and acceleration below the overlaid curves',
    group: 'View',
    run: () => (viewState.speed = !viewState.speed),
  },
  {
    id: 'easing.copy',
    short: 'Copy easing as CSS',
    title: 'Copy the easing after the selected key as CSS',
    group: 'Keys',
    run: () => void copyEasing(),
  },
];

function forChannels(make: (channels: string[]) => Edit) {
  const channels = meantChannels();
  if (channels.length === 0)
    return session.messages.say('Nothing here has keys: select an animated object, or keys in the tracks.');
  session.shot.commit(make(channels));
}

const repeats = (address: string) => {
  const curve = session.shot.curve(address);
  return [curve?.before.kind, curve?.after.kind].some((k) => ['loop', 'loopOffset', 'pingPong'].includes(k ?? ''));
};

function easesToHandles() {
  const keys = session.selection.keys.filter(
    (k) => typeof session.shot.curve(k.address)?.keys.find((c) => c.frame === k.frame)?.segment === 'object',
  );
  if (keys.length === 0) return session.messages.say('Select keys that an easing leaves: their pips have a wavy side.');
  const before = keys.map((k) => ({ ...k, samples: session.shot.curve(k.address)!.keys }));
  if (!session.shot.commit(newEdit('easesToHandles', { keys }))) return;
  // How far the handles are from the easing at most, in parts of its rise.
  let worst = 0;
  for (const { address, frame, samples } of before) {
    const i = samples.findIndex((k) => k.frame === frame);
    const [a, b] = [samples[i], samples[i + 1]];
    if (!a.samples || !b || a.value === b.value) continue;
    const count = a.samples.length;
    const now = session.shot.engine!.sample(address, a.frame, (b.frame - a.frame) / (count - 1), count - 1);
    now.forEach((v, n) => (worst = Math.max(worst, Math.abs(v - a.samples![n]) / Math.abs(b.value - a.value))));
  }
  session.messages.say(
    worst < 1e-9
      ? 'The handles are the easing exactly.'
      : `Largest difference: ${(100 * worst).toFixed(2)} % of the rise.`,
  );
}

function mirrorValues() {
  const { keys } = session.selection;
  if (keys.length === 0) return session.messages.say('Select some keys first: click them in the tracks.');
  const byChannel = new Map<string, { frame: number; address: string }[]>();
  for (const k of keys) byChannel.set(k.address, [...(byChannel.get(k.address) ?? []), k]);
  const edits = [...byChannel].map(([address, own]) => {
    const frames = new Set(own.map((k) => k.frame));
    const values = session.shot
      .curve(address)!
      .keys.filter((k) => frames.has(k.frame))
      .map((k) => k.value);
    const middle = (Math.min(...values) + Math.max(...values)) / 2;
    return newEdit('transformKeys', { keys: own, by: { valueScale: -1, valuePivot: middle } });
  });
  session.shot.commit(edits.length === 1 ? edits[0] : newEdit('batch', { label: 'Mirror values', edits }));
}

async function copyEasing() {
  const key = session.selection.keys[0];
  const text = key ? session.shot.engine!.easingOf(key.address, key.frame) : '';
  if (!text) return session.messages.say('Select a key that another one follows, with another value.');
  await navigator.clipboard.writeText(text);
  session.messages.say(`Copied: ${text.length > 60 ? `${text.slice(0, 60)}…` : text}`);
}
