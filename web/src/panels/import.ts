import { sentence, type ShotView } from '../api/client';
import { session } from '../state/session.svelte';

/** Sends a file to the library and opens what comes of it. Throws an error with one sentence. */
export async function importFile(file: File): Promise<void> {
  let answer: Response;
  try {
    answer = await fetch('/api/shots/import', {
      method: 'POST',
      body: await file.text(),
      headers: { 'content-type': 'application/json' },
    });
  } catch {
    throw new Error('The server cannot be reached: check that it is running.');
  }
  const body = await answer.json();
  if (!answer.ok) throw new Error(`${file.name}: ${sentence(body)}`);
  await session.open((body as ShotView).id);
}
