// What lies under the pointer: a ray through a point of a view, and what of the scene it meets.
import * as THREE from 'three';
import { acceleratedRaycast, computeBoundsTree, disposeBoundsTree } from 'three-mesh-bvh';
import type { NodeView, SceneView } from '../../engine/engine';
import type { SceneMirror } from '../scene/mirror';
import type { Pane } from './pane';

THREE.Mesh.prototype.raycast = acceleratedRaycast;
THREE.BufferGeometry.prototype.computeBoundsTree = computeBoundsTree;
THREE.BufferGeometry.prototype.disposeBoundsTree = disposeBoundsTree;

/** Below so many triangles a tree costs more than it saves. */
const FEW = 100;

export interface Region {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** What picking has to know of the view. */
export interface Aim {
  /** The view below a point of the page, and the point in it: −1 to 1, y up. */
  paneAt(x: number, y: number): { pane: Pane; point: THREE.Vector2 };
  /** Where the canvas lies in the page. */
  rect(): DOMRect;
  scene(): SceneView | null;
}

interface Hit {
  node: NodeView;
  hit: THREE.Intersection;
}

export class Picking {
  private readonly ray = new THREE.Raycaster();

  constructor(
    private readonly mirror: SceneMirror,
    private readonly view: Aim,
  ) {
    // Nobody asks for what lies further back in the same mesh.
    this.ray.firstHitOnly = true;
  }

  /** An object and what stands above it, from the top down. */
  chain(node: NodeView): NodeView[] {
    const chain: NodeView[] = [];
    for (let n: NodeView | undefined = node; n; n = n.parent ? this.mirror.node(n.parent) : undefined) chain.push(n);
    return chain.reverse();
  }

  lockedAbove = (node: NodeView) => this.chain(node).some((n) => n.locked);

  /** The objects under a point of the page that can be picked, the nearest first, each once. */
  nodesAt(x: number, y: number): NodeView[] {
    const pane = this.aim(x, y);
    const targets = [...this.mirror.items]
      .filter(([id, item]) => item.object.visible && this.mirror.shows(id))
      .map(([, item]) => item.object);
    const found = new Set<NodeView>();
    for (const { node, hit } of this.meet(targets)) {
      if ((hit.object as THREE.LineSegments).isLineSegments) continue;
      if (node.id !== pane.cameras.cameraId && !this.lockedAbove(node)) found.add(node);
    }
    return [...found];
  }

  /** The point of a mesh below a point of the page, or its vertex nearest to that; of none of some objects, nor of what hangs below them. */
  pointAt(x: number, y: number, vertex: boolean, but: string[]): THREE.Vector3 | null {
    for (const { node, hit } of this.surfacesAt(x, y))
      if (!this.chain(node).some((n) => but.includes(n.id))) return vertex ? vertexOf(hit).at : hit.point;
    return null;
  }

  /** The vertex of a mesh that is nearest to a point of the page, by its place in the mesh. A tip may be missed by a little. */
  vertexAt(x: number, y: number): { node: NodeView; vertex: number } | null {
    for (const reach of [0, 4, 8])
      for (let turn = 0; turn < (reach > 0 ? 8 : 1); turn++) {
        const angle = (turn * Math.PI) / 4;
        const first = this.surfacesAt(x + reach * Math.cos(angle), y + reach * Math.sin(angle))[0];
        if (first && first.hit.instanceId === undefined && first.node.kind === 'mesh')
          return { node: first.node, vertex: vertexOf(first.hit).vertex };
      }
    return null;
  }

  /** The objects that a box drawn on the page touches; of groups the topmost. */
  touched(box: Region): string[] {
    const { pane } = this.view.paneAt(box.x0, box.y0);
    const whole = this.view.rect();
    const rect = { left: whole.left + pane.x, top: whole.top + pane.y, width: pane.width, height: pane.height };
    const [left, right] = [Math.min(box.x0, box.x1) - rect.left, Math.max(box.x0, box.x1) - rect.left];
    const [top, bottom] = [Math.min(box.y0, box.y1) - rect.top, Math.max(box.y0, box.y1) - rect.top];
    const camera = pane.camera();
    const corner = new THREE.Vector3();
    const found = new Set<string>();
    for (const node of this.view.scene()?.nodes ?? []) {
      const item = this.mirror.items.get(node.id);
      if (
        !item?.object.visible ||
        !this.mirror.shows(node.id) ||
        node.kind === 'group' ||
        node.id === pane.cameras.cameraId ||
        this.lockedAbove(node)
      )
        continue;
      const around = this.mirror.boxOf([node.id]);
      let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let i = 0; i < 8; i++) {
        corner.set(
          i & 1 ? around.max.x : around.min.x,
          i & 2 ? around.max.y : around.min.y,
          i & 4 ? around.max.z : around.min.z,
        );
        corner.project(camera);
        if (corner.z > 1) continue;
        const [px, py] = [((corner.x + 1) / 2) * rect.width, ((1 - corner.y) / 2) * rect.height];
        [x0, y0, x1, y1] = [Math.min(x0, px), Math.min(y0, py), Math.max(x1, px), Math.max(y1, py)];
      }
      if (x0 <= right && x1 >= left && y0 <= bottom && y1 >= top) found.add(this.chain(node)[0].id);
    }
    return [...found];
  }

  /** The point below a point of the page on the plane through a point of the world that faces the eye. */
  onPlane(x: number, y: number, through: [number, number, number]): [number, number, number] {
    const { pane, point } = this.view.paneAt(x, y);
    const camera = pane.camera();
    this.ray.setFromCamera(point, camera);
    const at = new THREE.Vector3(...through);
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(camera.getWorldDirection(new THREE.Vector3()), at);
    const hit = this.ray.ray.intersectPlane(plane, new THREE.Vector3()) ?? at;
    return [hit.x, hit.y, hit.z];
  }

  /** Lays the ray through a point of the page, and gives the view that it is in. */
  private aim(x: number, y: number): Pane {
    const { pane, point } = this.view.paneAt(x, y);
    this.ray.setFromCamera(point, pane.camera());
    // Small pictures of other frames may have been the last that was drawn.
    this.mirror.scene.updateMatrixWorld();
    return pane;
  }

  /** The surfaces below a point of the page, the nearest first. */
  private surfacesAt(x: number, y: number): Hit[] {
    this.aim(x, y);
    const meshes = [...this.mirror.items.values()].filter((i) => i.mesh && i.object.visible).map((i) => i.mesh!);
    return this.meet(meshes).filter(({ hit }) => hit.face);
  }

  /** What the ray meets of some objects and of all copies. */
  private meet(targets: THREE.Object3D[]): Hit[] {
    const all = [...targets, this.mirror.copies.object];
    for (const object of all) object.traverse((o) => (o as THREE.Mesh).isMesh && treed(o as THREE.Mesh, this.ray.ray));
    return this.ray.intersectObjects(all, true).flatMap((hit) => {
      const node = this.mirror.nodeOf(hit);
      return node ? [{ node, hit }] : [];
    });
  }
}

const sphere = new THREE.Sphere();

/** Gives a mesh that a ray comes near the tree of its triangles; where its points are others than it was made for, the tree follows. */
function treed(mesh: THREE.Mesh, ray: THREE.Ray) {
  const { geometry } = mesh;
  const position = geometry.getAttribute('position') as THREE.BufferAttribute | undefined;
  if (!position || (geometry.index?.count ?? position.count) < 3 * FEW) return;
  if (!(mesh as THREE.InstancedMesh).isInstancedMesh && geometry.boundingSphere) {
    sphere.copy(geometry.boundingSphere).applyMatrix4(mesh.matrixWorld);
    if (!ray.intersectsSphere(sphere)) return;
  }
  if (!geometry.boundsTree) geometry.computeBoundsTree({ indirect: true });
  else if (geometry.userData.treeOf !== position.version) geometry.boundsTree.refit();
  geometry.userData.treeOf = position.version;
}

/** The corner of the triangle that was hit which is nearest to where it was hit. */
function vertexOf(hit: THREE.Intersection) {
  const mesh = hit.object as THREE.Mesh;
  const map = mesh.matrixWorld.clone();
  if (hit.instanceId !== undefined) {
    (mesh as THREE.InstancedMesh).getMatrixAt(hit.instanceId, map);
    map.premultiply(mesh.matrixWorld);
  }
  const { a, b, c } = hit.face!;
  const corners = [a, b, c].map((vertex) => ({
    vertex,
    at: new THREE.Vector3().fromBufferAttribute(mesh.geometry.getAttribute('position'), vertex).applyMatrix4(map),
  }));
  return corners.reduce((p, q) => (q.at.distanceTo(hit.point) < p.at.distanceTo(hit.point) ? q : p));
}
