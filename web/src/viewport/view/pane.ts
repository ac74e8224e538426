// One of the views of the stage: its part of the canvas, what it looks through, and how it draws.
import type { Layout, Shading } from '../../stores/viewState.svelte';
import { ViewCameras } from './cameras';
import { Handles, type HandleEvents } from '../overlays/handles';
import type { SceneMirror } from '../scene/mirror';
import type * as THREE from 'three';

export interface PaneEvents {
  moved(): void;
  steered(world: number[]): void;
  /** The pointer has come to this one. */
  entered(pane: Pane): void;
  handles: (pane: Pane) => HandleEvents;
  pointAt(x: number, y: number, vertex: boolean, but: string[]): THREE.Vector3 | null;
}

export class Pane {
  /** Lies over its part of the canvas and takes what the pointer does there. */
  readonly element = document.createElement('div');
  readonly cameras: ViewCameras;
  readonly handles: Handles;
  shading: Shading = 'shaded';
  shown = false;
  /** In pixels of the page, from the upper left of the canvas. */
  x = 0;
  y = 0;
  width = 1;
  height = 1;

  constructor(mirror: SceneMirror, events: PaneEvents) {
    Object.assign(this.element.style, { position: 'absolute', touchAction: 'none' });
    this.cameras = new ViewCameras(mirror, this.element, {
      moved: () => events.moved(),
      steered: (world) => events.steered(world),
    });
    this.handles = new Handles(mirror, this.cameras.free, this.element, events.handles(this), (x, y, vertex, but) =>
      events.pointAt(x, y, vertex, but),
    );
    for (const event of ['pointerenter', 'pointerdown'])
      this.element.addEventListener(event, () => events.entered(this), { capture: true });
  }

  /** Gives it a part of the canvas, or none. */
  place(at: { x: number; y: number; width: number; height: number } | null) {
    this.shown = at !== null;
    this.element.style.display = at ? 'block' : 'none';
    if (!at) return;
    Object.assign(this, at);
    Object.assign(this.element.style, {
      left: `${at.x}px`,
      top: `${at.y}px`,
      width: `${at.width}px`,
      height: `${at.height}px`,
    });
  }

  camera = () => this.cameras.current(this.width, this.height);
}

/** The parts of a canvas: the whole, two halves, or four quarters with a line between them. */
export function partsOf(layout: Layout, width: number, height: number) {
  const gap = 2;
  const [w, h] = [(width - gap) / 2, (height - gap) / 2];
  if (layout === 1) return [{ x: 0, y: 0, width, height }];
  if (layout === 2) return [0, 1].map((i) => ({ x: i * (w + gap), y: 0, width: w, height }));
  return [0, 1, 2, 3].map((i) => ({ x: (i % 2) * (w + gap), y: i < 2 ? 0 : h + gap, width: w, height: h }));
}
