// The scale of the pose strip: how many pixels a frame has, and where the ruler is marked. Pure.

/** So far a picture may be pulled apart from the next, in pixels a frame, and pushed together. */
export const LEAST = 0.05;
export const MOST = 64;
/** No strip is wider than this, which browsers still draw. */
const WIDEST = 8e6;

export const held = (pixels: number, frames: number) =>
  Math.min(MOST, WIDEST / Math.max(1, frames), Math.max(LEAST, pixels));

/** As wide that most pictures stand free, and at least as wide as the strip. */
export function usualScale(frames: readonly number[], first: number, last: number, width: number, picture: number) {
  const gaps = frames
    .slice(1)
    .map((f, i) => f - frames[i])
    .sort((a, b) => a - b);
  const whole = (width - picture - 24) / Math.max(1, last - first);
  // Of four gaps three are wide enough; no scale is so large that one loses one's way.
  const gap = gaps[Math.floor(gaps.length / 4)] ?? last - first;
  return held(Math.max(whole, Math.min(24, (picture + 8) / Math.max(1, gap))), last - first);
}
