// What can be dragged on to an object, in the stage and in the list. Each feature says what becomes of its own.
import type { NodeView } from '../engine/engine';

/** @param node The object that it was dropped on. */
type Take = (data: string, node: NodeView) => void;

const kinds = new Map<string, Take>();

/** Takes what is dragged as a media type. */
export const takeDrops = (type: string, take: Take) => void kinds.set(type, take);

/** Whether what is dragged over something can be dropped on an object. */
export const canDrop = (event: DragEvent) => [...kinds.keys()].some((t) => event.dataTransfer?.types.includes(t));

/** Drops what was dragged on the object that is found, if any. */
export function dropOn(event: DragEvent, find: () => NodeView | null | undefined) {
  for (const [type, take] of kinds) {
    const data = event.dataTransfer?.getData(type);
    const node = data && find();
    if (node) return take(data, node);
  }
}
