// Where objects stand: pivots, alignment, snapping.
import { bake } from './baking';
import { preferences } from '../stores/preferences.svelte';
import { session } from '../stores/session.svelte';
import { resetChannels } from '../properties/values';
import { type Command, needObject } from '../commands/command';

export const placingCommands: Command[] = [
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
    short: 'Drop to surface',
    title: 'Drop to surface',
    once: 'Let down to what is below',
    group: 'Placing',
    keys: 'Shift+KeyD',
    run: () => needObject() || void session.shot.arrange(session.selection.ids, 'drop'),
  },
];
