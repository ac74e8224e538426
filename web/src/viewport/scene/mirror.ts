// The scene of the shot as three.js has it: meshes, materials and lights. One for all views; it follows what the engine has evaluated.
import * as THREE from 'three';
import type { NodeView, SceneView, ShownFrame, SurfaceMap } from '../../engine/engine';
import { marker, type Marker } from './markers';
import { SkyDome } from './sky';
import { Copies } from './copies';
import { Pictures, StageSurface } from './surfaces';
import { makeLamp, setLamp, type LampForm, type LampLight } from './lamps';

export interface Item {
  object: THREE.Object3D;
  mesh: THREE.Mesh | null;
  light: THREE.DirectionalLight | LampLight | null;
  /** Of a lamp. */
  form: LampForm;
  marker: Marker | null;
  version: number;
  /** Which triangles it has. */
  rest: number;
  kind: NodeView['kind'];
  /** The material of each part of the mesh that has one of its own; one for all where there are none. */
  materials: (string | null)[];
  /** The place of what says whether it is rendered: what is not throws no shadow. */
  rendered: number;
  /** Its vertices have what its materials ask for. */
  isEquipped: boolean;
}

const formOf = (node: NodeView): LampForm =>
  node.kind === 'lamp' ? ((node.data.form as LampForm | undefined) ?? 'point') : 'point';

/** A joint, the joint above it and the first below it, and how long its bone is. */
export interface Joint {
  id: string;
  item: Item;
  parent: Joint | null;
  child: Joint | null;
  size: number;
}

/** A geometry that equal shapes at rest share, and how many do. */
interface SharedGeometry {
  geometry: THREE.BufferGeometry;
  users: number;
}

export class SceneMirror {
  readonly scene = new THREE.Scene();
  readonly sky = new SkyDome();
  readonly items = new Map<string, Item>();
  /** Nothing but these is seen, and what gives light; null is all. */
  only: ReadonlySet<string> | null = null;
  /** The exposure of the shot, in stops. */
  exposure = 0;
  private readonly surfaces = new Map<string, StageSurface>();
  private readonly pictures: Pictures;
  private readonly grey: StageSurface;
  private readonly geometries = new Map<number, SharedGeometry>();
  private readonly hemisphere = new THREE.HemisphereLight(0xffffff, 0xffffff, 0);
  private readonly skyScene = new THREE.Scene();
  private environment: THREE.WebGLRenderTarget | null = null;
  private shown: SceneView | null = null;
  private frame: ShownFrame | null = null;
  private byId = new Map<string, NodeView>();
  /** What instances and repeaters draw. */
  readonly copies = new Copies();
  private places: NodeView[] = [];
  private lights: Item[] = [];
  private sunlit = '';
  /** The daylight overhead, where the sky is not painted. */
  private overhead: THREE.Color | null = null;
  private readonly heats = new Map<number, THREE.Color>();
  /** The joints, those above before those below. */
  joints: Joint[] = [];

  /**
   * @param lean without reflections of the sky, which cost much where no graphics card is
   * @param come a picture has come: there is something else to draw
   */
  constructor(
    private readonly pmrem: THREE.PMREMGenerator,
    private readonly lean: boolean,
    private readonly come: () => void,
  ) {
    this.pictures = new Pictures(come);
    this.grey = new StageSurface(this.pictures, lean);
    this.grey.material.color.setScalar(0.8);
    this.grey.material.roughness = 0.6;
    this.scene.add(this.sky.mesh, this.hemisphere, this.copies.object);
  }

  get aspect() {
    return this.shown ? this.shown.width / this.shown.height : 16 / 9;
  }

  /** Whether an object is among those that are shown alone, or all are. */
  shows = (id: string) => !this.only || this.only.has(id);

  node = (id: string) => this.byId.get(id);

  /** A value of the evaluated frame. */
  number(owner: string, path: string): number {
    const place = this.shown?.channels.indexOf(owner, path) ?? -1;
    return place < 0 ? 0 : (this.frame?.values[place] ?? 0);
  }

  /** Draws with all materials changed, and puts them back: as lines, or in their colours alone. */
  drawnAs(how: 'lines' | 'flat', draw: () => void) {
    const surfaces = [this.grey, ...this.surfaces.values()];
    const all = surfaces.map((s) => s.material);
    if (how === 'flat') for (const s of surfaces) s.isFlat = true;
    const kept = all.map((m) => [m.color.clone(), m.emissive.clone(), m.emissiveIntensity] as const);
    const reflections = this.scene.environmentIntensity;
    for (const m of all) {
      if (how === 'lines') m.wireframe = true;
      else {
        m.emissive.copy(m.color);
        m.emissiveIntensity = 1;
        m.color.setScalar(0);
      }
    }
    if (how === 'flat') this.scene.environmentIntensity = 0;
    draw();
    this.scene.environmentIntensity = reflections;
    for (const s of surfaces) s.isFlat = false;
    all.forEach((m, i) => {
      m.wireframe = false;
      m.color.copy(kept[i][0]);
      m.emissive.copy(kept[i][1]);
      m.emissiveIntensity = kept[i][2];
    });
  }

  /** The vertical field of view of a camera, in degrees. */
  fieldOfView(id: string): number {
    const angle =
      this.node(id)?.data.lens === 'focal'
        ? (360 / Math.PI) *
          Math.atan2(this.number(id, 'camera.sensor'), 2 * Math.max(0.1, this.number(id, 'camera.focal')))
        : this.number(id, 'camera.fov');
    return Math.min(170, Math.max(1, angle));
  }

  /** The point that a node turns about, in the world. */
  pivotOf(id: string): THREE.Vector3 {
    const pivot = new THREE.Vector3(
      this.number(id, 'transform.pivot.x'),
      this.number(id, 'transform.pivot.y'),
      this.number(id, 'transform.pivot.z'),
    );
    const item = this.items.get(id);
    return item ? pivot.applyMatrix4(item.object.matrix) : pivot;
  }

  /** Takes over a structure. Objects that are still there are kept. */
  setScene(scene: SceneView) {
    const before = this.shown;
    this.shown = scene;
    if (scene.nodes === before?.nodes && scene.materials === before.materials) return;
    this.byId = new Map(scene.nodes.map((n) => [n.id, n]));
    this.places = [];
    for (const n of scene.nodes) this.places[n.index] = n;
    for (const [id, item] of this.items) {
      const now = this.byId.get(id);
      if (now?.kind !== item.kind || formOf(now) !== item.form) this.drop(id, item);
    }
    const kept = new Set(scene.materials.map((m) => m.id));
    for (const [id, surface] of this.surfaces)
      if (!kept.has(id)) {
        surface.dispose();
        this.surfaces.delete(id);
      }
    for (const { id, maps } of scene.materials) this.surface(id).setMaps(maps as SurfaceMap[]);
    for (const node of scene.nodes) {
      const item = this.items.get(node.id) ?? this.make(node);
      item.rendered = scene.channels.indexOf(node.id, 'visible.renders');
      item.isEquipped = false;
      if (item.mesh) this.dress(node, item);
    }
    this.lights = [...this.items.values()].filter((i) => i.light || i.marker);
    this.findJoints();
  }

  private findJoints() {
    const nodes = this.shown!.nodes.filter((n) => n.kind === 'joint').sort((a, b) => a.index - b.index);
    const byId = new Map<string, Joint>();
    for (const n of nodes) {
      const parent = (n.parent && byId.get(n.parent)) || null;
      const joint: Joint = { id: n.id, item: this.items.get(n.id)!, parent, child: null, size: 0 };
      if (parent) parent.child ??= joint;
      byId.set(n.id, joint);
    }
    this.joints = [...byId.values()];
  }

  /** How long the bones are now: a joint is drawn, and can be taken, in this measure. */
  private measureJoints() {
    const [a, b] = [new THREE.Vector3(), new THREE.Vector3()];
    for (const joint of this.joints) joint.size = 0;
    for (const joint of this.joints) {
      if (!joint.parent) continue;
      const length = a
        .setFromMatrixPosition(joint.item.object.matrix)
        .distanceTo(b.setFromMatrixPosition(joint.parent.item.object.matrix));
      joint.size = Math.max(joint.size, length);
      joint.parent.size = Math.max(joint.parent.size, length);
    }
    for (const { item, size } of this.joints) {
      const scale = a.setFromMatrixScale(item.object.matrix);
      item.marker?.object.scale.setScalar((size || 0.3) / Math.max(1e-9, Math.max(scale.x, scale.y, scale.z)));
    }
  }

  /** Gives a mesh its materials: those of its parts, or one for all. */
  private dress(node: NodeView, item: Item) {
    const own = (node.data.material as string | undefined) ?? null;
    const parts = (node.data.partMaterials as string[] | undefined) ?? [];
    const groups = item.mesh!.geometry.groups.length;
    const materials =
      parts.length > 0 && groups > 1
        ? Array.from({ length: groups }, (_, i) => (i < parts.length ? parts[i] || null : own))
        : [parts.length > 0 ? parts[0] || null : own];
    if (materials.length === item.materials.length && materials.every((m, i) => m === item.materials[i])) return;
    item.materials = materials;
    item.mesh!.material =
      materials.length > 1 ? materials.map((m) => this.surface(m).material) : this.surface(materials[0]).material;
  }

  /** Gives the vertices of a mesh what its materials ask for: texture coordinates, colours, and where they are before they are bent. */
  private equip(node: NodeView, item: Item, frame: ShownFrame) {
    item.isEquipped = true;
    const surfaces = item.materials.map((m) => this.surface(m));
    const { geometry } = item.mesh!;
    const count = geometry.getAttribute('position')?.count ?? 0;
    if (!geometry.userData.asked) {
      geometry.userData.asked = true;
      const [uv, colors] = [frame.texCoords(node.index), frame.colors(node.index)];
      if (uv.length === 2 * count && count > 0) geometry.setAttribute('uv', new THREE.BufferAttribute(uv, 2));
      if (colors.length === 4 * count && count > 0) {
        // Held so that what a geometry without colours reads, 0, 0, 0, 1, is white.
        for (let i = 0; i < colors.length; i += 4) for (let c = 0; c < 3; c++) colors[i + c] = 1 - colors[i + c];
        geometry.setAttribute('tinge', new THREE.BufferAttribute(colors, 4));
      }
    }
    if (geometry.hasAttribute('tinge')) for (const s of surfaces) s.tint();
    const isBent = frame.rest(node.index) !== frame.meshVersions[node.index];
    const isDeformed = ((node.data.deformers as unknown[] | undefined) ?? []).length > 0;
    if (!isBent || !isDeformed || geometry.userData.rest === item.rest || !surfaces.some((s) => s.needsRest)) return;
    const points = frame.undeformed(node.index);
    const rest = new Float32Array(4 * count);
    for (let i = 0; i < count; i++) rest.set(points.subarray(3 * i, 3 * i + 3), 4 * i);
    geometry.setAttribute('rest', new THREE.BufferAttribute(rest, 4));
    geometry.userData.rest = item.rest;
  }

  /** Puts everything where a frame has it. */
  take(frame: ShownFrame) {
    this.frame = frame;
    if (!this.shown) return;
    for (const node of this.shown.nodes) {
      const item = this.items.get(node.id)!;
      item.object.visible = frame.seen[node.index] === 1 && (!!item.light || this.shows(node.id));
      if (!item.object.visible) continue;
      item.object.matrix.fromArray(frame.matrices, 16 * node.index);
      item.object.matrixWorldNeedsUpdate = true;
      const version = frame.meshVersions[node.index];
      // 0 is a mesh that has not come yet: what has been shown of it meanwhile stays.
      if (item.mesh && version !== item.version && version !== 0) {
        this.reshape(node, item, frame);
        this.dress(node, item);
      }
      if (item.mesh && !item.isEquipped && version !== 0) this.equip(node, item, frame);
      if (item.mesh) item.mesh.castShadow = item.rendered < 0 || frame.values[item.rendered] >= 0.5;
    }
    for (const item of this.lights) this.shine(item);
    const only = this.only;
    const shows = only && ((owner: number) => only.has(this.places[owner]?.id));
    if (this.copies.isOld(frame, only)) this.copies.take(frame, only, shows, (index) => this.current(index, frame));
    this.measureJoints();
    for (const [id, surface] of this.surfaces) {
      const [first] = this.shown.channels.of(id);
      const count = this.shown.channels.of(id).length;
      if (first && surface.isOld(frame.values, first.index, count)) surface.paint((path) => this.number(id, path));
      surface.go((path) => this.number(id, path), frame.at, this.shown.rate);
    }
    this.light();
  }

  /** The item at a place, in the shape that a frame has it in, even where it is not seen itself. */
  private current(index: number, frame: ShownFrame): Item | undefined {
    const node = this.places[index];
    const item = node && this.items.get(node.id);
    const version = frame.meshVersions[index];
    if (item?.mesh && version !== item.version && version !== 0) {
      this.reshape(node, item, frame);
      this.dress(node, item);
    }
    if (item?.mesh && !item.isEquipped && version !== 0) this.equip(node, item, frame);
    return item;
  }

  /** The node that a ray has hit: what was hit itself, or what draws the copy. */
  nodeOf(hit: THREE.Intersection): NodeView | undefined {
    const owner = this.copies.ownerOf(hit);
    if (owner >= 0) return this.places[owner];
    let object: THREE.Object3D | null = hit.object;
    while (object && !object.userData.id) object = object.parent;
    return object ? this.node(object.userData.id as string) : undefined;
  }

  /** Where shadows shall be sharp. */
  centreShadows(centre: THREE.Vector3) {
    for (const { light, object } of this.lights) {
      if (!(light instanceof THREE.DirectionalLight)) continue;
      const back = new THREE.Vector3().setFromMatrixColumn(object.matrix, 2).normalize();
      light.target.position.copy(centre);
      light.position.copy(centre).addScaledVector(back, 60);
    }
  }

  /** After the graphics card has forgotten everything. */
  forget() {
    this.environment = null;
    for (const { material } of this.surfaces.values()) material.needsUpdate = true;
  }

  /** The box round nodes as they stand. */
  boxOf(ids: Iterable<string>): THREE.Box3 {
    const box = new THREE.Box3();
    const own = new THREE.Box3();
    const copiers = new Set<number>();
    for (const id of ids) {
      const item = this.items.get(id);
      if (!item?.object.visible) continue;
      const around = item.mesh?.geometry.boundingBox;
      const node = this.byId.get(id);
      if (around) box.union(own.copy(around).applyMatrix4(item.object.matrix));
      else if (node && (node.kind === 'instance' || node.kind === 'repeat')) copiers.add(node.index);
      else box.expandByPoint(new THREE.Vector3().setFromMatrixPosition(item.object.matrix));
    }
    if (copiers.size > 0) this.copies.addTo(box, copiers);
    return box;
  }

  private make(node: NodeView): Item {
    const item: Item = {
      object: new THREE.Group(),
      mesh: null,
      light: null,
      form: formOf(node),
      marker: null,
      version: -1,
      rest: 0,
      kind: node.kind,
      materials: [],
      rendered: -1,
      isEquipped: false,
    };
    if (node.kind === 'mesh') {
      item.mesh = new THREE.Mesh(new THREE.BufferGeometry(), this.grey.material);
      item.mesh.castShadow = item.mesh.receiveShadow = true;
      item.object = item.mesh;
    } else {
      item.marker = marker(node.kind);
      if (item.marker) item.object.add(item.marker.object);
      if (node.kind === 'sun') {
        const light = new THREE.DirectionalLight();
        light.castShadow = true;
        light.shadow.mapSize.set(2048, 2048);
        light.shadow.normalBias = 0.03;
        light.shadow.bias = -0.0015;
        const c = light.shadow.camera;
        [c.left, c.right, c.bottom, c.top, c.near, c.far] = [-14, 14, -14, 14, 1, 140];
        c.updateProjectionMatrix();
        this.scene.add(light, light.target);
        item.light = light;
      }
      if (node.kind === 'lamp') {
        item.light = makeLamp(item.form);
        item.object.add(item.light);
      }
    }
    item.object.matrixAutoUpdate = false;
    item.object.userData.id = node.id;
    this.items.set(node.id, item);
    this.scene.add(item.object);
    return item;
  }

  private drop(id: string, item: Item) {
    this.scene.remove(item.object);
    this.release(item);
    item.marker?.dispose();
    if (item.light instanceof THREE.DirectionalLight) this.scene.remove(item.light, item.light.target);
    item.light?.dispose();
    this.items.delete(id);
  }

  private release(item: Item) {
    const shared = this.geometries.get(item.version);
    if (shared && shared.geometry === item.mesh?.geometry) {
      if (--shared.users === 0) {
        shared.geometry.dispose();
        this.geometries.delete(item.version);
      }
    } else item.mesh?.geometry.dispose();
  }

  /** Shapes that are equal have the same version, and share what goes to the graphics card. */
  private reshape(node: NodeView, item: Item, frame: ShownFrame) {
    const version = frame.meshVersions[node.index];
    const known = this.geometries.get(version);
    if (known) {
      this.release(item);
      known.users++;
      item.mesh!.geometry = known.geometry;
      item.version = version;
      item.isEquipped = false;
      return;
    }
    const old = item.mesh!.geometry;
    const position = old.getAttribute('position') as THREE.BufferAttribute | undefined;
    const normal = old.getAttribute('normal') as THREE.BufferAttribute | undefined;
    const rest = frame.rest(node.index);
    const isShared = rest === version;
    // Only the vertices of the same triangles are others: they take the place of the old ones.
    const isOwn = !isShared && rest === item.rest && !this.geometries.has(item.version);
    const positions = frame.positions(node.index, isOwn ? (position?.array as Float32Array | undefined) : undefined);
    const normals = frame.normals(node.index, isOwn ? (normal?.array as Float32Array | undefined) : undefined);
    if (isOwn && position?.array === positions && normal?.array === normals) {
      position.needsUpdate = true;
      normal.needsUpdate = true;
    } else {
      this.release(item);
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
      geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3));
      const indices = frame.indices(node.index);
      geometry.setIndex(new THREE.BufferAttribute(indices, 1));
      const parts = frame.parts(node.index);
      // One part is drawn without a group: its material is the mesh's own.
      for (let i = 0; i < parts.length && parts.length > 1; i++)
        geometry.addGroup(3 * parts[i], (i + 1 < parts.length ? 3 * parts[i + 1] : indices.length) - 3 * parts[i], i);
      item.mesh!.geometry = geometry;
      item.rest = rest;
      if (isShared) this.geometries.set(version, { geometry, users: 1 });
    }
    item.isEquipped = false;
    item.mesh!.geometry.computeBoundingSphere();
    item.mesh!.geometry.computeBoundingBox();
    item.version = version;
  }

  private colour(owner: string, path: string, into: THREE.Color): THREE.Color {
    return into.setRGB(
      Math.max(0, this.number(owner, `${path}.r`)),
      Math.max(0, this.number(owner, `${path}.g`)),
      Math.max(0, this.number(owner, `${path}.b`)),
    );
  }

  private surface(id: string | null): StageSurface {
    if (!id) return this.grey;
    let surface = this.surfaces.get(id);
    if (!surface) this.surfaces.set(id, (surface = new StageSurface(this.pictures, this.lean)));
    return surface;
  }

  private shine(item: Item) {
    const id = item.object.userData.id as string;
    const read = (path: string) => (path === 'camera.fov' ? this.fieldOfView(id) : this.number(id, path));
    item.marker?.update(read, this.aspect, this.node(id)?.data ?? {});
    const { light } = item;
    if (!light) return;
    this.colour(id, 'light.color', light.color);
    this.heat(light.color, this.number(id, 'light.kelvin'));
    if (!(light instanceof THREE.DirectionalLight)) {
      setLamp(light, item.form, read, new THREE.Vector3().setFromMatrixScale(item.object.matrix));
      light.visible &&= item.object.visible;
      return;
    }
    const strength = Math.max(0, this.number(id, 'light.strength'));
    light.visible = item.object.visible && strength > 0;
    light.intensity = strength;
  }

  /** Gives a colour that of what glows by its heat, as the engine has it. */
  private heat(color: THREE.Color, kelvin: number) {
    if (!(kelvin > 0) || !this.frame) return;
    let glow = this.heats.get(kelvin);
    if (!glow) {
      if (this.heats.size > 256) this.heats.clear();
      this.heats.set(kelvin, (glow = new THREE.Color().fromArray(this.frame.blackBody(kelvin))));
    }
    color.multiply(glow);
  }

  /** Takes over the daylight where it has changed: with the sun, the haze, or the ground. */
  private daylight(strength: number): boolean {
    const around = this.shown?.skyPicture;
    if (around) {
      const turn = this.number('world', 'sky.turn');
      this.sky.surround(around, strength, turn, this.come);
      const key = [around.asset, this.sky.isSurrounded, strength, turn].join(' ');
      if (key === this.sunlit) return false;
      this.sunlit = key;
      this.overhead = null;
      return true;
    }
    const isOn = this.number('world', 'sky.physical') >= 0.5 && !!this.frame;
    const sun = isOn ? this.shown!.nodes.find((n) => n.kind === 'sun') : undefined;
    const matrix = sun ? [...this.frame!.matrices.slice(16 * sun.index + 8, 16 * sun.index + 11)] : [];
    const ground = ['r', 'g', 'b'].map((c) => this.number('world', `sky.ground.${c}`));
    const key = isOn ? [strength, this.number('world', 'sky.turbidity'), ...matrix, ...ground].join(' ') : '';
    if (key === this.sunlit) return false;
    this.sunlit = key;
    const pixels = isOn ? this.frame!.skyPicture() : null;
    this.sky.paint(pixels, strength);
    this.overhead = pixels ? new THREE.Color().fromArray(pixels, 3 * 128 * 20).multiplyScalar(strength) : null;
    return true;
  }

  private light() {
    const s = Math.max(0, this.number('world', 'sky.strength'));
    const top = this.colour('world', 'sky.top', new THREE.Color()).multiplyScalar(s);
    const horizon = this.colour('world', 'sky.horizon', new THREE.Color()).multiplyScalar(s);
    const ground = this.colour('world', 'sky.ground', new THREE.Color()).multiplyScalar(s);
    this.exposure = this.number('world', 'exposure');
    const daylight = this.daylight(s);
    if (this.lean) {
      this.sky.set(top, horizon, ground);
      this.hemisphere.color.copy(horizon).lerp(top, 0.8);
      this.hemisphere.groundColor.copy(horizon).lerp(ground, 0.9);
      if (this.overhead) this.hemisphere.color.copy(this.overhead);
      this.hemisphere.intensity = Math.PI;
    } else if (this.sky.set(top, horizon, ground) || daylight || !this.environment) {
      this.environment?.dispose();
      this.skyScene.add(this.sky.mesh);
      // What is mirrored is the sky, whatever the camera sees behind it all.
      const { plain } = this.sky.uniforms;
      plain.value.w = 0;
      this.environment = this.pmrem.fromScene(this.skyScene, 0, 0.1, 1000);
      this.scene.add(this.sky.mesh);
      this.scene.environment = this.environment.texture;
    }
    const behind = this.colour('world', 'background', new THREE.Color());
    const mode = { sky: 0, color: 1, transparent: 2 }[this.shown?.background ?? 'sky'];
    this.sky.uniforms.plain.value.set(behind.r, behind.g, behind.b, mode);
  }
}
