// What curves do before their first and after their last key: for which curves it is set, and how.
import { newEdit, together, type Members } from '../../edits/edit';
import type { Extrapolation } from '../../engine/engine';
import { keyedChannels, type Command } from '../../commands/command';
import { session } from '../../stores/session.svelte';

export type End = 'before' | 'after';
export type Kind = Extrapolation['kind'];

export const endKinds: { kind: Kind; name: string; tag: string }[] = [
  { kind: 'hold', name: 'Hold', tag: 'hold' },
  { kind: 'linear', name: 'Linear', tag: 'linear' },
  { kind: 'loop', name: 'Loop', tag: 'loop' },
  { kind: 'loopOffset', name: 'Loop with offset', tag: 'offset' },
  { kind: 'pingPong', name: 'Ping-pong', tag: 'ping-pong' },
];
export const repeats = (kind: Kind) => kind === 'loop' || kind === 'loopOffset' || kind === 'pingPong';

/** The menu, while it is open: the curves that it is for, the end, and where it stands. */
export const endsMenu = $state<{ shown: { channels: string[]; end: End; x: number; y: number } | null }>({
  shown: null,
});

/** The curves that are meant: those of the selected keys, or else the chosen channels, or else all of the selected objects, or of everything. */
export function meantCurves(): string[] {
  const { keys, channels } = session.selection;
  const those = keys.length > 0 ? keys.map((k) => k.address) : channels.length > 0 ? channels : keyedChannels();
  return [...new Set(those)].filter((a) => session.shot.keysOf(a).length > 0);
}

/** The curves that the tag of one of them is for: all that are meant where somebody has chosen it among others. */
export function curvesOfTag(address: string): string[] {
  const { keys, channels } = session.selection;
  const chosen = keys.length > 0 || channels.length > 0 ? meantCurves() : [];
  return chosen.includes(address) ? chosen : [address];
}

/** What a curve does at an end; undefined where it has no keys. */
export const endOf = (address: string, end: End) => session.shot.curve(address)?.[end] as Extrapolation | undefined;

/** Sets it for all of them, as one step. How often and until when stays as it is of each, where it goes on repeating. */
export function setEnds(channels: string[], end: End, change: Partial<Extrapolation>) {
  const groups = new Map<string, { channels: string[]; rule: Extrapolation }>();
  for (const address of channels) {
    const now = endOf(address, end);
    if (!now) continue;
    const rule = { ...now, ...change };
    if (!repeats(rule.kind)) rule.count = 0;
    if (rule.kind === 'hold' || rule.until === null || Number.isNaN(rule.until)) delete rule.until;
    const key = JSON.stringify(rule);
    const group = groups.get(key);
    if (group) group.channels.push(address);
    else groups.set(key, { channels: [address], rule });
  }
  if (groups.size === 0) return;
  const edits = [...groups.values()].map((g) =>
    newEdit('setExtrapolation', { channels: g.channels, [end]: g.rule } as Members<'setExtrapolation'>),
  );
  session.shot.commit(together(`Set what comes ${end} the keys of ${channels.length} curves`, edits));
}

/** Keys in the place of what the curves do by themselves, over the range of the shot. */
export function bakeEnds(channels: string[]) {
  const { first, last } = session.shot.scene;
  const edits = channels.map((address) => {
    const keys = session.shot.keysOf(address);
    const range = { first: Math.min(first, keys[0]), last: Math.max(last, keys[keys.length - 1]) };
    return newEdit('bakeKeys', { channels: [address], ...range, step: 1 });
  });
  session.shot.commit(together(`Bake ${channels.length} curves to keys`, edits));
}

/** Does something with the curves that are meant; where there is none, says so. */
const withCurves = (what: (channels: string[]) => void) => () => {
  const channels = meantCurves();
  if (channels.length > 0) what(channels);
  else session.messages.say('Select some keys, rows, or an object that has keys.');
};

/** Opens the menu for the curves that are meant, at a place of the page; in the middle of the tracks without one. */
export function openEnds(end: End, at?: { x: number; y: number }) {
  withCurves((channels) => {
    const tracks = document.querySelector('[data-part=tracks]')?.getBoundingClientRect();
    if (!tracks) session.phase = 'polish';
    const { x, y } = at ?? (tracks ? { x: tracks.left + tracks.width / 2, y: tracks.top + 60 } : { x: 600, y: 400 });
    endsMenu.shown = { channels, end, x, y };
  })();
}

export const endCommands: Command[] = [
  {
    id: 'ends',
    title: 'Cycles: what comes before and after the keys …',
    short: 'Cycles …',
    group: 'Curves',
    keys: 'Shift+KeyE',
    run: () => openEnds('after'),
  },
  ...(['after', 'before'] as const).flatMap((end) =>
    endKinds.map(({ kind, name }) => ({
      id: `ends.${end}.${kind}`,
      title: `${end === 'after' ? 'After the last' : 'Before the first'} key: ${name.toLowerCase()}`,
      short: name,
      group: 'Curves',
      run: withCurves((channels) => setEnds(channels, end, { kind })),
    })),
  ),
];
