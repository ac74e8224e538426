import * as THREE from 'three';
import { OutputPass } from 'three/addons/postprocessing/OutputPass.js';

/** Takes small pictures of a scene with the tones of the stage, beside the canvas that people look at. */
export class SmallPictures {
  private readonly light: THREE.WebGLRenderTarget;
  private readonly tones: THREE.WebGLRenderTarget;
  private readonly output = new OutputPass();
  private readonly canvas = document.createElement('canvas');
  private readonly context: CanvasRenderingContext2D;
  private readonly image: ImageData;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    readonly width: number,
    readonly height: number,
  ) {
    this.light = new THREE.WebGLRenderTarget(width, height, { type: THREE.HalfFloatType, samples: 4 });
    this.tones = new THREE.WebGLRenderTarget(width, height);
    this.output.renderToScreen = false;
    [this.canvas.width, this.canvas.height] = [width, height];
    this.context = this.canvas.getContext('2d')!;
    this.image = this.context.createImageData(width, height);
  }

  /** As a data URL. */
  take(scene: THREE.Scene, camera: THREE.Camera): string {
    const { renderer, width, height } = this;
    renderer.setRenderTarget(this.light);
    renderer.render(scene, camera);
    this.output.render(renderer, this.tones, this.light, 0, false);
    const pixels = new Uint8Array(this.image.data.length);
    renderer.readRenderTargetPixels(this.tones, 0, 0, width, height, pixels);
    renderer.setRenderTarget(null);
    // What is read begins at the bottom.
    for (let y = 0; y < height; y++)
      this.image.data.set(pixels.subarray(4 * width * (height - 1 - y), 4 * width * (height - y)), 4 * width * y);
    this.context.putImageData(this.image, 0, 0);
    return this.canvas.toDataURL('image/jpeg', 0.85);
  }
}
