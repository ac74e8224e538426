import { received } from '../edits/edit';
import { sentence } from '../api/client';
import type { Edit } from '../engine/engine';
import type { components } from '../generated/api';
import { takePictures } from './reference';
import { savedShelf } from '../poses/savedShelf.svelte';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { work } from '../widgets/work.svelte';

type ImportView = components['schemas']['ImportView'];

/** What the file chooser offers. */
export const accepted = '.json,.zip,.glb,.gltf,.bin,.obj,.mtl,.stl,.ply,.svg';

/** Sends files, and says how much of them has gone: fetch cannot. */
function send(files: File[], into: string | null, signal: AbortSignal, report: (part: number | null) => void) {
  return new Promise<{ ok: boolean; body: unknown }>((done, failed) => {
    const request = new XMLHttpRequest();
    request.open('POST', into ? `/api/import?into=${into}` : '/api/import');
    request.responseType = 'json';
    // Once all is there the server reads it, and nobody can say for how long.
    request.upload.onprogress = (e) => report(e.loaded < e.total ? e.loaded / e.total : null);
    request.onload = () => done({ ok: request.status < 300, body: request.response });
    request.onerror = () => failed(new Error('The server cannot be reached: check that it is running.'));
    request.onabort = () => failed(new Error('Cancelled.'));
    signal.addEventListener('abort', () => request.abort());
    const form = new FormData();
    for (const file of files) form.append('files', file);
    request.send(form);
  });
}

const isShot = (file: File) => /\.(json|zip)$/i.test(file.name);

/**
 * Brings in a file, or several that belong together. Shots are opened; what comes from other programs is added to the open shot, as one change.
 * Throws an error with one sentence.
 */
export async function importFiles(files: File[], merge = true): Promise<void> {
  if (merge && (await takePictures(files))) return;
  const kept = files.filter((f) => /\.(pose|motion)\.json$/i.test(f.name));
  for (const file of kept) await savedShelf.addFile(file);
  files = files.filter((f) => !kept.includes(f));
  if (files.length === 0) return;
  const [main] = files.filter((f) => !/\.(bin|mtl)$/i.test(f.name));
  const name = (main ?? files[0]).name;
  const shot = session.shotId;
  const into = merge && shot && !files.some(isShot) ? shot : null;
  const opened = await work.run(`Importing ${name}`, async (signal, report) => {
    const { ok, body } = await send(files, into, signal, report);
    if (!ok) throw new Error(`${name}: ${sentence(body)}`);
    report(null);
    const view = body as ImportView;
    if (view.shot) await session.open(view.shot.id);
    else add(received(view.edit), shot!);
    ui.importReport = { name, imported: view.imported, skipped: view.skipped };
    return true;
  });
  if (!opened) return;
  if (ui.dialog === 'library') ui.dialog = null;
  const { imported, skipped } = ui.importReport!;
  const show = { label: 'Skipped or converted', run: () => (ui.dialog = 'import') };
  if (imported.length > 0)
    session.messages.say(`${name}: ${imported.join(', ')}.`, skipped.length > 0 ? show : undefined);
}

/** Lets a person choose files, and adds them to the open shot. */
export function chooseFiles() {
  const input = document.createElement('input');
  Object.assign(input, { type: 'file', multiple: true, accept: accepted });
  input.onchange = () => {
    const files = [...(input.files ?? [])];
    if (files.length > 0) importFiles(files).catch((e: Error) => session.messages.say(e.message));
  };
  input.click();
}

/** Adds what has come to the shot that it was sent for, and selects it. */
function add(edit: Edit, shot: string) {
  if (session.shotId !== shot) throw new Error('Another shot has been opened meanwhile: import the file again.');
  if (!session.shot.commit(edit)) return;
  const nodes = (edit as unknown as { edits: { nodes: { id: string; parent?: string }[] }[] }).edits[0].nodes;
  const ids = new Set(nodes.map((n) => n.id));
  session.selection.select(nodes.filter((n) => !n.parent || !ids.has(n.parent)).map((n) => n.id));
}

/** Saves the shot, or what is selected with all below it, as a file of glTF 2.0. */
export async function exportModel(ids: string[]): Promise<void> {
  const shot = session.shotId;
  if (!shot) return;
  const { nodes, name } = session.shot.scene;
  const what = (ids.length === 1 && nodes.find((n) => n.id === ids[0])?.name) || name;
  try {
    await session.settled();
    await work.run(`Exporting ${what}`, async (signal) => {
      const answer = await fetch(`/api/shots/${shot}/model?nodes=${ids.join(',')}`, { signal });
      if (!answer.ok) throw new Error(sentence(await answer.json()));
      const report = JSON.parse(answer.headers.get('export-report') ?? '{"kept":[],"changed":[]}');
      const link = document.createElement('a');
      link.href = URL.createObjectURL(await answer.blob());
      link.download = /filename="?([^";]+)/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? 'shot.glb';
      link.click();
      URL.revokeObjectURL(link.href);
      ui.importReport = { name: link.download, imported: report.kept, skipped: report.changed };
      const show = { label: 'What is different in it', run: () => (ui.dialog = 'import') };
      session.messages.say(
        `${link.download}: ${report.kept.join(', ')}.`,
        report.changed.length > 0 ? show : undefined,
      );
      return true;
    });
  } catch (e) {
    session.messages.say((e as Error).message);
  }
}
