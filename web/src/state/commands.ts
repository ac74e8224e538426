// Every command, once: the menus, the search, the shortcuts and the tooltips all come from this list.
import { addressOf, type Edit } from '../engine/engine';
import { newNode, type NewKind } from './creation';
import { preferences } from './preferences.svelte';
import { session, type Phase, type Tool } from './session.svelte';
import { ui } from './ui.svelte';

export interface Command {
  id: string;
  title: string;
  group: string;
  /** As tinykeys writes it; $mod is Ctrl, or Cmd on a Mac. */
  keys?: string;
  run(): void;
}

const transport: Command[] = [
  { id: 'play', title: 'Play or stop', group: 'Time', keys: 'Space', run: () => play(1) },
  { id: 'playBack', title: 'Play backwards', group: 'Time', keys: 'Shift+Space', run: () => play(-1) },
  { id: 'next', title: 'One frame on', group: 'Time', keys: 'ArrowRight', run: () => step(1) },
  { id: 'back', title: 'One frame back', group: 'Time', keys: 'ArrowLeft', run: () => step(-1) },
  { id: 'nextKey', title: 'To the next key', group: 'Time', keys: 'Shift+ArrowRight', run: () => toKey(1) },
  { id: 'previousKey', title: 'To the key before', group: 'Time', keys: 'Shift+ArrowLeft', run: () => toKey(-1) },
  {
    id: 'first',
    title: 'To the first frame',
    group: 'Time',
    keys: 'Home',
    run: () => (ui.sequence ? ui.sequence.end(false) : session.goTo(session.scene.playFirst)),
  },
  {
    id: 'last',
    title: 'To the last frame',
    group: 'Time',
    keys: 'End',
    run: () => (ui.sequence ? ui.sequence.end(true) : session.goTo(session.scene.playLast)),
  },
];

const edits: Command[] = [
  { id: 'undo', title: 'Undo', group: 'Edit', keys: '$mod+KeyZ', run: () => session.undo() },
  { id: 'redo', title: 'Redo', group: 'Edit', keys: '$mod+KeyY', run: () => session.redo() },
  {
    id: 'key',
    title: 'Key the selected objects on this frame',
    group: 'Keys',
    keys: 'KeyK',
    run: () => keySelection(),
  },
  {
    id: 'hold',
    title: 'Key a hold on this frame, so that nothing drifts before a move',
    group: 'Keys',
    keys: 'Shift+KeyK',
    run: holdHere,
  },
  {
    id: 'autoKey',
    title: 'Automatic keying on or off',
    group: 'Keys',
    keys: 'KeyA',
    run: () => (session.autoKey = !session.autoKey),
  },
  { id: 'remove', title: 'Remove the selected keys or objects', group: 'Edit', keys: 'Delete', run: remove },
  { id: 'copy', title: 'Copy keys', group: 'Edit', keys: '$mod+KeyC', run: () => session.copyKeys() },
  {
    id: 'paste',
    title: 'Paste keys at the playhead',
    group: 'Edit',
    keys: '$mod+KeyV',
    run: () => session.pasteKeys(),
  },
  { id: 'duplicate', title: 'Duplicate the selected objects', group: 'Edit', keys: '$mod+KeyD', run: duplicate },
  {
    id: 'selectAllKeys',
    title: 'Select all keys of the selected objects',
    group: 'Keys',
    keys: '$mod+KeyA',
    run: selectAllKeys,
  },
  {
    id: 'reverse',
    title: 'Reverse the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'reverseKeys', keys })),
  },
  {
    id: 'stagger',
    title: 'Stagger the selected keys by 3 frames an object',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'staggerKeys', keys, frames: 3 })),
  },
  ...(['auto', 'smooth', 'flat', 'straight'] as const).map((kind) => ({
    id: `handle.${kind}`,
    title: `Handles of the selected keys: ${kind}`,
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setHandleKinds', keys, in: { kind }, out: { kind } })),
  })),
  {
    id: 'split',
    title: 'Split the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setHandleKinds', keys, joined: false })),
  },
  {
    id: 'join',
    title: 'Join the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setHandleKinds', keys, joined: true })),
  },
  ...(['bezier', 'linear', 'hold'] as const).map((segment) => ({
    id: `segment.${segment}`,
    title: `Way on from the selected keys: ${segment === 'bezier' ? 'curved' : segment}`,
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setSegments', keys, segment })),
  })),
];

const views: Command[] = [
  ...(['set', 'block', 'polish', 'deliver'] as Phase[]).map((phase, i) => ({
    id: `phase.${phase}`,
    title: `Phase: ${phase[0].toUpperCase()}${phase.slice(1)}`,
    group: 'View',
    keys: `Digit${i + 1}`,
    run: () => (session.phase = phase),
  })),
  ...(
    [
      ['pick', 'KeyP', 'Pick'],
      ['move', 'KeyM', 'Move'],
      ['turn', 'KeyT', 'Turn'],
      ['scale', 'KeyS', 'Scale'],
    ] as [Tool, string, string][]
  ).map(([tool, keys, title]) => ({
    id: `tool.${tool}`,
    title: `Tool: ${title}`,
    group: 'View',
    keys,
    run: () => (session.tool = tool),
  })),
  {
    id: 'fit',
    title: 'Fit the view to the selection, or to everything',
    group: 'View',
    keys: 'KeyF',
    run: () => ui.fit++,
  },
  {
    id: 'camera',
    title: 'Look through the camera, or freely',
    group: 'View',
    keys: 'KeyC',
    run: () => (ui.throughCamera = !ui.throughCamera),
  },
  {
    id: 'grid',
    title: 'Grid on or off',
    group: 'View',
    keys: 'KeyG',
    run: () => (preferences.grid = !preferences.grid),
  },
  {
    id: 'theme',
    title: 'Theme: ink or paper',
    group: 'View',
    run: () => (preferences.theme = preferences.theme === 'ink' ? 'paper' : 'ink'),
  },
  { id: 'search', title: 'Search for a command', group: 'Help', keys: '$mod+KeyK', run: () => (ui.dialog = 'search') },
  { id: 'library', title: 'Library of shots', group: 'Shot', keys: '$mod+KeyO', run: () => (ui.dialog = 'library') },
  {
    id: 'history',
    title: 'History',
    group: 'Edit',
    keys: 'KeyH',
    run: () => (ui.dialog = ui.dialog === 'history' ? null : 'history'),
  },
  { id: 'help', title: 'Shortcuts', group: 'Help', keys: 'Shift+Slash', run: () => (ui.dialog = 'help') },
  { id: 'shotSettings', title: 'Time and size of the shot', group: 'Shot', run: () => (ui.dialog = 'shot') },
];

const creation: Command[] = (
  [
    ['box', 'box'],
    ['sphere', 'ball'],
    ['cylinder', 'cylinder'],
    ['torus', 'ring'],
    ['plane', 'plane'],
    ['group', 'group'],
    ['camera', 'camera'],
    ['sun', 'sun'],
    ['lamp', 'lamp'],
  ] as [NewKind, string][]
).map(([kind, word]) => ({ id: `add.${kind}`, title: `Add a ${word}`, group: 'Scene', run: () => newNode(kind) }));

export const commands: Command[] = [...transport, ...edits, ...views, ...creation];

/** The shortcut of a command: the person's own, or the usual one. */
export const shortcutOf = (command: Command): string => preferences.shortcuts[command.id] ?? command.keys ?? '';

/** A shortcut for people: Ctrl+Shift+K. */
export function readable(keys: string): string {
  return keys
    .split('+')
    .map((k) =>
      k
        .replace('$mod', 'Ctrl')
        .replace(/^(Key|Digit)/, '')
        .replace('Arrow', '')
        .replace('Slash', '/')
        .replace('Space', 'Space'),
    )
    .map((k) => ({ Left: '←', Right: '→', Up: '↑', Down: '↓' })[k] ?? k)
    .join('+')
    .replace('Shift+/', '?');
}

/** A tooltip: what it does, and its shortcut. */
export function tip(id: string, text?: string): string {
  const command = commands.find((c) => c.id === id);
  if (!command) return text ?? '';
  const keys = shortcutOf(command);
  return keys ? `${text ?? command.title} (${readable(keys)})` : (text ?? command.title);
}

export const run = (id: string) => commands.find((c) => c.id === id)?.run();

// Where finished pictures are shown, time is theirs.
const play = (direction: 1 | -1) => (ui.sequence ? ui.sequence.toggle(direction) : session.player.toggle(direction));
const step = (by: number) => (ui.sequence ? ui.sequence.step(by) : session.goTo(session.frame + by));

function toKey(direction: 1 | -1) {
  const owners = session.selection.length > 0 ? session.selection : [...session.channelsByOwner.keys()];
  const frames = owners.flatMap((id) => (session.channelsByOwner.get(id) ?? []).flatMap((c) => c.keys));
  const beyond = frames.filter((f) => (f - session.frame) * direction > 0);
  if (beyond.length > 0) session.goTo(direction > 0 ? Math.min(...beyond) : Math.max(...beyond));
}

function keySelection() {
  if (session.selection.length === 0)
    return session.say('Select an object first: click it in the stage or in the list.');
  session.keyNow(session.keyable());
}

function holdHere() {
  if (session.selection.length === 0)
    return session.say('Select an object first: click it in the stage or in the list.');
  session.hold(session.keyable());
}

function remove() {
  if (session.selectedKeys.length > 0) return session.removeSelectedKeys();
  const ids = session.selectedNodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length > 0) session.commit({ kind: 'removeNodes', ids });
}

function withKeys(make: (keys: { address: string; frame: number }[]) => unknown) {
  if (session.selectedKeys.length === 0) return session.say('Select some keys first: click them in the tracks.');
  session.commit(make(session.selectedKeys) as Edit);
}

function selectAllKeys() {
  const owners = session.selection.length > 0 ? session.selection : [...session.channelsByOwner.keys()];
  session.selectedKeys = owners.flatMap((id) =>
    (session.channelsByOwner.get(id) ?? []).flatMap((c) => c.keys.map((frame) => ({ address: addressOf(c), frame }))),
  );
}

function duplicate() {
  const ids = session.selection;
  if (ids.length === 0) return session.say('Select an object first: click it in the stage or in the list.');
  const prefix = crypto.randomUUID().slice(0, 8);
  if (session.commit({ kind: 'duplicateNodes', ids, prefix })) session.select(ids.map((_, i) => `${prefix}-${i}`));
}
