// Every command, once: the menus, the search, the shortcuts and the tooltips all come from this list.
import { preferences } from '../preferences.svelte';
import { type Command } from './command';
import { curvesCommands } from './curves';
import { editCommands } from './edit';
import { keysCommands } from './keys';
import { layersCommands } from './layers';
import { objectsCommands } from './objects';
import { placingCommands } from './placing';
import { timeCommands } from './time';
import { viewsCommands } from './views';

export { areApart, type Command } from './command';
export { isSolo, muteRows, soloRows } from './curves';
export { addLayer, mergeLayer } from './layers';
export { channelMenu, objectMenu } from './menus';
export { setLocked, setVisible } from './objects';

export const commands: Command[] = [
  ...timeCommands,
  ...editCommands,
  ...keysCommands,
  ...curvesCommands,
  ...layersCommands,
  ...viewsCommands,
  ...objectsCommands,
  ...placingCommands,
];

/** The shortcut of a command: the person's own, or the usual one. */
export const shortcutOf = (command: Command): string => preferences.shortcuts[command.id] ?? command.keys ?? '';

/** A shortcut for people: Ctrl+Shift+K. */
export function readable(keys: string): string {
  const names: Record<string, string> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓', $mod: 'Ctrl' };
  return keys
    .split('+')
    .map((k) => names[k] ?? k.replace(/^(Key|Digit)/, ''))
    .map((k) => (k.length === 1 ? k.toUpperCase() : k))
    .join('+')
    .replace('Shift+?', '?');
}

/** A tooltip: what it does, and its shortcut. */
export function tip(id: string, text?: string): string {
  const command = commands.find((c) => c.id === id);
  if (!command) return text ?? '';
  const keys = shortcutOf(command);
  return keys ? `${text ?? command.title} (${readable(keys)})` : (text ?? command.title);
}

export const run = (id: string) => commands.find((c) => c.id === id)?.run();
