// Where rows of the list of objects go that are dragged. Pure.
import type { NodeView } from '../engine/engine';

/** Into an object, or between it and its neighbour. */
export type Where = 'before' | 'in' | 'after';

/** What a part of the height of a row means: the edges are between the rows. */
export const zoneOf = (part: number): Where => (part < 0.28 ? 'before' : part > 0.72 ? 'after' : 'in');

/**
 * The parent and the sibling before which something goes that is dropped at a row. Below an open group is before the first of what is in it.
 * @param moving what is dragged, which is no neighbour of itself
 */
export function dropPlace(
  children: ReadonlyMap<string | null, NodeView[]>,
  closed: ReadonlySet<string>,
  target: NodeView,
  where: Where,
  moving: readonly string[],
): { parent: string | null; before: string | null } {
  if (where === 'in') return { parent: target.id, before: null };
  const firstOf = (nodes: readonly NodeView[] | undefined) => nodes?.find((n) => !moving.includes(n.id))?.id ?? null;
  const inside = children.get(target.id);
  if (where === 'after' && inside?.length && !closed.has(target.id))
    return { parent: target.id, before: firstOf(inside) };
  const siblings = children.get(target.parent) ?? [];
  const from = siblings.findIndex((n) => n.id === target.id) + (where === 'after' ? 1 : 0);
  return { parent: target.parent, before: firstOf(siblings.slice(from)) };
}

/** The sibling before which a row goes that is moved by one among its own; undefined where it stands at the end already. */
export function stepPlace(siblings: readonly NodeView[], id: string, by: 1 | -1): string | null | undefined {
  const at = siblings.findIndex((n) => n.id === id);
  if (at < 0 || at + by < 0 || at + by >= siblings.length) return undefined;
  return (by < 0 ? siblings[at - 1] : siblings[at + 2])?.id ?? null;
}
