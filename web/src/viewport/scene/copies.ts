// What instances and repeaters draw once more: one call for all copies of a mesh in the same shape.
import * as THREE from 'three';
import type { ShownFrame } from '../../engine/engine';
import { makeLamp, setLamp, type LampForm, type LampLight } from './lamps';
import type { Item } from './mirror';

/** So many lamps of copies give light in the stage; renders have all. */
const MOST_LIGHTS = 12;

interface Group {
  mesh: THREE.InstancedMesh;
  /** The place of the instance or repeater that draws each. */
  owners: number[];
  /** Its geometry is of itself alone. */
  isOwn: boolean;
  /** Its copies are mirrored: what is outside turns the other way round. */
  isMirrored: boolean;
}

/** Whether a map at a place of a list of maps turns what is right into what is left. */
function mirrors(maps: Float32Array, at: number): boolean {
  const [a, b, c, d, e, f, g, h, i] = [0, 1, 2, 4, 5, 6, 8, 9, 10].map((n) => maps[at + n]);
  return a * (e * i - f * h) - d * (b * i - c * h) + g * (b * f - c * e) < 0;
}

export class Copies {
  readonly object = new THREE.Group();
  private groups = new Map<string, Group>();
  private readonly lights: { holder: THREE.Group; light: LampLight; form: LampForm }[] = [];
  private version = -1;
  private taken: ShownFrame | null = null;
  private only: unknown = null;

  /** Whether a frame has other copies than those that are drawn. */
  isOld = (frame: ShownFrame, only: unknown) =>
    frame !== this.taken || frame.copyVersion !== this.version || only !== this.only;

  /**
   * Brings the copies to what a frame has.
   * @param only what is shown alone, for knowing whether it is another
   * @param shows whether what an instance or a repeater draws is shown; null where all is
   * @param itemAt the item of what is copied, its geometry as on the frame
   */
  take(
    frame: ShownFrame,
    only: unknown,
    shows: ((owner: number) => boolean) | null,
    itemAt: (index: number) => Item | undefined,
  ) {
    [this.taken, this.version, this.only] = [frame, frame.copyVersion, only];
    const count = frame.copyNodes.length / 4;
    const wanted = new Map<string, { item: Item; copies: number[]; isOwn: boolean; isMirrored: boolean }>();
    const others = new Map<number, number>();
    let lit = 0;
    for (let i = 0; i < count; i++) {
      if (shows && !shows(frame.copyNodes[4 * i + 1])) continue;
      const source = frame.copyNodes[4 * i];
      const version = frame.copyNodes[4 * i + 2];
      const item = itemAt(source);
      if (!item) continue;
      if (item.kind === 'lamp') {
        this.shine(lit++, item, frame, i);
        continue;
      }
      if (!item.mesh || version === 0) continue;
      // Bent in another way than what it is of: it has vertices of its own.
      const isOwn = version !== item.version;
      let key = String(source);
      if (isOwn) {
        const n = others.get(source) ?? 0;
        others.set(source, n + 1);
        key = `${source} ${n}`;
      }
      const isMirrored = mirrors(frame.copyMatrices, 16 * i);
      if (isMirrored) key += ' mirrored';
      const group = wanted.get(key);
      if (group) group.copies.push(i);
      else wanted.set(key, { item, copies: [i], isOwn, isMirrored });
    }
    for (const [key, group] of this.groups) if (!wanted.has(key)) this.drop(key, group);
    for (const [key, { item, copies, isOwn, isMirrored }] of wanted)
      this.put(key, item, copies, isOwn, isMirrored, frame);
    for (let i = lit; i < this.lights.length; i++) this.lights[i].light.visible = false;
  }

  /** The place of what draws the copy that a ray has hit; −1 where it has hit none. */
  ownerOf(hit: THREE.Intersection): number {
    for (const { mesh, owners } of this.groups.values())
      if (mesh === hit.object && hit.instanceId !== undefined) return owners[hit.instanceId];
    return -1;
  }

  /** Adds the boxes of what is drawn by nodes at these places. */
  addTo(box: THREE.Box3, owners: ReadonlySet<number>) {
    const [matrix, own] = [new THREE.Matrix4(), new THREE.Box3()];
    for (const group of this.groups.values())
      group.owners.forEach((owner, i) => {
        const around = owners.has(owner) && group.mesh.geometry.boundingBox;
        if (!around) return;
        group.mesh.getMatrixAt(i, matrix);
        if (group.isMirrored) matrix.premultiply(group.mesh.matrix);
        box.union(own.copy(around).applyMatrix4(matrix));
      });
  }

  private put(key: string, item: Item, copies: number[], isOwn: boolean, isMirrored: boolean, frame: ShownFrame) {
    let group = this.groups.get(key);
    if (!group || group.mesh.instanceMatrix.count < copies.length) {
      if (group) this.drop(key, group);
      const room = 2 ** Math.ceil(Math.log2(copies.length));
      const mesh = new THREE.InstancedMesh(new THREE.BufferGeometry(), item.mesh!.material, room);
      mesh.castShadow = mesh.receiveShadow = true;
      mesh.frustumCulled = false;
      // All are mirrored once more, so that the graphics card knows which side is out.
      if (isMirrored) mesh.scale.x = -1;
      mesh.updateMatrix();
      this.object.add(mesh);
      this.groups.set(key, (group = { mesh, owners: [], isOwn, isMirrored }));
    }
    const { mesh } = group;
    mesh.count = copies.length;
    mesh.material = item.mesh!.material;
    if (isOwn) this.bend(group, item, frame, frame.copyNodes[4 * copies[0] + 3]);
    else mesh.geometry = item.mesh!.geometry;
    const matrices = mesh.instanceMatrix.array as Float32Array;
    copies.forEach((copy, i) => {
      matrices.set(frame.copyMatrices.subarray(16 * copy, 16 * copy + 16), 16 * i);
      if (isMirrored) for (const n of [0, 4, 8, 12]) matrices[16 * i + n] *= -1;
    });
    mesh.instanceMatrix.needsUpdate = true;
    mesh.boundingSphere = null;
    group.owners = copies.map((copy) => frame.copyNodes[4 * copy + 1]);
  }

  /** Vertices of one copy's own, on the triangles of what it is of. */
  private bend(group: Group, item: Item, frame: ShownFrame, copy: number) {
    const { mesh } = group;
    const vertices = frame.copyVertices(copy);
    let geometry = mesh.geometry;
    const old = geometry.getAttribute('position') as THREE.BufferAttribute | undefined;
    if (old?.array.length !== vertices.positions.length) {
      geometry.dispose();
      geometry = mesh.geometry = new THREE.BufferGeometry();
      geometry.setIndex(new THREE.BufferAttribute(vertices.indices(), 1));
      for (const part of item.mesh!.geometry.groups) geometry.addGroup(part.start, part.count, part.materialIndex);
      for (const name of ['uv', 'tinge', 'rest']) {
        const shared = item.mesh!.geometry.getAttribute(name);
        if (shared) geometry.setAttribute(name, shared);
      }
    }
    geometry.setAttribute('position', new THREE.BufferAttribute(vertices.positions, 3));
    geometry.setAttribute('normal', new THREE.BufferAttribute(vertices.normals, 3));
    geometry.computeBoundingBox();
    geometry.computeBoundingSphere();
  }

  private shine(i: number, item: Item, frame: ShownFrame, copy: number) {
    if (i >= MOST_LIGHTS) return;
    let own = this.lights[i];
    if (own?.form !== item.form) {
      if (own) {
        this.object.remove(own.holder);
        own.light.dispose();
      }
      own = { holder: new THREE.Group(), light: makeLamp(item.form), form: item.form };
      own.holder.matrixAutoUpdate = false;
      own.holder.add(own.light);
      this.object.add(own.holder);
      this.lights[i] = own;
    }
    own.holder.matrix.fromArray(frame.copyMatrices, 16 * copy);
    own.holder.matrixWorldNeedsUpdate = true;
    const number = frame.copyNodes[4 * copy + 3];
    const scale = new THREE.Vector3().setFromMatrixScale(own.holder.matrix);
    setLamp(own.light, own.form, (path) => frame.copyValue(number, path), scale);
    own.light.color.copy((item.light as LampLight).color);
  }

  private drop(key: string, { mesh, isOwn }: Group) {
    this.object.remove(mesh);
    if (isOwn) mesh.geometry.dispose();
    mesh.dispose();
    this.groups.delete(key);
  }
}
