// The rows of the list of objects, and which of them can be seen. Pure.
import type { NodeView } from '../engine/engine';

export interface Line {
  node: NodeView;
  depth: number;
  children: number;
}

/** From the top down; what is inside closed groups is left out. With a filter, what is named like it, and what leads there. */
export function sceneLines(
  children: ReadonlyMap<string | null, NodeView[]>,
  closed: ReadonlySet<string>,
  filter: string,
): Line[] {
  const wanted = filter.trim().toLowerCase();
  const lines: Line[] = [];
  // By a stack, since trees may be deep. A row that only leads to others is taken out again where it leads to none.
  const open: { node: NodeView; depth: number }[] = [];
  const push = (nodes: NodeView[] | undefined, depth: number) => {
    for (let i = (nodes?.length ?? 0) - 1; i >= 0; i--) open.push({ node: nodes![i], depth });
  };
  push(children.get(null), 0);
  for (let next = open.pop(); next; next = open.pop()) {
    const { node, depth } = next;
    const below = children.get(node.id);
    lines.push({ node, depth, children: below?.length ?? 0 });
    if (wanted || !closed.has(node.id)) push(below, depth + 1);
  }
  if (!wanted) return lines;
  const kept: Line[] = [];
  let least = -1;
  for (let i = lines.length - 1; i >= 0; i--) {
    const line = lines[i];
    const leads = least > line.depth;
    if (leads || line.node.name.toLowerCase().includes(wanted)) {
      kept.push(line);
      least = line.depth;
    } else if (line.depth < least) least = line.depth;
  }
  return kept.reverse();
}

/** Which of so many rows of one height can be seen, with some to spare. */
export function slice(count: number, row: number, scroll: number, height: number, spare = 6) {
  const first = Math.max(0, Math.floor(scroll / row) - spare);
  return { first: Math.min(first, count), last: Math.min(count, Math.ceil((scroll + height) / row) + spare) };
}
