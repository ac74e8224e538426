// The 3D view. It draws what the engine has evaluated and reports what a hand does; it works out nothing of the animation.
import CameraControls from 'camera-controls';
import * as THREE from 'three';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import { addressOf, type NodeView, type SceneView, type ShownFrame } from '../engine/engine';
import { marker } from './markers';
import { SmallPictures } from './smallPictures';
import { SkyDome } from './sky';

CameraControls.install({ THREE });

// The renderer's Display.Shoulder, so that the stage shows the tones of the final picture.
THREE.ShaderChunk.tonemapping_pars_fragment = THREE.ShaderChunk.tonemapping_pars_fragment.replace(
  'vec3 CustomToneMapping( vec3 color ) { return color; }',
  `vec3 CustomToneMapping( vec3 color ) {
    color = max( color * toneMappingExposure, 0.0 );
    vec3 z = max( color - 0.8, 0.0 ) / 0.2;
    return min( color, 0.8 ) + 0.2 * z / ( 1.0 + z );
  }`,
);

/** Whether the browser has no graphics card to draw with. */
function drawsInSoftware(gl: WebGLRenderingContext | WebGL2RenderingContext): boolean {
  const info = gl.getExtension('WEBGL_debug_renderer_info');
  return /swiftshader|llvmpipe|software|basic render/i.test(
    info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '',
  );
}

export interface StageEvents {
  pick(id: string | null, add: boolean): void;
  place(ids: string[], worlds: number[], commit: boolean): void;
  steered(world: number[]): void;
}

interface Item {
  object: THREE.Object3D;
  mesh: THREE.Mesh | null;
  light: THREE.DirectionalLight | THREE.PointLight | null;
  version: number;
  kind: NodeView['kind'];
  shape: unknown;
  material: string | null;
}

/** There is one view for all phases: going from one to another changes nothing in it. */
export class StageView {
  readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly sky = new SkyDome();
  private readonly skyScene = new THREE.Scene();
  private readonly pmrem: THREE.PMREMGenerator;
  private readonly helpers = new THREE.Group();
  private readonly grid = new THREE.GridHelper(40, 40, 0x8a9aa0, 0x55666c);
  private readonly free = new THREE.PerspectiveCamera(40, 1, 0.05, 1200);
  private readonly through = new THREE.PerspectiveCamera(40, 1, 0.05, 1200);
  private readonly parallel = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.05, 1200);
  private readonly controls: CameraControls;
  private readonly gizmo: TransformControls;
  private readonly proxy = new THREE.Object3D();
  private readonly items = new Map<string, Item>();
  private readonly materials = new Map<string, THREE.MeshStandardMaterial>();
  private readonly outlines = new THREE.Group();
  private readonly trail = new THREE.Group();
  private lastDraw = 0;
  private shown: SceneView | null = null;
  private evaluated: ShownFrame | null = null;
  private byId = new Map<string, NodeView>();
  /** Where the channels that the stage itself reads stand among the values. */
  private places = new Map<string, number>();
  private selected: string[] = [];
  private startWorlds: THREE.Matrix4[] = [];
  private requested = 0;
  private environment: THREE.WebGLRenderTarget | null = null;
  private steering = false;
  /** Without a graphics card: fewer pixels while something moves, and no reflections of the sky. */
  private readonly lean: boolean;
  private readonly hemisphere = new THREE.HemisphereLight(0xffffff, 0xffffff, 0);
  private small: SmallPictures | null = null;
  private settle = 0;
  private ratio = 1;
  /** The camera looked through, or null for the free view. */
  cameraId: string | null = null;
  steer = false;
  markers = true;
  /** Pictures drawn; for measuring. */
  drawn = 0;

  constructor(
    readonly canvas: HTMLCanvasElement,
    private readonly events: StageEvents,
  ) {
    const full = localStorage.getItem('bradymotus.fullStage') !== null;
    // Smoothing is chosen before the context can be asked what it draws with: the last answer stands.
    const antialias = full || localStorage.getItem('bradymotus.software') !== 'yes';
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias, powerPreference: 'high-performance' });
    const software = drawsInSoftware(this.renderer.getContext());
    localStorage.setItem('bradymotus.software', software ? 'yes' : 'no');
    this.lean = software && !full;
    this.renderer.toneMapping = THREE.CustomToneMapping;
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.pmrem = new THREE.PMREMGenerator(this.renderer);
    this.renderer.shadowMap.autoUpdate = false;
    this.scene.add(this.sky.mesh, this.helpers, this.trail, this.hemisphere);
    (this.grid.material as THREE.Material).transparent = true;
    (this.grid.material as THREE.Material).opacity = 0.3;
    // A ground at height 0 must not flicker through it.
    this.grid.position.y = 0.004;
    this.helpers.add(this.grid, this.outlines);

    this.free.position.set(5, 3.5, 9);
    this.controls = new CameraControls(this.free, canvas);
    this.controls.setTarget(0, 0.8, 0);
    this.controls.smoothTime = 0.06;
    this.controls.draggingSmoothTime = 0.03;
    this.controls.mouseButtons.left = CameraControls.ACTION.NONE;
    this.controls.mouseButtons.middle = CameraControls.ACTION.TRUCK;
    this.controls.mouseButtons.right = CameraControls.ACTION.ROTATE;
    this.controls.dollyToCursor = true;
    this.controls.addEventListener('controlend', () => this.finishSteering());
    this.controls.addEventListener('control', () => this.request());

    this.gizmo = new TransformControls(this.free, canvas);
    this.gizmo.size = 0.9;
    this.scene.add(this.proxy, this.gizmo.getHelper());
    this.gizmo.addEventListener('mouseDown', () => this.beginDrag());
    this.gizmo.addEventListener('objectChange', () => this.drag(false));
    this.gizmo.addEventListener('mouseUp', () => this.drag(true));
    this.gizmo.addEventListener('change', () => this.request());
    // A handle takes the hand from the view.
    this.gizmo.addEventListener(
      'dragging-changed',
      (e) => (this.controls.enabled = !e.value && (!this.cameraId || this.steer)),
    );
    this.gizmo.enabled = false;
    this.gizmo.getHelper().visible = false;
  }

  resize(width: number, height: number) {
    this.ratio = Math.min(devicePixelRatio, 2);
    this.renderer.setPixelRatio(this.ratio);
    this.renderer.setSize(width, height, false);
    this.request();
  }

  /** The left button turns the view where no handle and no object is in the way. */
  orbitWithLeft(on: boolean) {
    this.controls.mouseButtons.left = on ? CameraControls.ACTION.ROTATE : CameraControls.ACTION.NONE;
  }

  set gridVisible(on: boolean) {
    this.grid.visible = on;
    this.request();
  }

  /** Takes over a structure. Objects that are still there are kept. */
  setScene(evaluated: ShownFrame, scene: SceneView) {
    this.evaluated = evaluated;
    const before = this.shown;
    this.shown = scene;
    // While only keys change, the structure stays the same array.
    if (scene.nodes === before?.nodes) return;
    this.byId = new Map(scene.nodes.map((n) => [n.id, n]));
    this.places = new Map(scene.channels.filter((c) => c.family === 'look').map((c) => [addressOf(c), c.index]));
    for (const [id, item] of this.items) if (this.byId.get(id)?.kind !== item.kind) this.drop(id, item);
    for (const m of this.materials.keys()) {
      if (!scene.materials.some((x) => x.id === m)) this.materials.delete(m);
    }
    for (const node of scene.nodes) {
      const item = this.items.get(node.id) ?? this.make(node);
      const material = (node.data.material as string | undefined) ?? null;
      if (item.mesh && item.material !== material) {
        item.material = material;
        item.mesh.material = this.material(material);
      }
    }
  }

  /** Shows the frame that the engine has evaluated. */
  update() {
    if (!this.evaluated || !this.shown) return;
    this.take();
    this.sharpen();
    this.outline();
    this.request();
  }

  /** Puts everything where the evaluated frame has it. */
  private take() {
    const { evaluated, shown } = this;
    if (!evaluated || !shown) return;
    for (const node of shown.nodes) {
      const item = this.items.get(node.id)!;
      item.object.matrix.fromArray(evaluated.matrices, 16 * node.index);
      item.object.matrixWorldNeedsUpdate = true;
      item.object.visible = evaluated.seen[node.index] === 1;
      if (item.mesh && evaluated.meshVersions[node.index] !== item.version && item.object.visible)
        this.reshape(node, item);
      if (item.light) this.shine(node, item);
    }
    for (const [id, material] of this.materials) this.paint(id, material);
    this.renderer.shadowMap.needsUpdate = true;
    this.light();
  }

  setSelection(ids: string[]) {
    this.selected = ids;
    this.update();
  }

  setTool(tool: 'pick' | 'move' | 'turn' | 'scale') {
    this.gizmo.setMode(tool === 'turn' ? 'rotate' : tool === 'scale' ? 'scale' : 'translate');
    this.gizmo.setSpace(tool === 'scale' || tool === 'turn' ? 'local' : 'world');
    this.gizmo.enabled = tool !== 'pick';
    this.attach();
  }

  snap(on: boolean) {
    this.gizmo.translationSnap = on ? 0.1 : null;
    this.gizmo.rotationSnap = on ? Math.PI / 36 : null;
    this.gizmo.scaleSnap = on ? 0.05 : null;
  }

  /** The way of an object with a dot for every frame, larger for keys; null takes it away. */
  setTrail(points: number[] | null, keys: number[]) {
    for (const child of this.trail.children) (child as THREE.Points).geometry.dispose();
    this.trail.clear();
    if (points && points.length > 3) {
      const line = new THREE.BufferGeometry();
      line.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
      const big = new THREE.BufferGeometry();
      big.setAttribute('position', new THREE.Float32BufferAttribute(keys, 3));
      const flat = { color: 0xff7a66, toneMapped: false, depthTest: false, transparent: true };
      this.trail.add(
        new THREE.Line(line, new THREE.LineBasicMaterial({ ...flat, opacity: 0.5 })),
        new THREE.Points(line, new THREE.PointsMaterial({ ...flat, size: 4, sizeAttenuation: false, opacity: 0.9 })),
        new THREE.Points(big, new THREE.PointsMaterial({ ...flat, color: 0xf3e9d8, size: 9, sizeAttenuation: false })),
      );
    }
    this.request();
  }

  /** Moves the free view so that the selection, or everything, fills it. */
  fit() {
    const box = new THREE.Box3();
    const ids = this.selected.length > 0 ? this.family(this.selected) : null;
    for (const [id, item] of this.items) {
      if (item.mesh && item.object.visible && (ids ? ids.has(id) : !this.node(id)?.locked))
        box.expandByObject(item.mesh);
    }
    for (const id of this.selected)
      box.expandByPoint(new THREE.Vector3().setFromMatrixPosition(this.items.get(id)!.object.matrix));
    if (box.isEmpty()) return;
    const sphere = box.getBoundingSphere(new THREE.Sphere());
    sphere.radius = Math.max(0.4, sphere.radius * 1.15);
    void this.controls.fitToSphere(sphere, true);
    this.request();
  }

  /** Small pictures of frames, without helpers, for as long as the time given allows (one at the least). */
  thumbnails(evaluate: (frame: number) => void, frames: number[], shown: number, width: number, height: number) {
    this.small ??= new SmallPictures(this.renderer, width, height);
    const made: string[] = [];
    const start = performance.now();
    for (const frame of frames) {
      evaluate(frame);
      this.take();
      const camera = this.camera(width, height, 1);
      this.compose(camera, false, () => made.push(this.small!.take(this.scene, camera)));
      if (performance.now() - start > 60) break;
    }
    // The stage itself has not been drawn: it only has to stand as it did.
    evaluate(shown);
    this.take();
    return made;
  }

  /** The part of the view that is rendered, in the pixels given: all of the frame fits in. */
  frameOf(width: number, height: number, aspect: number, margin = 0.94) {
    let w = width * margin;
    let h = w / aspect;
    if (h > height * margin) {
      h = height * margin;
      w = h * aspect;
    }
    return { x: (width - w) / 2, y: (height - h) / 2, width: w, height: h };
  }

  /** Coarse while frames follow each other, sharp again when they stop. */
  private sharpen() {
    if (!this.lean) return;
    this.setRatio(0.5);
    clearTimeout(this.settle);
    this.settle = window.setTimeout(() => {
      this.setRatio(1);
      this.request();
    }, 400);
  }

  private setRatio(factor: number) {
    const ratio = Math.min(devicePixelRatio, 2) * factor;
    if (ratio === this.ratio) return;
    this.ratio = ratio;
    this.renderer.setPixelRatio(ratio);
  }

  private delta(): number {
    const now = performance.now();
    const seconds = Math.min(0.1, (now - this.lastDraw) / 1000);
    this.lastDraw = now;
    return seconds;
  }

  /** Draws with the next animation frame. */
  request() {
    if (this.requested) return;
    this.requested = requestAnimationFrame(() => {
      this.requested = 0;
      const moving = this.controls.update(this.delta());
      if (moving && this.steering) this.reportSteering(false);
      this.draw();
      if (moving) this.request();
    });
  }

  pickAt(x: number, y: number, add: boolean) {
    if (this.gizmo.axis) return;
    const rect = this.canvas.getBoundingClientRect();
    const ray = new THREE.Raycaster();
    const point = new THREE.Vector2(((x - rect.left) / rect.width) * 2 - 1, 1 - ((y - rect.top) / rect.height) * 2);
    ray.setFromCamera(point, this.camera());
    ray.params.Line.threshold = 0.02;
    const targets = [...this.items.values()].filter((i) => i.object.visible).map((i) => i.object);
    for (const hit of ray.intersectObjects(targets, true)) {
      let object: THREE.Object3D | null = hit.object;
      while (object && !object.userData.id) object = object.parent;
      const id = object?.userData.id as string | undefined;
      if (!id || id === this.cameraId || (hit.object as THREE.LineSegments).isLineSegments) continue;
      const node = this.node(id);
      if (!node || this.lockedAbove(node)) continue;
      return this.events.pick(this.pickTarget(node), add);
    }
    this.events.pick(null, add);
  }

  /** Where a world point lies in the page; for tests and overlays. */
  project(x: number, y: number, z: number): { x: number; y: number } {
    const rect = this.canvas.getBoundingClientRect();
    const p = new THREE.Vector3(x, y, z).project(this.camera());
    return { x: rect.left + ((p.x + 1) / 2) * rect.width, y: rect.top + ((1 - p.y) / 2) * rect.height };
  }

  private node = (id: string) => this.byId.get(id);

  private lockedAbove(node: NodeView): boolean {
    for (let n: NodeView | undefined = node; n; n = n.parent ? this.node(n.parent) : undefined)
      if (n.locked) return true;
    return false;
  }

  // A click takes the topmost group, since that carries the motion; a second click goes down to what was clicked.
  private pickTarget(node: NodeView): string {
    const chain = [node];
    for (let n = node; n.parent;) {
      n = this.node(n.parent)!;
      chain.unshift(n);
    }
    const at = chain.findIndex((n) => this.selected.includes(n.id));
    return at >= 0 && at < chain.length - 1 ? chain[at + 1].id : at === chain.length - 1 ? chain[at].id : chain[0].id;
  }

  private family(ids: string[]): Set<string> {
    const all = new Set(ids);
    for (let before = -1; before !== all.size;) {
      before = all.size;
      for (const n of this.shown!.nodes) if (n.parent && all.has(n.parent)) all.add(n.id);
    }
    return all;
  }

  private make(node: NodeView): Item {
    const item: Item = {
      object: new THREE.Group(),
      mesh: null,
      light: null,
      version: -1,
      kind: node.kind,
      shape: null,
      material: null,
    };
    if (node.kind === 'mesh') {
      item.mesh = new THREE.Mesh(new THREE.BufferGeometry(), this.material(null));
      item.mesh.castShadow = item.mesh.receiveShadow = true;
      item.object = item.mesh;
      item.material = '';
    } else {
      const mark = marker(node.kind);
      if (mark) {
        mark.userData.marker = true;
        item.object.add(mark);
      }
      if (node.kind === 'sun') {
        const light = new THREE.DirectionalLight();
        light.position.set(0, 0, 0);
        light.target.position.set(0, 0, -1);
        light.castShadow = true;
        light.shadow.mapSize.set(2048, 2048);
        light.shadow.normalBias = 0.03;
        light.shadow.bias = -0.0015;
        this.scene.add(light, light.target);
        item.light = light;
      }
      if (node.kind === 'lamp') {
        item.light = new THREE.PointLight(0xffffff, 1, 0, 2);
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
    item.mesh?.geometry.dispose();
    if (item.light instanceof THREE.DirectionalLight) this.scene.remove(item.light, item.light.target);
    item.light?.dispose();
    this.items.delete(id);
  }

  private reshape(node: NodeView, item: Item) {
    const geometry = item.mesh!.geometry;
    const position = geometry.getAttribute('position') as THREE.BufferAttribute | undefined;
    const normal = geometry.getAttribute('normal') as THREE.BufferAttribute | undefined;
    const positions = this.evaluated!.positions(node.index, position?.array as Float32Array | undefined);
    const normals = this.evaluated!.normals(node.index, normal?.array as Float32Array | undefined);
    if (position && position.array === positions && item.shape === JSON.stringify(node.data.shape)) {
      position.needsUpdate = true;
      normal!.needsUpdate = true;
    } else {
      item.shape = JSON.stringify(node.data.shape);
      geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
      geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3));
      geometry.setIndex(new THREE.BufferAttribute(this.evaluated!.indices(node.index), 1));
    }
    geometry.computeBoundingSphere();
    geometry.computeBoundingBox();
    item.version = this.evaluated!.meshVersions[node.index];
  }

  private number = (owner: string, path: string) =>
    this.evaluated?.values[this.places.get(`${owner}/${path}`) ?? -1] ?? 0;

  private colour(owner: string, path: string, into: THREE.Color): THREE.Color {
    return into.setRGB(
      Math.max(0, this.number(owner, `${path}.r`)),
      Math.max(0, this.number(owner, `${path}.g`)),
      Math.max(0, this.number(owner, `${path}.b`)),
    );
  }

  private material(id: string | null): THREE.MeshStandardMaterial {
    const key = id ?? '';
    let material = this.materials.get(key);
    if (!material) {
      material = new THREE.MeshStandardMaterial({ color: 0xcccccc, roughness: 0.6 });
      if (id) this.materials.set(key, material);
    }
    return material;
  }

  private paint(id: string, material: THREE.MeshStandardMaterial) {
    if (!id) return;
    this.colour(id, 'look.color', material.color);
    material.roughness = Math.max(0.05, this.number(id, 'look.roughness'));
    material.metalness = this.number(id, 'look.metallic');
    material.emissive.copy(material.color);
    material.emissiveIntensity = Math.max(0, this.number(id, 'look.emission'));
    const opacity = this.number(id, 'look.opacity');
    if (material.transparent !== opacity < 1) {
      material.transparent = opacity < 1;
      material.needsUpdate = true;
    }
    material.opacity = opacity;
  }

  private shine(node: NodeView, item: Item) {
    const light = item.light!;
    this.colour(node.id, 'light.color', light.color);
    const strength = Math.max(0, this.number(node.id, 'light.strength'));
    light.visible = item.object.visible && strength > 0;
    if (light instanceof THREE.DirectionalLight) {
      light.intensity = strength;
      // Shadows are sharp round what the view shows.
      const centre = this.controls.getTarget(new THREE.Vector3());
      const back = new THREE.Vector3().setFromMatrixColumn(item.object.matrix, 2).normalize();
      light.target.position.copy(centre);
      light.position.copy(centre).addScaledVector(back, 60);
      const c = light.shadow.camera;
      if (c.right !== 14) {
        [c.left, c.right, c.bottom, c.top, c.near, c.far] = [-14, 14, -14, 14, 1, 140];
        c.updateProjectionMatrix();
      }
    } else {
      // Watts to candela.
      light.intensity = strength / (4 * Math.PI);
    }
  }

  private light() {
    const s = Math.max(0, this.number('world', 'sky.strength'));
    const top = this.colour('world', 'sky.top', new THREE.Color()).multiplyScalar(s);
    const horizon = this.colour('world', 'sky.horizon', new THREE.Color()).multiplyScalar(s);
    const ground = this.colour('world', 'sky.ground', new THREE.Color()).multiplyScalar(s);
    this.renderer.toneMappingExposure = 2 ** this.number('world', 'exposure');
    if (this.lean) {
      this.sky.set(top, horizon, ground);
      this.hemisphere.color.copy(horizon).lerp(top, 0.8);
      this.hemisphere.groundColor.copy(horizon).lerp(ground, 0.9);
      this.hemisphere.intensity = Math.PI;
    } else if (this.sky.set(top, horizon, ground) || !this.environment) {
      this.environment?.dispose();
      this.skyScene.add(this.sky.mesh);
      this.environment = this.pmrem.fromScene(this.skyScene, 0, 0.1, 1000);
      this.scene.add(this.sky.mesh);
      this.scene.environment = this.environment.texture;
    }
  }

  private outline() {
    for (const holder of this.outlines.children) (holder.children[0] as THREE.Box3Helper).dispose();
    this.outlines.clear();
    const shown = this.family(this.selected);
    for (const id of shown) {
      const item = this.items.get(id);
      if (!item?.mesh?.geometry.boundingBox || !item.object.visible) continue;
      const box = new THREE.Box3Helper(item.mesh.geometry.boundingBox, new THREE.Color(0xff7a66));
      const holder = new THREE.Group();
      holder.matrixAutoUpdate = false;
      holder.matrix.copy(item.object.matrix);
      holder.add(box);
      const material = box.material as THREE.LineBasicMaterial;
      material.toneMapped = false;
      material.transparent = true;
      material.opacity = this.selected.includes(id) ? 0.9 : 0.35;
      this.outlines.add(holder);
    }
    this.attach();
  }

  private movable(): string[] {
    const chosen = new Set(this.selected);
    return this.selected.filter((id) => {
      const node = this.node(id);
      if (!node || this.lockedAbove(node)) return false;
      // What hangs below another selected object moves with it.
      for (let n = node.parent ? this.node(node.parent) : undefined; n; n = n.parent ? this.node(n.parent) : undefined)
        if (chosen.has(n.id)) return false;
      return id !== this.cameraId;
    });
  }

  private attach() {
    if (this.gizmo.dragging) return;
    const ids = this.movable();
    const on = this.gizmo.enabled && ids.length > 0;
    if (on) {
      const item = this.items.get(ids[ids.length - 1])!;
      item.object.matrix.decompose(this.proxy.position, this.proxy.quaternion, this.proxy.scale);
      this.proxy.updateMatrixWorld();
      if (this.gizmo.object !== this.proxy) this.gizmo.attach(this.proxy);
    } else if (this.gizmo.object) {
      this.gizmo.detach();
    }
    this.gizmo.getHelper().visible = on;
  }

  private beginDrag() {
    this.startWorlds = this.movable().map((id) => this.items.get(id)!.object.matrix.clone());
    this.proxy.updateMatrix();
    this.proxy.userData.start = this.proxy.matrix.clone();
  }

  private drag(commit: boolean) {
    if (!this.proxy.userData.start) return;
    this.proxy.updateMatrix();
    const ids = this.movable();
    const change = this.proxy.matrix.clone().multiply((this.proxy.userData.start as THREE.Matrix4).clone().invert());
    const worlds = ids.flatMap((_, i) =>
      // The one that holds the handles goes where they are; the others do as it does.
      (i === ids.length - 1 ? this.proxy.matrix : change.clone().multiply(this.startWorlds[i])).toArray(),
    );
    if (commit) {
      this.proxy.userData.start = null;
    }
    this.events.place(ids, worlds, commit);
  }

  /** The camera for a view of this size; with a margin of 1 what is rendered fills it. */
  private camera(
    width = this.canvas.clientWidth,
    height = this.canvas.clientHeight,
    margin = 0.94,
  ): THREE.PerspectiveCamera | THREE.OrthographicCamera {
    const node = this.cameraId ? this.node(this.cameraId) : undefined;
    const aspect = width / Math.max(1, height);
    if (!node || !this.shown) {
      if (this.free.aspect !== aspect) {
        this.free.aspect = aspect;
        this.free.updateProjectionMatrix();
      }
      return this.free;
    }
    // The rendered frame keeps its field of view; the view around it sees more.
    const frame = this.frameOf(width, height, this.shown.width / this.shown.height, margin);
    const more = height / frame.height;
    const isParallel = node.data.projection === 'orthographic';
    const camera = isParallel ? this.parallel : this.through;
    if (camera instanceof THREE.PerspectiveCamera) {
      const half = Math.tan((Math.min(170, Math.max(1, this.number(node.id, 'camera.fov'))) * Math.PI) / 360);
      camera.fov = (Math.atan(half * more) * 360) / Math.PI;
      camera.aspect = aspect;
    } else {
      const half = (this.number(node.id, 'camera.height') / 2) * more;
      [camera.top, camera.bottom, camera.left, camera.right] = [half, -half, -half * aspect, half * aspect];
    }
    camera.updateProjectionMatrix();
    if (this.steering && camera instanceof THREE.PerspectiveCamera) {
      camera.position.copy(this.free.position);
      camera.quaternion.copy(this.free.quaternion);
    } else {
      const scale = new THREE.Vector3();
      this.items.get(node.id)!.object.matrix.decompose(camera.position, camera.quaternion, scale);
    }
    camera.updateMatrixWorld();
    return camera;
  }

  private draw() {
    if (!this.shown || this.canvas.clientWidth === 0) return;
    const camera = this.camera();
    this.gizmo.camera = camera;
    if (!this.gizmo.dragging) this.controls.enabled = !this.cameraId || this.steer;
    this.compose(camera, true, () => this.renderer.render(this.scene, camera));
    if (this.drawn++ === 0) performance.mark('stage drawn');
  }

  /** Shows or hides what is not part of the picture, and draws. */
  private compose(camera: THREE.Camera, helpers: boolean, render: () => void) {
    this.helpers.visible = this.trail.visible = helpers;
    const gizmo = this.gizmo.getHelper();
    const gizmoShown = gizmo.visible;
    gizmo.visible = gizmoShown && helpers;
    for (const [id, item] of this.items) {
      for (const child of item.object.children)
        if (child.userData.marker) child.visible = helpers && this.markers && id !== this.cameraId;
    }
    this.sky.mesh.position.copy(camera.position);
    render();
    gizmo.visible = gizmoShown;
  }

  /** Puts the free camera where the camera looked through stands, so that moving the view moves it. */
  beginSteering() {
    if (!this.cameraId || !this.steer || this.steering) return;
    const item = this.items.get(this.cameraId);
    if (!item) return;
    const [position, rotation, scale] = [new THREE.Vector3(), new THREE.Quaternion(), new THREE.Vector3()];
    item.object.matrix.decompose(position, rotation, scale);
    const ahead = new THREE.Vector3(0, 0, -6).applyQuaternion(rotation).add(position);
    void this.controls.setLookAt(position.x, position.y, position.z, ahead.x, ahead.y, ahead.z, false);
    this.controls.update(0);
    this.steering = true;
  }

  private reportSteering(commit: boolean) {
    this.free.updateMatrixWorld();
    const world = this.free.matrixWorld.toArray();
    if (commit) this.events.steered(world);
  }

  private finishSteering() {
    if (!this.steering) return;
    this.controls.update(10);
    this.reportSteering(true);
    this.steering = false;
    this.request();
  }
}
