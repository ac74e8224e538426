export type Quality = 'draft' | 'preview' | 'final';

/** How a shot is to be rendered, and which of its sequences are shown: kept while the window is open. */
export class RenderSettings {
  quality = $state<Quality>('preview');
  /** Null for half of the shot's. */
  size = $state.raw<[number, number] | null>(null);
  /** As typed; null for the playback range. */
  frames = $state<string | null>(null);
  step = $state(1);
  /** Whether the last frame is the first one again. */
  loop = $state(false);
  name = $state('shot_####.png');
  /** Empty for the shot's own. */
  camera = $state('');
  /** The sequence that is shown; null for the newest. */
  chosen = $state<string | null>(null);
  /** The one it is compared with. */
  compared = $state<string | null>(null);

  /** The frames that would be rendered, as typed; else those that play. The last picture of a loop is the first one again. */
  rangeOf({ playFirst, playLast }: { playFirst: number; playLast: number }): string {
    return this.frames ?? `${playFirst}-${this.loop ? Math.max(playFirst, playLast - 1) : playLast}`;
  }
}

const shots = new Map<string, RenderSettings>();

export function renderSettings(shotId: string | null): RenderSettings {
  const id = shotId ?? '';
  let settings = shots.get(id);
  if (!settings) shots.set(id, (settings = new RenderSettings()));
  return settings;
}
