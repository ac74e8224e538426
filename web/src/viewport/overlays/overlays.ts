// What is drawn over the scene and is not part of the picture. Each overlay is a small thing that adds itself to a group.
import type { Trace } from './traces.svelte';
import * as THREE from 'three';
import type { SceneMirror } from '../scene/mirror';

const CORAL = 0xff7a66;

/** Lines on the ground. They stand in the scene like everything else, and fade out far away. */
export class Grid {
  readonly object: THREE.Mesh;
  /** From here on it fades. */
  private readonly near = { value: 18 };

  constructor() {
    const material = new THREE.ShaderMaterial({
      uniforms: { near: this.near },
      transparent: true,
      depthWrite: false,
      side: THREE.DoubleSide,
      // A ground at height 0 must not flicker through it.
      polygonOffset: true,
      polygonOffsetFactor: -1,
      polygonOffsetUnits: -2,
      vertexShader: `
        varying vec2 place; varying vec3 eye;
        void main() {
          place = position.xz;
          vec4 seen = modelViewMatrix * vec4(position, 1.0);
          eye = seen.xyz;
          gl_Position = projectionMatrix * seen;
        }`,
      fragmentShader: `
        varying vec2 place; varying vec3 eye; uniform float near;
        float lines(vec2 p, float width) {
          vec2 w = fwidth(p) * width;
          vec2 d = abs(fract(p - 0.5) - 0.5);
          vec2 a = 1.0 - smoothstep(vec2(0.0), w, d);
          return max(a.x, a.y) * (1.0 - smoothstep(0.15, 0.5, max(w.x, w.y)));
        }
        void main() {
          // A light line with dark edges: to be seen on any ground.
          float light = max(0.3 * lines(place, 1.0), 0.5 * lines(place / 10.0, 1.3));
          float dark = max(0.18 * lines(place, 2.2), 0.3 * lines(place / 10.0, 2.8));
          float a = max(light, dark) * (1.0 - smoothstep(near, near + 24.0, length(eye)));
          if (a < 0.01) discard;
          gl_FragColor = vec4(mix(vec3(0.05, 0.1, 0.12), vec3(0.92, 0.95, 0.94), light / max(light, dark)), a);
        }`,
    });
    const geometry = new THREE.PlaneGeometry(120, 120).rotateX(-Math.PI / 2);
    this.object = new THREE.Mesh(geometry, material);
  }

  /** Lies on the ground, or stands behind everything in a view along an axis. */
  stand(axis: 'top' | 'front' | 'right' | null, target: THREE.Vector3) {
    const { position, rotation } = this.object;
    position.set(axis === 'right' ? target.x - 60 : 0, 0, axis === 'front' ? target.z - 60 : 0);
    rotation.set(axis === 'front' ? Math.PI / 2 : 0, 0, axis === 'right' ? Math.PI / 2 : 0);
    this.near.value = axis ? 1e6 : 18;
  }
}

/** Boxes round what is selected, and fainter ones round what hangs below it. Boxes are kept and moved, not made anew. */
export class Outlines {
  readonly object = new THREE.Group();
  private readonly boxes: THREE.LineSegments[] = [];
  private readonly cube = new THREE.EdgesGeometry(new THREE.BoxGeometry(1, 1, 1));
  private readonly strong = new THREE.LineBasicMaterial({
    color: CORAL,
    toneMapped: false,
    transparent: true,
    opacity: 0.9,
  });
  private readonly faint = new THREE.LineBasicMaterial({
    color: CORAL,
    toneMapped: false,
    transparent: true,
    opacity: 0.35,
  });

  /** So many boxes at most: more would be neither seen nor drawn in time. */
  private static readonly MOST = 400;

  update(mirror: SceneMirror, selected: ReadonlySet<string>, family: ReadonlySet<string>) {
    let count = 0;
    for (const id of family) {
      const item = mirror.items.get(id);
      const isCopier = item?.kind === 'instance' || item?.kind === 'repeat';
      const around = isCopier ? mirror.boxOf([id]) : item?.mesh?.geometry.boundingBox;
      if (!around || around.isEmpty() || !item!.object.visible) continue;
      if (count === Outlines.MOST) break;
      const box = (this.boxes[count] ??= this.make());
      count++;
      box.visible = true;
      box.material = selected.has(id) ? this.strong : this.faint;
      const [size, middle] = [around.getSize(new THREE.Vector3()), around.getCenter(new THREE.Vector3())];
      box.matrix.compose(middle, new THREE.Quaternion(), size.max(new THREE.Vector3(1e-4, 1e-4, 1e-4)));
      if (!isCopier) box.matrix.premultiply(item!.object.matrix);
      box.matrixWorldNeedsUpdate = true;
    }
    for (let i = count; i < this.boxes.length; i++) this.boxes[i].visible = false;
  }

  private make(): THREE.LineSegments {
    const box = new THREE.LineSegments(this.cube, this.strong);
    box.matrixAutoUpdate = false;
    this.object.add(box);
    return box;
  }
}

const FLAT = { color: CORAL, toneMapped: false, depthTest: false, transparent: true };

const same = (a: number[], b: number[]) => a === b || (a.length === b.length && a.every((v, i) => v === b[i]));

/** The motion path of an object: a dot for every frame, larger ones for keys. */
export class MotionPath {
  /** Everything that is drawn. */
  readonly all = new THREE.Group();
  private readonly faint = new THREE.LineBasicMaterial({ ...FLAT, opacity: 0.3 });
  private readonly dots = new THREE.PointsMaterial({ ...FLAT, size: 3, sizeAttenuation: false, opacity: 0.55 });
  private readonly object = new THREE.Group();
  private readonly line: THREE.Line;
  private readonly frames: THREE.Points;
  private readonly keys: THREE.Points;
  private readonly stems: THREE.LineSegments;
  private readonly ends: THREE.Points;
  private readonly others = new THREE.Group();
  private shown: { points: number[]; keys: number[] } = { points: [], keys: [] };
  private shownOthers: number[][] = [];

  constructor() {
    const flat = FLAT;
    this.line = new THREE.Line(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ ...flat, opacity: 0.5 }));
    this.frames = new THREE.Points(
      this.line.geometry,
      new THREE.PointsMaterial({ ...flat, size: 4, sizeAttenuation: false, opacity: 0.9 }),
    );
    this.keys = new THREE.Points(
      new THREE.BufferGeometry(),
      new THREE.PointsMaterial({ ...flat, color: 0xf3e9d8, size: 9, sizeAttenuation: false }),
    );
    const light = { ...flat, color: 0xf3e9d8 };
    this.stems = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ ...light, opacity: 0.8 }),
    );
    this.ends = new THREE.Points(
      this.stems.geometry,
      new THREE.PointsMaterial({ ...light, color: 0x5fd0c4, size: 8, sizeAttenuation: false }),
    );
    this.object.add(this.line, this.frames, this.stems, this.ends, this.keys);
    this.object.visible = false;
    this.all.add(this.object, this.others);
  }

  /** The paths of the other selected objects, fainter: points as x, y, z. Whether it is another picture. */
  setOthers(paths: number[][]): boolean {
    const had = this.others.children.length;
    if (had === 2 * paths.length && paths.every((p, i) => same(p, this.shownOthers[i]))) return false;
    this.shownOthers = paths;
    for (const child of this.others.children as THREE.Line[]) child.geometry.dispose();
    this.others.clear();
    for (const points of paths) {
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
      this.others.add(new THREE.Line(geometry, this.faint), new THREE.Points(geometry, this.dots));
    }
    return true;
  }

  /** Points as x, y, z; null takes the path away. Whether it is another picture. */
  set(points: number[] | null, keys: number[]): boolean {
    const was = this.object.visible;
    this.object.visible = !!points && points.length > 3;
    if (!this.object.visible) return was;
    if (was && same(points!, this.shown.points) && same(keys, this.shown.keys)) return false;
    this.shown = { points: points!, keys };
    this.line.geometry.dispose();
    this.keys.geometry.dispose();
    this.line.geometry = new THREE.BufferGeometry();
    this.line.geometry.setAttribute('position', new THREE.Float32BufferAttribute(points!, 3));
    this.frames.geometry = this.line.geometry;
    this.keys.geometry = new THREE.BufferGeometry();
    this.keys.geometry.setAttribute('position', new THREE.Float32BufferAttribute(keys, 3));
    return true;
  }

  /** From a key to the end of a handle, in pairs of points; none where no key is under the playhead. Whether it is another picture. */
  setHandles(handles: number[]): boolean {
    const was = this.stems.visible;
    this.stems.visible = this.ends.visible = handles.length > 0;
    if (handles.length === 0) return was;
    this.stems.geometry.dispose();
    this.stems.geometry = new THREE.BufferGeometry();
    this.stems.geometry.setAttribute('position', new THREE.Float32BufferAttribute(handles, 3));
    this.ends.geometry = this.stems.geometry;
    return true;
  }
}

const TEAL = { ...FLAT, color: 0x5fd0c4 };

/** The motion paths of traced vertices: lines and dots as of objects, in another tint, and a large dot where the vertex is now. */
export class TracePaths {
  readonly object = new THREE.Group();
  private readonly lines = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ ...TEAL, opacity: 0.65 }),
  );
  private readonly frames = this.dots(3, 0.9);
  private readonly keys = this.dots(7, 1);
  private readonly now = this.dots(11, 1);

  constructor() {
    this.object.add(this.lines);
    for (const part of this.object.children) part.frustumCulled = false;
  }

  /** Whether it is another picture. */
  set(traces: Trace[]): boolean {
    const [lines, frames, keys] = [[], [], []] as number[][];
    for (const { first, points, keys: keyed } of traces) {
      for (let i = 0; i + 2 < points.length; i += 3) {
        if (Number.isNaN(points[i])) continue;
        frames.push(points[i], points[i + 1], points[i + 2]);
        if (i > 0 && !Number.isNaN(points[i - 3])) for (let c = i - 3; c < i + 3; c++) lines.push(points[c]);
      }
      for (const key of keyed) {
        const at = 3 * Math.round(key - first);
        if (points[at] !== undefined && !Number.isNaN(points[at])) keys.push(...points.slice(at, at + 3));
      }
    }
    const had = this.put(this.lines, lines);
    this.put(this.frames, frames);
    this.put(this.keys, keys);
    return had || lines.length > 0;
  }

  /** Whether it is another picture. */
  mark(points: number[]): boolean {
    return this.put(this.now, points) || points.length > 0;
  }

  private dots(size: number, opacity: number) {
    const dots = new THREE.Points(
      new THREE.BufferGeometry(),
      new THREE.PointsMaterial({ ...TEAL, size, opacity, sizeAttenuation: false }),
    );
    this.object.add(dots);
    return dots;
  }

  /** Whether something was drawn before. */
  private put(part: THREE.LineSegments | THREE.Points, points: number[]): boolean {
    const had = (part.geometry.getAttribute('position')?.count ?? 0) > 0;
    part.geometry.dispose();
    part.geometry = new THREE.BufferGeometry();
    part.geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
    return had;
  }
}
