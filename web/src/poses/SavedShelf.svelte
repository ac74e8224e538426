<script lang="ts">
  import FlipHorizontal2 from '@lucide/svelte/icons/flip-horizontal-2';
  import { onMount } from 'svelte';
  import type { SavedPose } from '../engine/engine';
  import { run, tip } from '../commands';
  import { parts, SAVED_DRAG, savedShelf, type SavedItem } from './savedShelf.svelte';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import ShareSlider from '../widgets/ShareSlider.svelte';
  import NameField from '../widgets/NameField.svelte';

  // Poses and motions that are kept for all shots. A click puts one onto what is selected, a drag onto what it is dropped on; a pose also in part.
  let filter = $state('');
  let renaming = $state<string | null>(null);
  /** Poses that are at hand: fetched when the pointer comes near. */
  const near = new Map<string, SavedPose>();
  /** Which of its pictures a motion shows. */
  let shown = $state.raw<{ id: string; picture: number } | null>(null);

  const items = $derived(
    (savedShelf.list ?? []).filter((i) =>
      `${i.name} ${i.objects.join(' ')}`.toLowerCase().includes(filter.toLowerCase()),
    ),
  );
  onMount(() => void savedShelf.load());

  function approach(item: SavedItem) {
    if (item.kind !== 'pose' || near.has(item.id)) return;
    savedShelf.fetch(item.id).then(
      (saved) => saved.kind === 'pose' && near.set(item.id, saved),
      () => {},
    );
  }

  const begin = (item: SavedItem) => {
    const pose = near.get(item.id);
    return pose !== undefined && savedShelf.begin(pose);
  };

  /** A motion moves under the pointer, from its first picture to its last. */
  function play(e: PointerEvent, item: SavedItem) {
    if (item.pictures < 2) return;
    const { left, width } = (e.currentTarget as HTMLElement).getBoundingClientRect();
    const part = Math.min(0.999, Math.max(0, (e.clientX - left) / width));
    shown = { id: item.id, picture: Math.floor(part * item.pictures) };
  }

  const place = (item: SavedItem) => {
    const at = shown?.id === item.id ? shown.picture : Math.floor(item.pictures / 2);
    return item.pictures > 1 ? `${(100 * at) / (item.pictures - 1)}% 0` : '0 0';
  };

  function menu(e: MouseEvent, item: SavedItem) {
    contextMenu.open(e, [
      { title: 'Apply to selection', run: () => void savedShelf.put(item.id) },
      { title: 'Rename', run: () => (renaming = item.id) },
      { title: 'Save as a file', run: () => void (location.href = `/api/saved/${item.id}`) },
      null,
      { title: 'Delete', run: () => void savedShelf.remove(item) },
    ]);
  }

  function keydown(e: KeyboardEvent, item: SavedItem) {
    if (e.key === 'F2') renaming = item.id;
    else if (e.key === 'Delete') void savedShelf.remove(item);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Saved poses and motions">
  <div class="flex flex-col gap-1.5 border-b border-base-300 p-2">
    <div class="flex gap-1">
      <button class="btn grow btn-xs" title={tip('shelf.pose')} onclick={() => run('shelf.pose')}>Save pose</button>
      <button class="btn grow btn-xs" title={tip('shelf.motion')} onclick={() => run('shelf.motion')}
        >Save motion</button
      >
    </div>
    <div class="flex flex-wrap gap-x-2 gap-y-0.5 text-xs" role="group" aria-label="What is taken of a pose or a motion">
      {#each parts as p (p.id)}
        <label class="flex items-center gap-1"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={!savedShelf.without.has(p.id)}
            onchange={() => savedShelf.togglePart(p.id)}
          />{p.label}</label
        >
      {/each}
      <label class="flex items-center gap-1" title="Left for right, by name"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={savedShelf.mirror} /><FlipHorizontal2
          size={12}
        />Mirrored</label
      >
    </div>
    {#if (savedShelf.list?.length ?? 0) > 6}<input
        class="input input-xs w-full"
        placeholder="Filter"
        aria-label="Filter poses and motions"
        bind:value={filter}
      />{/if}
  </div>
  <div class="min-h-0 grow overflow-y-auto p-2">
    {#if savedShelf.problem}<p class="text-xs" role="alert">{savedShelf.problem}</p>
    {:else if savedShelf.list?.length === 0}<p class="pt-2 text-xs text-base-content/80">
        Nothing is kept yet. Select objects and keep their pose or their motion: it is then here in every shot. A
        .pose.json or .motion.json file can be dropped anywhere.
      </p>{/if}
    <div class="grid grid-cols-2 gap-2" role="list">
      {#each items as item (item.id)}
        <div
          class="flex min-w-0 flex-col gap-0.5"
          role="listitem"
          onpointerenter={() => approach(item)}
          onfocusin={() => approach(item)}
        >
          <button
            class="relative overflow-hidden rounded-field border-2 border-base-300 hover:border-secondary"
            draggable="true"
            title="{item.name}: {item.channels} channels of {item.objectCount === 1
              ? item.objects[0]
              : `${item.objectCount} objects`}. Click to put it onto what is selected, or drag it onto an object"
            aria-label="Put {item.name}"
            data-saved={item.id}
            ondragstart={(e) => e.dataTransfer?.setData(SAVED_DRAG, item.id)}
            onclick={() => void savedShelf.put(item.id)}
            oncontextmenu={(e) => menu(e, item)}
            onkeydown={(e) => keydown(e, item)}
            onpointermove={(e) => play(e, item)}
            onpointerleave={() => (shown = null)}
          >
            <span
              class="block aspect-[16/9] w-full bg-base-300"
              style={item.pictures > 0
                ? `background-image:url(/api/saved/${item.id}/picture);background-size:${item.pictures * 100}% 100%;background-position:${place(item)}`
                : ''}
            ></span>
            {#if item.kind === 'motion'}<span
                class="absolute right-1 bottom-1 rounded bg-base-100/80 px-1 text-xs"
                aria-hidden="true">motion</span
              >{/if}
          </button>
          {#if item.kind === 'pose'}<ShareSlider
              value={0}
              label="{item.name}: how much"
              title="From how it is now to this pose, and past both"
              class="w-full"
              onbegin={() => begin(item)}
              ontry={(s) => savedShelf.share(s, false)}
              onkeep={(s) => savedShelf.share(s, true)}
              oncancel={() => savedShelf.leave()}
            />{/if}
          {#if renaming === item.id}
            <NameField
              value={item.name}
              label="Name"
              class="w-full"
              onname={(name) => void savedShelf.rename(item.id, name)}
              onend={() => (renaming = null)}
            />
          {:else}<span class="truncate text-xs" role="presentation" ondblclick={() => (renaming = item.id)}
              >{item.name}</span
            >{/if}
        </div>
      {/each}
    </div>
  </div>
</section>
