// What the server is at for a request of this page, as it says while it lasts.

type Report = (part: number) => void;

const running = new Map<string, Report>();

/** The server says that so much of a job is done, from 0 to 1. */
export const hearOfJob: (job: string, part: number) => void = (job, part) => running.get(job)?.(part);

/** Does something under a name that the server tells its progress by. */
export async function asJob<T>(report: Report, what: (job: string) => Promise<T>): Promise<T> {
  const job = crypto.randomUUID();
  running.set(job, report);
  try {
    return await what(job);
  } finally {
    running.delete(job);
  }
}
