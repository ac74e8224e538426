<script lang="ts">
  import Box from '@lucide/svelte/icons/box';
  import Copy from '@lucide/svelte/icons/copy';
  import Download from '@lucide/svelte/icons/download';
  import FilePlus2 from '@lucide/svelte/icons/file-plus-2';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import Upload from '@lucide/svelte/icons/upload';
  import { onMount } from 'svelte';
  import { api, take, type ShotView } from '../api/client';
  import { accepted, importFiles } from './import';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import Dialog from '../widgets/Dialog.svelte';
  import LibraryRoom from './LibraryRoom.svelte';
  import NameField from '../widgets/NameField.svelte';
  import { picture } from '../widgets/pictureQueue';

  let shots = $state.raw<ShotView[]>([]);
  let error = $state('');
  let name = $state('');
  let renaming = $state<string | null>(null);
  let files: HTMLInputElement;

  async function load() {
    shots = await take(api.GET('/api/shots'));
  }

  async function attempt(what: () => Promise<unknown>) {
    error = '';
    try {
      await what();
      await load();
    } catch (e) {
      error = (e as Error).message;
    }
  }

  /** What the server reads of the open shot is what is on the screen. */
  const settled = async (id: string) => {
    if (id === session.shotId) await session.settled();
  };

  const duplicate = (id: string) =>
    attempt(async () => {
      await settled(id);
      await take(api.POST('/api/shots/{id}/duplicate', { params: { path: { id } } }));
    });

  /** A link that waits until everything is sent. */
  function download(e: MouseEvent, id: string) {
    if (id !== session.shotId || !session.hasUnsaved) return;
    e.preventDefault();
    const { href } = e.currentTarget as HTMLAnchorElement;
    void attempt(async () => {
      await settled(id);
      Object.assign(document.createElement('a'), { href, download: '' }).click();
    });
  }

  const open = (id: string) =>
    attempt(async () => {
      await session.open(id);
      // Another was asked for meanwhile: what is open now is for that one to say.
      if (session.shotId === id) ui.dialog = null;
    });

  const create = () =>
    attempt(async () => {
      const made = await take(api.POST('/api/shots', { body: { name: name.trim() || 'New shot' } }));
      name = '';
      await session.open(made.id);
      // There is nothing to frame yet: the first thing is to look around.
      viewState.throughCamera = false;
      ui.dialog = null;
    });

  const remove = (shot: ShotView) =>
    attempt(async () => {
      const path = { id: shot.id };
      await take(api.DELETE('/api/shots/{id}', { params: { path } }));
      session.messages.say(`“${shot.name}” was deleted.`, {
        label: 'Undo',
        run: () => void attempt(() => take(api.POST('/api/shots/{id}/undelete', { params: { path } }))),
      });
    });

  const rename = (shot: ShotView, name: string) =>
    void attempt(() => take(api.PUT('/api/shots/{id}/name', { params: { path: { id: shot.id } }, body: { name } })));

  onMount(() => void attempt(async () => undefined));
  const when = (time: string) => new Date(time).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
</script>

<Dialog onleave={() => ui.leave('library')} title="Library of shots" wide>
  <div class="flex items-center gap-2 pb-3">
    <input
      class="input input-sm grow"
      placeholder="Name of a new shot"
      aria-label="Name of a new shot"
      bind:value={name}
      onkeydown={(e) => e.key === 'Enter' && create()}
    />
    <button class="btn btn-primary btn-sm" onclick={create}><FilePlus2 size={16} />New shot</button>
    <button
      class="btn btn-sm"
      title="Make a new shot of a file: .shot.json, .shot.zip, .glb, .gltf, .obj, .stl or .ply; you can also drop one anywhere"
      onclick={() => files.click()}><Upload size={16} />Import</button
    >
    <input
      bind:this={files}
      type="file"
      class="hidden"
      multiple
      accept={accepted}
      aria-label="Shot file"
      onchange={(e) => {
        const chosen = [...(e.currentTarget.files ?? [])];
        // The same file may be chosen again.
        e.currentTarget.value = '';
        if (chosen.length > 0) void attempt(() => importFiles(chosen, false));
      }}
    />
  </div>
  {#if error}<p class="mb-3 rounded-field bg-error/20 p-2 text-sm" role="alert">{error}</p>{/if}
  <div class="grid grid-cols-3 gap-3">
    {#each shots as shot (shot.id)}
      <article
        class="overflow-hidden rounded-box border {shot.id === session.shotId
          ? 'border-primary'
          : 'border-base-300'} bg-base-200"
      >
        <button
          class="block aspect-video w-full bg-base-300"
          aria-label="Open {shot.name}"
          onclick={() => open(shot.id)}
        >
          <img
            class="h-full w-full object-cover"
            {@attach picture(`/api/shots/${shot.id}/thumbnail?revision=${shot.revision}`)}
            alt=""
          />
        </button>
        <div class="p-2">
          {#if renaming === shot.id}
            <NameField
              value={shot.name}
              label="Name"
              class="w-full"
              onname={(name) => rename(shot, name)}
              onend={() => (renaming = null)}
            />
          {:else}
            <button
              class="block w-full truncate text-left font-semibold"
              title="Rename"
              onclick={() => (renaming = shot.id)}>{shot.name}</button
            >
          {/if}
          <div class="flex items-center justify-between">
            <span class="text-xs text-base-content/75">{when(shot.changed)}</span>
            <span class="flex">
              <button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Duplicate {shot.name}"
                title="Duplicate"
                onclick={() => duplicate(shot.id)}><Copy size={14} /></button
              >
              <a
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Export {shot.name}"
                title="Export the shot file, with its meshes where it has some"
                href="/api/shots/{shot.id}/file"
                onclick={(e) => download(e, shot.id)}
                download><Download size={14} /></a
              >
              <a
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Export {shot.name} as glTF"
                title="Export as glTF (.glb)"
                href="/api/shots/{shot.id}/model"
                onclick={(e) => download(e, shot.id)}
                download><Box size={14} /></a
              >
              <button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Delete {shot.name}"
                title="Delete; can be undone"
                onclick={() => remove(shot)}><Trash2 size={14} /></button
              >
            </span>
          </div>
        </div>
      </article>
    {:else}<p class="col-span-3 p-6 text-center text-sm">
        No shots yet. Give one a name above, or drop a shot file here.
      </p>{/each}
  </div>
  <LibraryRoom {shots} onchange={() => void load()} />
</Dialog>
