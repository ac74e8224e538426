// Which keys are for the field that has the focus, and which are for the program.
const passed = new WeakSet<Event>();

/** A field has no use for this key: it is a shortcut, though it was pressed there. */
export const passOn = (event: Event) => void passed.add(event);

/** Whether a key was pressed in a field that takes text, and is for it. */
export const isTyping = (event: Event) =>
  !passed.has(event) &&
  event.target instanceof HTMLElement &&
  (event.target.matches('input:not([type=checkbox]):not([type=range]):not([type=radio]), textarea, select') ||
    event.target.isContentEditable);
