<script lang="ts">
  // The names of sounds and rows at the left of the tracks, and what is shown of them.
  import { changedSound } from '../../edits/edit';
  import Blend from '@lucide/svelte/icons/blend';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Gauge from '@lucide/svelte/icons/gauge';
  import Layers from '@lucide/svelte/icons/layers';
  import Rows3 from '@lucide/svelte/icons/rows-3';
  import Ruler from '@lucide/svelte/icons/ruler';
  import Spotlight from '@lucide/svelte/icons/spotlight';
  import Unplug from '@lucide/svelte/icons/unplug';
  import Volume2 from '@lucide/svelte/icons/volume-2';
  import VolumeX from '@lucide/svelte/icons/volume-x';
  import { contextMenu } from '../../widgets/contextMenu.svelte';
  import { run, tip } from '../../commands';
  import type { ChannelView } from '../../engine/engine';
  import { curvesOfTag, endsMenu } from '../graph/ends.svelte';
  import { channelMenu } from '../../properties/channelMenu';
  import { isSolo, muteRows, soloRows } from '../../properties/mute';
  import { session } from '../../stores/session.svelte';
  import { viewState } from '../../stores/viewState.svelte';
  import { HEAD, SOUND } from '../model';
  import { ROW, type HeadRow, type Row } from '../layout';

  let {
    labels,
    heard,
    scroll,
    width,
    layersShown,
    onfit,
    onopen,
    onselect,
    onsound,
  }: {
    labels: Row[];
    /** The channels of all rows that can be muted. */
    heard: string[];
    scroll: number;
    width: number;
    layersShown: boolean;
    onfit: () => void;
    /** A lane shall be opened or closed. */
    onopen: (address: string) => void;
    onselect: (row: HeadRow) => void;
    onsound: (id: string) => void;
  } = $props();

  const toggles = [
    { id: 'layers', icon: Layers, on: () => layersShown, needs: false },
    { id: 'tracks.overlay', icon: Blend, on: () => viewState.overlay, needs: false },
    { id: 'tracks.oneScale', icon: Ruler, on: () => viewState.oneScale, needs: true },
    { id: 'tracks.speed', icon: Gauge, on: () => viewState.speed, needs: true },
  ];
  const sounds = $derived(session.shot.scene.sounds);

  function rowMenu(e: MouseEvent, channel: ChannelView) {
    const channels = curvesOfTag(channel.address);
    const cycles = () => (endsMenu.shown = { channels, end: 'after', x: e.clientX, y: e.clientY });
    contextMenu.open(e, [...channelMenu([channel]), null, { title: 'Cycles …', run: cycles }]);
  }

  const nameOf = (owner: string) =>
    session.shot.byId.get(owner)?.name ??
    [...session.shot.scene.materials, ...session.shot.scene.layers, ...sounds].find((o) => o.id === owner)?.name ??
    'Sky';
</script>

{#snippet hearing(addresses: string[], name: string)}
  {@const keyed = addresses.filter((a) => session.shot.keysOf(a).length > 0)}
  {#if keyed.length > 0}
    {@const muted = keyed.every((a) => session.shot.scene.muted.has(a))}
    {@const solo = session.shot.scene.muted.size > 0 && isSolo(keyed, heard)}
    <button
      class="h-6 w-6 shrink-0 place-items-center rounded-field {muted
        ? 'grid bg-warning text-warning-content'
        : 'hidden group-focus-within:grid group-hover:grid hover:bg-base-300'}"
      aria-pressed={muted}
      aria-label="Mute {name}"
      title={muted
        ? 'Muted: curve ignored. Click to unmute'
        : 'Mute: it stays as it is on this frame, its keys are kept'}
      onclick={() => muteRows(keyed)}><Unplug size={13} /></button
    >
    <button
      class="h-6 w-6 shrink-0 place-items-center rounded-field {solo
        ? 'grid bg-primary text-primary-content'
        : 'hidden group-focus-within:grid group-hover:grid hover:bg-base-300'}"
      aria-pressed={solo}
      aria-label="Solo {name}"
      title={solo ? 'Solo: all other rows are muted. Click to hear all again' : 'Solo: all other rows are muted'}
      onclick={() => soloRows(keyed, heard)}><Spotlight size={13} /></button
    >
  {/if}
{/snippet}

<div class="relative h-full shrink-0 overflow-hidden border-r border-base-300" style="width:{width}px">
  <div
    class="absolute inset-x-0 top-0 z-10 flex items-center justify-between border-b border-base-300 bg-base-200 px-3"
    style="height:{HEAD}px"
  >
    <div class="flex h-full w-full flex-col justify-center">
      <div class="flex items-center gap-0.5">
        <span class="grow text-sm font-semibold">Tracks</span>
        {#each toggles as t (t.id)}
          <button
            class="btn btn-square btn-xs {t.on() ? 'btn-primary' : 'btn-ghost'}"
            title={tip(t.id)}
            aria-label={tip(t.id)}
            aria-pressed={t.on()}
            disabled={t.needs && !viewState.overlay}
            onclick={() => run(t.id)}><t.icon size={14} /></button
          >
        {/each}
        <button class="btn btn-ghost btn-xs px-1" title={tip('fit', 'Fit all keys')} onclick={onfit}>Fit</button>
      </div>
      <div class="mt-0.5 flex items-center gap-0.5">
        <input
          class="input input-xs h-5 w-full"
          placeholder="Filter rows"
          aria-label="Filter rows by object, channel or family"
          bind:value={viewState.rowFilter}
        />
        <button
          class="btn btn-square h-5 btn-xs {viewState.rowsBy === 'kind' || viewState.allRows
            ? 'btn-primary'
            : 'btn-ghost'}"
          title="Which rows are shown"
          aria-label="Which rows are shown"
          onclick={(e) =>
            contextMenu.open(e, [
              {
                title: viewState.rowsBy === 'kind' ? 'By object' : 'By kind: all positions together, all rotations …',
                run: () => run('rows.byKind'),
              },
              {
                title: viewState.allRows ? 'Only what is keyed' : 'All channels of the selected objects',
                run: () => run('rows.all'),
              },
            ])}><Rows3 size={13} /></button
        >
      </div>
    </div>
  </div>
  {#each sounds as sound, i (sound.id)}
    <div
      class="absolute inset-x-0 z-10 flex items-center gap-1 border-b border-base-300 bg-base-200 px-2 text-xs"
      style="top:{HEAD + i * SOUND}px;height:{SOUND}px"
      data-sound={sound.id}
    >
      <button
        class="min-w-0 grow truncate text-left font-semibold"
        title="{sound.name}: name, place and level"
        onclick={() => onsound(sound.id)}>{sound.name}</button
      >
      <button
        class="grid h-6 w-6 shrink-0 place-items-center rounded-field {sound.muted
          ? 'bg-warning text-warning-content'
          : 'hover:bg-base-300'}"
        aria-pressed={sound.muted}
        aria-label="Mute {sound.name}"
        title="Mute: neither heard nor in films"
        onclick={() => session.shot.commit(changedSound(sound, { muted: !sound.muted }))}
        >{#if sound.muted}<VolumeX size={13} />{:else}<Volume2 size={13} />{/if}</button
      >
    </div>
  {/each}
  <div class="absolute inset-x-0" style="top:{HEAD - scroll}px" role="tree" aria-label="Animated channels">
    {#each labels as row (row.kind === 'head' ? row.owner : row.address)}
      <div
        class="group absolute inset-x-0 flex items-start border-b border-base-300/60 text-xs"
        style="top:{row.top}px;height:{row.height}px"
        role="treeitem"
        aria-selected={session.selection.ids.includes(row.owner)}
      >
        {#if row.kind === 'head'}
          <button
            class="h-full min-w-0 grow truncate bg-base-200 px-3 text-left font-semibold hover:bg-base-300 {session.selection.ids.includes(
              row.owner,
            )
              ? 'text-primary'
              : ''}"
            title="Select {row.name}"
            onclick={() => onselect(row)}>{row.name}</button
          >
          {@render hearing(
            row.channels.map((c) => c.address),
            row.name,
          )}
        {:else}
          <button
            class="flex min-w-0 grow items-center gap-1 truncate pl-2 text-left hover:bg-base-200"
            style="height:{ROW}px"
            aria-expanded={row.open}
            title={row.open ? 'Close the curve' : 'Open the curve'}
            onclick={() => onopen(row.address)}
            oncontextmenu={(e) => rowMenu(e, row.channel)}
          >
            {#if row.open}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}
            <span class="h-3 w-1 rounded-full" style="background:var(--family-{row.channel.family})"></span>
            <span
              class="grow truncate {session.shot.scene.muted.has(row.address)
                ? 'line-through opacity-70'
                : ''} {session.selection.channels.includes(row.address) ? 'font-semibold text-primary' : ''}"
              >{viewState.rowsBy === 'kind' ? `${nameOf(row.owner)} · ` : ''}{row.channel.label}</span
            >
            <span class="pr-1 text-base-content/70 group-focus-within:hidden group-hover:hidden"
              >{session.shot.valueOf(row.channel).toFixed(2)}</span
            >
          </button>
          {@render hearing([row.address], `${nameOf(row.owner)} ${row.channel.label}`)}
        {/if}
      </div>
    {/each}
  </div>
</div>
