// Tools for curves, rows of the tracks, findings.
import { type Edit } from '../../engine/engine';
import { curveTools, meantChannels } from '../curveTools';
import { session } from '../session.svelte';
import { ui } from '../ui.svelte';
import { type Command, needObject, openTool } from './command';

export const curvesCommands: Command[] = [
  ...curveTools.map((tool) => ({
    id: `curve.${tool.id}`,
    title: `${tool.title}: ${tool.hint[0].toLowerCase()}${tool.hint.slice(1, -1)}`,
    group: 'Keys',
    run: () => openTool(tool.id),
  })),
  {
    id: 'curve.idle',
    title: 'Remove keys that do nothing, and all keys of channels that never move',
    group: 'Keys',
    run: () => forChannels((channels) => ({ kind: 'removeIdleKeys', channels })),
  },
  {
    id: 'curve.unroll',
    title: 'Unroll the rotations: no flips, no turns the long way round',
    group: 'Keys',
    run: () =>
      needObject() ||
      void session.shot.commit({
        kind: 'unrollRotations',
        nodes: session.selection.ids,
        layer: session.shot.layer ?? undefined,
      }),
  },
  {
    id: 'curve.seamless',
    title: 'Make loops seamless: value and speed of both ends equal',
    group: 'Keys',
    run: () => forChannels((channels) => ({ kind: 'makeSeamless', channels: channels.filter(repeats) })),
  },
  {
    id: 'curve.handles',
    title: 'Turn the easings of the selected keys into handles',
    group: 'Keys',
    run: easesToHandles,
  },
  {
    id: 'curve.mirror',
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
    title: 'Solo: of all curves only those of the selected keys or objects are heard, or all again',
    group: 'Keys',
    run: () => soloRows(meantChannels(), [...session.shot.keyedOwners.values()].flat()),
  },
  {
    id: 'rows.byKind',
    title: 'Rows of the tracks by object or by kind',
    group: 'Keys',
    run: () => (ui.rowsBy = ui.rowsBy === 'object' ? 'kind' : 'object'),
  },
  {
    id: 'rows.all',
    title: 'Rows of the tracks also for channels without keys, of the selected objects, or not',
    group: 'Keys',
    run: () => (ui.allRows = !ui.allRows),
  },
  {
    id: 'tracks.overlay',
    title: 'Curves over one another in one large lane, or each in its row',
    group: 'View',
    keys: 'o',
    run: () => (ui.overlay = !ui.overlay),
  },
  {
    id: 'tracks.oneScale',
    title: 'Overlaid curves in one scale, or each in its own',
    group: 'View',
    run: () => (ui.oneScale = !ui.oneScale),
  },
  {
    id: 'tracks.speed',
    title: 'Speed and acceleration below the overlaid curves',
    group: 'View',
    run: () => (ui.speed = !ui.speed),
  },
  {
    id: 'easing.copy',
    title: 'Copy the easing after the selected key as CSS',
    group: 'Keys',
    run: () => void copyEasing(),
  },
  {
    id: 'findings',
    title: 'Findings: what the motion checks say',
    group: 'Keys',
    keys: 'w',
    run: () => (ui.dialog = ui.dialog === 'findings' ? null : 'findings'),
  },
  {
    id: 'nextFinding',
    title: 'Go to the next finding',
    group: 'Keys',
    keys: 'Shift+KeyW',
    run: toFinding,
  },
];

function forChannels(make: (channels: string[]) => unknown) {
  const channels = meantChannels();
  if (channels.length === 0)
    return session.messages.say('Nothing here has keys: select an animated object, or keys in the tracks.');
  session.shot.commit(make(channels) as Edit);
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
  if (!session.shot.commit({ kind: 'easesToHandles', keys })) return;
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
    return { kind: 'transformKeys', keys: own, by: { valueScale: -1, valuePivot: middle } };
  });
  session.shot.commit((edits.length === 1 ? edits[0] : { kind: 'batch', label: 'Mirror values', edits }) as Edit);
}

async function copyEasing() {
  const key = session.selection.keys[0];
  const text = key ? session.shot.engine!.easingOf(key.address, key.frame) : '';
  if (!text) return session.messages.say('Select a key that another one follows, with another value.');
  await navigator.clipboard.writeText(text);
  session.messages.say(`Copied: ${text.length > 60 ? `${text.slice(0, 60)}…` : text}`);
}

const isFree = (a: string) => session.shot.keysOf(a).length > 0 && !session.shot.scene.locked.has(a);

/** Mutes curves, so that their channels stay as they are on this frame, or lets all of them be heard again. */
export function muteRows(addresses: string[]) {
  const keyed = addresses.filter(isFree);
  if (keyed.length === 0) return session.messages.say('There are no keys here to mute that are not locked.');
  const muted = !keyed.every((a) => session.shot.scene.muted.has(a));
  session.shot.commit({ kind: 'muteChannels', channels: keyed, muted, frame: session.frame } as unknown as Edit);
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
  const mute = (channels: string[], muted: boolean) => ({
    kind: 'muteChannels',
    channels,
    muted,
    frame: session.frame,
  });
  const edits = was ? [mute(all, false)] : [mute(others, true), mute(addresses, false)];
  session.shot.commit({ kind: 'batch', label: was ? 'Solo off' : 'Solo', edits } as unknown as Edit);
}

function toFinding() {
  const { list } = session.findings;
  const next = list.find((f) => f.first > session.frame) ?? list[0];
  if (!next) return session.messages.say('The checks have found nothing.');
  session.findings.show(next);
  ui.dialog = 'findings';
}
