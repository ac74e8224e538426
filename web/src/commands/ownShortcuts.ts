// Shortcuts that somebody has changed: which clash, and how they go to another browser.
import { preferences } from '../stores/preferences.svelte';
import { areApart, commandOf, commands, shortcutOf, type Command } from './index';

/** The same keys are written the same way: letters as they are written on the board, or as they are written by it. */
const plain = (keys: string) =>
  keys.replace(/(^|\+)(?:Key)?([A-Za-z])$/, (_, before, l: string) => before + l.toLowerCase());

/** Another command that answers to the same keys in the same part of the page, or null: only one of the two is reached. */
export function clashOf(command: Command, keys = shortcutOf(command)): Command | null {
  if (!keys) return null;
  return (
    commands.find((c) => c.id !== command.id && plain(shortcutOf(c)) === plain(keys) && !areApart(command, c)) ?? null
  );
}

/** What a pressed key is as a shortcut; null for a key that is only held with others. */
export function keysOf(e: KeyboardEvent): string | null {
  if (['Control', 'Shift', 'Alt', 'Meta', 'AltGraph'].includes(e.key)) return null;
  // By what it writes, so that it is where the letter is on any keyboard.
  const letter = e.key === ' ' ? 'Space' : e.key.length === 1 ? e.key.toLowerCase() : e.key;
  return [e.ctrlKey || e.metaKey ? '$mod' : '', e.shiftKey ? 'Shift' : '', e.altKey ? 'Alt' : '', letter]
    .filter(Boolean)
    .join('+');
}

/**
 * Gives a command other keys; none takes them away.
 * @returns the command that had them and has lost them
 */
export function setShortcut(command: Command, keys: string): Command | null {
  const before = clashOf(command, keys);
  if (before) preferences.shortcuts[before.id] = '';
  preferences.shortcuts[command.id] = keys;
  return before;
}

const FORMAT = 'bradymotus shortcuts';

/** Those that somebody has changed, as a file. */
export const exportShortcuts = () =>
  JSON.stringify({ format: FORMAT, version: 1, shortcuts: preferences.shortcuts }, null, 2);

/**
 * Takes those of a file in the place of one's own; what it says of commands that are not known is left out.
 * @returns how many were taken, and which were not known
 * @throws where it is no such file
 */
export function importShortcuts(text: string): { taken: number; unknown: string[] } {
  let file: { format?: unknown; version?: unknown; shortcuts?: unknown };
  try {
    file = JSON.parse(text) as typeof file;
  } catch {
    throw new Error('This is no file of shortcuts: choose one that was exported here.');
  }
  const list = file?.shortcuts;
  if (file?.format !== FORMAT || typeof list !== 'object' || list === null || Array.isArray(list))
    throw new Error('This is no file of shortcuts: choose one that was exported here.');
  if (file.version !== 1) throw new Error('These shortcuts were written by a newer version: update the program.');
  const own: Record<string, string> = {};
  const unknown: string[] = [];
  for (const [id, keys] of Object.entries(list))
    if (commandOf(id) && typeof keys === 'string' && keys.length <= 60) own[id] = keys;
    else unknown.push(id);
  preferences.shortcuts = own;
  return { taken: Object.keys(own).length, unknown };
}
