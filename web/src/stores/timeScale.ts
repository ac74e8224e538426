// Frames on the screen.

/** The visible part of time. */
export class TimeScale {
  constructor(
    readonly start: number,
    readonly pixelsPerFrame: number,
  ) {}

  x = (frame: number) => (frame - this.start) * this.pixelsPerFrame;
  frame = (x: number) => this.start + x / this.pixelsPerFrame;

  /** Larger or smaller by a factor, with the frame under x where it is. */
  zoomed(x: number, factor: number): TimeScale {
    const pixels = Math.min(80, Math.max(0.02, this.pixelsPerFrame * factor));
    return new TimeScale(this.frame(x) - x / pixels, pixels);
  }

  panned = (pixels: number) => new TimeScale(this.start - pixels / this.pixelsPerFrame, this.pixelsPerFrame);

  static fit(first: number, last: number, width: number): TimeScale {
    const span = Math.max(1, last - first);
    // Room at both ends for the tags that say how a curve goes on.
    const room = Math.min(84, width / 6);
    const pixels = Math.max(0.02, (width - 2 * room) / span);
    return new TimeScale(first - room / pixels, pixels);
  }
}
