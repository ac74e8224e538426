import type { Palette } from './model';

/** The colours of the theme, for a canvas inside an element. */
export function paletteOf(box: Element): Palette {
  const css = getComputedStyle(box);
  const v = (name: string) => css.getPropertyValue(name).trim();
  const text = css.color;
  return {
    text,
    faint: `color-mix(in srgb, ${text} 62%, transparent)`,
    line: `color-mix(in srgb, ${text} 14%, transparent)`,
    back: v('--color-base-100'),
    lane: v('--color-base-200'),
    accent: v('--color-primary'),
    warning: v('--color-warning'),
    family: {
      position: v('--family-position'),
      rotation: v('--family-rotation'),
      scale: v('--family-scale'),
      shape: v('--family-shape'),
      look: v('--family-look'),
    },
    markers: {
      amber: v('--family-scale'),
      teal: v('--family-position'),
      rose: v('--family-shape'),
      sky: v('--family-look'),
      moss: v('--color-success'),
      stone: text,
    },
  };
}
