<script lang="ts">
  // The maps of a material: a picture or a pattern for each of what a surface has.
  import ImagePlus from '@lucide/svelte/icons/image-plus';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import type { Picture, SurfaceMap } from '../engine/engine';
  import { addPicture, mapsOf, setMap, slots, type Slot } from './materials';
  import { session } from '../stores/session.svelte';
  import ChannelRows from '../properties/ChannelRows.svelte';

  let { material }: { material: string } = $props();

  const maps = $derived(mapsOf(material));
  const free = $derived(slots.filter((s) => maps.every((m) => m.slot !== s.slot)));
  const channels = $derived(session.shot.channelsOf(material));
  let input: HTMLInputElement;
  let wanted: Slot = 'color';
  let taking = $state(false);

  const patterns = { noise: 'Clouds', wood: 'Wood', checks: 'Checks', bricks: 'Bricks' } as const;
  const projections: Record<SurfaceMap['projection'], string> = {
    coordinates: 'Texture coordinates',
    solid: 'Solid',
    box: 'Box',
    planar: 'Planar',
    cylindrical: 'Round a cylinder',
    spherical: 'Round a ball',
  };
  const parts = { all: 'All of it', red: 'Red', green: 'Green', blue: 'Blue', alpha: 'Alpha' };
  const wraps = { repeat: 'Repeated', clamp: 'Edges go on', mirror: 'Mirrored' };

  const mapOf = (slot: Slot) => maps.find((m) => m.slot === slot);
  const change = (slot: Slot, changed: Partial<SurfaceMap>) => setMap(material, slot, { ...mapOf(slot)!, ...changed });
  const changePicture = (slot: Slot, changed: Partial<Picture>) =>
    change(slot, { source: { ...(mapOf(slot)!.source as Picture), ...changed } });

  function ask(slot: Slot) {
    wanted = slot;
    input.value = '';
    input.click();
  }

  async function take(slot: Slot, file: File | undefined) {
    if (!file) return;
    taking = true;
    const picture = await addPicture(file);
    taking = false;
    if (!picture) return;
    const old = mapOf(slot);
    // What was said of the picture before is true of the new one too.
    const before = old?.source.kind === 'picture' ? old.source : {};
    setMap(material, slot, {
      slot,
      projection: old?.source.kind === 'picture' ? old.projection : 'coordinates',
      source: { ...before, ...picture },
    });
  }

  function source(slot: Slot, kind: string) {
    if (kind === 'picture') return ask(slot);
    setMap(material, slot, {
      slot,
      projection: mapOf(slot)?.projection ?? 'solid',
      source: { kind: kind as keyof typeof patterns },
    });
  }

  /** A new map begins as what is seen at once; a normal map is always a picture. */
  function add(slot: Slot) {
    if (slot === 'normal') ask(slot);
    else source(slot, slot === 'color' || slot === 'emission' ? 'checks' : 'noise');
  }

  const rows = (slot: Slot) =>
    channels
      .filter((c) => c.path.startsWith(`map.${slot}.`))
      // The section says what they are of.
      .map((c) => ({ ...c, label: c.label.replace(/^\w+ map (.)/, (_, first: string) => first.toUpperCase()) }));
</script>

<input
  bind:this={input}
  class="hidden"
  type="file"
  accept="image/png,image/jpeg,image/webp,image/bmp,image/gif"
  aria-label="Picture for a map"
  onchange={(e) => take(wanted, e.currentTarget.files?.[0])}
/>
{#each maps as map (map.slot)}
  {@const label = slots.find((s) => s.slot === map.slot)!.label}
  {@const picture = map.source.kind === 'picture' ? map.source : null}
  {@const film = map.source.kind === 'film' ? map.source : null}
  <details open class="mt-1 border-t border-base-300" data-testid="map-{map.slot}">
    <summary class="flex h-8 cursor-pointer items-center gap-2 px-3 text-xs font-semibold">
      <span class="grow">{label} map</span>
      <button
        class="btn btn-square btn-ghost btn-xs"
        aria-label="Remove the {label.toLowerCase()} map"
        title="Remove, with its keys"
        onclick={(e) => (e.preventDefault(), setMap(material, map.slot, null))}><X size={14} /></button
      >
    </summary>
    <div
      class="flex flex-col gap-1 px-3 pb-1"
      role="group"
      aria-label="{label} map"
      ondragover={(e) => e.dataTransfer?.types.includes('Files') && e.preventDefault()}
      ondrop={(e) => {
        const file = e.dataTransfer?.files[0];
        if (!file) return;
        e.preventDefault();
        void take(map.slot, file);
      }}
    >
      <div class="flex items-center gap-1">
        {#if picture}<img
            src="/api/assets/{picture.asset}"
            alt=""
            class="h-8 w-8 shrink-0 rounded-field border border-base-300 object-cover"
          />{/if}
        <select
          class="select min-w-0 grow select-xs"
          aria-label="What the {label.toLowerCase()} map shows"
          value={map.source.kind}
          onchange={(e) => {
            const kind = e.currentTarget.value;
            // Until a picture has been chosen it stays as it is.
            e.currentTarget.value = map.source.kind;
            source(map.slot, kind);
          }}
        >
          {#if film}<option value="film">{film.name}</option>{/if}
          <option value="picture">{picture ? picture.name : 'A picture…'}</option>
          {#if map.slot !== 'normal'}
            {#each Object.entries(patterns) as [kind, name] (kind)}<option value={kind}>{name}</option>{/each}
          {/if}
        </select>
        <button
          class="btn btn-square btn-ghost btn-xs"
          aria-label="Choose a picture for the {label.toLowerCase()} map"
          title="Choose a picture, or drop one here"
          disabled={taking}
          onclick={() => ask(map.slot)}><ImagePlus size={14} /></button
        >
      </div>
      <select
        class="select select-xs"
        aria-label="How the {label.toLowerCase()} map is laid on"
        value={map.projection}
        onchange={(e) => change(map.slot, { projection: e.currentTarget.value as SurfaceMap['projection'] })}
      >
        {#each Object.entries(projections) as [kind, name] (kind)}<option value={kind}>{name}</option>{/each}
      </select>
      {#if picture}
        <div class="flex gap-1">
          {#if map.slot !== 'normal'}
            <select
              class="select min-w-0 grow select-xs"
              aria-label="What of the picture is taken"
              value={picture.part ?? 'all'}
              onchange={(e) => changePicture(map.slot, { part: e.currentTarget.value as Picture['part'] })}
            >
              {#each Object.entries(parts) as [kind, name] (kind)}<option value={kind}>{name}</option>{/each}
            </select>
          {/if}
          <select
            class="select min-w-0 grow select-xs"
            aria-label="What lies beyond its edges"
            value={picture.wrapU ?? 'repeat'}
            onchange={(e) => {
              const wrap = e.currentTarget.value as Picture['wrapU'];
              changePicture(map.slot, { wrapU: wrap, wrapV: wrap });
            }}
          >
            {#each Object.entries(wraps) as [kind, name] (kind)}<option value={kind}>{name}</option>{/each}
          </select>
        </div>
      {/if}
    </div>
    <ChannelRows channels={rows(map.slot)} />
  </details>
{/each}
{#if free.length > 0}
  <label class="flex items-center gap-2 px-3 pt-1 text-xs">
    <Plus size={12} />
    <select
      class="select min-w-0 grow select-xs"
      aria-label="Add a map"
      value=""
      disabled={taking}
      onchange={(e) => {
        const slot = e.currentTarget.value as Slot;
        e.currentTarget.value = '';
        add(slot);
      }}
    >
      <option value="">{taking ? 'The picture is coming…' : 'Add a map…'}</option>
      {#each free as s (s.slot)}<option value={s.slot}>{s.label}</option>{/each}
    </select>
  </label>
{/if}
