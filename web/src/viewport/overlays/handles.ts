// The handles of the tools Move, Rotate and Scale. They stand at the pivot, and report where the objects shall stand.
import * as THREE from 'three';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import type { SnapTo } from '../../stores/preferences.svelte';
import type { SceneMirror } from '../scene/mirror';

export type Axes = 'world' | 'parent' | 'local';
export type HandleTool = 'select' | 'move' | 'rotate' | 'scale';

export interface HandleEvents {
  begin(): void;
  /** The objects stand elsewhere; with a few words that say where. */
  place(ids: string[], worlds: number[], commit: boolean, readout: string): void;
  end(): void;
  changed(): void;
}

const AXES = { X: new THREE.Vector3(1, 0, 0), Y: new THREE.Vector3(0, 1, 0), Z: new THREE.Vector3(0, 0, 1) };
const number = (v: number, digits = 2) => String(Math.round(v * 10 ** digits) / 10 ** digits);

export class Handles {
  private readonly gizmo: TransformControls;
  private readonly proxy = new THREE.Object3D();
  private readonly start = new THREE.Matrix4();
  private starts: { id: string; world: THREE.Matrix4 }[] = [];
  private tool: HandleTool = 'move';
  private axes: Axes = 'world';
  private typed: number | null = null;
  private typedAt = 0;
  private turned = 0;
  private lastAngle = 0;
  private ids: string[] = [];
  private cancelled = false;
  private snapsTo: 'vertex' | 'surface' | null = null;
  private pointer = { x: 0, y: 0 };

  constructor(
    private readonly mirror: SceneMirror,
    camera: THREE.Camera,
    canvas: HTMLElement,
    private readonly events: HandleEvents,
    /** The point of a mesh below a point of the page, of none of these objects. */
    private readonly pointAt: (x: number, y: number, vertex: boolean, but: string[]) => THREE.Vector3 | null,
  ) {
    canvas.ownerDocument.addEventListener('pointermove', (e) => (this.pointer = { x: e.clientX, y: e.clientY }), true);
    this.gizmo = new TransformControls(camera, canvas);
    this.gizmo.size = 0.9;
    this.gizmo.addEventListener('mouseDown', () => this.begin());
    this.gizmo.addEventListener('objectChange', () => this.move(false));
    this.gizmo.addEventListener('mouseUp', () => this.finish());
    this.gizmo.addEventListener('change', () => this.events.changed());
    canvas.addEventListener('pointercancel', () => this.cancel());
    this.helper.visible = false;
  }

  get helper() {
    return this.gizmo.getHelper();
  }

  get objects() {
    return [this.proxy, this.helper];
  }

  /** The pointer is over one of them. */
  get hovered() {
    return this.gizmo.axis !== null;
  }

  get dragging() {
    return this.gizmo.dragging;
  }

  set camera(camera: THREE.Camera) {
    this.gizmo.camera = camera;
  }

  /**
   * Snaps from now on: in steps, or what is moved to what lies below the pointer. Null snaps no more.
   * @param by The steps: metres, degrees, a part of the scale.
   */
  snap(to: SnapTo | null, by: { move: number; turn: number; scale: number }) {
    this.snapsTo = to === 'grid' ? null : to;
    this.gizmo.translationSnap = to === 'grid' ? by.move : null;
    this.gizmo.rotationSnap = to ? (by.turn * Math.PI) / 180 : null;
    this.gizmo.scaleSnap = to ? by.scale : null;
  }

  setTool(tool: HandleTool, axes: Axes) {
    this.tool = tool;
    this.axes = axes;
    if (!this.dragging) this.gizmo.setMode(tool === 'rotate' ? 'rotate' : tool === 'scale' ? 'scale' : 'translate');
    this.attach(this.ids);
  }

  /** Puts the handles at the pivot of the last of these. */
  attach(ids: string[]) {
    this.ids = ids;
    if (this.dragging) return;
    const id = ids.at(-1);
    const on = this.tool !== 'select' && id !== undefined && this.mirror.items.get(id)?.object.visible === true;
    if (on) {
      // A scale has no meaning but along the object's own axes.
      const axes = this.tool === 'scale' ? 'local' : this.axes;
      this.gizmo.setSpace(axes === 'world' ? 'world' : 'local');
      const like = axes === 'parent' ? this.mirror.node(id)?.parent : axes === 'local' ? id : null;
      const matrix = like ? this.mirror.items.get(like)?.object.matrix : undefined;
      if (matrix) matrix.decompose(new THREE.Vector3(), this.proxy.quaternion, new THREE.Vector3());
      else this.proxy.quaternion.identity();
      this.proxy.position.copy(this.mirror.pivotOf(id));
      this.proxy.scale.set(1, 1, 1);
      this.proxy.updateMatrixWorld();
      if (this.gizmo.object !== this.proxy) this.gizmo.attach(this.proxy);
    } else if (this.gizmo.object) this.gizmo.detach();
    this.gizmo.enabled = on;
    this.helper.visible = on;
  }

  /** A number typed while a handle is dragged takes the place of the hand: metres, degrees or a factor. Null gives it back. */
  type(value: number | null) {
    if (!this.dragging) return;
    this.typed = value;
    this.move(false);
  }

  /** Ends the drag as if it had not been. */
  cancel() {
    if (!this.dragging) return;
    this.cancelled = true;
    this.gizmo.pointerUp(null as never);
  }

  /** Ends the drag where it is. */
  commit() {
    if (this.dragging) this.gizmo.pointerUp(null as never);
  }

  private begin() {
    this.starts = this.ids.map((id) => ({ id, world: this.mirror.items.get(id)!.object.matrix.clone() }));
    this.proxy.updateMatrix();
    this.start.copy(this.proxy.matrix);
    this.typed = null;
    this.typedAt = 0;
    this.turned = this.lastAngle = 0;
    this.cancelled = false;
    this.events.begin();
  }

  private finish() {
    if (this.cancelled) {
      this.start.decompose(this.proxy.position, this.proxy.quaternion, this.proxy.scale);
      this.events.end();
      return;
    }
    this.move(true);
    this.events.end();
  }

  private move(commit: boolean) {
    if (this.starts.length === 0) return;
    if (this.typed !== null) {
      // Whole turns count, so a large angle is gone in parts that leave no doubt which way.
      for (let step = this.typedAt; this.tool === 'rotate' && Math.abs(this.typed - step) > 120 && !commit;) {
        step += Math.sign(this.typed - step) * 120;
        this.putTyped(step);
        this.report(false);
      }
      this.typedAt = this.typed;
      this.putTyped(this.typed);
    } else if (this.snapsTo && this.tool === 'move') this.putOn(this.snapsTo);
    this.report(commit);
  }

  private report(commit: boolean) {
    this.proxy.updateMatrix();
    const change = this.proxy.matrix.clone().multiply(this.start.clone().invert());
    const worlds = this.starts.flatMap(({ world }) => change.clone().multiply(world).toArray());
    const readout = this.readout();
    const ids = this.starts.map((s) => s.id);
    if (commit) this.starts = [];
    this.events.place(ids, worlds, commit, readout);
  }

  private letters(): ('X' | 'Y' | 'Z')[] {
    const letters = [...(this.gizmo.axis ?? 'X')].filter((l) => l in AXES) as ('X' | 'Y' | 'Z')[];
    return letters.length > 0 ? letters : ['X'];
  }

  /** Moves to what is below the pointer, along the axes of the handle that was taken. */
  private putOn(what: 'vertex' | 'surface') {
    const point = this.pointAt(this.pointer.x, this.pointer.y, what === 'vertex', this.ids);
    if (!point) return;
    const [position, rotation] = [new THREE.Vector3(), new THREE.Quaternion()];
    this.start.decompose(position, rotation, new THREE.Vector3());
    const by = point.sub(position);
    this.proxy.position.copy(position);
    for (const l of this.letters()) {
      const along = this.gizmo.space === 'local' ? AXES[l].clone().applyQuaternion(rotation) : AXES[l];
      this.proxy.position.addScaledVector(along, by.dot(along));
    }
  }

  private putTyped(value: number) {
    const [position, rotation] = [new THREE.Vector3(), new THREE.Quaternion()];
    this.start.decompose(position, rotation, new THREE.Vector3());
    const letters = this.letters();
    this.proxy.position.copy(position);
    this.proxy.quaternion.copy(rotation);
    this.proxy.scale.set(1, 1, 1);
    const along = (l: 'X' | 'Y' | 'Z') =>
      this.gizmo.space === 'local' ? AXES[l].clone().applyQuaternion(rotation) : AXES[l].clone();
    if (this.tool === 'move') for (const l of letters) this.proxy.position.addScaledVector(along(l), value);
    else if (this.tool === 'rotate') {
      const turn = new THREE.Quaternion().setFromAxisAngle(along(letters[0]), (value * Math.PI) / 180);
      this.proxy.quaternion.premultiply(turn);
    } else for (const l of letters) this.proxy.scale[l.toLowerCase() as 'x' | 'y' | 'z'] = value;
  }

  /** A few words on how far it went. */
  private readout(): string {
    const [position, rotation] = [new THREE.Vector3(), new THREE.Quaternion()];
    this.start.decompose(position, rotation, new THREE.Vector3());
    if (this.tool === 'move') {
      const by = this.proxy.position.clone().sub(position);
      if (this.gizmo.space === 'local') by.applyQuaternion(rotation.invert());
      const parts = this.letters().map((l) => `${l} ${number(by[l.toLowerCase() as 'x'])}`);
      return `Move ${parts.join('  ')} m`;
    }
    if (this.tool === 'rotate') {
      const angle = ((this.gizmo as unknown as { rotationAngle: number }).rotationAngle * 180) / Math.PI;
      // Counted on beyond a full turn.
      let step = angle - this.lastAngle;
      step -= 360 * Math.round(step / 360);
      this.turned += step;
      this.lastAngle = angle;
      return `Rotate ${this.letters()[0]} ${number(this.typed ?? this.turned, 1)}°`;
    }
    const scale = this.letters().map((l) => `${l} ${number(this.proxy.scale[l.toLowerCase() as 'x'], 3)}`);
    return `Scale ${scale.join('  ')}`;
  }
}
