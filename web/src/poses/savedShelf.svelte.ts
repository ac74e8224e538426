// Poses and motions that are kept for all shots: what is on the shelf, and what becomes of it here.
import { api, take } from '../api/client';
import { type Saved, type SavedMotion, type SavedPose } from '../engine/engine';
import type { components } from '../generated/api';
import { keptRange, meantParts, report, takeMotion } from '../curves/motion';
import { takeDrops } from '../stores/drops';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { viewState } from '../stores/viewState.svelte';

export type SavedItem = components['schemas']['SavedView'];

/** What is dragged: the id of a pose or a motion. */
export const SAVED_DRAG = 'application/x-saved';

/** Which channels of a pose or a motion are taken. */
export const parts = [
  { id: 'position', label: 'Position', path: /^transform\.translate/ },
  { id: 'rotation', label: 'Rotation', path: /^transform\.(rotate|quaternion)/ },
  { id: 'scale', label: 'Scale', path: /^transform\.scale/ },
  { id: 'rest', label: 'Rest', path: /^(?!transform\.(translate|rotate|quaternion|scale))/ },
] as const;

class SavedShelf {
  /** Null until it has been asked for. */
  list = $state.raw<SavedItem[] | null>(null);
  /** Why it could not be read. */
  problem = $state('');
  /** Of these nothing is taken. */
  without = $state.raw<ReadonlySet<string>>(new Set());
  mirror = $state(false);
  private readonly read = new Map<string, Promise<Saved>>();
  /** The pose that is being put, once it is known that it fits. */
  private begun = false;

  async load() {
    try {
      this.list = await take(api.GET('/api/saved'));
      this.problem = '';
    } catch (e) {
      this.problem = (e as Error).message;
    }
  }

  togglePart(id: string) {
    const next = new Set(this.without);
    if (!next.delete(id)) next.add(id);
    this.without = next;
  }

  /** What is in it; fetched once. */
  fetch(id: string): Promise<Saved> {
    let saved = this.read.get(id);
    if (!saved) {
      saved = fetch(`/api/saved/${id}`).then(async (answer) => {
        if (!answer.ok) throw new Error('This pose or motion is not in the pose library any more.');
        return (await answer.json()) as Saved;
      });
      saved.catch(() => this.read.delete(id));
      this.read.set(id, saved);
    }
    return saved;
  }

  /** Keeps the pose of what is selected, or its motion. */
  async keep(kind: 'pose' | 'motion') {
    const { engine } = session.shot;
    const { ids, nodes } = session.selection;
    if (!engine) return;
    if (ids.length === 0) return session.messages.say(`Select the objects whose ${kind} shall be kept.`);
    const { first, last } = keptRange();
    const saved: Saved | null = kind === 'pose' ? engine.copyPose(ids) : engine.copyMotion(ids, first, last);
    if (saved)
      Object.assign(saved, {
        parts: meantParts<SavedMotion['parts'][number] | SavedPose['parts'][number]>(saved.parts),
      });
    if (!saved || saved.parts.length === 0)
      return session.messages.say('There is no animation to keep: select objects that have keys.');
    const more = nodes.length > 1 ? ` and ${nodes.length - 1} more` : '';
    saved.name = `${nodes[0].name}${more}${kind === 'pose' ? `, frame ${Math.round(session.frame * 100) / 100}` : ''}`;
    const frames =
      saved.kind === 'pose'
        ? [session.frame]
        : spread(
            Math.min(...saved.parts.map((p) => p.curve.keys[0].frame)),
            Math.max(...saved.parts.map((p) => p.curve.keys.at(-1)!.frame)),
          );
    try {
      const item = await take(api.POST('/api/saved', { body: saved as never }));
      this.list = [item, ...(this.list ?? [])];
      viewState.shelf = true;
      session.messages.say(`“${item.name}” is in the pose library.`);
      const pictured = await picture(item.id, ids, frames);
      if (pictured) this.replace(pictured);
    } catch (e) {
      session.messages.say((e as Error).message);
    }
  }

  /** Puts a pose or a motion from a file onto the shelf. */
  async addFile(file: File) {
    try {
      const item = await take(api.POST('/api/saved', { body: JSON.parse(await file.text()) as never }));
      this.list = [item, ...(this.list ?? [])];
      viewState.shelf = true;
      session.messages.say(`“${item.name}” is in the pose library.`);
    } catch (e) {
      session.messages.say(
        e instanceof SyntaxError ? `${file.name} is no pose or motion that can be read.` : (e as Error).message,
      );
    }
  }

  async rename(id: string, name: string) {
    try {
      this.replace(await take(api.PUT('/api/saved/{id}/name', { params: { path: { id } }, body: { name } })));
      this.read.delete(id);
    } catch (e) {
      session.messages.say((e as Error).message);
    }
  }

  async remove(item: SavedItem) {
    const params = { path: { id: item.id } };
    try {
      await take(api.DELETE('/api/saved/{id}', { params }));
      this.list = (this.list ?? []).filter((i) => i.id !== item.id);
      session.messages.say(`“${item.name}” is deleted from the pose library.`, {
        label: 'Undo',
        run: () => void take(api.POST('/api/saved/{id}/undelete', { params })).then(() => this.load()),
      });
    } catch (e) {
      session.messages.say((e as Error).message);
    }
  }

  /** Puts a pose or a motion onto objects: a pose as it is, a motion with a look at its numbers first. */
  async put(id: string, targets = session.selection.ids) {
    try {
      const saved = await this.fetch(id);
      if (saved.kind === 'pose') {
        if (this.begin(saved, targets)) this.share(1, true);
      } else {
        takeMotion({ ...saved, parts: saved.parts.filter((p) => this.isTaken(p.path)) }, this.mirror);
        if (targets !== session.selection.ids) session.selection.select(targets);
        ui.curveTool = 'putMotion';
      }
    } catch (e) {
      session.messages.say((e as Error).message);
    }
  }

  /** Puts what has been dropped onto an object; onto one that is selected it is for all that are. */
  drop = (id: string, node: string) =>
    this.put(id, session.selection.ids.includes(node) ? session.selection.ids : [node]);

  /** Begins to put a pose in part; false where nothing of it fits, which is said. */
  begin(pose: SavedPose, targets = session.selection.ids): boolean {
    const taken = { ...pose, parts: pose.parts.filter((p) => this.isTaken(p.path)) };
    this.begun = false;
    if (taken.parts.length === 0)
      session.messages.say(
        'Nothing of this pose is taken: switch on one of the kinds above it, or leave the chosen channels (Esc).',
      );
    else this.begun = session.shot.beginPose(taken, targets, this.mirror);
    return this.begun;
  }

  /** Puts so much of the pose that was begun with: 0 is how it was, 1 the pose. */
  share(share: number, commit: boolean) {
    if (!this.begun) return;
    const said = session.shot.engine!.poseReport();
    if (!session.shot.putPose(share, commit) || !commit) return;
    this.begun = false;
    // What fits wholly is seen; only the rest has to be said.
    if (said.length > 1) report(said);
    else if (session.shot.waiting.size > 0)
      session.messages.say('The pose waits on this frame: key it, or go on posing.');
  }

  /** Takes back what is shown of it. */
  leave() {
    if (this.begun) session.shot.putPose(0, false);
    session.shot.try(null);
    this.begun = false;
  }

  private isTaken = (path: string) => {
    if (meantParts([{ path }]).length === 0) return false;
    return !parts.some((p) => this.without.has(p.id) && p.path.test(path));
  };

  private replace(item: SavedItem) {
    this.list = (this.list ?? []).map((i) => (i.id === item.id ? item : i));
  }
}

/** As many frames as there are pictures of a motion, the first and the last among them. */
function spread(first: number, last: number): number[] {
  const count = Math.max(2, Math.min(16, Math.round(last - first) + 1));
  return last > first ? Array.from({ length: count }, (_, i) => first + ((last - first) * i) / (count - 1)) : [first];
}

/** Takes the picture of what is kept, close to what moves, and sends it. Where nothing can be drawn there is none. */
async function picture(id: string, ids: string[], frames: number[]): Promise<SavedItem | null> {
  const { stripOf } = await import('../viewport/view/strips');
  const strip = await stripOf(ids, frames);
  if (!strip) return null;
  const answer = await fetch(`/api/saved/${id}/picture?count=${frames.length}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: strip,
  });
  return answer.ok ? ((await answer.json()) as SavedItem) : null;
}

export const savedShelf = new SavedShelf();

// What hangs together moves together: it is for the topmost group of what it was dropped on, or what was selected of that.
takeDrops(SAVED_DRAG, (id, node) => void savedShelf.drop(id, session.selection.targetOf(node)));
