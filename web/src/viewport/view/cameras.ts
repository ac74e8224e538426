// What a view looks through: the free camera, or one of the shot's, locked or steered.
import type { Axis } from '../../stores/viewState.svelte';
import CameraControls from 'camera-controls';
import * as THREE from 'three';
import type { SceneMirror } from '../scene/mirror';

CameraControls.install({ THREE });

export interface Frame {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The part of a view that is rendered, in the pixels given: all of the frame fits in. */
export function frameOf(width: number, height: number, aspect: number, margin = 0.94): Frame {
  let w = width * margin;
  let h = w / aspect;
  if (h > height * margin) {
    h = height * margin;
    w = h * aspect;
  }
  return { x: (width - w) / 2, y: (height - h) / 2, width: w, height: h };
}

// A view along an axis of the world, without perspective: where it looks from, and what is up.
const FROM: Record<Axis, [THREE.Vector3, THREE.Vector3]> = {
  top: [new THREE.Vector3(0, 1, 0), new THREE.Vector3(0, 0, -1)],
  front: [new THREE.Vector3(0, 0, 1), new THREE.Vector3(0, 1, 0)],
  right: [new THREE.Vector3(1, 0, 0), new THREE.Vector3(0, 1, 0)],
};

export interface CameraEvents {
  /** The view has moved and has to be drawn. */
  moved(): void;
  /** The camera that is steered stands elsewhere. */
  steered(world: number[]): void;
}

function navigation(camera: THREE.PerspectiveCamera | THREE.OrthographicCamera, canvas: HTMLElement): CameraControls {
  const controls = new CameraControls(camera, canvas);
  controls.smoothTime = 0.06;
  controls.draggingSmoothTime = 0.03;
  controls.mouseButtons.left = CameraControls.ACTION.NONE;
  controls.mouseButtons.middle = CameraControls.ACTION.TRUCK;
  controls.mouseButtons.right = CameraControls.ACTION.ROTATE;
  controls.dollyToCursor = true;
  return controls;
}

/** The cameras of one view, and the hand that moves them. The free view and a steered camera have each their own, so that neither spoils the other. */
export class ViewCameras {
  readonly free = new THREE.PerspectiveCamera(40, 1, 0.05, 1200);
  private readonly through = new THREE.PerspectiveCamera(40, 1, 0.05, 1200);
  private readonly parallel = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.05, 1200);
  private readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.05, 4000);
  private readonly held = new THREE.PerspectiveCamera(40, 1, 0.05, 1200);
  private readonly roam: CameraControls;
  private readonly steering: CameraControls;
  private readonly sliding: CameraControls;
  /** The axis looked along, or null for the free view or a camera. */
  axis: Axis | null = null;
  private steered = false;
  private hasMoved = false;
  private rest = 0;
  /** The camera looked through, or null for the free view. */
  cameraId: string | null = null;
  /** Whether moving the view moves the camera looked through. */
  steer = false;
  private paused = false;

  constructor(
    private readonly mirror: SceneMirror,
    canvas: HTMLElement,
    private readonly events: CameraEvents,
  ) {
    this.free.position.set(5, 3.5, 9);
    this.roam = navigation(this.free, canvas);
    this.roam.setTarget(0, 0.8, 0);
    this.steering = navigation(this.held, canvas);
    this.sliding = navigation(this.flat, canvas);
    this.sliding.mouseButtons.right = this.sliding.mouseButtons.middle = CameraControls.ACTION.TRUCK;
    this.sliding.mouseButtons.wheel = CameraControls.ACTION.ZOOM;
    for (const controls of [this.roam, this.steering, this.sliding])
      controls.addEventListener('control', () => events.moved());
    this.steering.addEventListener('control', () => {
      this.hasMoved = true;
      // A wheel has no end of its own.
      clearTimeout(this.rest);
      this.rest = window.setTimeout(() => this.finish(), 300);
    });
    this.steering.addEventListener('controlend', () => this.finish());
    canvas.addEventListener('pointerdown', () => this.hold(), { capture: true });
    canvas.addEventListener('wheel', () => this.hold(), { capture: true, passive: true });
    this.enable();
  }

  /** Which hand moves what; nothing moves while something else is dragged. */
  enable(paused = this.paused) {
    this.paused = paused;
    this.roam.enabled = !paused && !this.cameraId && !this.axis;
    this.sliding.enabled = !paused && !this.cameraId && !!this.axis;
    this.steering.enabled = !paused && !!this.cameraId && this.steer;
  }

  /** Looks along an axis, at what the view looked at. */
  lookAlong(axis: Axis | null) {
    if (axis === this.axis) return;
    const target = this.target();
    this.axis = axis;
    if (axis) {
      const [from, up] = FROM[axis];
      this.flat.up.copy(up);
      this.sliding.updateCameraUp();
      const at = target.clone().addScaledVector(from, 500);
      void this.sliding.setLookAt(at.x, at.y, at.z, target.x, target.y, target.z, false);
      if (this.flat.zoom === 1) void this.sliding.zoomTo(0.2, false);
      this.sliding.update(0);
    }
    this.enable();
  }

  /** The left button turns the view where no handle and no object is in the way. */
  orbitWithLeft(on: boolean) {
    const action = on ? CameraControls.ACTION.ROTATE : CameraControls.ACTION.NONE;
    this.roam.mouseButtons.left = this.steering.mouseButtons.left = action;
    this.sliding.mouseButtons.left = on ? CameraControls.ACTION.TRUCK : CameraControls.ACTION.NONE;
  }

  /** Goes on with what moves by itself. True while it does. */
  update(seconds: number): boolean {
    const roaming = this.axis ? this.sliding.update(seconds) : this.roam.update(seconds);
    return (this.steered && this.steering.update(seconds)) || roaming;
  }

  /** Turns the view about what it looks at, by degrees. A view along an axis is shifted, since it cannot turn. */
  turn(right: number, up: number) {
    if (this.axis) return this.shift(right / 100, up / 100);
    const rad = Math.PI / 180;
    this.byKey((controls) => controls.rotate(right * rad, -up * rad, false));
  }

  /** Shifts the view by parts of its height. */
  shift(right: number, up: number) {
    this.byKey((controls) => {
      const { camera } = controls;
      const height =
        camera instanceof THREE.PerspectiveCamera
          ? 2 * controls.distance * Math.tan((camera.fov * Math.PI) / 360)
          : ((camera as THREE.OrthographicCamera).top / (camera as THREE.OrthographicCamera).zoom) * 2;
      void controls.truck(right * height, -up * height, false);
    });
  }

  /** Goes nearer by a factor of the way to what it looks at; below 1 farther away. */
  nearer(factor: number) {
    this.byKey((controls) =>
      this.axis
        ? controls.zoomTo((controls.camera as THREE.OrthographicCamera).zoom * factor, false)
        : controls.dollyTo(controls.distance / factor, false),
    );
  }

  /** What a key does to the hand that is at work; a locked camera stays where it is. */
  private byKey(move: (controls: CameraControls) => unknown) {
    if (this.cameraId && !this.steer) return;
    if (!this.cameraId) {
      const controls = this.axis ? this.sliding : this.roam;
      move(controls);
      controls.update(0);
      return this.events.moved();
    }
    this.hold();
    move(this.steering);
    this.steering.update(0);
    this.hasMoved = true;
    clearTimeout(this.rest);
    // Keys that follow one another are one change.
    this.rest = window.setTimeout(() => this.finish(), 300);
    this.events.moved();
  }

  /** Moves the free view so that a box fills it. */
  fit(box: THREE.Box3) {
    if (box.isEmpty()) return;
    const sphere = box.getBoundingSphere(new THREE.Sphere());
    sphere.radius = Math.max(0.02, sphere.radius * 1.15);
    void (this.axis ? this.sliding : this.roam).fitToSphere(sphere, true);
    this.events.moved();
  }

  /** What the view looks at: a point in its middle. */
  target(): THREE.Vector3 {
    if (!this.cameraId) return (this.axis ? this.sliding : this.roam).getTarget(new THREE.Vector3());
    const item = this.mirror.items.get(this.cameraId);
    if (!item) return new THREE.Vector3();
    const eye = new THREE.Vector3().setFromMatrixPosition(item.object.matrix);
    const ahead = new THREE.Vector3().setFromMatrixColumn(item.object.matrix, 2).normalize().negate();
    // Where it meets the ground, or some way off.
    const ground = ahead.y < -0.02 ? -eye.y / ahead.y : 12;
    return eye.addScaledVector(ahead, Math.min(20, Math.max(2, ground)));
  }

  /** The camera for a view of this size; with a margin of 1 what is rendered fills it. */
  current(width: number, height: number, margin = 0.94): THREE.PerspectiveCamera | THREE.OrthographicCamera {
    const node = this.cameraId ? this.mirror.node(this.cameraId) : undefined;
    const aspect = width / Math.max(1, height);
    if (!node && this.axis) {
      if (this.flat.right !== aspect) {
        [this.flat.left, this.flat.right] = [-aspect, aspect];
        this.flat.updateProjectionMatrix();
      }
      return this.flat;
    }
    if (!node) {
      if (this.free.aspect !== aspect) {
        this.free.aspect = aspect;
        this.free.updateProjectionMatrix();
      }
      return this.free;
    }
    // The rendered frame keeps its field of view; the view around it sees more.
    const frame = frameOf(width, height, this.mirror.aspect, margin);
    const more = height / frame.height;
    const camera = node.data.projection === 'orthographic' ? this.parallel : this.through;
    if (camera instanceof THREE.PerspectiveCamera) {
      const fov = this.mirror.fieldOfView(node.id);
      camera.fov = (Math.atan(Math.tan((fov * Math.PI) / 360) * more) * 360) / Math.PI;
      camera.aspect = aspect;
    } else {
      const half = (this.mirror.number(node.id, 'camera.height') / 2) * more;
      [camera.top, camera.bottom, camera.left, camera.right] = [half, -half, -half * aspect, half * aspect];
    }
    // As deep as the camera's own bounds, and no deeper than the numbers of a graphics card reach.
    camera.near = Math.max(0.01, this.mirror.number(node.id, 'camera.near'));
    camera.far = Math.max(camera.near * 2, Math.min(1200, this.mirror.number(node.id, 'camera.far')));
    camera.updateProjectionMatrix();
    if (this.steered && this.hasMoved) {
      camera.position.copy(this.held.position);
      camera.quaternion.copy(this.held.quaternion);
    } else {
      this.mirror.items.get(node.id)!.object.matrix.decompose(camera.position, camera.quaternion, new THREE.Vector3());
    }
    camera.updateMatrixWorld();
    return camera;
  }

  /** Before a hand steers: the held camera stands where the shot's does, rolled as it is. */
  private hold() {
    if (!this.cameraId || !this.steer || this.steered) return;
    const item = this.mirror.items.get(this.cameraId);
    if (!item) return;
    const [position, rotation] = [new THREE.Vector3(), new THREE.Quaternion()];
    item.object.matrix.decompose(position, rotation, new THREE.Vector3());
    this.held.up.set(0, 1, 0).applyQuaternion(rotation);
    this.steering.updateCameraUp();
    const ahead = new THREE.Vector3(0, 0, -6).applyQuaternion(rotation).add(position);
    void this.steering.setLookAt(position.x, position.y, position.z, ahead.x, ahead.y, ahead.z, false);
    this.steering.update(0);
    this.steered = true;
    this.hasMoved = false;
  }

  private finish() {
    if (!this.steered) return;
    clearTimeout(this.rest);
    if (this.hasMoved) {
      this.steering.update(10);
      this.held.updateMatrixWorld();
      this.events.steered(this.held.matrixWorld.toArray());
    }
    this.steered = this.hasMoved = false;
    this.events.moved();
  }
}
