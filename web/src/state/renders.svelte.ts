// The renders of the open shot.
import { api, take, type RenderView } from '../api/client';

export class Renders {
  /** The newest first. */
  list = $state.raw<RenderView[]>([]);

  /** Who wants to hear how much of a film is made, by the id of its render. */
  readonly films = new Map<string, (part: number) => void>();

  private shotId: string | null = null;

  /** Asks for those of a shot; from then on only they are taken. */
  async of(shot: string) {
    this.shotId = shot;
    const renders = await take(api.GET('/api/renders', { params: { query: { shot } } })).catch(() => null);
    if (renders && this.shotId === shot) this.list = renders;
  }

  take(view: RenderView) {
    if (view.shotId !== this.shotId) return;
    const at = this.list.findIndex((r) => r.id === view.id);
    this.list =
      at < 0 ? [view, ...this.list].sort((a, b) => b.created.localeCompare(a.created)) : this.list.with(at, view);
  }

  drop(id: string) {
    this.list = this.list.filter((r) => r.id !== id);
  }
}
