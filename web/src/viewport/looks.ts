// What a view of the stage shows, and how it draws: the words for it.
import type { Look, Shading } from '../stores/viewState.svelte';

export const looks: Record<Look, string> = {
  camera: 'Through the camera',
  free: 'Free view',
  top: 'Top',
  front: 'Front',
  right: 'Right side',
};
export const shadings: Record<Shading, string> = {
  shaded: 'Shaded',
  edges: 'With edges',
  lines: 'Wireframe',
  flat: 'Unlit',
};
