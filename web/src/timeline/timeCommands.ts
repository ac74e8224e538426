// Playing, going from frame to frame, markers, sounds.
import { newEdit } from '../edits/edit';
import { preferences } from '../stores/preferences.svelte';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { type Command, keyedChannels } from '../commands/command';

export const timeCommands: Command[] = [
  { id: 'play', title: 'Play or stop', group: 'Time', keys: 'Space', run: () => play(1) },
  { id: 'playBack', title: 'Play backwards', group: 'Time', keys: 'Shift+Space', run: () => play(-1) },
  { id: 'next', title: 'Next frame', group: 'Time', keys: 'ArrowRight', run: () => step(1) },
  { id: 'back', title: 'Previous frame', group: 'Time', keys: 'ArrowLeft', run: () => step(-1) },
  { id: 'nextKey', title: 'Next key', group: 'Time', keys: 'Shift+ArrowRight', run: () => toKey(1) },
  { id: 'previousKey', title: 'Previous key', group: 'Time', keys: 'Shift+ArrowLeft', run: () => toKey(-1) },
  {
    id: 'first',
    title: 'First frame',
    group: 'Time',
    keys: 'Home',
    run: () => (ui.sequence ? ui.sequence.end(false) : session.goTo(session.shot.scene.playFirst)),
  },
  {
    id: 'last',
    title: 'Last frame',
    group: 'Time',
    keys: 'End',
    run: () => (ui.sequence ? ui.sequence.end(true) : session.goTo(session.shot.scene.playLast)),
  },
  {
    id: 'marker',
    title: 'Put a marker at the playhead',
    group: 'Time',
    keys: 'Shift+KeyM',
    run: () =>
      void session.shot.commit(
        newEdit('putMarker', { marker: { id: `marker-${crypto.randomUUID().slice(0, 8)}`, frame: session.frame } }),
      ),
  },
  { id: 'nextMarker', title: 'Next marker', group: 'Time', keys: 'Shift+KeyN', run: () => toMarker(1) },
  { id: 'previousMarker', title: 'Previous marker', group: 'Time', keys: 'Shift+KeyB', run: () => toMarker(-1) },
  {
    id: 'sound.hear',
    title: 'Sounds: hear them while playing and scrubbing, or not',
    group: 'Time',
    run: () => {
      preferences.sound = !preferences.sound;
      if (preferences.sound) session.player.hear();
      else session.sounds.stop();
    },
  },
];

// Where finished pictures are shown, time is theirs.
function play(direction: 1 | -1) {
  if (ui.sequence) ui.sequence.toggle(direction);
  else if (session.phase === 'deliver') session.messages.say('Nothing is rendered yet that could play.');
  else session.player.toggle(direction);
}

const step = (by: number) => (ui.sequence ? ui.sequence.step(by) : session.goTo(session.frame + by));

function toKey(direction: 1 | -1) {
  let best: number | null = null;
  const { channels } = session.selection;
  for (const address of channels.length > 0 ? channels : keyedChannels())
    for (const f of session.shot.keysOf(address))
      if ((f - session.frame) * direction > 0.5 && (best === null || (f - best) * direction < 0)) best = f;
  if (best !== null) session.goTo(best);
}

function toMarker(direction: 1 | -1) {
  const ahead = session.shot.scene.markers
    .map((m) => m.frame)
    .filter((f) => (f - session.frame) * direction > 0.5)
    .sort((a, b) => (a - b) * direction);
  if (ahead.length > 0) session.goTo(ahead[0]);
  else session.messages.say('There is no marker in this direction.');
}
