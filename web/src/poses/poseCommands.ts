// Poses, motions, and what is kept of them.
import { newEdit } from '../edits/edit';
import { type Command, needObject } from '../commands/command';
import { openTool } from '../curves/curveTools';
import { copyMotion, motionInHand, takeMotion } from '../curves/motion';
import { shut } from '../stores/panels.svelte';
import { session, type KeyRef } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';
import { copyKeys } from '../timeline/clipboardCommands';
import { pickedKeys } from './pickedPoses.svelte';
import { savedShelf } from './savedShelf.svelte';

export const poseCommands: Command[] = [
  {
    id: 'removePose',
    title: 'Remove the picked poses',
    group: 'Edit',
    keys: 'Delete',
    where: ['poses'],
    run: () => withPose((keys) => session.shot.commit(newEdit('removeKeys', { keys }))),
  },
  {
    id: 'copyPose',
    title: 'Copy the picked poses',
    group: 'Edit',
    keys: '$mod+c',
    where: ['poses'],
    run: () =>
      withPose((keys) => {
        const { selection } = session;
        const before = selection.keys;
        selection.keys = keys;
        copyKeys();
        selection.keys = before;
      }),
  },
  {
    id: 'pose.mirror',
    title: 'Mirror the pose of this frame left to right, by name',
    group: 'Keys',
    run: () =>
      needObject() ||
      void session.shot.commit(
        newEdit('mirrorPose', {
          nodes: [...session.shot.family(session.selection.ids)],
          frame: session.frame,
          layer: session.shot.layer,
        }),
      ),
  },
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
    id: 'shelf',
    title: 'Pose library: saved poses and motions, shown or hidden',
    once: 'Shelf',
    group: 'Keys',
    keys: 'Shift+KeyP',
    run: () => {
      viewState.shelf = !viewState.shelf;
      if (!viewState.shelf) return;
      shut('left', false);
      if (session.phase === 'deliver') session.phase = 'block';
    },
  },
  {
    id: 'shelf.pose',
    title: 'Save the pose of the selected objects to the pose library',
    group: 'Keys',
    run: () => void savedShelf.keep('pose'),
  },
  {
    id: 'shelf.motion',
    title: 'Save the motion of the selected objects to the pose library',
    group: 'Keys',
    run: () => void savedShelf.keep('motion'),
  },
];

function withPose(use: (keys: KeyRef[]) => void) {
  const keys = pickedKeys();
  if (keys.length === 0)
    return session.messages.say('There is no pose on this frame: click one of the pictures, or key one with K.');
  use(keys);
}
