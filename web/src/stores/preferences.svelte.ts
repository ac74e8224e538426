// What belongs to the person and not to the shot; kept by the browser.
interface Stored {
  theme: 'ink' | 'paper';
  shortcuts: Record<string, string>;
  snap: boolean;
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
  /** Own easings, as style sheets write them. */
  easings: { name: string; css: string }[];
  /** Poses before and after: how many on each side, on keys (0) or every so many frames. */
  ghosts: { on: boolean; count: number; every: number; fade: boolean };
  /** Retiming a pose moves the later ones along. */
  posesFollow: boolean;
  /** Where and when the sun was last taken from. */
  sunPlace: { latitude: number; longitude: number; date: string; time: string; zone: number };
}

export type SnapTo = 'grid' | 'vertex' | 'surface';

const KEY = 'bradymotus.preferences';
const standard: Stored = {
  theme: 'ink',
  shortcuts: {},
  snap: true,
  grid: true,
  trueSpeed: true,
  sound: true,
  loop: 'loop',
  axes: 'world',
  snapTo: 'grid',
  guides: 'none',
  easings: [],
  ghosts: { on: false, count: 2, every: 0, fade: true },
  posesFollow: false,
  sunPlace: { latitude: 54.5, longitude: 10, date: '2024-06-21', time: '18:30', zone: 0 },
};

function load(): Stored {
  try {
    const kept = { ...standard, ...JSON.parse(localStorage.getItem(KEY) ?? '{}') } as Stored;
    // What an older or a newer version has kept must not spoil the page.
    if (kept.theme !== 'paper') kept.theme = 'ink';
    if (!['loop', 'once', 'backForth'].includes(kept.loop)) kept.loop = 'loop';
    if (!['world', 'parent', 'local'].includes(kept.axes)) kept.axes = 'world';
    if (!['grid', 'vertex', 'surface'].includes(kept.snapTo)) kept.snapTo = 'grid';
    if (!['none', 'thirds', 'safe'].includes(kept.guides)) kept.guides = 'none';
    if (!Array.isArray(kept.easings)) kept.easings = [];
    kept.easings = kept.easings.filter((e) => typeof e?.name === 'string' && typeof e.css === 'string');
    kept.ghosts = { ...standard.ghosts, ...kept.ghosts };
    kept.sunPlace = { ...standard.sunPlace, ...kept.sunPlace };
    if (typeof kept.shortcuts !== 'object' || kept.shortcuts === null) kept.shortcuts = {};
    return kept;
  } catch {
    return { ...standard };
  }
}

export const preferences = $state<Stored>(load());

/** Keeps the preferences and puts the theme on the page. Call once, from the root component. */
export function keepPreferences() {
  $effect(() => {
    document.documentElement.dataset.theme = preferences.theme;
    localStorage.setItem(KEY, JSON.stringify(preferences));
  });
}
