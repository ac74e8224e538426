// Words as outlines, and outlines put together: the server knows the fonts and how paths are cut.
import { changedNode, newEdit } from '../edits/edit';
import { api, take } from '../api/client';
import type { NodeView } from '../engine/engine';
import { session } from '../stores/session.svelte';

export type Join = 'Union' | 'Intersect' | 'Cut';

let known: Promise<string[]> | null = null;

/** The names of the fonts. */
export const fonts = () =>
  (known ??= take(api.GET('/api/outlines/fonts')).catch((e: Error) => {
    known = null;
    throw e;
  }));

/** The outline of words, or null where there is none; why not is said. */
export async function outlineOf(text: string, font: string): Promise<string | null> {
  try {
    return (await take(api.POST('/api/outlines/text', { body: { text, font } }))).path;
  } catch (e) {
    session.messages.say((e as Error).message);
    return null;
  }
}

/** Gives an object other words. */
export async function reword(node: NodeView, text: string, font: string) {
  const path = await outlineOf(text, font);
  const now = session.shot.byId.get(node.id);
  if (!path || !now) return;
  const shape = { ...(now.data.shape as object), path, text, font };
  session.shot.commit(changedNode(now, { shape }));
}

/** Makes one outline of those that are selected; it takes the place of the one selected last. */
export async function joinOutlines(how: Join) {
  const nodes = session.selection.nodes.filter(
    (n) => (n.data.shape as { kind?: string } | undefined)?.kind === 'outline',
  );
  if (nodes.length < 2)
    return session.messages.say(
      'Select two outlines or more: text, or what came from an SVG file. The last one stays.',
    );
  const [first, ...others] = [nodes.at(-1)!, ...nodes.slice(0, -1)];
  const maps = session.shot.engine!.flatMaps([first, ...others].map((n) => n.id));
  if (maps.length === 0) return session.messages.say(`“${first.name}” is scaled to nothing: give it a scale first.`);
  const outlines = [first, ...others].map((n, i) => ({
    path: (n.data.shape as { path: string }).path,
    map: maps.slice(6 * i, 6 * i + 6),
  }));
  try {
    const { path } = await take(api.POST('/api/outlines/join', { body: { outlines, how } }));
    const now = session.shot.byId.get(first.id);
    if (!now || others.some((n) => !session.shot.byId.has(n.id))) return;
    const { kind, depth, bevel, bevelSegments, curveSegments } = now.data.shape as Record<string, unknown>;
    const label = { Union: 'Join outlines', Intersect: 'Intersect outlines', Cut: 'Cut outlines' }[how];
    const edits = [
      changedNode(now, { shape: { kind, path, depth, bevel, bevelSegments, curveSegments } }),
      newEdit('removeNodes', { ids: others.map((n) => n.id) }),
    ];
    if (session.shot.commit(newEdit('batch', { label, edits }))) session.selection.select([first.id]);
  } catch (e) {
    session.messages.say((e as Error).message);
  }
}
