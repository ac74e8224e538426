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
  // What had the focus when it was opened, and gets it back.
  private from: HTMLElement | null = null;
  shown = $state.raw<{ x: number; y: number; items: (MenuItem | null)[] } | null>(null);

  /** Opens it at the pointer; null between items is a line. */
  open(event: MouseEvent, items: (MenuItem | null)[]) {
    event.preventDefault();
    event.stopPropagation();
    this.at(event.clientX, event.clientY, items);
  }

  /** Opens it at a point of the page. */
  at(x: number, y: number, items: (MenuItem | null)[]) {
    this.from = document.activeElement instanceof HTMLElement ? document.activeElement : null;
    this.shown = { x, y, items };
  }

  /** The focus goes back to where it was, unless what was chosen has taken it somewhere. */
  giveBack() {
    const { activeElement } = document;
    if (activeElement === null || activeElement === document.body) this.from?.focus({ preventScroll: true });
  }

  close() {
    this.shown = null;
  }
}

export const contextMenu = new ContextMenu();
