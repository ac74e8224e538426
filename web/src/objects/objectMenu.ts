// What a right button offers for objects.
import { type MenuItem } from '../widgets/contextMenu.svelte';

/** What can be done with the selected objects. */
export const objectMenu = (): (MenuItem | null)[] => [
  { command: 'duplicate' },
  { command: 'instance' },
  { command: 'follow' },
  { command: 'copyObjects' },
  { command: 'removeObjects' },
  null,
  { command: 'hide' },
  { command: 'isolate' },
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
