// The pictures of poses: made of frames beside the shown one, when nothing else is going on, and kept until the shot changes.
import { session } from '../stores/session.svelte';
import { viewState } from '../stores/viewState.svelte';
import { gestures } from '../widgets/gestures.svelte';
import type { Motion } from '../viewport/view/motionPictures';
import type { StageView } from '../viewport/view/view';
import type { Pose } from './poses';

export const WIDTH = 128;
export const HEIGHT = 72;

export class PosePictures {
  /** By their frame. Those of the state before stay until there are others; those of another object never. */
  all = $state.raw<ReadonlyMap<number, string>>(new Map());
  private fresh = new Set<number>();
  private around: Motion | null = null;
  private madeFor = '';
  private whose = '';

  /**
   * Makes them while a component is there.
   * @param shown the poses that can be seen
   */
  constructor(view: () => StageView | null, all: () => readonly Pose[], shown: () => readonly Pose[]) {
    $effect(() => {
      const stage = view();
      const whose = `${session.shotId} ${session.selection.ids.join()}`;
      const of = `${whose} ${session.shot.history?.revision} ${viewState.throughCamera}`;
      if (!stage || !session.shot.engine) return;
      if (of !== this.madeFor) [this.madeFor, this.fresh, this.around] = [of, new Set(), null];
      if (whose !== this.whose) [this.whose, this.all] = [whose, new Map()];
      const wanted = shown()
        .map((p) => p.frame)
        .filter((f) => !this.fresh.has(f));
      let timer = 0;
      const next = () => {
        const { engine } = session.shot;
        if (wanted.length === 0 || !engine) return;
        if (session.player.playing || gestures.busy) {
          timer = window.setTimeout(next, 300);
          return;
        }
        this.make(stage, all(), wanted);
        timer = window.setTimeout(next, 30);
      };
      timer = window.setTimeout(next, 250);
      return () => clearTimeout(timer);
    });
  }

  /** Makes some of those that are wanted, and takes them off the list. */
  private make(view: StageView, poses: readonly Pose[], wanted: number[]) {
    const engine = session.shot.engine!;
    const aside = (frame: number) => {
      engine.beside.evaluate(frame);
      return engine.beside;
    };
    // All pictures are taken from one place, which holds the whole motion: what moves is seen to move.
    const { ids } = session.selection;
    // Of a camera that one looks through, the pictures are what it sees.
    if (!this.around && ids.length > 0 && !ids.includes(view.cameraId ?? '')) {
      const some = poses.filter((_, i) => i % Math.ceil(poses.length / 24) === 0).map((p) => p.frame);
      this.around = view.pictures.extent(aside, some, session.shot.family(ids));
    }
    const there = new Set(poses.map((p) => p.frame));
    const made = new Map([...this.all].filter(([frame]) => there.has(frame)));
    for (const picture of view.pictures.take(aside, wanted, this.around, WIDTH, HEIGHT)) {
      const frame = wanted.shift()!;
      this.fresh.add(frame);
      made.set(frame, picture);
    }
    this.all = made;
  }
}
