// Lamps as the graphics card has them: a point, a spot, or a panel. What they are like comes from their channels.
import * as THREE from 'three';
import { RectAreaLightUniformsLib } from 'three/addons/lights/RectAreaLightUniformsLib.js';

export type LampForm = 'point' | 'spot' | 'rectangle' | 'disc';
export type LampLight = THREE.PointLight | THREE.SpotLight | THREE.RectAreaLight;

let areReady = false;

/** A light for lamps of a form; it hangs in a node and shines along its −Z axis. */
export function makeLamp(form: LampForm): LampLight {
  if (form === 'spot') {
    const light = new THREE.SpotLight(0xffffff, 1, 0, Math.PI / 6, 0.3, 2);
    // It is made a metre up.
    light.position.set(0, 0, 0);
    light.target.position.set(0, 0, -1);
    light.add(light.target);
    return light;
  }
  if (form === 'rectangle' || form === 'disc') {
    if (!areReady) RectAreaLightUniformsLib.init();
    areReady = true;
    return new THREE.RectAreaLight(0xffffff, 1, 1, 1);
  }
  return new THREE.PointLight(0xffffff, 1, 0, 2);
}

/** Brings a light to what the channels say; `scale` is how much its node stretches it, across and up. */
export function setLamp(light: LampLight, form: LampForm, read: (path: string) => number, scale: THREE.Vector3) {
  const watts = Math.max(0, read('light.strength'));
  light.visible = watts > 0;
  if (light instanceof THREE.RectAreaLight) {
    const radius = Math.max(0.001, read('light.radius'));
    // A disc is drawn as the square of as much surface.
    const side = radius * Math.sqrt(Math.PI);
    light.width = (form === 'disc' ? side : Math.max(0.001, read('light.width'))) * scale.x;
    light.height = (form === 'disc' ? side : Math.max(0.001, read('light.height'))) * scale.y;
    light.intensity = watts / (Math.PI * light.width * light.height);
    return;
  }
  // Watts to candela.
  light.intensity = watts / (4 * Math.PI);
  if (light instanceof THREE.SpotLight) {
    light.angle = (Math.min(178, Math.max(1, read('light.cone'))) * Math.PI) / 360;
    light.penumbra = Math.min(1, Math.max(0, read('light.softness')));
  }
}
