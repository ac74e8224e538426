/** The step between two marks of a ruler that bear a number, so that these have room: 1, 2 or 5 times a power of ten, in frames. */
export function rulerStep(pixels: number, room = 56): number {
  for (let power = 1; ; power *= 10) for (const n of [1, 2, 5]) if (n * power * pixels >= room) return n * power;
}
