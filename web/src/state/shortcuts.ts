import { tinykeys } from 'tinykeys';
import { commands, shortcutOf } from './commands';
import { ui } from './ui.svelte';

const isTyping = (event: Event) =>
  event.target instanceof HTMLElement &&
  (event.target.matches('input:not([type=checkbox]):not([type=range]):not([type=radio]), textarea, select') ||
    event.target.isContentEditable);

/** Listens until the returned function is called. */
export function listen(): () => void {
  const map: Record<string, (event: KeyboardEvent) => void> = {};
  for (const command of commands) {
    const keys = shortcutOf(command);
    if (!keys) continue;
    map[keys] = (event) => {
      // A field keeps its own keys; an open dialog is left with Escape.
      if (isTyping(event) || (ui.dialog && ui.dialog !== 'history')) return;
      if (keys === 'Space' && event.target instanceof HTMLButtonElement && event.target.matches(':focus-visible'))
        return;
      event.preventDefault();
      command.run();
    };
  }
  return tinykeys(window, map);
}
