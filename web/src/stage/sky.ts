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
} from 'three';

export class SkyDome {
  readonly uniforms = {
    top: { value: new Color() },
    horizon: { value: new Color() },
    ground: { value: new Color() },
    picture: { value: null as DataTexture | null },
    strength: { value: 0 },
  };
  readonly mesh: Mesh;

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
        uniform sampler2D picture; uniform float strength;
        varying vec3 direction;
        void main() {
          float up = normalize(direction).y;
          float s = sqrt(max(up, 0.0));
          vec3 c = up >= 0.0 ? mix(horizon, top, s * (2.0 - s)) : mix(horizon, ground, min(1.0, -up * 8.0));
          if (strength > 0.0) {
            vec3 d = normalize(direction);
            vec2 at = vec2(atan(d.z, d.x) / 6.2831853 + 0.5, acos(clamp(d.y, -1.0, 1.0)) / 3.1415927);
            c = strength * texture2D(picture, at).rgb;
          }
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

  /** Takes a picture of the daylight, 128 × 64 pixels of three numbers, or none. */
  paint(pixels: Float32Array | null, strength: number) {
    this.uniforms.strength.value = pixels ? strength : 0;
    if (!pixels) return;
    const texture = (this.uniforms.picture.value ??= new DataTexture(
      new Float32Array(4 * 128 * 64),
      128,
      64,
      RGBAFormat,
      FloatType,
    ));
    texture.wrapS = RepeatWrapping;
    texture.minFilter = texture.magFilter = LinearFilter;
    const data = texture.image.data as unknown as Float32Array;
    for (let i = 0; i < 128 * 64; i++) data.set(pixels.subarray(3 * i, 3 * i + 3), 4 * i);
    texture.needsUpdate = true;
  }
}
