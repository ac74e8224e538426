import { sentence, type ShotView } from '../api/client';
import { session } from '../state/session.svelte';
import { ui } from '../state/ui.svelte';
import { work } from '../state/work.svelte';

/** Sends a file, and says how much of it has gone: fetch cannot. */
function send(file: File, signal: AbortSignal, report: (part: number | null) => void) {
  return new Promise<{ ok: boolean; body: unknown }>((done, failed) => {
    const request = new XMLHttpRequest();
    request.open('POST', '/api/shots/import');
    request.setRequestHeader('content-type', 'application/json');
    request.responseType = 'json';
    // Once all is there the server checks it, and nobody can say for how long.
    request.upload.onprogress = (e) => report(e.loaded < e.total ? e.loaded / e.total : null);
    request.onload = () => done({ ok: request.status < 300, body: request.response });
    request.onerror = () => failed(new Error('The server cannot be reached: check that it is running.'));
    request.onabort = () => failed(new Error('Cancelled.'));
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}

/** Sends a file to the library and opens what comes of it. Throws an error with one sentence. */
export async function importFile(file: File): Promise<void> {
  const opened = await work.run(`Importing ${file.name}`, async (signal, report) => {
    const { ok, body } = await send(file, signal, report);
    if (!ok) throw new Error(`${file.name}: ${sentence(body)}`);
    report(null);
    await session.open((body as ShotView).id);
    return true;
  });
  if (opened && ui.dialog === 'library') ui.dialog = null;
}
