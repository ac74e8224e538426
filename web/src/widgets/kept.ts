// What the browser keeps for a person. One that keeps nothing (a private window, a full disk) is no fault: it holds as long as the window then.

/** Keeps a text; false where the browser does not. */
export function keep(key: string, text: string): boolean {
  try {
    localStorage.setItem(key, text);
    return true;
  } catch {
    return false;
  }
}

/** What was kept, or null. */
export function recall(key: string): string | null {
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
}

/** Keeps nothing under a key any more. */
export function forget(key: string) {
  try {
    localStorage.removeItem(key);
  } catch {
    // Nothing is kept.
  }
}

/** What was kept as JSON; undefined where that is nothing, or cannot be read. */
export function recallJson(key: string): unknown {
  try {
    return JSON.parse(recall(key) ?? '') as unknown;
  } catch {
    return undefined;
  }
}
