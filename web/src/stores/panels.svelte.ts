// The panels round what is large: how large they are, and which are folded away. Kept by the browser for the person, as other preferences.
import type { Snippet } from 'svelte';
import { preferences } from './preferences.svelte';

/** Their names, and what they have until somebody sizes them, in pixels. */
const usual = {
  left: { size: 224, least: 150 },
  right: { size: 288, least: 200 },
  poses: { size: 176, least: 120 },
  tracks: { size: 404, least: 160 },
  settings: { size: 288, least: 220 },
  dailies: { size: 320, least: 220 },
};
export type Panel = keyof typeof usual;

export const isShut = (panel: Panel) => preferences.panels[panel]?.shut ?? false;

export function shut(panel: Panel, on = true) {
  preferences.panels = { ...preferences.panels, [panel]: { ...preferences.panels[panel], shut: on } };
}

/** A panel as a side of a split. */
export const side = (panel: Panel, label: string, hint: string, content: Snippet) => ({
  label,
  hint,
  content,
  least: usual[panel].least,
  size: preferences.panels[panel]?.size ?? usual[panel].size,
  shut: isShut(panel),
  onsize: (size: number) =>
    (preferences.panels = { ...preferences.panels, [panel]: { ...preferences.panels[panel], size } }),
  onshut: (on: boolean) => shut(panel, on),
});
