// What stands for things that have no surface: cameras, lights and groups.
import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
  type Object3D,
} from 'three';
import type { NodeView } from '../engine/engine';

const lines = (points: number[]) => {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new Float32BufferAttribute(points, 3));
  return geometry;
};

function camera(): number[] {
  const [w, h, d] = [0.32, 0.18, 0.5];
  const corners = [
    [-w, -h, -d],
    [w, -h, -d],
    [w, h, -d],
    [-w, h, -d],
  ];
  const points: number[] = [];
  corners.forEach((c, i) => points.push(0, 0, 0, ...c, ...c, ...corners[(i + 1) % 4]));
  points.push(-0.1, h, -d, 0, h + 0.14, -d, 0, h + 0.14, -d, 0.1, h, -d);
  return points;
}

function sun(): number[] {
  const points: number[] = [];
  for (let i = 0; i < 12; i++) {
    const [a, b] = [(i * Math.PI) / 6, ((i + 1) * Math.PI) / 6];
    points.push(0.3 * Math.cos(a), 0.3 * Math.sin(a), 0, 0.3 * Math.cos(b), 0.3 * Math.sin(b), 0);
    if (i % 3 === 0) points.push(0.3 * Math.cos(a), 0.3 * Math.sin(a), 0, 0.3 * Math.cos(a), 0.3 * Math.sin(a), -1.2);
  }
  return points;
}

function lamp(): number[] {
  const points: number[] = [];
  for (const [x, y, z] of [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
    [0.6, 0.6, 0.6],
    [-0.6, 0.6, 0.6],
    [0.6, -0.6, 0.6],
    [0.6, 0.6, -0.6],
  ])
    points.push(
      0.12 * x,
      0.12 * y,
      0.12 * z,
      0.24 * x,
      0.24 * y,
      0.24 * z,
      -0.12 * x,
      -0.12 * y,
      -0.12 * z,
      -0.24 * x,
      -0.24 * y,
      -0.24 * z,
    );
  return points;
}

const shapes: Partial<Record<NodeView['kind'], number[]>> = { camera: camera(), sun: sun(), lamp: lamp() };

/** Lines to see, and an unseen ball to pick; null for what needs none. */
export function marker(kind: NodeView['kind']): Object3D | null {
  const points = shapes[kind];
  if (!points) return null;
  const shown = new LineSegments(
    lines(points),
    new LineBasicMaterial({ color: 0xf0c36b, transparent: true, opacity: 0.85, toneMapped: false }),
  );
  const grip = new Mesh(new SphereGeometry(0.35, 8, 6), new MeshBasicMaterial({ visible: false }));
  shown.add(grip);
  return shown;
}
