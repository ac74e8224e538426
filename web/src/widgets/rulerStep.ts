/** The step between two marks of a ruler that bear a number, so that these have room: 1, 2 or 5 times a power of ten, in frames. */
export function rulerStep(pixels: number, room = 56): number {
  // A ruler without a width has no marks to make room for.
  if (!(pixels > 1e-9)) return 1e12;
  for (let power = 1; ; power *= 10) for (const n of [1, 2, 5]) if (n * power * pixels >= room) return n * power;
}
