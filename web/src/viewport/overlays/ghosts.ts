// Poses before and after, drawn faintly where they stand: those before as lines, those after filled, so that colour is not all that tells them apart.
import * as THREE from 'three';
import type { NodeView, ShownFrame } from '../../engine/engine';
import type { SceneMirror } from '../scene/mirror';

/** A pose that is drawn besides the shown one. */
export interface GhostPose {
  frame: number;
  /** −1 for the nearest before, 1 for the nearest after, 2 for the next of those, … */
  place: number;
}

export class Ghosts {
  readonly object = new THREE.Group();
  private made: { mesh: THREE.Mesh; own: boolean }[] = [];

  /** More meshes than this would be neither seen nor drawn in time. */
  private static readonly MOST = 240;

  /**
   * @param evaluate evaluates a frame beside the shown one
   * @param fade those farther away are fainter
   */
  set(
    mirror: SceneMirror,
    nodes: NodeView[],
    poses: GhostPose[],
    evaluate: (frame: number) => ShownFrame,
    fade: boolean,
  ) {
    this.clear();
    for (const { frame, place } of poses) {
      const shown = evaluate(frame);
      const most = Math.max(...poses.filter((p) => p.place * place > 0).map((p) => Math.abs(p.place)));
      const material = this.material(place < 0, fade ? 0.5 * (1 - (Math.abs(place) - 1) / (most + 0.5)) : 0.4);
      for (const node of nodes) {
        const item = mirror.items.get(node.id);
        if (!item?.mesh || !shown.seen[node.index] || this.made.length >= Ghosts.MOST) continue;
        // A shape that is the same on both frames is drawn from the same vertices.
        const own = shown.meshVersions[node.index] !== item.version;
        const geometry = own ? this.geometry(shown, node.index) : item.mesh.geometry;
        const mesh = new THREE.Mesh(geometry, material);
        mesh.matrixAutoUpdate = false;
        mesh.matrix.fromArray(shown.matrices, 16 * node.index);
        mesh.renderOrder = -1;
        this.object.add(mesh);
        this.made.push({ mesh, own });
      }
    }
  }

  get isEmpty() {
    return this.made.length === 0;
  }

  clear() {
    for (const { mesh, own } of this.made) {
      if (own) mesh.geometry.dispose();
      (mesh.material as THREE.Material).dispose();
    }
    this.made = [];
    this.object.clear();
  }

  private geometry(shown: ShownFrame, index: number): THREE.BufferGeometry {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(shown.positions(index), 3));
    geometry.setIndex(new THREE.BufferAttribute(shown.indices(index), 1));
    return geometry;
  }

  private material(before: boolean, opacity: number): THREE.Material {
    return new THREE.MeshBasicMaterial({
      color: before ? 0x8fb8d8 : 0xf0b35a,
      wireframe: before,
      transparent: true,
      opacity: before ? opacity * 0.8 : opacity,
      depthWrite: false,
      toneMapped: false,
    });
  }
}
