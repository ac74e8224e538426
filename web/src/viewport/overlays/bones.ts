// Joints and the bones between them, drawn over the shapes that they carry. A design of our own: a ring at each joint, and from it two lines that run
// together at the next.
import * as THREE from 'three';
import type { SceneMirror } from '../scene/mirror';

const STEPS = 12;
const INK = new THREE.Color(0xe9d8a6);
const CHOSEN = new THREE.Color(0xff7a66);

/** Two directions of a length across another and across each other. */
function acrossTo(along: THREE.Vector3, side: THREE.Vector3, across: THREE.Vector3, length: number) {
  const flat = Math.abs(along.y) < 0.9 * along.length();
  side
    .set(flat ? 0 : 1, flat ? 1 : 0, 0)
    .cross(along)
    .setLength(length);
  across.copy(along).cross(side).setLength(length);
}

export class Bones {
  readonly object: THREE.LineSegments;
  private count = 0;

  constructor() {
    const material = new THREE.LineBasicMaterial({
      vertexColors: true,
      depthTest: false,
      transparent: true,
      opacity: 0.9,
      toneMapped: false,
    });
    this.object = new THREE.LineSegments(new THREE.BufferGeometry(), material);
    this.object.renderOrder = 2;
    this.object.frustumCulled = false;
    this.object.visible = false;
  }

  update(mirror: SceneMirror, selected: ReadonlySet<string>) {
    const joints = mirror.joints;
    this.object.visible = joints.length > 0;
    if (joints.length === 0) return;
    const lines = joints.length * (STEPS + 2);
    if (this.count !== joints.length) {
      this.count = joints.length;
      this.object.geometry.dispose();
      this.object.geometry = new THREE.BufferGeometry();
      for (const name of ['position', 'color'])
        this.object.geometry.setAttribute(name, new THREE.BufferAttribute(new Float32Array(6 * lines), 3));
    }
    const position = this.object.geometry.getAttribute('position') as THREE.BufferAttribute;
    const colour = this.object.geometry.getAttribute('color') as THREE.BufferAttribute;
    const [at, up, along, side, across] = Array.from({ length: 5 }, () => new THREE.Vector3());
    let p = 0;
    const point = (v: THREE.Vector3, ink: THREE.Color) => {
      position.setXYZ(p, v.x, v.y, v.z);
      colour.setXYZ(p++, ink.r, ink.g, ink.b);
    };
    const corner = new THREE.Vector3();
    for (const { id, item, parent, child, size } of joints) {
      at.setFromMatrixPosition(item.object.matrix);
      const ink = selected.has(id) ? CHOSEN : INK;
      const radius = item.object.visible ? 0.16 * size : 0;
      // The ring lies across the bone that begins here, or across that which ends here.
      if (child) along.setFromMatrixPosition(child.item.object.matrix).sub(at);
      else if (parent) along.copy(at).sub(up.setFromMatrixPosition(parent.item.object.matrix));
      else along.setFromMatrixColumn(item.object.matrix, 1);
      acrossTo(along, side, across, radius);
      for (let i = 0; i < STEPS; i++)
        for (const j of [i, i + 1]) {
          const a = (2 * Math.PI * j) / STEPS;
          point(corner.copy(at).addScaledVector(side, Math.cos(a)).addScaledVector(across, Math.sin(a)), ink);
        }
      // From the parent's ring to here.
      if (parent && item.object.visible) {
        up.setFromMatrixPosition(parent.item.object.matrix);
        acrossTo(along.copy(at).sub(up), side, across, 0.16 * parent.size);
        for (const sign of [1, -1]) {
          point(corner.copy(up).addScaledVector(side, sign), ink);
          point(at, ink);
        }
      } else for (let i = 0; i < 4; i++) point(at, ink);
    }
    position.needsUpdate = colour.needsUpdate = true;
  }
}
