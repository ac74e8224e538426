// One menu at a time at the pointer, with the same commands as everywhere else.
export interface MenuItem {
  /** The id of a command, or a title with what it does. */
  command?: string;
  title?: string;
  run?: () => void;
  /** Whether it is so now, of several that one chooses from. */
  checked?: boolean;
}

class ContextMenu {
  shown = $state.raw<{ x: number; y: number; items: (MenuItem | null)[] } | null>(null);

  /** Opens it at the pointer; null between items is a line. */
  open(event: MouseEvent, items: (MenuItem | null)[]) {
    event.preventDefault();
    event.stopPropagation();
    this.shown = { x: event.clientX, y: event.clientY, items };
  }

  close() {
    this.shown = null;
  }
}

export const contextMenu = new ContextMenu();
