import type { ShownFrame } from '../../engine/engine';

type Numbers = Float32Array | Float64Array | Uint8Array | Int32Array;

/** Remembers what was shown, so that nothing is drawn again that looks the same. */
export class LastShown {
  private kept: Numbers[] = [];
  private at = NaN;
  private copies = -1;

  /** What comes next is another, whatever its numbers are. */
  forget() {
    this.kept = [];
  }

  /** Whether a frame is another than the last one that was asked for; it is the last one from now on. */
  isOther(frame: ShownFrame): boolean {
    const now: Numbers[] = [frame.matrices, frame.values, frame.seen, frame.meshVersions];
    let other = this.at !== frame.at || this.copies !== frame.copyVersion;
    [this.at, this.copies] = [frame.at, frame.copyVersion];
    for (let i = 0; i < now.length; i++) {
      if (same(this.kept[i], now[i])) continue;
      other = true;
      if (this.kept[i]?.length === now[i].length) this.kept[i].set(now[i]);
      else this.kept[i] = now[i].slice();
    }
    return other;
  }
}

function same(a: Numbers | undefined, b: Numbers): boolean {
  if (a?.length !== b.length) return false;
  // What is no number is the same as itself here.
  for (let i = 0; i < b.length; i++) if (!Object.is(a[i], b[i])) return false;
  return true;
}
