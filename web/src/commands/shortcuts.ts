import { tinykeys } from 'tinykeys';
import { contextMenu } from '../widgets/contextMenu.svelte';
import { commands, shortcutOf, type Command } from './index';
import { isTyping } from '../widgets/typing';
import { ui } from '../stores/ui.svelte';

/** What a focused control does with a key itself. */
function isTaken({ target, key }: KeyboardEvent): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (key === ' ' || key === 'Enter')
    return target.matches(':is(button, a, summary, input[type=checkbox], input[type=radio]):focus-visible');
  return (key.startsWith('Arrow') || key === 'Home' || key === 'End') && target.matches('input[type=range]');
}

/** In an open menu letters go to what begins with them. */
const isInMenu = ({ target }: KeyboardEvent) => target instanceof Element && target.closest('[role=menu]') !== null;

// Held down, these go on; everything else happens once.
const REPEATED = new Set(['next', 'back', 'nextKey', 'previousKey', 'undo', 'redo']);

/** The place of a letter on the board, for a shortcut that ends in one. */
const placeOf = (keys: string) =>
  keys.replace(/(^|\+)([a-z])$/i, (_, before, letter) => `${before}Key${letter.toUpperCase()}`);

/**
 * Listens until the returned function is called. Letters are where they are written; on a board that writes others (Greek, Cyrillic, …) they are
 * where most boards have them.
 */
export function listen(): () => void {
  const map: Record<string, (event: KeyboardEvent) => void> = {};
  const byKeys = new Map<string, Command[]>();
  const add = (keys: string, command: Command) => byKeys.set(keys, [...(byKeys.get(keys) ?? []), command]);
  for (const command of commands) if (shortcutOf(command)) add(shortcutOf(command), command);
  // What somebody has given these keys to goes before.
  for (const command of commands) for (const keys of command.also ?? []) add(keys, command);
  for (const [keys, own] of byKeys) {
    map[keys] = (event) => {
      // A field keeps its own keys; an open dialog or menu is left with Escape.
      if (event.defaultPrevented || isTaken(event) || contextMenu.shown || isInMenu(event)) return;
      // Of those that share the keys, the one that is for the part with the focus.
      const command = own.find((c) => c.where?.includes(ui.part)) ?? own.find((c) => !c.where);
      if (!command) return;
      // Looking for a command means nothing to a field.
      if (isTyping(event) && command.id !== 'search') return;
      if (ui.isModal) return;
      // Text that somebody has marked is what they want to copy.
      if (command.id.startsWith('copy') && (getSelection()?.toString() ?? '') !== '') return;
      event.preventDefault();
      if (!event.repeat || REPEATED.has(command.id)) command.run();
    };
    const place = placeOf(keys);
    if (place !== keys) map[place] ??= (event) => event.key.length === 1 && event.key > '\u007f' && map[keys](event);
  }
  return tinykeys(window, map, { ignore: (event) => event.isComposing });
}
