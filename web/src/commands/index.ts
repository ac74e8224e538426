// Every command, once: the menus, the search, the shortcuts and the tooltips all come from this list. Each feature has its own, and app/features.ts brings them in.
import { preferences } from '../stores/preferences.svelte';
import { type Command } from './command';

export { areApart, type Command } from './command';

/** All of them, in the order in which they are listed. */
export const commands: Command[] = [];
const byId = new Map<string, Command>();

/** Brings in the commands of a feature. Two with one id are a fault of the program. */
export function register(own: readonly Command[]) {
  for (const command of own) {
    if (byId.has(command.id)) throw new Error(`There are two commands ${command.id}.`);
    byId.set(command.id, command);
    commands.push(command);
  }
}

/** A command by its id. */
export const commandOf = (id: string) => byId.get(id);

/** The shortcut of a command: the person's own, or the usual one. */
export const shortcutOf = (command: Command): string => preferences.shortcuts[command.id] ?? command.keys ?? '';

/** A shortcut for people: Ctrl+Shift+K. */
export function readable(keys: string): string {
  const names: Record<string, string> = {
    ArrowLeft: '←',
    ArrowRight: '→',
    ArrowUp: '↑',
    ArrowDown: '↓',
    $mod: 'Ctrl',
    BracketLeft: '[',
    BracketRight: ']',
    Backslash: '\\',
  };
  return keys
    .split('+')
    .map((k) => names[k] ?? k.replace(/^(Key|Digit)/, ''))
    .map((k) => (k.length === 1 ? k.toUpperCase() : k))
    .join('+')
    .replace('Shift+?', '?');
}

/** A tooltip: what it does, and its shortcut. */
export function tip(id: string, text?: string): string {
  const command = byId.get(id);
  if (!command) return text ?? '';
  const keys = shortcutOf(command);
  return keys ? `${text ?? command.title} (${readable(keys)})` : (text ?? command.title);
}

export const run = (id: string) => byId.get(id)?.run();
