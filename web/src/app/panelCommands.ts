// Panels that are folded away and brought back.
import { type Command } from '../commands/command';
import { isShut, shut, type Panel } from '../stores/panels.svelte';
import { session } from '../stores/session.svelte';

const fold = (panel: Panel) => shut(panel, !isShut(panel));
const inDeliver = () => session.phase === 'deliver';

export const panelCommands: Command[] = [
  {
    id: 'panel.left',
    title: 'Left panel: fold away, or bring back',
    group: 'View',
    keys: 'BracketLeft',
    run: () => fold(inDeliver() ? 'settings' : 'left'),
  },
  {
    id: 'panel.right',
    title: 'Right panel: fold away, or bring back',
    group: 'View',
    keys: 'BracketRight',
    run: () => fold(inDeliver() ? 'dailies' : 'right'),
  },
  {
    id: 'panel.below',
    title: 'Panel below the stage: fold away, or bring back',
    group: 'View',
    keys: 'Backslash',
    run: () => (session.phase === 'polish' ? fold('tracks') : session.phase === 'block' && fold('poses')),
  },
];
