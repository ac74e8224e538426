// The sky as the renderer has it (Sky.Radiance in Bradymotus.Render), as a shader on a ball round everything.
import {
  BackSide,
  Color,
  DataTexture,
  FloatType,
  LinearFilter,
  Mesh,
  RepeatWrapping,
  RGBAFormat,
  ShaderMaterial,
  SphereGeometry,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
  Vector4,
} from 'three';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';

export class SkyDome {
  readonly uniforms = {
    top: { value: new Color() },
    horizon: { value: new Color() },
    ground: { value: new Color() },
    picture: { value: null as Texture | null },
    strength: { value: 0 },
    /** Where in the picture +X is; once round is 1. */
    shift: { value: 0.5 },
    /** What the camera sees instead of it: 1 a colour, 2 nothing, drawn as fine checks. */
    plain: { value: new Vector4() },
  };
  readonly mesh: Mesh;
  private daylight: DataTexture | null = null;
  private around: { asset: string; texture: Texture; come: boolean } | null = null;

  constructor() {
    const material = new ShaderMaterial({
      side: BackSide,
      depthWrite: false,
      uniforms: this.uniforms,
      vertexShader: `
        varying vec3 direction;
        void main() {
          direction = position;
          gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
          gl_Position.z = gl_Position.w;
        }`,
      fragmentShader: `
        uniform vec3 top; uniform vec3 horizon; uniform vec3 ground;
        uniform sampler2D picture; uniform float strength; uniform float shift; uniform vec4 plain;
        varying vec3 direction;
        void main() {
          float up = normalize(direction).y;
          float s = sqrt(max(up, 0.0));
          vec3 c = up >= 0.0 ? mix(horizon, top, s * (2.0 - s)) : mix(horizon, ground, min(1.0, -up * 8.0));
          if (strength > 0.0) {
            vec3 d = normalize(direction);
            vec2 at = vec2(atan(d.z, d.x) / 6.2831853 + shift, acos(clamp(d.y, -1.0, 1.0)) / 3.1415927);
            // Over the seam of the angle the slope is that of the other side.
            vec2 a = dFdx(at), b = dFdy(at);
            a.x -= floor(a.x + 0.5); b.x -= floor(b.x + 0.5);
            c = strength * textureGrad(picture, at, a, b).rgb;
          }
          if (plain.w > 1.5) c = vec3(mod(floor(gl_FragCoord.x / 8.0) + floor(gl_FragCoord.y / 8.0), 2.0) > 0.5 ? 0.12 : 0.08);
          else if (plain.w > 0.5) c = plain.rgb;
          gl_FragColor = vec4(c, 1.0);
          #include <tonemapping_fragment>
          #include <colorspace_fragment>
        }`,
    });
    this.mesh = new Mesh(new SphereGeometry(500, 48, 24), material);
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = -10;
  }

  /** Sets the colours; says whether they have changed. */
  set(top: Color, horizon: Color, ground: Color): boolean {
    const u = this.uniforms;
    if (u.top.value.equals(top) && u.horizon.value.equals(horizon) && u.ground.value.equals(ground)) return false;
    u.top.value.copy(top);
    u.horizon.value.copy(horizon);
    u.ground.value.copy(ground);
    return true;
  }

  /**
   * Takes a picture of all that is around.
   * @param turn in degrees
   * @param come is told when it has come; until then the sky is painted
   */
  surround({ asset, name }: { asset: string; name: string }, strength: number, turn: number, come: () => void) {
    if (this.around?.asset !== asset) {
      this.around?.texture.dispose();
      const url = `/api/assets/${asset}`;
      const ready = () => {
        if (this.around?.asset === asset) this.around.come = true;
        come();
      };
      const isHigh = /\.hdr$/i.test(name);
      const texture = isHigh ? new HDRLoader().load(url, ready) : new TextureLoader().load(url, ready);
      if (!isHigh) texture.colorSpace = SRGBColorSpace;
      texture.flipY = false;
      texture.generateMipmaps = false;
      texture.wrapS = RepeatWrapping;
      texture.minFilter = texture.magFilter = LinearFilter;
      this.around = { asset, texture, come: false };
    }
    this.uniforms.picture.value = this.around.texture;
    this.uniforms.strength.value = this.around.come ? strength : 0;
    this.uniforms.shift.value = 0.75 + turn / 360;
  }

  /** Whether the picture of all that is around is there to be drawn. */
  get isSurrounded() {
    return this.around?.come ?? false;
  }

  /** Takes a picture of the daylight, 128 × 64 pixels of three numbers, or none. */
  paint(pixels: Float32Array | null, strength: number) {
    this.uniforms.strength.value = pixels ? strength : 0;
    if (!pixels) return;
    const texture = (this.daylight ??= new DataTexture(new Float32Array(4 * 128 * 64), 128, 64, RGBAFormat, FloatType));
    this.uniforms.picture.value = texture;
    this.uniforms.shift.value = 0.5;
    texture.wrapS = RepeatWrapping;
    texture.minFilter = texture.magFilter = LinearFilter;
    const data = texture.image.data as unknown as Float32Array;
    for (let i = 0; i < 128 * 64; i++) data.set(pixels.subarray(3 * i, 3 * i + 3), 4 * i);
    texture.needsUpdate = true;
  }
}
