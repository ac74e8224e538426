// How menus look, wherever they are made.

/** The box of a menu: no higher than there is room. */
export const menuBox =
  'z-50 max-h-(--bits-floating-available-height) min-w-48 overflow-y-auto rounded-box border border-base-300 bg-base-200 p-1 text-base-content shadow-xl outline-none';
/** A line of it, with what it does at the left and its shortcut at the right. */
export const menuRow =
  'flex min-h-7 w-full items-center justify-between gap-6 rounded-field px-3 text-left text-[13px] outline-none data-highlighted:bg-base-300';
/** A line between groups of lines. */
export const menuLine = 'my-1 h-px bg-base-300';
