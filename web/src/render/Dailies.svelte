<script lang="ts">
  import Bookmark from '@lucide/svelte/icons/bookmark';
  import Columns2 from '@lucide/svelte/icons/columns-2';
  import Film from '@lucide/svelte/icons/film';
  import FolderOpen from '@lucide/svelte/icons/folder-open';
  import History from '@lucide/svelte/icons/history';
  import Play from '@lucide/svelte/icons/play';
  import Square from '@lucide/svelte/icons/square';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { api, take, type RenderView } from '../api/client';
  import NumberField from '../widgets/NumberField.svelte';
  import { picture } from '../widgets/pictureQueue';
  import { session } from '../stores/session.svelte';
  import { remaining } from '../widgets/work.svelte';

  let {
    chosen,
    compared,
    onchoose,
    oncompare,
  }: {
    chosen: string | null;
    compared: string | null;
    onchoose: (id: string) => void;
    oncompare: (id: string) => void;
  } = $props();

  let folder = $state<{ id: string; path: string } | null>(null);
  const { renders } = session;
  let times = $state(1);

  const words: Record<string, string> = {
    queued: 'waiting',
    running: 'rendering',
    done: 'done',
    cancelled: 'stopped',
    failed: 'failed',
  };
  const time = (t: string) => new Date(t).toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' });

  async function attempt(what: () => Promise<unknown>) {
    try {
      await what();
    } catch (e) {
      session.messages.say((e as Error).message);
    }
  }

  const at = (r: RenderView) => ({ params: { path: { id: r.id } } });
  const cancel = (r: RenderView) => attempt(() => take(api.POST('/api/renders/{id}/cancel', at(r))));
  const resume = (r: RenderView) => attempt(() => take(api.POST('/api/renders/{id}/resume', at(r))));
  const keep = (r: RenderView) =>
    attempt(async () =>
      renders.take(await take(api.PUT('/api/renders/{id}/kept', { ...at(r), body: { kept: !r.kept } }))),
    );
  const remove = (r: RenderView) =>
    attempt(async () => {
      renders.take(await take(api.DELETE('/api/renders/{id}', at(r))));
      session.messages.say(`${r.frames}, ${r.quality} is removed; its pictures stay on the disk for a day.`, {
        label: 'Take back',
        run: () => attempt(async () => renders.take(await take(api.POST('/api/renders/{id}/undelete', at(r))))),
      });
    });
  const reveal = (r: RenderView) =>
    attempt(async () => (folder = { id: r.id, path: (await take(api.GET('/api/renders/{id}/folder', at(r)))).path }));
  const formats = { mp4: 'MP4 (H.264)', webm: 'WebM (VP9)', gif: 'GIF', apng: 'Animated PNG' } as const;
  let format = $state<keyof typeof formats>('mp4');
  const film = (r: RenderView) =>
    attempt(async () => {
      const held = await renders.film(r, times, format);
      if (held)
        session.messages.say(
          `${held === 1 ? 'One frame has' : `${held} frames have`} no picture and ${held === 1 ? 'is' : 'are'} shown by the one before, so that the film keeps its length.`,
        );
    });
</script>

<section class="p-3" aria-label="Dailies">
  <h2 class="pb-2 text-sm font-semibold">Dailies</h2>
  {#each renders.list as r (r.id)}
    <article
      class="mb-2 rounded-box border p-2 text-xs {r.id === chosen ? 'border-primary bg-base-200' : 'border-base-300'}"
      data-render={r.id}
      data-state={r.state}
    >
      <button
        class="flex w-full items-center gap-2 text-left"
        aria-label="Show {r.frames}, {r.quality}"
        onclick={() => onchoose(r.id)}
      >
        {#if r.done > 0}
          <img
            class="h-12 w-20 shrink-0 rounded-sm object-cover"
            {@attach picture(`/api/renders/${r.id}/frames/${r.doneRanges[0]?.first}/small`)}
            alt=""
          />
        {:else}<span class="h-12 w-20 shrink-0 rounded-sm bg-base-300"></span>{/if}
        <span class="min-w-0 grow">
          <b class="block truncate text-[13px]">{r.frames} · {r.quality}</b>
          <span class="block truncate">{r.width}×{r.height} · {r.fileName}</span>
          <span class="text-base-content/75"
            >{time(r.created)} · state {r.shotRevision} · {words[r.state]}{r.kept ? ' · kept' : ''}</span
          >
        </span>
      </button>
      {#if r.state === 'running' || r.state === 'queued'}
        <progress class="progress mt-2 w-full progress-primary" value={r.done} max={r.frameCount} aria-label="Rendered"
        ></progress>
        <div class="flex items-center justify-between">
          <span data-testid="progress"
            >{r.done} of {r.frameCount}{r.done
              ? ` · ${(r.millisecondsPerFrame / 1000).toFixed(2)} s each`
              : ''}{r.secondsLeft != null ? ` · ${remaining(r.secondsLeft)}` : ''}</span
          >
          <button class="btn btn-xs" onclick={() => cancel(r)}><Square size={12} />Stop</button>
        </div>
      {:else}
        {#if r.message}<p class="mt-1 rounded-field bg-error/20 p-1" role="alert">{r.message}</p>{/if}
        <p class="mt-1 text-base-content/75">
          {r.done} of {r.frameCount}{r.done ? ` · ${(r.millisecondsPerFrame / 1000).toFixed(2)} s each` : ''}
        </p>
        <div class="mt-1 flex items-center gap-0.5">
          {#if r.state !== 'done'}<button
              class="btn btn-xs"
              title="Resume with the frames that are missing"
              onclick={() => resume(r)}><Play size={12} />Resume</button
            >{/if}
          <button
            class="btn btn-square btn-ghost btn-xs {r.kept ? 'text-primary' : ''}"
            aria-label="Keep"
            aria-pressed={r.kept}
            title={r.kept ? 'Kept' : 'Keep'}
            onclick={() => keep(r)}><Bookmark size={14} /></button
          >
          <button
            class="btn btn-square btn-ghost btn-xs {r.id === compared ? 'text-primary' : ''}"
            aria-label="Compare"
            aria-pressed={r.id === compared}
            title="Compare with the one shown"
            onclick={() => oncompare(r.id)}><Columns2 size={14} /></button
          >
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Restore this version"
            title={session.shot.history?.content === r.shotRevision
              ? 'The shot is as it was for this sequence'
              : `Take the shot back to state ${r.shotRevision}, which made this sequence (it can be undone)`}
            disabled={session.shot.history?.content === r.shotRevision}
            onclick={() => session.shot.restore(r.shotRevision)}><History size={14} /></button
          >
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Show folder"
            title="Show the folder of the pictures"
            onclick={() => reveal(r)}><FolderOpen size={14} /></button
          >
          <button
            class="btn btn-ghost btn-xs"
            title="Make a film: {formats[format]}"
            disabled={renders.filming !== null || r.done === 0}
            onclick={() => film(r)}><Film size={14} />{renders.filming === r.id ? 'Making…' : 'Film'}</button
          >
          <button
            class="btn ml-auto btn-square btn-ghost btn-xs"
            aria-label="Remove"
            title={r.kept ? 'Kept: it is not removed' : 'Remove this sequence'}
            disabled={r.kept || renders.filming === r.id}
            onclick={() => remove(r)}><Trash2 size={14} /></button
          >
        </div>
        {#if renders.films[r.id]}<a class="link mt-1 block link-secondary" href={renders.films[r.id]} download
            >Download film</a
          >{/if}
        {#if folder?.id === r.id}<p class="mt-1 rounded-field bg-base-300 p-1 break-all select-text">
            {folder.path}
          </p>{/if}
      {/if}
    </article>
  {:else}
    <p class="text-sm text-base-content/80">Every sequence you render is kept here, newest first.</p>
  {/each}
  {#if renders.list.length > 0}
    <label class="flex items-center gap-2 pt-1 text-xs"
      >Repeats
      <div class="w-14">
        <NumberField
          label="Times that films repeat"
          whole
          step={0.1}
          least={1}
          most={100}
          value={times}
          oncommit={(_, to) => (times = to)}
        />
      </div>
      times</label
    >
    <label class="flex items-center gap-2 pt-1 text-xs"
      >Format
      <select class="select select-xs w-36" aria-label="Format of films" bind:value={format}>
        {#each Object.entries(formats) as [id, name] (id)}<option value={id}>{name}</option>{/each}
      </select></label
    >
  {/if}
</section>
