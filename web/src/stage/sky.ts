// The sky as the renderer has it (Sky.Radiance in Bradymotus.Render), as a shader on a ball round everything.
import { BackSide, Color, Mesh, ShaderMaterial, SphereGeometry } from 'three';

export class SkyDome {
  readonly uniforms = { top: { value: new Color() }, horizon: { value: new Color() }, ground: { value: new Color() } };
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
        varying vec3 direction;
        void main() {
          float up = normalize(direction).y;
          float s = sqrt(max(up, 0.0));
          vec3 c = up >= 0.0 ? mix(horizon, top, s * (2.0 - s)) : mix(horizon, ground, min(1.0, -up * 8.0));
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
}
