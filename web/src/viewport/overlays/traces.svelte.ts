// The motion paths of vertices that somebody has chosen. They are worked out frame by frame, from the playhead outwards, beside the work.
import { newEdit } from '../../edits/edit';
import type { NodeView } from '../../engine/engine';
import { session } from '../../stores/session.svelte';
import type { PathView } from './pathHand';

/** The motion path of one vertex. */
export interface Trace extends PathView {
  vertex: number;
}

/** A piece leaves room for a picture. */
const PIECE = 5;
// So often what is known so far is drawn.
const SHOWN = 100;

/** The vertices of an object whose motion path is drawn. */
export const tracedOf = (node: NodeView) => (node.data.traced ?? []) as number[];

/** Draws the motion paths of other vertices of an object than before. */
export const traceVertices = (node: NodeView, vertices: number[]) =>
  session.shot.commit(newEdit('traceVertices', { node: node.id, vertices }));

/** Draws the motion path of a vertex, or takes it away where it is drawn. */
export function toggleTraced(node: NodeView, vertex: number) {
  const traced = tracedOf(node);
  if (traced.includes(vertex)) {
    traceVertices(
      node,
      traced.filter((v) => v !== vertex),
    );
    return;
  }
  traceVertices(node, [...traced, vertex]);
  if (tracedOf(session.shot.byId.get(node.id) ?? node).includes(vertex))
    session.messages.say(
      `The path of point ${vertex} of “${node.name}” is drawn. Once more at this point takes it away.`,
    );
}

export class Traces {
  list = $state.raw<Trace[]>([]);
  private timer = 0;
  private shown = 0;

  /** The shot, or its range, is another. */
  follow() {
    clearTimeout(this.timer);
    if (session.shot.scene.nodes.some((n) => tracedOf(n).length > 0)) this.go(true);
    else if (this.list.length > 0) this.list = [];
  }

  stop() {
    clearTimeout(this.timer);
  }

  private go(isFirst = false) {
    const { engine, scene } = session.shot;
    if (!engine) return;
    // Playing comes first; what was known before it goes on being shown.
    const done = !session.player.playing && engine.trace(scene.playFirst, scene.playLast, session.frame, PIECE);
    if (isFirst || done || performance.now() - this.shown > SHOWN) this.show();
    if (!done) this.timer = window.setTimeout(() => this.go(), session.player.playing ? 200 : 4);
  }

  private show() {
    this.shown = performance.now();
    this.list = session.shot
      .engine!.traces()
      .flatMap(({ vertices, points, ...mesh }) =>
        vertices.map((vertex, i) => ({ ...mesh, vertex, points: points[i], handles: null })),
      );
  }
}
