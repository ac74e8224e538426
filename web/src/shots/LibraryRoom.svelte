<script lang="ts">
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { api, take, type ShotView } from '../api/client';
  import type { components } from '../generated/api';

  // What the library takes of the disk, and its trash. `shots` are those that it shows: when they change, this is asked for anew.
  let { shots, onchange }: { shots: readonly ShotView[]; onchange: () => void } = $props();

  let room = $state.raw<components['schemas']['Room'] | null>(null);
  let trash = $state.raw<ShotView[]>([]);
  let open = $state(false);
  let sure = $state(false);
  let busy = $state(false);
  let error = $state('');

  async function load() {
    try {
      [room, trash] = await Promise.all([
        take(api.GET('/api/room')),
        take(api.GET('/api/shots', { params: { query: { deleted: true } } })),
      ]);
    } catch (e) {
      error = (e as Error).message;
    }
  }

  $effect(() => {
    void shots;
    void load();
  });

  async function attempt(what: () => Promise<unknown>) {
    [error, busy] = ['', true];
    try {
      await what();
      onchange();
    } catch (e) {
      error = (e as Error).message;
    }
    [busy, sure] = [false, false];
    await load();
  }

  const restore = (shot: ShotView) =>
    attempt(() => take(api.POST('/api/shots/{id}/undelete', { params: { path: { id: shot.id } } })));
  const empty = () => attempt(() => take(api.DELETE('/api/shots/trash')));

  const when = (time: string) => new Date(time).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
  const size = (bytes: number) =>
    bytes < 1e6
      ? `${Math.ceil(bytes / 1e3)} KB`
      : bytes < 1e9
        ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
        : `${(bytes / 1e9).toFixed(1)} GB`;
</script>

<section class="mt-4 border-t border-base-300 pt-3 text-xs" aria-label="Room and trash">
  {#if error}<p class="mb-2 rounded-field bg-error/20 p-2 text-sm" role="alert">{error}</p>{/if}
  <div class="flex flex-wrap items-center justify-between gap-2">
    {#if room}
      <p>
        Shots and their history {size(room.database)} · meshes, pictures, films and sounds {size(room.assets)} · rendered
        sequences
        {size(room.renders)} · {size(room.free)} free on the disk
      </p>
    {/if}
    {#if trash.length > 0}
      <button class="btn btn-ghost btn-xs" aria-expanded={open} onclick={() => (open = !open)}>
        <Trash2 size={14} />Trash ({trash.length}{room && room.trash >= 1e6 ? `, ${size(room.trash)}` : ''})
      </button>
    {/if}
  </div>
  {#if open && trash.length > 0}
    <ul class="mt-2 divide-y divide-base-300 rounded-box border border-base-300">
      {#each trash as shot (shot.id)}
        <li class="flex items-center justify-between gap-2 px-3 py-1">
          <span class="truncate">{shot.name}</span>
          <span class="ml-auto whitespace-nowrap text-base-content/75">{when(shot.changed)}</span>
          <button class="btn btn-ghost btn-xs" disabled={busy} onclick={() => restore(shot)}>
            <RotateCcw size={14} />Restore
          </button>
        </li>
      {/each}
    </ul>
    <div class="mt-2 flex items-center justify-end gap-2">
      {#if sure}
        <span>
          {trash.length === 1 ? 'This shot and its history go' : `These ${trash.length} shots and their histories go`} for
          good. What was rendered of {trash.length === 1 ? 'it' : 'them'} stays.
        </span>
        <button class="btn btn-xs" disabled={busy} onclick={() => (sure = false)}>Cancel</button>
        <button class="btn btn-error btn-xs" disabled={busy} onclick={empty}>Empty trash</button>
      {:else}
        <button class="btn btn-xs" onclick={() => (sure = true)}>Empty trash …</button>
      {/if}
    </div>
  {/if}
</section>
