// Phases, tools, views and how they are drawn.
import { cameraFromView, focusOnSelected } from './newCamera';
import { preferences } from '../stores/preferences.svelte';
import { session, type Phase, type Tool } from '../stores/session.svelte';
import { stageHand, type StageHand } from '../stores/stageHand';
import { ui } from '../stores/ui.svelte';
import { viewState } from '../stores/viewState.svelte';
import { type Command } from '../commands/command';

// What a key does at once: in degrees, and in parts of the height of the view.
const TURN = 10;
const SHIFT = 0.08;
const STAGE = ['stage'] as const;

const withStage = (what: (stage: StageHand) => void) => () => {
  const stage = stageHand();
  if (stage) what(stage);
  else session.messages.say('There is no stage here: go to Set, Block or Polish.');
};

export const viewCommands: Command[] = [
  ...(['set', 'block', 'polish', 'deliver'] as Phase[]).map((phase, i) => ({
    id: `phase.${phase}`,
    title: `Phase: ${phase[0].toUpperCase()}${phase.slice(1)}`,
    group: 'View',
    keys: `${i + 1}`,
    run: () => (session.phase = phase),
  })),
  ...(
    [
      ['select', 'p', 'Select'],
      ['move', 'm', 'Move'],
      ['rotate', 't', 'Rotate'],
      ['scale', 's', 'Scale'],
    ] as [Tool, string, string][]
  ).map(([tool, keys, title]) => ({
    id: `tool.${tool}`,
    title: `Tool: ${title}`,
    group: 'View',
    keys,
    run: () => (session.tool = tool),
  })),
  {
    id: 'fit',
    short: 'Fit',
    title: 'Fit the view to the selection, or to everything',
    group: 'View',
    keys: 'f',
    run: () => ui.fit++,
  },
  {
    id: 'camera',
    short: 'Look through camera',
    title: 'Look through the camera, or freely',
    group: 'View',
    keys: 'c',
    run: () => (viewState.throughCamera = !viewState.throughCamera),
  },
  ...([1, 2, 4] as const).map((n) => ({
    id: `views.${n}`,
    title: n === 1 ? 'One view: the one the pointer was in' : n === 2 ? 'Two views side by side' : 'Four views',
    group: 'View',
    keys: `Shift+Digit${n}`,
    run: () => (viewState.layout = n),
  })),
  ...(['free', 'top', 'front', 'right'] as const).map((look) => ({
    id: `look.${look}`,
    title: {
      free: 'Free view',
      top: 'View from the top',
      front: 'View from the front',
      right: 'View from the right side',
    }[look],
    group: 'View',
    run: () => (viewState.panes[viewState.pane].look = look),
  })),
  ...(['shaded', 'edges', 'lines', 'flat'] as const).map((how) => ({
    id: `draw.${how}`,
    title: {
      shaded: 'Draw shaded',
      edges: 'Draw shaded, with edges',
      lines: 'Draw as wireframe',
      flat: 'Draw unlit',
    }[how],
    group: 'View',
    run: () => (viewState.panes[viewState.pane].shading = how),
  })),
  {
    id: 'clean',
    title: 'Hide overlays: grid, markers and handles, or show them again',
    once: 'Clean look',
    group: 'View',
    keys: 'Shift+KeyH',
    run: () => (viewState.clean = !viewState.clean),
  },
  {
    id: 'fullScreen',
    title: 'The stage alone on the whole screen, or back',
    group: 'View',
    keys: 'Shift+KeyF',
    run: () =>
      void (document.fullscreenElement
        ? document.exitFullscreen()
        : document.querySelector('[data-testid="stage"]')?.requestFullscreen()),
  },
  {
    id: 'camera.fromView',
    title: 'Make a camera from the free view',
    group: 'View',
    keys: 'Shift+KeyC',
    run: () => void cameraFromView(),
  },
  {
    id: 'camera.focus',
    title: 'Focus the camera on the selected object',
    group: 'View',
    run: focusOnSelected,
  },
  {
    id: 'guides',
    title: 'Lines in the frame: none, thirds, safe areas',
    group: 'View',
    keys: 'Shift+KeyG',
    run: () =>
      (preferences.guides = { none: 'thirds', thirds: 'safe', safe: 'none' }[
        preferences.guides
      ] as typeof preferences.guides),
  },
  {
    id: 'axes',
    title: 'Axes of the handles: world, parent or local',
    group: 'View',
    keys: 'x',
    run: () => (preferences.axes = ({ world: 'parent', parent: 'local', local: 'world' } as const)[preferences.axes]),
  },
  {
    id: 'tracePoint',
    title: 'Motion path of the point below the pointer: draw it, or take it away',
    group: 'View',
    keys: 'Shift+KeyT',
    run: withStage((stage) => stage.trace()),
  },
  {
    id: 'under',
    title: 'List what lies under the pointer, to select from',
    group: 'View',
    keys: 'u',
    run: withStage((stage) => stage.under()),
  },
  ...(
    [
      ['turn.left', 'Turn the view to the left', '$mod+ArrowLeft', (stage) => stage.turn(-TURN, 0)],
      ['turn.right', 'Turn the view to the right', '$mod+ArrowRight', (stage) => stage.turn(TURN, 0)],
      ['turn.up', 'Turn the view up', '$mod+ArrowUp', (stage) => stage.turn(0, TURN)],
      ['turn.down', 'Turn the view down', '$mod+ArrowDown', (stage) => stage.turn(0, -TURN)],
      ['shift.left', 'Shift the view to the left', '$mod+Shift+ArrowLeft', (stage) => stage.shift(-SHIFT, 0)],
      ['shift.right', 'Shift the view to the right', '$mod+Shift+ArrowRight', (stage) => stage.shift(SHIFT, 0)],
      ['shift.up', 'Shift the view up', '$mod+Shift+ArrowUp', (stage) => stage.shift(0, SHIFT)],
      ['shift.down', 'Shift the view down', '$mod+Shift+ArrowDown', (stage) => stage.shift(0, -SHIFT)],
      ['nearer', 'View from nearer', 'PageUp', (stage) => stage.nearer(1.2)],
      ['farther', 'View from farther away', 'PageDown', (stage) => stage.nearer(1 / 1.2)],
      ['stageMenu', 'Menu of the selected objects', 'Shift+F10', (stage) => stage.menu()],
    ] as [string, string, string, (stage: StageHand) => void][]
  ).map(([id, title, keys, what]) => ({
    id: `view.${id}`,
    title,
    group: 'Stage',
    keys,
    where: STAGE,
    run: withStage(what),
  })),
  {
    id: 'ghosts',
    title: 'Ghosts of the poses before and after',
    group: 'View',
    keys: 'Shift+KeyO',
    run: () => (preferences.ghosts.on = !preferences.ghosts.on),
  },
  {
    id: 'grid',
    short: 'Grid',
    title: 'Grid on or off',
    group: 'View',
    keys: 'g',
    run: () => (preferences.grid = !preferences.grid),
  },
  {
    id: 'theme',
    title: 'Theme: ink or paper',
    group: 'View',
    run: () => (preferences.theme = preferences.theme === 'ink' ? 'paper' : 'ink'),
  },
];
