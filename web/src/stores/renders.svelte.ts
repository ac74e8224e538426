// The renders of the open shot.
import { api, take, type RenderView } from '../api/client';
import { work } from '../widgets/work.svelte';

export class Renders {
  /** The newest first. */
  list = $state.raw<RenderView[]>([]);

  /** Where the films are that have been made, by the ids of their renders. */
  films = $state.raw<Readonly<Record<string, string>>>({});
  /** The render whose film is being made. */
  filming = $state<string | null>(null);

  private shotId: string | null = null;
  private report: (part: number) => void = () => undefined;
  /** How new what is known of each is, of those that are in the trash too. Answers and news come by two ways, in any order. */
  private readonly versions = new Map<string, number>();

  /** Asks for those of a shot; from then on only they are taken. */
  async of(shot: string) {
    if (this.shotId !== shot) {
      this.shotId = shot;
      this.list = [];
      this.versions.clear();
    }
    const before = new Set(this.list);
    const renders = await take(api.GET('/api/renders', { params: { query: { shot } } })).catch(() => null);
    if (!renders || this.shotId !== shot) return;
    for (const view of renders) this.take(view);
    // Put into the trash while nothing was heard of it.
    const there = new Set(renders.map((r) => r.id));
    this.list = this.list.filter((r) => there.has(r.id) || !before.has(r));
  }

  /** Takes up how far one is, or that it went into the trash. */
  take(view: RenderView) {
    if (view.shotId !== this.shotId || (this.versions.get(view.id) ?? -1) > view.version) return;
    this.versions.set(view.id, view.version);
    const at = this.list.findIndex((r) => r.id === view.id);
    if (view.removed) this.list = this.list.filter((r) => r.id !== view.id);
    else if (at >= 0) this.list = this.list.with(at, view);
    else this.list = [view, ...this.list].sort((a, b) => b.created.localeCompare(a.created));
  }

  /** Makes the film of a render, one at a time; it can be cancelled. Answers how many frames are held since their picture is missing. */
  async film(render: RenderView, times: number, format: string) {
    if (this.filming !== null) return null;
    this.filming = render.id;
    try {
      const made = await work.run(`Film of ${render.frames}, ${render.quality}`, (signal, report) => {
        this.report = report;
        const at = { params: { path: { id: render.id } } };
        return take(api.POST('/api/renders/{id}/film', { ...at, body: { times, format }, signal }));
      });
      if (!made) return null;
      this.films = { ...this.films, [render.id]: made.url };
      return made.held;
    } finally {
      this.filming = null;
    }
  }

  /** The server says how much of a film is made, from 0 to 1. */
  filmed(render: string, part: number) {
    if (render === this.filming) this.report(part);
  }
}
