// What belongs to the person and not to the shot; kept by the browser.
import { keep, recallJson } from '../widgets/kept';

interface Stored {
  theme: 'ink' | 'paper';
  shortcuts: Record<string, string>;
  /** The steps in which handles move (m), turn (degrees) and scale, and keys move in frames; 0 frames is free. */
  steps: { move: number; turn: number; scale: number; frames: number };
  /** What is dragged in the tracks snaps to what lies near. */
  near: boolean;
  grid: boolean;
  trueSpeed: boolean;
  /** Sounds are heard while playing and scrubbing. */
  sound: boolean;
  loop: 'loop' | 'once' | 'backForth';
  /** Along which axes the handles of the stage stand. */
  axes: 'world' | 'parent' | 'local';
  /** What the handles snap to while Ctrl is held. */
  snapTo: SnapTo;
  /** Lines in the frame of the camera. */
  guides: 'none' | 'thirds' | 'safe';
  /** Sizes of pictures that somebody keeps, in pixels. */
  sizes: { width: number; height: number }[];
  /** Own easings, as style sheets write them. */
  easings: { name: string; css: string }[];
  /** Poses before and after: how many on each side, on keys (0) or every so many frames. */
  ghosts: { on: boolean; count: number; every: number; fade: boolean };
  /** Retiming a pose moves the later ones along. */
  posesFollow: boolean;
  /** Panels that somebody has sized, in pixels, or folded away. */
  panels: Partial<Record<string, { size?: number; shut?: boolean }>>;
  /** Where and when the sun was last taken from. */
  sunPlace: { latitude: number; longitude: number; date: string; time: string; zone: number };
}

export type SnapTo = 'grid' | 'vertex' | 'surface';

const KEY = 'bradymotus.preferences';
const standard: Stored = {
  theme: 'ink',
  shortcuts: {},
  steps: { move: 0.1, turn: 5, scale: 0.05, frames: 1 },
  near: true,
  grid: true,
  trueSpeed: true,
  sound: true,
  loop: 'loop',
  axes: 'world',
  snapTo: 'grid',
  guides: 'none',
  sizes: [],
  easings: [],
  ghosts: { on: false, count: 2, every: 0, fade: true },
  posesFollow: false,
  panels: {},
  sunPlace: { latitude: 54.5, longitude: 10, date: '2024-06-21', time: '18:30', zone: 0 },
};

type Name = keyof Stored;
const names = Object.keys(standard) as Name[];
const keyOf = (name: Name) => `${KEY}.${name}`;

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const oneOf =
  (...words: string[]) =>
  (value: unknown) =>
    words.includes(value as string);
// What an older or a newer version has kept must not spoil the page.
const fits: Partial<Record<Name, (value: unknown) => boolean>> = {
  theme: oneOf('ink', 'paper'),
  loop: oneOf('loop', 'once', 'backForth'),
  axes: oneOf('world', 'parent', 'local'),
  snapTo: oneOf('grid', 'vertex', 'surface'),
  guides: oneOf('none', 'thirds', 'safe'),
  steps: (value) => Object.values(value as object).every((step) => Number.isFinite(step) && step >= 0),
  panels: (value) => isRecord(value) && Object.values(value).every(isRecord),
};

/** A preference from what was kept, or as it is until somebody sets it. */
function valid<N extends Name>(name: N, kept: unknown): Stored[N] {
  const usual = standard[name];
  if (name === 'easings') {
    const list = (Array.isArray(kept) ? kept : []) as Stored['easings'];
    return list.filter((e) => typeof e?.name === 'string' && typeof e.css === 'string') as Stored[N];
  }
  if (name === 'sizes') {
    const list = (Array.isArray(kept) ? kept : []) as Stored['sizes'];
    const fits = (n: unknown) => Number.isInteger(n) && (n as number) >= 1 && (n as number) <= 16384;
    return list.filter((s) => fits(s?.width) && fits(s.height)) as Stored[N];
  }
  if (typeof kept !== typeof usual || (isRecord(usual) && !isRecord(kept))) return usual;
  if (!(fits[name]?.(kept) ?? true)) return usual;
  return isRecord(usual) ? ({ ...(usual as object), ...(kept as object) } as Stored[N]) : (kept as Stored[N]);
}

// Each is kept by itself, so that two windows do not take back what the other has set. Older versions had one record of all.
const old = recallJson(KEY);
const of = (name: Name) => recallJson(keyOf(name)) ?? (isRecord(old) ? old[name] : undefined);
export const preferences = $state(
  Object.fromEntries(names.map((name) => [name, valid(name, of(name))])) as unknown as Stored,
);
const written = new Map<Name, string>(names.map((name) => [name, JSON.stringify(preferences[name])]));

function take(name: Name, kept: unknown) {
  const value = valid(name, kept);
  written.set(name, JSON.stringify(value));
  Object.assign(preferences, { [name]: value });
}

/** Keeps the preferences, takes what other windows set, and puts the theme on the page. Call once, from the root component. */
export function keepPreferences() {
  $effect(() => {
    document.documentElement.dataset.theme = preferences.theme;
  });
  for (const name of names)
    $effect(() => {
      const text = JSON.stringify(preferences[name]);
      if (written.get(name) === text) return;
      written.set(name, text);
      keep(keyOf(name), text);
    });
  $effect(() => {
    const changed = (e: StorageEvent) => {
      const name = names.find((n) => keyOf(n) === e.key);
      if (name) take(name, recallJson(keyOf(name)));
    };
    window.addEventListener('storage', changed);
    return () => window.removeEventListener('storage', changed);
  });
}
