<script lang="ts">
  // What is all around: a picture of the sky, and what the camera sees behind everything.
  import { newEdit } from '../edits/edit';
  import ImagePlus from '@lucide/svelte/icons/image-plus';
  import X from '@lucide/svelte/icons/x';
  import { addPicture } from '../materials/materials';
  import { session } from '../stores/session.svelte';

  let input: HTMLInputElement;
  let taking = $state(false);
  const picture = $derived(session.shot.scene.skyPicture);

  const set = (change: object) => session.shot.commit(newEdit('setShot', { ...change }));

  async function take(file: File | undefined) {
    if (!file) return;
    taking = true;
    const added = await addPicture(file, true);
    taking = false;
    if (!added) return;
    const { asset, name, width, height } = added;
    set({ skyPicture: { asset, name, width, height } });
  }

  const backgrounds = { sky: 'The sky', color: 'A colour', transparent: 'Nothing: transparent' };
</script>

<div
  class="flex flex-col gap-1 px-3 pt-2 text-xs"
  role="group"
  aria-label="Sky and background"
  ondragover={(e) => e.dataTransfer?.types.includes('Files') && e.preventDefault()}
  ondrop={(e) => {
    const file = e.dataTransfer?.files[0];
    if (!file) return;
    e.preventDefault();
    void take(file);
  }}
>
  <input
    bind:this={input}
    class="hidden"
    type="file"
    accept=".hdr,image/png,image/jpeg,image/webp"
    aria-label="Picture of the sky"
    onchange={(e) => take(e.currentTarget.files?.[0])}
  />
  <div class="flex items-center gap-1">
    <span class="w-24 shrink-0">Sky picture</span>
    <button
      class="btn grow truncate btn-xs"
      disabled={taking}
      title="A picture of all that is around, twice as wide as high: Radiance .hdr, PNG, JPEG or WebP. Drop one here, or click."
      onclick={() => ((input.value = ''), input.click())}
      ><ImagePlus size={14} />{taking ? 'Loading…' : (picture?.name ?? 'Choose…')}</button
    >
    {#if picture}<button
        class="btn btn-square btn-ghost btn-xs"
        aria-label="Take the picture out of the sky"
        title="Take the picture out of the sky"
        onclick={() => set({ noSkyPicture: true })}><X size={14} /></button
      >{/if}
  </div>
  <label class="flex items-center gap-1">
    <span class="w-24 shrink-0">Background</span>
    <select
      class="select min-w-0 grow select-xs"
      value={session.shot.scene.background}
      onchange={(e) => set({ background: e.currentTarget.value })}
    >
      {#each Object.entries(backgrounds) as [kind, name] (kind)}<option value={kind}>{name}</option>{/each}
    </select>
  </label>
</div>
