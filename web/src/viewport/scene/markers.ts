// What stands for things that have no surface. Lines to see, drawn by ourselves, and an unseen ball to pick.
import {
  BufferGeometry,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
  type Object3D,
} from 'three';
import type { NodeView } from '../../engine/engine';

const ink = new LineBasicMaterial({ color: 0xf0c36b, transparent: true, opacity: 0.85, toneMapped: false });
const controlInk = new LineBasicMaterial({ color: 0x62d2be, transparent: true, opacity: 0.95, toneMapped: false });
const grip = new SphereGeometry(0.3, 8, 6);
const unseen = new MeshBasicMaterial({ visible: false });

/** Reads a channel of the node. */
export type Reader = (path: string) => number;

export interface Marker {
  readonly object: Object3D;
  /** Brings the lines to what the node is now. */
  update(read: Reader, aspect: number, data: Record<string, unknown>): void;
  dispose(): void;
}

const TURN = 2 * Math.PI;

function ring(points: number[], radius: number, at: (x: number, y: number) => [number, number, number], steps = 32) {
  for (let i = 0; i < steps; i++)
    for (const j of [i, i + 1])
      points.push(...at(radius * Math.cos((TURN * j) / steps), radius * Math.sin((TURN * j) / steps)));
}

/**
 * A camera: an eye of two lids, and at a distance the four corners of what it sees, joined by an arc at the bottom; the upper
 * corners have a second line, so that up is seen. The corners stand where the frame is.
 */
function camera(width: number, height: number, depth: number): number[] {
  const points: number[] = [];
  for (const lid of [1, -1])
    for (let i = 0; i < 12; i++)
      for (const j of [i, i + 1]) points.push(-0.16 + (0.32 * j) / 12, lid * 0.09 * Math.sin((Math.PI * j) / 12), 0);
  ring(points, 0.045, (x, y) => [x, y, 0], 12);
  const reach = Math.min(width, height) * 0.36;
  for (const sx of [1, -1])
    for (const sy of [1, -1]) {
      const [x, y] = [sx * width, sy * height];
      points.push(x, y, -depth, x - sx * reach, y, -depth, x, y, -depth, x, y - sy * reach, -depth);
      if (sy > 0) points.push(x, y + 0.05, -depth, x - sx * reach, y + 0.05, -depth);
      // The near side: where each edge of the view begins.
      points.push(x * 0.18, y * 0.18, -depth * 0.18, x * 0.42, y * 0.42, -depth * 0.42);
    }
  for (let i = 0; i < 10; i++)
    for (const j of [i, i + 1]) {
      const t = (2 * j) / 10 - 1;
      points.push(t * width, -height - 0.12 * (1 - t * t) * height, -depth);
    }
  return points;
}

/** A sun: a sheaf of light along its direction, as wide at its end as it is soft, round a long middle line. */
function sun(halfAngle: number): number[] {
  const points: number[] = [];
  const [r, length] = [0.16, 1.3];
  const end = r + length * Math.tan(halfAngle);
  ring(points, r, (x, y) => [x, y, 0]);
  ring(points, end, (x, y) => [x, y, -length]);
  for (let i = 0; i < 3; i++) {
    const a = (TURN * i) / 3 + Math.PI / 2;
    points.push(r * Math.cos(a), r * Math.sin(a), 0, end * Math.cos(a), end * Math.sin(a), -length);
  }
  points.push(0, 0, 0.1, 0, 0, -length - 0.35);
  // Barbs at the end of the middle line.
  for (const [x, y] of [
    [1, 0],
    [-1, 0],
  ])
    points.push(0, 0, -length - 0.35, 0.07 * x, 0.07 * y, -length - 0.22);
  return points;
}

/** A lamp: a globe of its true size, hanging from a hook. */
function lamp(radius: number): number[] {
  const points: number[] = [];
  ring(points, radius, (x, y) => [x, y, 0]);
  ring(points, radius, (x, y) => [0, x, y]);
  ring(points, radius, (x, y) => [x, 0, y]);
  points.push(0, radius, 0, 0, radius + 0.16, 0);
  for (let i = 0; i < 9; i++)
    for (const j of [i, i + 1]) {
      const a = -Math.PI / 2 + (1.5 * Math.PI * j) / 9;
      points.push(0.05 * Math.cos(a), radius + 0.21 + 0.05 * Math.sin(a), 0);
    }
  return points;
}

/**
 * A control of size 1 lying round its pivot: a ring with a notch in front; a box of which only the corners are drawn; an arrow
 * like a paper boat, pointing to the front; a ball of three rings.
 */
function control(form: string): number[] {
  const points: number[] = [];
  const line = (...corners: [number, number, number][]) =>
    corners.slice(1).forEach((to, i) => points.push(...corners[i], ...to));
  if (form === 'box') {
    for (const x of [-0.5, 0.5])
      for (const y of [-0.5, 0.5])
        for (const z of [-0.5, 0.5])
          points.push(x, y, z, x * 0.5, y, z, x, y, z, x, y * 0.5, z, x, y, z, x, y, z * 0.5);
  } else if (form === 'arrow') {
    line(
      [0, 0, 0.6],
      [0.35, 0, 0.1],
      [0.15, 0, 0.1],
      [0.15, 0, -0.5],
      [0, 0, -0.38],
      [-0.15, 0, -0.5],
      [-0.15, 0, 0.1],
    );
    line([-0.15, 0, 0.1], [-0.35, 0, 0.1], [0, 0, 0.6], [0, 0, -0.38]);
  } else if (form === 'ball') {
    ring(points, 0.5, (x, y) => [x, y, 0]);
    ring(points, 0.5, (x, y) => [0, x, y]);
    ring(points, 0.5, (x, y) => [x, 0, y]);
  } else {
    ring(points, 0.5, (x, y) => [x, 0, y]);
    ring(points, 0.46, (x, y) => [x, 0, y]);
    line([-0.08, 0, 0.5], [0, 0, 0.66], [0.08, 0, 0.5]);
  }
  return points;
}

/** A spot: its ball, and where its cone ends a metre away, joined by three lines. */
function spot(half: number, radius: number): number[] {
  const points: number[] = [];
  const [reach, wide] = [Math.cos(half), Math.sin(half)];
  ring(points, radius, (x, y) => [x, y, 0]);
  ring(points, wide, (x, y) => [x, y, -reach]);
  for (let i = 0; i < 3; i++) {
    const a = (TURN * i) / 3 - Math.PI / 2;
    points.push(0, 0, 0, wide * Math.cos(a), wide * Math.sin(a), -reach);
  }
  return points;
}

/** A panel: its rim, and short rays from it the way it shines. */
function panel(w: number, h: number, round: boolean): number[] {
  const points: number[] = [];
  const corners: [number, number][] = round
    ? [0, 1, 2, 3].map((i) => [w * Math.cos((TURN * i) / 4), h * Math.sin((TURN * i) / 4)])
    : [
        [w, h],
        [-w, h],
        [-w, -h],
        [w, -h],
      ];
  if (round) ring(points, w, (x, y) => [x, y, 0]);
  else corners.forEach(([x, y], i) => points.push(x, y, 0, ...corners[(i + 1) % 4], 0));
  const ray = 0.35 * Math.min(w, h) + 0.1;
  for (const [x, y] of corners) points.push(x * 0.7, y * 0.7, 0, x * 0.7, y * 0.7, -ray);
  points.push(0, 0, 0, 0, 0, -1.6 * ray);
  return points;
}

class Lines implements Marker {
  readonly object: LineSegments;
  private shape = '';

  constructor(
    private readonly draw: (read: Reader, aspect: number, data: Record<string, unknown>) => [string, () => number[]],
    material = ink,
    private readonly hold: Mesh = new Mesh(grip, unseen),
    private readonly holdSize?: (read: Reader) => number,
  ) {
    this.object = new LineSegments(new BufferGeometry(), material);
    this.object.userData.marker = true;
    this.object.add(hold);
  }

  update(read: Reader, aspect: number, data: Record<string, unknown>) {
    const [shape, points] = this.draw(read, aspect, data);
    if (this.holdSize) this.hold.scale.setScalar(this.holdSize(read));
    if (shape === this.shape) return;
    this.shape = shape;
    this.object.geometry.dispose();
    this.object.geometry = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(points(), 3));
  }

  dispose() {
    this.object.geometry.dispose();
  }
}

/** The marker of a kind of node; null for what needs none. */
export function marker(kind: NodeView['kind']): Marker | null {
  switch (kind) {
    case 'camera':
      return new Lines((read, aspect, data) => {
        const parallel = data.projection === 'orthographic';
        const half = parallel
          ? Math.min(1.5, read('camera.height') / 2)
          : Math.tan((Math.min(170, Math.max(1, read('camera.fov'))) * Math.PI) / 360);
        // As large as is handy, whatever the angle.
        const depth = parallel ? 0.8 : Math.min(0.9, 0.55 / Math.max(0.2, half));
        const height = parallel ? half : half * depth;
        return [
          `${height.toFixed(4)} ${depth.toFixed(4)} ${aspect.toFixed(3)}`,
          () => camera(height * aspect, height, depth),
        ];
      });
    case 'sun':
      return new Lines((read) => {
        const half = (Math.min(60, Math.max(0, read('light.angle'))) * Math.PI) / 360;
        return [half.toFixed(5), () => sun(half)];
      });
    case 'lamp':
      return new Lines((read, _, data) => {
        const form = (data.form as string | undefined) ?? 'point';
        const radius = Math.max(0.02, read('light.radius'));
        if (form === 'spot') {
          const half = (Math.min(170, Math.max(1, read('light.cone'))) * Math.PI) / 360;
          return [`spot ${half.toFixed(4)} ${radius.toFixed(3)}`, () => spot(half, radius)];
        }
        if (form === 'disc') return [`disc ${radius.toFixed(4)}`, () => panel(radius, radius, true)];
        if (form === 'rectangle') {
          const [w, h] = [Math.max(0.02, read('light.width')) / 2, Math.max(0.02, read('light.height')) / 2];
          return [`panel ${w.toFixed(4)} ${h.toFixed(4)}`, () => panel(w, h, false)];
        }
        return [radius.toFixed(4), () => lamp(radius)];
      });
    case 'control':
      return new Lines(
        (read, _, data) => {
          const size = Math.max(0.001, read('control.size'));
          const form = (data.form as string | undefined) ?? 'ring';
          return [`${form} ${size.toPrecision(5)}`, () => control(form).map((v) => v * size)];
        },
        controlInk,
        new Mesh(new SphereGeometry(0.55, 10, 8), unseen),
        (read) => Math.max(0.001, read('control.size')),
      );
    case 'joint': {
      // Its lines are drawn with the bones, over everything; here is what a hand takes, in parts of the bone.
      const object = new Group();
      const ball = new Mesh(grip, unseen);
      object.add(ball);
      return { object, update: () => undefined, dispose: () => undefined };
    }
    default:
      return null;
  }
}
