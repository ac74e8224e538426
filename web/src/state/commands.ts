// Every command, once: the menus, the search, the shortcuts and the tooltips all come from this list.
import type { MenuItem } from '../panels/contextMenu.svelte';
import { type ChannelView, type Edit } from '../engine/engine';
import { newKinds, newNode } from './creation';
import { bake } from './baking';
import { curveTools, meantChannels, meantSegments } from './curveTools';
import { cameraFromView, focusOnSelected } from './cameras';
import { copyValues, pasteValues, resetChannels } from './values';
import { addFollowers, addInstances, makeReal, placeInstances } from './instances';
import { copyObjects, forgetObjects, pasteObjects } from './objects';
import { joinOutlines } from './outlines';
import { copyMotion, motionInHand, takeMotion } from './motion';
import { chooseReference, chooseSound } from './reference';
import { chooseFiles, exportModel } from './import';
import { preferences } from './preferences.svelte';
import { savedShelf } from './savedShelf.svelte';
import { session, type Phase, type Tool } from './session.svelte';
import { ui } from './ui.svelte';

export interface Command {
  id: string;
  title: string;
  group: string;
  /** As tinykeys writes it; $mod is Ctrl, or Cmd on a Mac. */
  keys?: string;
  run(): void;
}

const transport: Command[] = [
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
];

const edits: Command[] = [
  { id: 'undo', title: 'Undo', group: 'Edit', keys: '$mod+z', run: () => session.shot.undo() },
  { id: 'redo', title: 'Redo', group: 'Edit', keys: '$mod+y', run: () => session.shot.redo() },
  {
    id: 'key',
    title: 'Key the selected objects on this frame',
    group: 'Keys',
    keys: 'k',
    run: () => keySelection(),
  },
  {
    id: 'hold',
    title: 'Key a hold on this frame, so that nothing drifts before a move',
    group: 'Keys',
    keys: 'Shift+K',
    run: holdHere,
  },
  {
    id: 'autoKey',
    title: 'Automatic keying on or off',
    group: 'Keys',
    keys: 'a',
    run: () => (session.autoKey = !session.autoKey),
  },
  { id: 'remove', title: 'Remove the selected keys or objects', group: 'Edit', keys: 'Delete', run: remove },
  { id: 'copy', title: 'Copy', group: 'Edit', keys: '$mod+c', run: copy },
  {
    id: 'paste',
    title: 'Paste, keys at the playhead',
    group: 'Edit',
    keys: '$mod+v',
    run: paste,
  },
  { id: 'duplicate', title: 'Duplicate the selected objects', group: 'Edit', keys: '$mod+d', run: duplicate },
  {
    id: 'instance',
    title: 'Add an instance: shape and inner motion stay shared',
    group: 'Edit',
    keys: '$mod+Shift+KeyD',
    run: () => needObject() || addInstances(),
  },
  {
    id: 'follow',
    title: 'Add a copy that moves as the original',
    group: 'Edit',
    run: () => needObject() || addFollowers(),
  },
  {
    id: 'placeInstances',
    title: 'Put instances of the object selected first on all the others',
    group: 'Placing',
    run: placeInstances,
  },
  { id: 'makeReal', title: 'Make it a copy of its own, that shares nothing', group: 'Edit', run: makeReal },
  {
    id: 'selectAll',
    title: 'Select all: objects, or keys in the tracks',
    group: 'Edit',
    keys: '$mod+a',
    run: selectAll,
  },
  {
    id: 'reverse',
    title: 'Reverse the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'reverseKeys', keys })),
  },
  {
    id: 'stagger',
    title: 'Stagger the selected keys by 3 frames an object',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'staggerKeys', keys, frames: 3 })),
  },
  ...(['auto', 'smooth', 'flat', 'straight'] as const).map((kind) => ({
    id: `handle.${kind}`,
    title: `Handles of the selected keys: ${kind}`,
    group: 'Keys',
    keys: { flat: 'e', straight: 'd' }[kind as string],
    run: () =>
      withKeys((keys) => ({
        kind: 'setHandleKinds',
        keys,
        ...(ui.handleSide === 'both' ? { in: { kind }, out: { kind } } : { [ui.handleSide]: { kind }, joined: false }),
      })),
  })),
  {
    id: 'handle.side',
    title: 'Kinds of handles: for both sides of a key, the arriving one, or the leaving one',
    group: 'Keys',
    run: () => (ui.handleSide = ({ both: 'in', in: 'out', out: 'both' } as const)[ui.handleSide]),
  },
  {
    id: 'tracks.lockLength',
    title: 'Lock of length: handles that are dragged only turn, or not',
    group: 'Keys',
    run: () => (ui.lockLength = !ui.lockLength),
  },
  {
    id: 'split',
    title: 'Split the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setHandleKinds', keys, joined: false })),
  },
  {
    id: 'join',
    title: 'Join the handles of the selected keys',
    group: 'Keys',
    run: () => withKeys((keys) => ({ kind: 'setHandleKinds', keys, joined: true })),
  },
  {
    id: 'poses.toCurves',
    title: 'To curves: poses that are held by their keys go over into one another',
    group: 'Keys',
    run: toCurves,
  },
  ...(['bezier', 'linear', 'hold'] as const).map((segment) => ({
    id: `segment.${segment}`,
    title: `Interpolation of the selected keys: ${segment === 'bezier' ? 'Bézier' : segment}`,
    group: 'Keys',
    run: () => {
      const keys = meantSegments();
      if (keys.length === 0)
        return session.messages.say(
          'Select some keys first, or an object with the playhead between two of its poses: it is set on all its channels.',
        );
      session.shot.commit({ kind: 'setSegments', keys, segment } as Edit);
    },
  })),
];

/** Held keys of the selected objects, or of all, go on as new keys of the shot do; where those hold too, as curves. What can only be on or off stays. */
function toCurves() {
  const { shot, selection, player, messages } = session;
  const owners = selection.ids.length > 0 ? [...shot.family(selection.ids)] : [...shot.keyedOwners.keys()];
  const keys = owners
    .flatMap((id) => [...(shot.keyedOwners.get(id) ?? [])])
    .filter((address) => !shot.channelAt(address)?.stepped)
    .flatMap((address) =>
      (shot.curve(address)?.keys ?? []).filter((k) => k.segment === 'hold').map(({ frame }) => ({ address, frame })),
    );
  if (keys.length === 0)
    return messages.say('No pose is held here by its keys: select objects that were blocked with held keys.');
  const { segment = 'bezier' } = (shot.scene.newKeys ?? {}) as { segment?: string };
  const edit = { kind: 'setSegments', keys, segment: segment === 'hold' ? 'bezier' : segment };
  // Played as it is from now on.
  if (shot.commit(edit as Edit)) player.stepped = false;
}

const views: Command[] = [
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
    title: 'Fit the view to the selection, or to everything',
    group: 'View',
    keys: 'f',
    run: () => ui.fit++,
  },
  {
    id: 'camera',
    title: 'Look through the camera, or freely',
    group: 'View',
    keys: 'c',
    run: () => (ui.throughCamera = !ui.throughCamera),
  },
  ...([1, 2, 4] as const).map((n) => ({
    id: `views.${n}`,
    title: n === 1 ? 'One view: the one the pointer was in' : n === 2 ? 'Two views side by side' : 'Four views',
    group: 'View',
    keys: `Shift+Digit${n}`,
    run: () => (ui.layout = n),
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
    run: () => (ui.panes[ui.pane].look = look),
  })),
  ...(['shaded', 'edges', 'lines', 'flat'] as const).map((how) => ({
    id: `draw.${how}`,
    title: {
      shaded: 'Draw shaded',
      edges: 'Draw shaded, with edges',
      lines: 'Draw edges only',
      flat: 'Draw flat colours',
    }[how],
    group: 'View',
    run: () => (ui.panes[ui.pane].shading = how),
  })),
  {
    id: 'clean',
    title: 'Clean look: grid, markers and handles off, or on again',
    group: 'View',
    keys: 'Shift+KeyH',
    run: () => (ui.clean = !ui.clean),
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
    run: () =>
      ui.trace
        ? ui.trace()
        : session.messages.say('There is no stage here: go to Set, Block or Polish, and point at a surface.'),
  },
  {
    id: 'ghosts',
    title: 'Ghosts of the poses before and after',
    group: 'View',
    keys: 'Shift+KeyO',
    run: () => (preferences.ghosts.on = !preferences.ghosts.on),
  },
  {
    id: 'grid',
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
  {
    id: 'hide',
    title: 'Hide or show the selected objects',
    group: 'Scene',
    run: () => {
      const { nodes } = session.selection;
      const place = nodes[0] ? session.shot.scene.channels.indexOf(nodes[0].id, 'visible') : -1;
      if (nodes[0])
        setVisible(
          nodes.map((n) => n.id),
          !((session.shot.shown?.values[place] ?? 1) >= 0.5),
        );
    },
  },
  {
    id: 'lock',
    title: 'Lock or unlock the selected objects',
    group: 'Scene',
    run: () => {
      const { nodes } = session.selection;
      if (nodes[0])
        setLocked(
          nodes.map((n) => n.id),
          !nodes[0].locked,
        );
    },
  },
  {
    id: 'unparent',
    title: 'Unparent the selected objects',
    group: 'Scene',
    run: () => unparent(true),
  },
  {
    id: 'unparentAlong',
    title: 'Unparent, with the numbers kept instead of the place',
    group: 'Scene',
    run: () => unparent(false),
  },
  { id: 'leave', title: 'Select nothing', group: 'Edit', keys: 'Escape', run: leave },
  { id: 'search', title: 'Search for a command', group: 'Help', keys: '$mod+k', run: () => (ui.dialog = 'search') },
  { id: 'library', title: 'Library of shots', group: 'Shot', keys: '$mod+o', run: () => (ui.dialog = 'library') },
  {
    id: 'history',
    title: 'History',
    group: 'Edit',
    keys: 'h',
    run: () => (ui.dialog = ui.dialog === 'history' ? null : 'history'),
  },
  {
    id: 'findings',
    title: 'Findings: what the motion checks say',
    group: 'Keys',
    keys: 'w',
    run: () => (ui.dialog = ui.dialog === 'findings' ? null : 'findings'),
  },
  {
    id: 'nextFinding',
    title: 'Go to the next finding',
    group: 'Keys',
    keys: 'Shift+KeyW',
    run: toFinding,
  },
  { id: 'help', title: 'Shortcuts', group: 'Help', keys: 'Shift+?', run: () => (ui.dialog = 'help') },
  {
    id: 'shotSettings',
    title: 'Frame rate, range and resolution of the shot',
    group: 'Shot',
    run: () => (ui.dialog = 'shot'),
  },
  {
    id: 'import',
    title: 'Import a file into the shot: .glb, .gltf, .obj, .stl, .ply or .svg',
    group: 'Scene',
    keys: 'Shift+KeyI',
    run: chooseFiles,
  },
  {
    id: 'reference',
    title: 'Reference picture or film: on a plane, or fixed to the selected camera',
    group: 'Scene',
    run: chooseReference,
  },
  { id: 'export', title: 'Export the shot as glTF (.glb)', group: 'Shot', run: () => void exportModel([]) },
  {
    id: 'exportSelection',
    title: 'Export what is selected as glTF (.glb)',
    group: 'Scene',
    run: () => needObject() || void exportModel(session.selection.ids),
  },
];

const creation: Command[] = [
  ...newKinds.map(({ kind, label }) => ({
    id: `add.${kind}`,
    title: `Add: ${label.toLowerCase()}`,
    group: 'Scene',
    run: () => void newNode(kind),
  })),
  ...(
    [
      ['Union', 'Join the selected outlines to one'],
      ['Intersect', 'Keep what the selected outlines have in common'],
      ['Cut', 'Cut the selected outlines out of the one selected last'],
    ] as const
  ).map(([how, title]) => ({
    id: `outline.${how}`,
    title,
    group: 'Scene',
    run: () => void joinOutlines(how),
  })),
];

const placing: Command[] = [
  { id: 'group', title: 'Group the selected objects', group: 'Scene', keys: '$mod+g', run: () => group('group') },
  {
    id: 'repeat',
    title: 'Repeat the selected objects',
    group: 'Scene',
    keys: '$mod+Shift+KeyR',
    run: () => group('repeat'),
  },
  {
    id: 'ungroup',
    title: 'Ungroup the selected groups',
    group: 'Scene',
    keys: '$mod+Shift+KeyG',
    run: ungroup,
  },
  ...(
    [
      ['centre', 'the centre of the object'],
      ['base', 'the base of the object'],
      ['origin', 'the origin'],
    ] as const
  ).map(([where, words]) => ({
    id: `pivot.${where}`,
    title: `Move the pivot to ${words}`,
    group: 'Placing',
    run: () => needObject() || void session.shot.pivotTo(session.selection.ids, where),
  })),
  {
    id: 'pivot.object',
    title: 'Move the pivots to that of the object selected last',
    group: 'Placing',
    run: () => {
      const ids = session.selection.ids;
      if (ids.length < 2) session.messages.say('Select the objects, and last the one whose pivot they shall get.');
      else session.shot.pivotTo(ids.slice(0, -1), ids.at(-1)!);
    },
  },
  ...['X', 'Y', 'Z'].flatMap((letter, axis) => [
    ...(
      [
        [-1, 'low sides'],
        [0, 'middles'],
        [1, 'high sides'],
      ] as const
    ).map(([side, words]) => ({
      id: `align.${letter}.${side}`,
      title: `Align the ${words} on ${letter}, to the object selected last`,
      group: 'Placing',
      run: () => void session.shot.arrange(session.selection.ids, 'align', axis, side),
    })),
    {
      id: `distribute.${letter}`,
      title: `Distribute evenly on ${letter}`,
      group: 'Placing',
      run: () => void session.shot.arrange(session.selection.ids, 'distribute', axis),
    },
  ]),
  ...(
    [
      ['transform.', 'position, rotation and scale'],
      ['transform.translate', 'position'],
      ['transform.rotate', 'rotation'],
      ['transform.scale', 'scale'],
    ] as const
  ).map(([start, words]) => ({
    id: `reset.${start}`,
    title: `Reset the ${words}`,
    group: 'Placing',
    run: () => needObject() || resetChannels(start),
  })),
  ...(
    [
      ['Rotation', 'rotation'],
      ['Scale', 'scale'],
      ['Both', 'rotation and scale'],
    ] as const
  ).map(([what, words]) => ({
    id: `bake.${what}`,
    title: `Bake the ${words} into the mesh: the object stays as it looks`,
    group: 'Placing',
    run: () => void bake(what),
  })),
  {
    id: 'copyValues',
    title: 'Copy the values of the object',
    group: 'Placing',
    run: () => needObject() || copyValues(session.shot.channelsOf(session.selection.ids.at(-1)!)),
  },
  {
    id: 'pasteValues',
    title: 'Paste values to the selected objects',
    group: 'Placing',
    run: () =>
      needObject() ||
      pasteValues(
        session.selection.ids.flatMap((id) => session.shot.channelsOf(id)),
        false,
      ),
  },
  ...(
    [
      ['grid', 'steps'],
      ['vertex', 'the vertex below the pointer'],
      ['surface', 'the surface below the pointer'],
    ] as const
  ).map(([to, words]) => ({
    id: `snap.${to}`,
    title: `Snap to ${words} while Ctrl is held`,
    group: 'Placing',
    run: () => (preferences.snapTo = to),
  })),
  {
    id: 'drop',
    title: 'Let down to what is below',
    group: 'Placing',
    keys: 'Shift+KeyD',
    run: () => needObject() || void session.shot.arrange(session.selection.ids, 'drop'),
  },
];

const curves: Command[] = [
  ...curveTools.map((tool) => ({
    id: `curve.${tool.id}`,
    title: `${tool.title}: ${tool.hint[0].toLowerCase()}${tool.hint.slice(1, -1)}`,
    group: 'Keys',
    run: () => openTool(tool.id),
  })),
  {
    id: 'curve.idle',
    title: 'Remove keys that do nothing, and all keys of channels that never move',
    group: 'Keys',
    run: () => forChannels((channels) => ({ kind: 'removeIdleKeys', channels })),
  },
  {
    id: 'curve.unroll',
    title: 'Unroll the rotations: no flips, no turns the long way round',
    group: 'Keys',
    run: () =>
      needObject() ||
      void session.shot.commit({
        kind: 'unrollRotations',
        nodes: session.selection.ids,
        layer: session.shot.layer ?? undefined,
      }),
  },
  {
    id: 'curve.seamless',
    title: 'Make loops seamless: value and speed of both ends equal',
    group: 'Keys',
    run: () => forChannels((channels) => ({ kind: 'makeSeamless', channels: channels.filter(repeats) })),
  },
  {
    id: 'curve.handles',
    title: 'Turn the easings of the selected keys into handles',
    group: 'Keys',
    run: easesToHandles,
  },
  {
    id: 'curve.mirror',
    title: 'Mirror the selected keys in value, about the middle of their range',
    group: 'Keys',
    run: mirrorValues,
  },
  {
    id: 'key.changed',
    title: 'Key what has changed on this frame, and nothing else',
    group: 'Keys',
    keys: 'Shift+KeyJ',
    run: () =>
      session.shot.waiting.size > 0
        ? session.shot.keyNow([...session.shot.waiting])
        : session.messages.say('Nothing on this frame is changed and waits for a key.'),
  },
  ...(
    [
      ['transform.translate', 'position'],
      ['transform.rotate', 'rotation'],
      ['transform.scale', 'scale'],
      ['morph.', 'morph targets'],
      ['', 'all channels'],
    ] as const
  ).map(([start, words]) => ({
    id: `key.${start || 'all'}`,
    title: `Key: ${words}`,
    group: 'Keys',
    run: () =>
      needObject() ||
      session.shot.keyNow(
        session.selection.ids
          .flatMap((id) => session.shot.channelsOf(id))
          .filter((c) => c.path.replace('quaternion', 'rotate').startsWith(start))
          .map((c) => c.address),
      ),
  })),
  ...(['bezier', 'linear', 'hold'] as const).map((segment) => ({
    id: `newKeys.${segment}`,
    title: `New keys of this shot: ${segment === 'bezier' ? 'Bézier' : segment}`,
    group: 'Keys',
    run: () => void session.shot.commit({ kind: 'setShot', newKeys: { segment } } as unknown as Edit),
  })),
  {
    id: 'pose.mirror',
    title: 'Mirror the pose of this frame left to right, by name',
    group: 'Keys',
    run: () =>
      needObject() ||
      void session.shot.commit({
        kind: 'mirrorPose',
        nodes: [...session.shot.family(session.selection.ids)],
        frame: session.frame,
        layer: session.shot.layer,
      } as Edit),
  },
  {
    id: 'marker',
    title: 'Put a marker at the playhead',
    group: 'Time',
    keys: 'Shift+KeyM',
    run: () =>
      void session.shot.commit({
        kind: 'putMarker',
        marker: { id: `marker-${crypto.randomUUID().slice(0, 8)}`, frame: session.frame },
      } as unknown as Edit),
  },
  { id: 'nextMarker', title: 'Next marker', group: 'Time', keys: 'Shift+KeyN', run: () => toMarker(1) },
  { id: 'previousMarker', title: 'Previous marker', group: 'Time', keys: 'Shift+KeyB', run: () => toMarker(-1) },
  {
    id: 'motion.copy',
    title: 'Copy the animation of the selected objects, for this shot or another',
    group: 'Keys',
    keys: '$mod+Alt+KeyC',
    run: () => needObject() || copyMotion(),
  },
  {
    id: 'motion.put',
    title: 'Put the copied animation onto the selected objects, or by name',
    group: 'Keys',
    keys: '$mod+Alt+KeyB',
    run: () => {
      takeMotion(null);
      if (!motionInHand())
        return session.messages.say('No animation is copied: select objects that have keys, and copy it.');
      openTool('putMotion');
    },
  },
  {
    id: 'rows.mute',
    title: 'Mute the curves of the selected keys or objects, or unmute them',
    group: 'Keys',
    run: () => muteRows(meantChannels()),
  },
  {
    id: 'rows.solo',
    title: 'Solo: of all curves only those of the selected keys or objects are heard, or all again',
    group: 'Keys',
    run: () => soloRows(meantChannels(), [...session.shot.keyedOwners.values()].flat()),
  },
  {
    id: 'rows.byKind',
    title: 'Rows of the tracks by object or by kind',
    group: 'Keys',
    run: () => (ui.rowsBy = ui.rowsBy === 'object' ? 'kind' : 'object'),
  },
  {
    id: 'rows.all',
    title: 'Rows of the tracks also for channels without keys, of the selected objects, or not',
    group: 'Keys',
    run: () => (ui.allRows = !ui.allRows),
  },
  {
    id: 'shelf',
    title: 'Shelf of saved poses and motions, shown or hidden',
    group: 'Keys',
    keys: 'Shift+KeyP',
    run: () => {
      ui.shelf = !ui.shelf;
      if (ui.shelf && !['block', 'polish'].includes(session.phase)) session.phase = 'block';
    },
  },
  {
    id: 'shelf.pose',
    title: 'Keep the pose of the selected objects on the shelf',
    group: 'Keys',
    run: () => void savedShelf.keep('pose'),
  },
  {
    id: 'shelf.motion',
    title: 'Keep the motion of the selected objects on the shelf',
    group: 'Keys',
    run: () => void savedShelf.keep('motion'),
  },
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
  { id: 'sound.add', title: 'Add a sound: WAV, FLAC, MP3 or OGG', group: 'File', run: chooseSound },
  {
    id: 'layers',
    title: 'Layers: show or hide their strips beside the tracks',
    group: 'View',
    keys: 'l',
    run: () => {
      const isShown = session.phase === 'polish' && (ui.layers ?? session.shot.scene.layers.length > 0);
      ui.layers = !isShown;
      if (ui.layers) session.phase = 'polish';
    },
  },
  { id: 'layer.new', title: 'New layer that adds', group: 'Layers', keys: 'Shift+KeyL', run: () => addLayer('add') },
  { id: 'layer.newOverride', title: 'New layer that overrides', group: 'Layers', run: () => addLayer('override') },
  { id: 'layer.up', title: 'Work in the layer above', group: 'Layers', keys: 'Alt+ArrowUp', run: () => stepLayer(1) },
  {
    id: 'layer.down',
    title: 'Work in the layer below',
    group: 'Layers',
    keys: 'Alt+ArrowDown',
    run: () => stepLayer(-1),
  },
  {
    id: 'layer.merge',
    title: 'Merge the layer that is worked in with what is below it',
    group: 'Layers',
    run: () => {
      const layer = chosenLayer();
      if (layer) mergeLayer(layer.id);
    },
  },
  {
    id: 'layer.bake',
    title: 'Bake all layers into the keys of the channels',
    group: 'Layers',
    run: () => void session.shot.commit({ kind: 'bakeLayers' } as Edit),
  },
  {
    id: 'layer.remove',
    title: 'Remove the layer that is worked in, with its keys',
    group: 'Layers',
    run: () => {
      const layer = chosenLayer();
      if (layer) session.shot.commit({ kind: 'removeLayer', layer: layer.id } as Edit);
    },
  },
  {
    id: 'tracks.overlay',
    title: 'Curves over one another in one large lane, or each in its row',
    group: 'View',
    keys: 'o',
    run: () => (ui.overlay = !ui.overlay),
  },
  {
    id: 'tracks.lockFrame',
    title: 'Lock of time: keys that are dragged keep their frame, or not',
    group: 'Keys',
    run: () => (ui.lockFrame = !ui.lockFrame),
  },
  {
    id: 'tracks.lockValue',
    title: 'Lock of value: keys that are dragged keep their value, or not',
    group: 'Keys',
    run: () => (ui.lockValue = !ui.lockValue),
  },
  {
    id: 'tracks.oneScale',
    title: 'Overlaid curves in one scale, or each in its own',
    group: 'View',
    run: () => (ui.oneScale = !ui.oneScale),
  },
  {
    id: 'tracks.speed',
    title: 'Speed and acceleration below the overlaid curves',
    group: 'View',
    run: () => (ui.speed = !ui.speed),
  },
  {
    id: 'paste.insert',
    title: 'Paste keys at the playhead, what comes later moves on',
    group: 'Keys',
    keys: '$mod+Shift+KeyV',
    run: () => session.clipboard.paste('insert'),
  },
  {
    id: 'paste.replace',
    title: 'Paste keys at the playhead in the place of what is there',
    group: 'Keys',
    keys: '$mod+Alt+KeyV',
    run: () => session.clipboard.paste('replace'),
  },
  {
    id: 'cut',
    title: 'Cut the selected keys',
    group: 'Edit',
    keys: '$mod+x',
    run: () => {
      if (!keysAreMeant()) return session.messages.say('Select some keys first: click them in the tracks.');
      copy();
      session.removeSelectedKeys();
    },
  },
  {
    id: 'easing.copy',
    title: 'Copy the easing after the selected key as CSS',
    group: 'Keys',
    run: () => void copyEasing(),
  },
];

export const commands: Command[] = [...transport, ...edits, ...curves, ...views, ...creation, ...placing];

/** The shortcut of a command: the person's own, or the usual one. */
export const shortcutOf = (command: Command): string => preferences.shortcuts[command.id] ?? command.keys ?? '';

/** A shortcut for people: Ctrl+Shift+K. */
export function readable(keys: string): string {
  const names: Record<string, string> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓', $mod: 'Ctrl' };
  return keys
    .split('+')
    .map((k) => names[k] ?? k.replace(/^(Key|Digit)/, ''))
    .map((k) => (k.length === 1 ? k.toUpperCase() : k))
    .join('+')
    .replace('Shift+?', '?');
}

/** A tooltip: what it does, and its shortcut. */
export function tip(id: string, text?: string): string {
  const command = commands.find((c) => c.id === id);
  if (!command) return text ?? '';
  const keys = shortcutOf(command);
  return keys ? `${text ?? command.title} (${readable(keys)})` : (text ?? command.title);
}

export const run = (id: string) => commands.find((c) => c.id === id)?.run();

// Where finished pictures are shown, time is theirs.
const play = (direction: 1 | -1) => (ui.sequence ? ui.sequence.toggle(direction) : session.player.toggle(direction));
const step = (by: number) => (ui.sequence ? ui.sequence.step(by) : session.goTo(session.frame + by));

/** The channels that have keys of what is selected, or of everything. */
function keyedChannels(): string[] {
  const { ids } = session.selection;
  const chosen = ids.flatMap((id) => session.shot.keyedOwners.get(id) ?? []);
  return ids.length > 0 ? chosen : [...session.shot.keyedOwners.values()].flat();
}

function toKey(direction: 1 | -1) {
  let best: number | null = null;
  for (const address of keyedChannels())
    for (const f of session.shot.keysOf(address))
      if ((f - session.frame) * direction > 0.5 && (best === null || (f - best) * direction < 0)) best = f;
  if (best !== null) session.goTo(best);
}

function chosenLayer() {
  const layer = session.shot.scene.layers.find((l) => l.id === session.shot.layer);
  if (!layer) session.messages.say('This is below all layers: choose a layer on its strip beside the tracks first.');
  return layer;
}

function stepLayer(by: 1 | -1) {
  const ids = [null, ...session.shot.scene.layers.map((l) => l.id)];
  const to = ids[ids.indexOf(session.shot.layer) + by];
  if (to === undefined)
    session.messages.say(
      by > 0 ? 'There is no layer above.' : 'There is nothing below: this is what all layers lie on.',
    );
  else session.shot.chooseLayer(to);
}

function toMarker(direction: 1 | -1) {
  const ahead = session.shot.scene.markers
    .map((m) => m.frame)
    .filter((f) => (f - session.frame) * direction > 0.5)
    .sort((a, b) => (a - b) * direction);
  if (ahead.length > 0) session.goTo(ahead[0]);
  else session.messages.say('There is no marker in this direction.');
}

function toFinding() {
  const { list } = session.findings;
  const next = list.find((f) => f.first > session.frame) ?? list[0];
  if (!next) return session.messages.say('The checks have found nothing.');
  session.findings.show(next);
  ui.dialog = 'findings';
}

const needObject = () => {
  const none = session.selection.ids.length === 0;
  if (none) session.messages.say('Select an object first: click it in the stage or in the list.');
  return none;
};

function keySelection() {
  if (!needObject()) session.shot.keyNow(session.keyable());
}

function holdHere() {
  if (!needObject()) session.shot.hold(session.keyable());
}

/** Keys are meant only where they can be seen. */
const keysAreMeant = () => session.phase === 'polish' && session.selection.keys.length > 0 && ui.over === 'tracks';

function remove() {
  if (keysAreMeant()) return session.removeSelectedKeys();
  const ids = session.selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length > 0) session.shot.commit({ kind: 'removeNodes', ids });
  else if (session.selection.ids.length > 0)
    session.messages.say('What is locked is not removed: unlock it in the list first.');
}

function copy() {
  if (keysAreMeant()) {
    forgetObjects();
    return session.clipboard.copy();
  }
  if (needObject()) return;
  session.clipboard.clear();
  copyObjects(session.selection.ids);
}

function paste() {
  if (session.clipboard.isEmpty) pasteObjects(duplicateThese);
  else session.clipboard.paste();
}

function withKeys(make: (keys: { address: string; frame: number }[]) => unknown) {
  if (session.selection.keys.length === 0)
    return session.messages.say('Select some keys first: click them in the tracks.');
  session.shot.commit(make(session.selection.keys) as Edit);
}

function openTool(id: string) {
  if (meantChannels().length === 0 && !['keyAcross', 'convertRate', 'noise', 'putMotion'].includes(id))
    return session.messages.say('Nothing here has keys: select an animated object, or keys in the tracks.');
  if (['smooth', 'scaleValues', 'repeatKeys'].includes(id) && session.selection.keys.length === 0)
    return session.messages.say('Select some keys first: click them in the tracks.');
  ui.curveTool = id;
}

function forChannels(make: (channels: string[]) => unknown) {
  const channels = meantChannels();
  if (channels.length === 0)
    return session.messages.say('Nothing here has keys: select an animated object, or keys in the tracks.');
  session.shot.commit(make(channels) as Edit);
}

const repeats = (address: string) => {
  const curve = session.shot.curve(address);
  return [curve?.before.kind, curve?.after.kind].some((k) => ['loop', 'loopOffset', 'pingPong'].includes(k ?? ''));
};

function easesToHandles() {
  const keys = session.selection.keys.filter(
    (k) => typeof session.shot.curve(k.address)?.keys.find((c) => c.frame === k.frame)?.segment === 'object',
  );
  if (keys.length === 0) return session.messages.say('Select keys that an easing leaves: their pips have a wavy side.');
  const before = keys.map((k) => ({ ...k, samples: session.shot.curve(k.address)!.keys }));
  if (!session.shot.commit({ kind: 'easesToHandles', keys })) return;
  // How far the handles are from the easing at most, in parts of its rise.
  let worst = 0;
  for (const { address, frame, samples } of before) {
    const i = samples.findIndex((k) => k.frame === frame);
    const [a, b] = [samples[i], samples[i + 1]];
    if (!a.samples || !b || a.value === b.value) continue;
    const count = a.samples.length;
    const now = session.shot.engine!.sample(address, a.frame, (b.frame - a.frame) / (count - 1), count - 1);
    now.forEach((v, n) => (worst = Math.max(worst, Math.abs(v - a.samples![n]) / Math.abs(b.value - a.value))));
  }
  session.messages.say(
    worst < 1e-9
      ? 'The handles are the easing exactly.'
      : `Largest difference: ${(100 * worst).toFixed(2)} % of the rise.`,
  );
}

function mirrorValues() {
  const { keys } = session.selection;
  if (keys.length === 0) return session.messages.say('Select some keys first: click them in the tracks.');
  const byChannel = new Map<string, { frame: number; address: string }[]>();
  for (const k of keys) byChannel.set(k.address, [...(byChannel.get(k.address) ?? []), k]);
  const edits = [...byChannel].map(([address, own]) => {
    const frames = new Set(own.map((k) => k.frame));
    const values = session.shot
      .curve(address)!
      .keys.filter((k) => frames.has(k.frame))
      .map((k) => k.value);
    const middle = (Math.min(...values) + Math.max(...values)) / 2;
    return { kind: 'transformKeys', keys: own, by: { valueScale: -1, valuePivot: middle } };
  });
  session.shot.commit((edits.length === 1 ? edits[0] : { kind: 'batch', label: 'Mirror values', edits }) as Edit);
}

async function copyEasing() {
  const key = session.selection.keys[0];
  const text = key ? session.shot.engine!.easingOf(key.address, key.frame) : '';
  if (!text) return session.messages.say('Select a key that another one follows, with another value.');
  await navigator.clipboard.writeText(text);
  session.messages.say(`Copied: ${text.length > 60 ? `${text.slice(0, 60)}…` : text}`);
}

function selectAll() {
  if (session.phase === 'polish' && ui.over === 'tracks')
    session.selection.keys = keyedChannels().flatMap((address) =>
      session.shot.keysOf(address).map((frame) => ({ address, frame })),
    );
  else session.selection.select(session.shot.scene.nodes.filter((n) => !n.locked && !n.parent).map((n) => n.id));
}

/** A group or a repeater round the selected objects, where they hang; a group turns about their middle. */
function group(kind: 'group' | 'repeat') {
  if (needObject()) return;
  const { shot, selection } = session;
  const ids = selection.nodes.filter((n) => !n.locked).map((n) => n.id);
  if (ids.length === 0) return session.messages.say('What is locked is not grouped: unlock it in the list first.');
  const parents = new Set(ids.map((id) => shot.byId.get(id)!.parent));
  // A group among its own would be a circle.
  const inside = shot.family(ids);
  let [parent] = parents.size === 1 ? [...parents] : [null];
  if (parent && inside.has(parent)) parent = null;
  const id = `${kind}-${crypto.randomUUID().slice(0, 8)}`;
  const box = kind === 'group' ? shot.engine!.bounds(ids, parent ?? '') : [];
  const middle = ['x', 'y', 'z'].map(
    (axis, i) => [`transform.pivot.${axis}`, { value: (box[i] + box[i + 3]) / 2 }] as const,
  );
  const node = {
    kind,
    id,
    name: kind === 'group' ? 'Group' : 'Repeater',
    ...(parent ? { parent } : {}),
    ...(box.length > 0 ? { channels: Object.fromEntries(middle) } : {}),
  };
  const made = shot.commit({
    kind: 'batch',
    label: `${kind === 'group' ? 'Group' : 'Repeat'} ${ids.length === 1 ? 'an object' : `${ids.length} objects`}`,
    edits: [
      { kind: 'addNodes', nodes: [node] },
      { kind: 'reparent', ids, parent: id, frame: session.frame },
    ],
  } as unknown as Edit);
  if (made) selection.select([id]);
}

function ungroup() {
  const { shot, selection } = session;
  const groups = selection.nodes.filter((n) => n.kind === 'group' && !n.locked);
  if (groups.length === 0) return session.messages.say('Select a group first.');
  const children = groups.flatMap((g) => (shot.children.get(g.id) ?? []).map((n) => n.id));
  const edits = groups.flatMap((g) => {
    const ids = (shot.children.get(g.id) ?? []).map((n) => n.id);
    const out = {
      kind: 'reparent',
      ids,
      ...(g.parent ? { parent: g.parent } : {}),
      before: g.id,
      frame: session.frame,
    };
    return [...(ids.length > 0 ? [out] : []), { kind: 'removeNodes', ids: [g.id] }];
  });
  if (shot.commit({ kind: 'batch', label: 'Ungroup', edits } as unknown as Edit)) selection.select(children);
}

function duplicate() {
  if (!needObject()) duplicateThese(session.selection.ids);
}

function duplicateThese(ids: string[]) {
  const prefix = crypto.randomUUID().slice(0, 8);
  if (session.shot.commit({ kind: 'duplicateNodes', ids, prefix }))
    session.selection.select(ids.map((_, i) => `${prefix}-${i}`));
}

export function setVisible(ids: string[], on: boolean) {
  session.shot.pose(
    ids.map((id) => ({ address: `${id}/visible`, value: on ? 1 : 0 })),
    true,
  );
}

export function setLocked(ids: string[], locked: boolean) {
  const edits = ids.map((id) => ({ kind: 'replaceNode', node: { ...session.shot.byId.get(id)!.data, locked } }));
  session.shot.commit({ kind: 'batch', label: locked ? 'Lock' : 'Unlock', edits } as unknown as Edit);
}

/** Escape takes away what is open, then what is selected. */
function leave() {
  if (ui.dialog === 'history' || ui.dialog === 'findings') ui.dialog = null;
  else if (session.selection.keys.length > 0) session.selection.keys = [];
  else session.selection.clear();
}

/** What can be done with the selected objects. */
export const objectMenu = (): (MenuItem | null)[] => [
  { command: 'duplicate' },
  { command: 'instance' },
  { command: 'follow' },
  { command: 'copy' },
  { command: 'remove' },
  null,
  { command: 'hide' },
  { command: 'lock' },
  { command: 'group' },
  { command: 'ungroup' },
  { command: 'repeat' },
  { command: 'unparent' },
  null,
  { command: 'pivot.centre' },
  { command: 'pivot.base' },
  { command: 'drop' },
  null,
  { command: 'exportSelection' },
  { command: 'fit' },
];

function unparent(keep: boolean) {
  const ids = session.selection.nodes.filter((n) => n.parent).map((n) => n.id);
  if (ids.length > 0) session.shot.commit({ kind: 'reparent', ids, parent: null, frame: session.frame, keep } as Edit);
}

/** Adds a layer above the one that is worked in, and works in it. */
export function addLayer(mode: 'add' | 'override') {
  const { layers } = session.shot.scene;
  const names = new Set(layers.map((l) => l.name));
  let n = layers.length + 1;
  while (names.has(`Layer ${n}`)) n++;
  const id = `layer-${crypto.randomUUID().slice(0, 8)}`;
  const at = layers.findIndex((l) => l.id === session.shot.layer) + 1;
  const edit = { kind: 'addLayer', layer: { id, name: `Layer ${n}`, mode }, ...(at > 0 ? { at } : {}) };
  if (!session.shot.commit(edit as unknown as Edit)) return;
  ui.layers = true;
  session.shot.chooseLayer(id);
}

/** Merges a layer into the one below it, which is worked in afterwards. */
export function mergeLayer(id: string) {
  const { layers } = session.shot.scene;
  const below = layers[layers.findIndex((l) => l.id === id) - 1];
  const { layer } = session.shot;
  if (session.shot.commit({ kind: 'mergeLayer', layer: id } as Edit) && layer === id)
    session.shot.chooseLayer(below?.id ?? null);
}

const isFree = (a: string) => session.shot.keysOf(a).length > 0 && !session.shot.scene.locked.has(a);

/** Mutes curves, so that their channels stay as they are on this frame, or lets all of them be heard again. */
export function muteRows(addresses: string[]) {
  const keyed = addresses.filter(isFree);
  if (keyed.length === 0) return session.messages.say('There are no keys here to mute that are not locked.');
  const muted = !keyed.every((a) => session.shot.scene.muted.has(a));
  session.shot.commit({ kind: 'muteChannels', channels: keyed, muted, frame: session.frame } as unknown as Edit);
}

/** Whether of all these rows only some are heard. */
export function isSolo(addresses: string[], all: string[]): boolean {
  const { muted } = session.shot.scene;
  const others = all.filter((a) => !addresses.includes(a));
  return others.length > 0 && others.every((a) => muted.has(a)) && addresses.every((a) => !muted.has(a));
}

/** Of all rows only these are heard from now on; where that is so already all are. */
export function soloRows(addresses: string[], all: string[]) {
  all = all.filter(isFree);
  addresses = addresses.filter(isFree);
  const was = isSolo(addresses, all);
  const others = all.filter((a) => !addresses.includes(a));
  if (others.length === 0) return session.messages.say('There are no other keys here that could be muted.');
  const mute = (channels: string[], muted: boolean) => ({
    kind: 'muteChannels',
    channels,
    muted,
    frame: session.frame,
  });
  const edits = was ? [mute(all, false)] : [mute(others, true), mute(addresses, false)];
  session.shot.commit({ kind: 'batch', label: was ? 'Solo off' : 'Solo', edits } as unknown as Edit);
}

/** What can be done with a channel, of one object or of several. */
export function channelMenu(channels: ChannelView[]): (MenuItem | null)[] {
  const addresses = channels.map((c) => c.address);
  const keyed = addresses.filter((a) => session.shot.keysOf(a).length > 0);
  const locked = addresses.every((a) => session.shot.scene.locked.has(a));
  return [
    { title: 'Key it here', run: () => session.shot.keyNow(addresses) },
    {
      title:
        keyed.length > 0 && keyed.every((a) => session.shot.scene.muted.has(a)) ? 'Unmute' : 'Mute: it stays as it is',
      run: () => muteRows(addresses),
    },
    {
      title: locked ? 'Unlock' : 'Lock: neither drags nor keys change it',
      run: () => session.shot.commit({ kind: 'lockChannels', channels: addresses, locked: !locked } as unknown as Edit),
    },
    {
      title: 'Remove all its keys',
      run: () =>
        keyed.length > 0 &&
        session.shot.commit({
          kind: 'removeKeys',
          keys: keyed.flatMap((address) => session.shot.keysOf(address).map((frame) => ({ address, frame }))),
        } as Edit),
    },
    null,
    { title: 'Copy the value', run: () => copyValues(channels.slice(0, 1)) },
    { title: 'Paste the value', run: () => pasteValues(channels, true) },
    {
      title: `Reset to ${channels[0].default}`,
      run: () =>
        session.shot.pose(
          channels.map((c) => ({ address: c.address, value: c.default })),
          true,
        ),
    },
    {
      title: 'Open its curve in Polish',
      run: () => {
        session.phase = 'polish';
        ui.lanes = new Set([...ui.lanes, ...keyed]);
      },
    },
  ];
}
