// The motion paths in the stage: which are drawn, and what a pointer does with them.
import { untrack } from 'svelte';
import { gestures } from '../widgets/gestures.svelte';
import { session } from '../stores/session.svelte';
import { hitPath, pathHand, placeOf, type PathHit, type PathView, type Point } from './overlays/pathHand';
import { toggleTraced, type Trace, Traces } from './overlays/traces.svelte';
import type { StageView } from './view/view';

// So many motion paths are drawn at the most.
const PATHS = 20;

const words = {
  key: 'Drag the key in space; with Alt its handles. Click: go to its frame',
  in: 'Drag the handle to bend the path',
  out: 'Drag the handle to bend the path',
  tick: 'Drag the frame along the path to retime it. Click: go to it',
};

/** Draws them while a component is there; make it while that is made. */
export class StagePaths {
  /** The motion path of the object selected last, without handles. */
  private path = $state.raw<PathView | null>(null);
  /** The motion paths of chosen vertices, which are there whatever is selected. */
  private readonly traces = new Traces();

  /** The path with the handles of the key under the playhead; none while it plays. */
  private readonly handled = $derived.by<PathView | null>(() => {
    const { frame } = session;
    const { path } = this;
    if (!path || session.player.playing || !path.keys.includes(frame)) return path;
    const ends = session.shot.engine!.pathHandles(path.node, frame);
    const end = (i: number) => (Number.isNaN(ends[i] ?? NaN) ? null : (ends.slice(i, i + 3) as Point));
    return { ...path, handles: { frame, in: end(0), out: end(3) } };
  });

  constructor(private readonly view: () => StageView | null) {
    $effect(() => this.find());
    $effect(() => {
      const { playFirst, playLast } = session.shot.scene;
      const { frame, in: before, out: after } = this.handled?.handles ?? { frame: NaN, in: null, out: null };
      const isSeen = frame >= playFirst && frame <= playLast;
      const ends = [before, after].flatMap((e) => (e && isSeen ? [...placeOf(this.handled!, frame), ...e] : []));
      this.view()?.setPathHandles(ends);
    });
    $effect(() => {
      void [session.shot.changed, session.shot.scene];
      // What is seen before the engine runs has no paths yet.
      if (session.ready) untrack(() => this.traces.follow());
      return () => this.traces.stop();
    });
    $effect(() => this.view()?.setTraces(this.traces.list));
    $effect(() => {
      const places = this.traces.list.map((t) => placeOf(t, session.frame));
      this.view()?.setTraceMarks(places.flatMap((p) => (Number.isFinite(p[0]) ? p : [])));
    });
  }

  /** The path of the object selected last, with its keys, and fainter those of the others. It is the same on every frame, and worked out when something has changed. */
  private find() {
    void session.shot.changed;
    const view = this.view();
    const { engine, animated } = session.shot;
    if (!view || !engine) return;
    const moves = (node: string) => {
      for (let at: string | undefined = node; at; at = session.shot.byId.get(at)?.parent ?? undefined)
        if ([...(animated.get(at) ?? [])].some((a) => a.includes('/transform.'))) return true;
      return false;
    };
    const { playFirst, playLast } = session.shot.scene;
    const id = session.selection.ids.at(-1);
    const others = session.selection.ids.slice(-PATHS, -1).filter(moves);
    view.setOtherPaths(others.map((o) => engine.path(o, playFirst, playLast)));
    if (!id || !moves(id)) {
      this.path = null;
      return view.setPath(null, []);
    }
    const frames = ['x', 'y', 'z'].flatMap((c) =>
      session.shot.keysOf(session.shot.here(`${id}/transform.translate.${c}`)),
    );
    const keys = [...new Set(frames)].sort((a, b) => a - b);
    const path = { node: id, first: playFirst, points: engine.path(id, playFirst, playLast), keys, handles: null };
    this.path = path;
    const seen = keys.filter((f) => f >= playFirst && f <= playLast);
    view.setPath(
      path.points,
      seen.flatMap((f) => placeOf(path, f)),
    );
  }

  /** What lies below the pointer of the motion path of the selected object, or of one of a vertex, unless a handle of the object is nearer. */
  private at(event: PointerEvent): { path: PathView | Trace; hit: PathHit } | null {
    const view = this.view();
    if (!view || view.handles.hovered) return null;
    for (const path of [...(this.handled ? [this.handled] : []), ...this.traces.list]) {
      const hit = hitPath(view, path, event.clientX, event.clientY);
      if (hit) return { path, hit };
    }
    return null;
  }

  /**
   * Takes what lies on a motion path below a button that is pressed.
   * @returns whether something does
   */
  take(event: PointerEvent): boolean {
    const taken = event.button === 0 ? this.at(event) : null;
    if (!taken) return false;
    const { path, hit } = taken;
    if ('vertex' in path) session.goTo(hit.frame);
    else gestures.follow(event, pathHand(session, this.view()!, path, hit, event));
    return true;
  }

  /** Shows what lies below the pointer, with the element that it is over. */
  over(event: PointerEvent, box: HTMLElement) {
    const { path, hit } = this.at(event) ?? {};
    const isVertex = path && 'vertex' in path;
    box.style.cursor = hit ? (isVertex ? 'pointer' : 'grab') : '';
    const what = hit ? `${hit.kind === 'tick' ? 'Frame' : 'Key'} ${hit.frame}` : '';
    if (!hit) box.title = '';
    else if (isVertex)
      box.title = `${what} of point ${path.vertex} of “${session.shot.byId.get(path.node)?.name}”. Click: go to it`;
    else box.title = `${what}. ${words[hit.kind]}`;
  }

  /** Draws the motion path of the vertex at a point of the page, or takes away the one that is drawn there. */
  trace(x: number, y: number) {
    const near = (t: Trace) => {
      const p = this.view()!.project(...placeOf(t, session.frame));
      return Math.hypot(p.x - x, p.y - y) < 8;
    };
    const drawn = this.traces.list.find(near);
    const at = drawn
      ? { node: session.shot.byId.get(drawn.node)!, vertex: drawn.vertex }
      : this.view()?.picking.vertexAt(x, y);
    if (at) toggleTraced(at.node, at.vertex);
    else session.messages.say('Point at a surface first: the path of its nearest vertex is drawn.');
  }
}
