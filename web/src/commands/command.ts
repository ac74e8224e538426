// What a command is, and what many of them need.
import { type Edit } from '../engine/engine';
import { session } from '../stores/session.svelte';
import { type Part } from '../stores/ui.svelte';

export interface Command {
  id: string;
  title: string;
  /** A few words for menus; the title without it. */
  short?: string;
  /** What it was called before: the search finds it by that too. */
  once?: string;
  group: string;
  /** As tinykeys writes it; $mod is Ctrl, or Cmd on a Mac. */
  keys?: string;
  /** Other keys that many hands know for it; they stay whatever it is given. */
  also?: string[];
  /** The parts of the page that its shortcut is for, where another command has the same in others; all without it. */
  where?: readonly Part[];
  run(): void;
}

/** Chosen channels, of the sky too, need no object. */
export const needChannel = () => session.selection.channels.length === 0 && needObject();

export const needObject = () => {
  const none = session.selection.ids.length === 0;
  if (none) session.messages.say('Select an object first: click it in the stage or in the list.');
  return none;
};

/** The channels that have keys of what is selected, or of everything. */
export function keyedChannels(): string[] {
  const { ids } = session.selection;
  const chosen = ids.flatMap((id) => session.shot.keyedOwners.get(id) ?? []);
  return ids.length > 0 ? chosen : [...session.shot.keyedOwners.values()].flat();
}

/** True, and said, where no key is selected. */
export const needKey = () => {
  const none = session.selection.keys.length === 0;
  if (none) session.messages.say('Select some keys first: click them in the tracks.');
  return none;
};

/** Whether two commands may have the same shortcut: their parts differ. */
export const areApart = (a: Command, b: Command) =>
  !!a.where && !!b.where && !a.where.some((p) => b.where!.includes(p));

export function withKeys(make: (keys: { address: string; frame: number }[]) => Edit) {
  if (needKey()) return;
  session.shot.commit(make(session.selection.keys));
}
