// Small pictures of frames beside the shown one, framed on a motion, as the pose strip shows them.
import * as THREE from 'three';
import type { ShownFrame } from '../../engine/engine';
import type { SceneMirror } from '../scene/mirror';
import type { ViewCameras } from './cameras';
import { SmallPictures } from './smallPictures';

/** Some objects, the box that holds them on all frames of a motion, and the radius of a sphere that holds them on a frame. */
export interface Motion {
  ids: ReadonlySet<string>;
  whole: THREE.Box3;
  own: number;
}

/** What the pictures need of the view. */
export interface Stand {
  cameras(): ViewCameras;
  /** The frame that the stage shows, which it shows again afterwards. */
  shown(): ShownFrame | null;
  /** Draws without what is not part of the picture. */
  compose(camera: THREE.Camera, render: () => void): void;
}

export class MotionPictures {
  private small: SmallPictures | null = null;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly mirror: SceneMirror,
    private readonly view: Stand,
  ) {}

  /** Where objects are on any of these frames: what pictures of their motion are framed on. */
  extent(evaluate: (frame: number) => ShownFrame, frames: number[], ids: ReadonlySet<string>): Motion | null {
    const box = new THREE.Box3();
    const sphere = new THREE.Sphere();
    let own = 0;
    for (const frame of frames) {
      this.mirror.take(evaluate(frame));
      const there = this.mirror.boxOf(ids);
      if (!there.isEmpty()) own = Math.max(own, there.getBoundingSphere(sphere).radius);
      box.union(there);
    }
    this.back();
    return box.isEmpty() ? null : { ids, whole: box, own };
  }

  /**
   * Small pictures of frames, without helpers, for as long as the time given allows (one at the least).
   * Seen from where one looks, they hold a motion; without one they show the view, or the frame of the camera.
   */
  take(
    evaluate: (frame: number) => ShownFrame,
    frames: number[],
    around: Motion | null,
    width: number,
    height: number,
  ): string[] {
    this.small ??= new SmallPictures(this.renderer, width, height);
    const made: string[] = [];
    const start = performance.now();
    for (const frame of frames) {
      this.mirror.take(evaluate(frame));
      const aspect = width / height;
      const camera = around ? this.closeUp(around, aspect) : this.view.cameras().current(width, height, 1);
      this.view.compose(camera, () => made.push(this.small!.take(this.mirror.scene, camera)));
      if (performance.now() - start > 60) break;
    }
    this.back();
    return made;
  }

  /** The stage itself has not been drawn: it only has to stand as it did. */
  private back() {
    const shown = this.view.shown();
    if (shown) this.mirror.take(shown);
  }

  /**
   * A camera for a picture of what moves. It holds the whole motion; where the objects would be too small in that, it comes closer
   * and goes along with them, so far that they still stand in the picture as they do in the motion.
   */
  private closeUp({ ids, whole, own }: Motion, aspect: number): THREE.PerspectiveCamera {
    const cameras = this.view.cameras();
    const camera = cameras.free.clone();
    // From where one looks, be it through a camera.
    if (cameras.cameraId !== null) cameras.current(aspect, 1, 1).getWorldQuaternion(camera.quaternion);
    const center = whole.getCenter(new THREE.Vector3());
    const size = whole.getSize(new THREE.Vector3()).multiplyScalar(0.5);
    const far = size.length();
    const radius = Math.min(far, 1.7 * own) || far;
    const here = this.mirror.boxOf(ids);
    if (radius < far && !here.isEmpty())
      center.lerp(here.getCenter(new THREE.Vector3()), 1 - (radius - own) / (far - own));
    // So far back that every corner of the box is seen, as if it were as large as what is held.
    const [up, across] = [Math.tan((camera.fov * Math.PI) / 360), Math.tan((camera.fov * Math.PI) / 360) * aspect];
    const toView = camera.quaternion.clone().invert();
    let away = 0;
    for (let i = 0; i < 8; i++) {
      const corner = new THREE.Vector3(i & 1 ? size.x : -size.x, i & 2 ? size.y : -size.y, i & 4 ? size.z : -size.z)
        .multiplyScalar(far > 0 ? radius / far : 0)
        .applyQuaternion(toView);
      away = Math.max(away, corner.z + Math.max(Math.abs(corner.y) / up, Math.abs(corner.x) / across));
    }
    away = Math.max(0.05, 1.08 * away);
    const back = new THREE.Vector3(0, 0, 1).applyQuaternion(camera.quaternion);
    camera.position.copy(center).addScaledVector(back, away);
    camera.aspect = aspect;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    return camera;
  }
}
