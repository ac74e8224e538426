/** Something that takes its time. */
export interface Job {
  readonly title: string;
  /** How much is done, from 0 to 1; null where nobody can know. */
  part: number | null;
  /** Seconds; null where nothing can be said yet. */
  left: number | null;
  /** False until it has taken long enough to be worth a look. */
  shown: boolean;
  cancel(): void;
}

/** Seconds that are left, as a person reads them. */
export const remaining = (s: number) => (s < 60 ? `${Math.ceil(s)} s left` : `${Math.ceil(s / 60)} min left`);

/** What is being done and takes longer than a moment: it says how far it is, and can be cancelled. */
export class Work {
  jobs = $state<Job[]>([]);

  /**
   * Does something, and shows it while it lasts.
   * @param what Hears from the signal that it is cancelled, and reports how much is done.
   * @returns What came of it; null where it was cancelled.
   */
  async run<T>(
    title: string,
    what: (signal: AbortSignal, report: (part: number | null) => void) => Promise<T>,
  ): Promise<T | null> {
    const abort = new AbortController();
    const start = performance.now();
    this.jobs.push({ title, part: null, left: null, shown: false, cancel: () => abort.abort() });
    const job = this.jobs.at(-1)!;
    const timer = setTimeout(() => (job.shown = true), 300);
    try {
      return await what(abort.signal, (part) => {
        job.part = part;
        job.left = part ? ((performance.now() - start) / 1000) * (1 / part - 1) : null;
      });
    } catch (e) {
      if (abort.signal.aborted) return null;
      throw e;
    } finally {
      clearTimeout(timer);
      this.jobs = this.jobs.filter((j) => j !== job);
    }
  }
}

export const work = new Work();
