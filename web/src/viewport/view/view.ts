// A view of the scene: draws what the engine has evaluated and reports what a hand does; it works out nothing of the animation.
import * as THREE from 'three';
import type { NodeView, SceneView, ShownFrame } from '../../engine/engine';
import { frameOf, type Frame } from './cameras';
import type { Axes, HandleTool } from '../overlays/handles';
import type { Layout, Look, Shading } from '../../stores/viewState.svelte';
import { recall } from '../../widgets/kept';
import { Pane, partsOf } from './pane';
import { SceneMirror } from '../scene/mirror';
import { Bones } from '../overlays/bones';
import { Ghosts, type GhostPose } from '../overlays/ghosts';
import { Grid, MotionPath, Outlines, TracePaths } from '../overlays/overlays';
import type { Trace } from '../overlays/traces.svelte';
import { LastShown } from './lastShown';
import { MotionPictures } from './motionPictures';
import { Picking, type Region } from './picking';
import { drawsInSoftware, isSoftware, remember } from './software';

// The renderer's Display.Toned, so that the stage shows the tones of the final picture.
THREE.ShaderChunk.tonemapping_pars_fragment = THREE.ShaderChunk.tonemapping_pars_fragment.replace(
  'vec3 CustomToneMapping( vec3 color ) { return color; }',
  `vec3 CustomToneMapping( vec3 color ) {
    color = max( color * toneMappingExposure, 0.0 );
    vec2 ends = vec2( min( color.r, min( color.g, color.b ) ), max( color.r, max( color.g, color.b ) ) );
    vec2 z = max( ends - 0.8, 0.0 ) / 0.2;
    vec2 led = min( ends, 0.8 ) + 0.2 * z / ( 1.0 + z );
    return ends.y > ends.x ? led.x + ( color - ends.x ) * ( ( led.y - led.x ) / ( ends.y - ends.x ) ) : vec3( led.y );
  }`,
);

export interface StageEvents {
  pick(ids: string[], add: boolean): void;
  /** What of it a click takes. */
  target(node: NodeView): string;
  place(ids: string[], worlds: number[], commit: boolean): void;
  steered(world: number[]): void;
  /** A handle was taken; what is given ends, cancels or types into the drag. */
  dragBegun(hand: { commit(): void; cancel(): void; type(value: number | null): void }): void;
  dragMoved(readout: string): void;
  dragEnded(): void;
  /** The pointer has come to another view. */
  entered(pane: number): void;
}

/** There is one view for all phases: going from one to another changes nothing in it. */
export class StageView {
  readonly renderer: THREE.WebGLRenderer;
  readonly mirror: SceneMirror;
  /** What the stage puts into the page: the canvas, and over it the parts of its views. */
  readonly root = document.createElement('div');
  readonly panes: Pane[] = [];
  private active = 0;
  private parts: Layout = 1;
  private readonly grid = new Grid();
  private readonly outlines = new Outlines();
  private readonly path = new MotionPath();
  private readonly traces = new TracePaths();
  private readonly ghosts = new Ghosts();
  private readonly bones = new Bones();
  private readonly helpers = new THREE.Group();
  /** What lies under the pointer. */
  readonly picking: Picking;
  /** Small pictures of other frames. */
  readonly pictures: MotionPictures;
  private evaluated: ShownFrame | null = null;
  private shown: SceneView | null = null;
  private selected: string[] = [];
  private below: ReadonlySet<string> = new Set();
  private requested = 0;
  private lastDraw = 0;
  private showsGrid = true;
  private clean = false;
  private tool: [HandleTool, Axes] = ['move', 'world'];
  private readonly wires = new THREE.MeshBasicMaterial({
    color: 0x0d2a33,
    wireframe: true,
    transparent: true,
    opacity: 0.5,
    toneMapped: false,
  });
  /** Without a graphics card: fewer pixels while something moves, and no reflections of the sky. */
  private readonly lean: boolean;
  private settle = 0;
  private lastUpdate = -Infinity;
  private ratio = 1;
  private size = { width: 1, height: 1 };
  markers = true;
  private readonly last = new LastShown();
  /** Pictures drawn; for measuring. */
  drawn = 0;

  constructor(
    readonly canvas: HTMLCanvasElement,
    private readonly events: StageEvents,
  ) {
    const full = recall('bradymotus.fullStage') !== null;
    // Smoothing is chosen before the context can be asked what it draws with: the last answer stands.
    const antialias = full || !isSoftware();
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias, powerPreference: 'high-performance' });
    const software = drawsInSoftware(this.renderer.getContext());
    remember(software);
    this.lean = software && !full;
    this.renderer.toneMapping = THREE.CustomToneMapping;
    // Behind views along an axis, where no sky is.
    this.renderer.setClearColor(0x22363d);
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    this.mirror = new SceneMirror(new THREE.PMREMGenerator(this.renderer), this.lean, () => this.update(true));
    this.picking = new Picking(this.mirror, {
      paneAt: (x, y) => this.paneAt(x, y),
      rect: () => canvas.getBoundingClientRect(),
      scene: () => this.shown,
    });
    this.pictures = new MotionPictures(this.renderer, this.mirror, {
      cameras: () => this.cameras,
      shown: () => this.evaluated,
      compose: (camera, render) => this.compose(camera, false, render),
    });
    const { grid, outlines, path, traces, ghosts, bones } = this;
    this.helpers.add(grid.object, outlines.object, path.all, traces.object, ghosts.object, bones.object);
    this.mirror.scene.add(this.helpers);

    this.root.style.cssText = 'position:relative;width:100%;height:100%';
    Object.assign(canvas.style, { position: 'absolute', inset: '0' });
    this.root.append(canvas);
    this.pane(0).place({ x: 0, y: 0, width: 1, height: 1 });
    this.wires.polygonOffset = true;
    this.wires.polygonOffsetFactor = this.wires.polygonOffsetUnits = -1;

    canvas.addEventListener('webglcontextrestored', () => {
      this.mirror.forget();
      this.update(true);
    });
    this.watchRatio();
  }

  /** The cameras of the view that the pointer is in. */
  get cameras() {
    return this.panes[this.active].cameras;
  }

  get handles() {
    return (this.panes.find((p) => p.handles.dragging) ?? this.panes[this.active]).handles;
  }

  get cameraId() {
    return this.cameras.cameraId;
  }

  /** The view of a number; made when it is first asked for. */
  pane(i: number): Pane {
    while (this.panes.length <= i) this.panes.push(this.makePane());
    return this.panes[i];
  }

  private makePane(): Pane {
    const pane = new Pane(this.mirror, {
      moved: () => this.request(),
      steered: (world) => this.events.steered(world),
      entered: (entered) => this.enter(this.panes.indexOf(entered)),
      pointAt: (x, y, vertex, but) => this.picking.pointAt(x, y, vertex, but),
      handles: (own) => ({
        begin: () => {
          // A handle takes the hand from the view.
          own.cameras.enable(true);
          this.events.dragBegun({
            commit: () => own.handles.commit(),
            cancel: () => own.handles.cancel(),
            type: (value) => own.handles.type(value),
          });
        },
        place: (ids, worlds, commit, readout) => {
          if (!commit) this.events.dragMoved(readout);
          this.events.place(ids, worlds, commit);
        },
        end: () => {
          own.cameras.enable(false);
          this.events.dragEnded();
          this.attach();
          this.request();
        },
        changed: () => this.request(),
      }),
    });
    pane.handles.setTool(...this.tool);
    this.root.append(pane.element);
    this.mirror.scene.add(...pane.handles.objects);
    return pane;
  }

  /** Which view commands are for. Nothing changes hands while something is dragged. */
  private enter(i: number) {
    if (i < 0 || i === this.active || this.panes.some((p) => p.handles.dragging)) return;
    this.active = i;
    this.events.entered(i);
  }

  /** One view, two side by side or four; where there is one it is that of a number. */
  layOut(parts: Layout, only: number) {
    this.parts = parts;
    for (let i = 0; i < parts; i++) this.pane(i);
    this.active = parts === 1 ? only : Math.min(this.active, parts - 1);
    this.pane(this.active);
    this.arrange();
    this.attach();
    this.request();
  }

  private arrange() {
    const at = partsOf(this.parts, this.size.width, this.size.height);
    this.panes.forEach((pane, i) =>
      pane.place(this.parts === 1 ? (i === this.active ? at[0] : null) : (at[i] ?? null)),
    );
  }

  private get shownPanes() {
    return this.panes.filter((p) => p.shown);
  }

  /** What a view looks through or along, steered or locked, and how it draws. */
  look(i: number, look: Look, camera: string | null, steer: boolean, shading: Shading) {
    const pane = this.pane(i);
    pane.cameras.cameraId = look === 'camera' ? camera : null;
    pane.cameras.lookAlong(look === 'free' || look === 'camera' ? null : look);
    pane.cameras.steer = steer;
    pane.cameras.enable();
    pane.shading = shading;
    this.attach();
    this.request();
  }

  /** The left button turns or shifts the views where no handle and no object is in the way. */
  orbitWithLeft(on: boolean) {
    for (const { cameras } of this.panes) cameras.orbitWithLeft(on && (!cameras.cameraId || cameras.steer));
  }

  resize(width: number, height: number) {
    this.size = { width, height };
    this.ratio = Math.min(devicePixelRatio, 2);
    this.renderer.setPixelRatio(this.ratio);
    this.renderer.setSize(width, height, false);
    this.arrange();
    // At once: a canvas of another size is empty until it is drawn.
    this.draw();
    this.request();
  }

  set gridVisible(on: boolean) {
    this.showsGrid = on;
    this.request();
  }

  /** Without grid, markers, outlines and handles: the picture alone. */
  set cleanLook(on: boolean) {
    this.clean = on;
    this.request();
  }

  /** Where the free view stands, and how wide it sees. */
  seen(): { world: number[]; fov: number } {
    const { free } = this.cameras;
    free.updateMatrixWorld();
    return { world: free.matrixWorld.toArray(), fov: Math.round(free.fov * 100) / 100 };
  }

  /** Takes over a structure. Objects that are still there are kept. */
  setScene(evaluated: ShownFrame, scene: SceneView) {
    if (evaluated !== this.evaluated || scene !== this.shown) this.last.forget();
    this.evaluated = evaluated;
    this.shown = scene;
    this.mirror.setScene(scene);
  }

  /**
   * Shows the frame that the engine has evaluated.
   * @param anew Also where all its numbers are those that are shown.
   */
  update(anew = false) {
    if (!this.evaluated || !this.shown) return;
    if (!this.last.isOther(this.evaluated) && !anew) return;
    this.mirror.take(this.evaluated);
    this.renderer.shadowMap.needsUpdate = true;
    this.coarsen();
    this.outlines.update(this.mirror, new Set(this.selected), this.below);
    this.bones.update(this.mirror, new Set(this.selected));
    this.attach();
    this.request();
  }

  /** @param below The selected objects and all that hangs below them. */
  setSelection(ids: string[], below: ReadonlySet<string>) {
    this.selected = ids;
    this.below = below;
    this.outlines.update(this.mirror, new Set(ids), this.below);
    this.bones.update(this.mirror, new Set(ids));
    this.attach();
    this.request();
  }

  setTool(tool: HandleTool, axes: Axes) {
    this.tool = [tool, axes];
    for (const { handles } of this.panes) handles.setTool(tool, axes);
    this.request();
  }

  /** The motion path of an object with larger dots for keys; null takes it away. */
  setPath(points: number[] | null, keys: number[]) {
    if (this.path.set(points, keys)) this.request();
  }

  /** The motion paths of traced vertices. */
  setTraces(traces: Trace[]) {
    if (this.traces.set(traces)) this.request();
  }

  /** Where the traced vertices are on the shown frame. */
  setTraceMarks(points: number[]) {
    if (this.traces.mark(points)) this.request();
  }

  /** The motion paths of the other selected objects. */
  setOtherPaths(paths: number[][]) {
    if (this.path.setOthers(paths)) this.request();
  }

  /** The handles of a key on it, from the key to the end of each. */
  setPathHandles(handles: number[]) {
    if (this.path.setHandles(handles)) this.request();
  }

  /** Draws poses of the selection before and after the shown frame; none takes them away. */
  setGhosts(poses: GhostPose[], evaluate: (frame: number) => ShownFrame, fade: boolean) {
    const nodes = this.shown?.nodes.filter((n) => this.below.has(n.id)) ?? [];
    const none = poses.length === 0 || nodes.length === 0;
    if (none && this.ghosts.isEmpty) return;
    if (none) this.ghosts.clear();
    else this.ghosts.set(this.mirror, nodes, poses, evaluate, fade);
    this.request();
  }

  /** Moves the free view so that the selection, or everything, fills it. */
  fit() {
    const all =
      this.shown?.nodes
        .filter((n) => (this.mirror.items.get(n.id)?.mesh || n.kind === 'instance' || n.kind === 'repeat') && !n.locked)
        .map((n) => n.id) ?? [];
    this.cameras.fit(this.mirror.boxOf(this.below.size > 0 ? this.below : all));
  }

  /** Whether an object, or something above it, is selected. */
  isSelected(node: NodeView): boolean {
    return this.picking.chain(node).some((n) => this.selected.includes(n.id));
  }

  frameOf = (width: number, height: number, aspect: number): Frame => frameOf(width, height, aspect);

  /** Draws with the next animation frame. */
  request() {
    if (this.requested) return;
    this.requested = requestAnimationFrame(() => {
      this.requested = 0;
      const seconds = this.delta();
      const moving = this.shownPanes.map((p) => p.cameras.update(seconds)).some((m) => m);
      this.draw();
      if (moving) this.request();
    });
  }

  /** What a click means: the object under it, or nothing. */
  pickAt(x: number, y: number, add: boolean) {
    const node = this.picking.nodesAt(x, y)[0];
    this.events.pick(node ? [this.events.target(node)] : [], add);
  }

  /** The point below a point of the page on the plane through a point of the world that faces the eye. */
  onPlane = (x: number, y: number, through: [number, number, number]) => this.picking.onPlane(x, y, through);

  /** The objects that a box drawn on the page touches are picked. */
  pickIn(box: Region, add: boolean) {
    this.events.pick(this.picking.touched(box), add);
  }

  /** What one looks at: a point in the middle of the view, in the world. */
  lookedAt(): [number, number, number] {
    return this.cameras.target().toArray();
  }

  /** Shows nothing but some objects and what gives light; null shows all. */
  isolate(ids: ReadonlySet<string> | null) {
    if (this.mirror.only === ids) return;
    this.mirror.only = ids;
    this.update(true);
  }

  /** Where a world point lies in the page; for tests and overlays. */
  project(x: number, y: number, z: number): { x: number; y: number } {
    const rect = this.canvas.getBoundingClientRect();
    const pane = this.panes[this.active];
    const p = new THREE.Vector3(x, y, z).project(pane.camera());
    return {
      x: rect.left + pane.x + ((p.x + 1) / 2) * pane.width,
      y: rect.top + pane.y + ((1 - p.y) / 2) * pane.height,
    };
  }

  /** The view below a point of the page, and the point in it: −1 to 1, y up. */
  private paneAt(x: number, y: number): { pane: Pane; point: THREE.Vector2 } {
    const rect = this.canvas.getBoundingClientRect();
    const [px, py] = [x - rect.left, y - rect.top];
    const pane =
      this.shownPanes.find((p) => px >= p.x && px < p.x + p.width && py >= p.y && py < p.y + p.height) ??
      this.panes[this.active];
    const point = new THREE.Vector2(((px - pane.x) / pane.width) * 2 - 1, 1 - ((py - pane.y) / pane.height) * 2);
    return { pane, point };
  }

  private attach() {
    const chosen = new Set(this.selected);
    for (const { handles, cameras } of this.shownPanes)
      handles.attach(
        this.selected.filter((id) => {
          const node = this.mirror.node(id);
          if (!node || this.picking.lockedAbove(node)) return false;
          // What hangs below another selected object moves with it.
          return id !== cameras.cameraId && !this.picking.chain(node).some((n) => n !== node && chosen.has(n.id));
        }),
      );
  }

  /** Coarse while frames follow each other, sharp again when they stop. */
  private coarsen() {
    if (!this.lean) return;
    const now = performance.now();
    const follows = now - this.lastUpdate < 300;
    this.lastUpdate = now;
    if (!follows) return;
    this.setRatio(0.5);
    clearTimeout(this.settle);
    this.settle = window.setTimeout(() => {
      this.setRatio(1);
      this.draw();
    }, 400);
  }

  private setRatio(factor: number) {
    const ratio = Math.min(devicePixelRatio, 2) * factor;
    if (ratio === this.ratio) return;
    this.ratio = ratio;
    this.renderer.setPixelRatio(ratio);
  }

  /** A window that goes to another screen may have other pixels there. */
  private watchRatio() {
    if (typeof matchMedia !== 'function') return;
    matchMedia(`(resolution: ${devicePixelRatio}dppx)`).addEventListener(
      'change',
      () => {
        this.resize(this.size.width, this.size.height);
        this.watchRatio();
      },
      { once: true },
    );
  }

  private delta(): number {
    const now = performance.now();
    const seconds = Math.min(0.1, (now - this.lastDraw) / 1000);
    this.lastDraw = now;
    return seconds;
  }

  private draw() {
    if (!this.shown || this.canvas.clientWidth === 0) return;
    const panes = this.shownPanes;
    const single = panes.length === 1;
    this.renderer.setScissorTest(!single);
    for (const pane of panes) {
      const camera = pane.camera();
      pane.handles.camera = camera;
      // From the lower left, as graphics cards count.
      const bottom = this.size.height - pane.y - pane.height;
      this.renderer.setViewport(pane.x, bottom, pane.width, pane.height);
      this.renderer.setScissor(pane.x, bottom, pane.width, pane.height);
      this.compose(camera, !this.clean, () => this.shade(pane, camera), pane);
    }
    if (this.drawn++ === 0) performance.mark('stage drawn');
  }

  /** Draws one view in its way. */
  private shade(pane: Pane, camera: THREE.Camera) {
    const { scene } = this.mirror;
    const draw = () => this.renderer.render(scene, camera);
    if (pane.shading === 'lines' || pane.shading === 'flat') return this.mirror.drawnAs(pane.shading, draw);
    draw();
    if (pane.shading !== 'edges') return;
    // The edges once more, over what is there.
    const hidden: THREE.Object3D[] = [this.helpers, this.mirror.sky.mesh, ...this.panes.map((p) => p.handles.helper)];
    for (const item of this.mirror.items.values()) if (item.marker) hidden.push(item.marker.object);
    const were = hidden.map((o) => o.visible);
    for (const o of hidden) o.visible = false;
    scene.overrideMaterial = this.wires;
    this.renderer.autoClear = false;
    draw();
    this.renderer.autoClear = true;
    scene.overrideMaterial = null;
    hidden.forEach((o, i) => (o.visible = were[i]));
  }

  /** Shows or hides what is not part of the picture, and draws. */
  private compose(camera: THREE.Camera, helpers: boolean, render: () => void, pane = this.panes[this.active]) {
    this.helpers.visible = helpers;
    const { cameraId } = pane.cameras;
    // Through a camera of the shot the picture is seen as it will be rendered.
    this.grid.object.visible = this.showsGrid && !cameraId;
    this.grid.stand(pane.cameras.axis, pane.cameras.target());
    const gizmos = this.panes.map((p) => [p.handles.helper, p.handles.helper.visible] as const);
    for (const [gizmo, shown] of gizmos) gizmo.visible = shown && helpers && gizmo === pane.handles.helper;
    for (const [id, item] of this.mirror.items)
      if (item.marker) item.marker.object.visible = helpers && this.markers && id !== cameraId && this.mirror.shows(id);
    this.mirror.sky.mesh.position.copy(camera.position);
    this.mirror.sky.mesh.visible = !pane.cameras.axis;
    this.mirror.centreShadows(pane.cameras.target());
    this.renderer.toneMappingExposure = 2 ** this.mirror.exposure;
    render();
    for (const [gizmo, shown] of gizmos) gizmo.visible = shown;
    this.mirror.sky.mesh.visible = true;
  }
}
