// What commands do with the stage, while one is on the screen.
export interface StageHand {
  /** Draws the motion path of the point below the pointer, or takes it away. */
  trace(): void;
  /** Lists what lies below the pointer, one behind the other. */
  under(): void;
  /** The menu of the selected objects, without a pointer. */
  menu(): void;
  /** Turns the view about what it looks at, by degrees to the right and up. */
  turn(right: number, up: number): void;
  /** Shifts the view by parts of its height. */
  shift(right: number, up: number): void;
  /** Goes nearer, by a factor of the way there; below 1 away. */
  nearer(factor: number): void;
  /** What one looks at: a point in the middle of the view, in the world. */
  lookedAt(): [number, number, number];
}

let hand: StageHand | null = null;

/** The stage that is on the screen, or null. */
export const stageHand = () => hand;

/** A stage has come to the screen. @returns what to call when it goes */
export function holdStage(own: StageHand): () => void {
  hand = own;
  return () => {
    if (hand === own) hand = null;
  };
}
