<script lang="ts">
  import { changedLayer, newEdit } from '../../edits/edit';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import Plus from '@lucide/svelte/icons/plus';
  import type { Layer } from '../../engine/engine';
  import { contextMenu } from '../../widgets/contextMenu.svelte';
  import NumberField from '../../widgets/NumberField.svelte';
  import { tip } from '../../commands';
  import { mergeLayer } from './layerCommands';
  import { gestures } from '../../widgets/gestures.svelte';
  import { session } from '../../stores/session.svelte';
  import { HEAD } from '../model';
  import NameField from '../../widgets/NameField.svelte';

  // The highest layer is at the top, as it lies over the others.
  const layers = $derived([...session.shot.scene.layers].reverse());
  const anySolo = $derived(layers.some((l) => l.solo));
  let renaming = $state<string | null>(null);
  let dragged = $state<{ id: string; to: number } | null>(null);

  const set = (layer: Layer, change: Partial<Layer>) => session.shot.commit(changedLayer(layer, change));
  const weightOf = (layer: Layer) => session.shot.channelsOf(layer.id)[0];

  function menu(e: MouseEvent, layer: Layer) {
    const { layers: all } = session.shot.scene;
    const place = all.findIndex((l) => l.id === layer.id);
    const move = (to: number) => session.shot.commit(newEdit('moveLayer', { layer: layer.id, to }));
    contextMenu.open(e, [
      { title: 'Rename', run: () => (renaming = layer.id) },
      {
        title: layer.mode === 'override' ? 'Blend: add' : 'Blend: override',
        run: () => set(layer, { mode: layer.mode === 'override' ? 'add' : 'override' }),
      },
      ...(place < all.length - 1 ? [{ title: 'Move up', run: () => move(place + 1) }] : []),
      ...(place > 0 ? [{ title: 'Move down', run: () => move(place - 1) }] : []),
      null,
      { title: 'Key the weight here', run: () => session.shot.keyNow([weightOf(layer).address]) },
      null,
      { title: place > 0 ? 'Merge into the layer below' : 'Merge into the channels', run: () => mergeLayer(layer.id) },
      { command: 'layer.bake' },
      {
        title: 'Remove, with its keys',
        run: () => session.shot.commit(newEdit('removeLayer', { layer: layer.id })),
      },
    ]);
  }

  /** The fader: a drag along its bar. The number beside it can be typed. */
  function fade(e: PointerEvent, layer: Layer) {
    if (e.button !== 0 || layer.locked) return;
    const bar = (e.currentTarget as HTMLElement).getBoundingClientRect();
    const { address } = weightOf(layer);
    const at = (m: { clientX: number }) =>
      Math.round(Math.min(1, Math.max(0, (m.clientX - bar.left) / bar.width)) * 100) / 100;
    let value = at(e);
    const show = () => {
      session.shot.pose([{ address, value }], false);
      gestures.readout = `${layer.name} ${Math.round(value * 100)} %`;
    };
    gestures.follow(e, {
      move: (m) => {
        value = at(m);
        show();
      },
      commit: () => void session.shot.pose([{ address, value }], true),
      cancel: () => void session.shot.try(null),
    });
    show();
  }

  /** Up and down among the others, by the grip of its name. */
  function order(e: PointerEvent, layer: Layer) {
    if (e.button !== 0 || renaming === layer.id) return;
    const list = (e.currentTarget as HTMLElement).closest('[role=listbox]')!;
    const y = e.clientY;
    const places = [...list.querySelectorAll('[data-layer]')].map((el) => el.getBoundingClientRect());
    gestures.follow(e, {
      move: (m) => {
        if (!dragged && Math.abs(m.clientY - y) < 6) return;
        const over = places.findIndex((r) => m.clientY < r.bottom);
        dragged = { id: layer.id, to: over < 0 ? places.length - 1 : Math.max(0, over) };
      },
      commit: () => {
        const to = dragged ? layers.length - 1 - dragged.to : -1;
        const from = session.shot.scene.layers.findIndex((l) => l.id === layer.id);
        if (dragged && to !== from) session.shot.commit(newEdit('moveLayer', { layer: layer.id, to }));
        else if (!dragged) session.shot.chooseLayer(layer.id);
        dragged = null;
      },
      cancel: () => (dragged = null),
    });
  }
</script>

<div class="flex w-44 shrink-0 flex-col border-r border-base-300 bg-base-100" data-testid="layers">
  <div class="flex shrink-0 items-center gap-1 border-b border-base-300 bg-base-200 px-2" style="height:{HEAD}px">
    <span class="grow text-sm font-semibold">Layers</span>
    <button
      class="btn btn-ghost btn-xs px-1"
      title={tip('layer.new')}
      aria-label="New layer"
      onclick={(e) => contextMenu.open(e, [{ command: 'layer.new' }, { command: 'layer.newOverride' }])}
      ><Plus size={14} />New</button
    >
  </div>
  <div class="min-h-0 grow overflow-y-auto" role="listbox" aria-label="Layers" tabindex="-1">
    {#each layers as layer, i (layer.id)}
      {@const weight = weightOf(layer)}
      {@const active = session.shot.layer === layer.id}
      {@const silent = layer.muted || (anySolo && !layer.solo)}
      {@const keyed = weight ? session.shot.keysOf(weight.address) : []}
      <div
        class="border-b border-base-300 px-2 py-1 {active
          ? 'bg-primary/15 shadow-[inset_3px_0_0_var(--color-primary)]'
          : ''} {dragged?.to === i && dragged.id !== layer.id
          ? 'outline-2 -outline-offset-2 outline-primary'
          : ''} {silent ? 'opacity-60' : ''}"
        role="option"
        aria-selected={active}
        aria-label={layer.name}
        data-layer={layer.id}
        tabindex="-1"
        oncontextmenu={(e) => menu(e, layer)}
      >
        <div class="flex items-center gap-0.5">
          {#if renaming === layer.id}
            <NameField
              value={layer.name}
              label="Name of the layer"
              class="h-6 min-w-0 grow"
              onname={(name) => set(layer, { name })}
              onend={() => (renaming = null)}
            />
          {:else}
            <button
              class="h-6 min-w-0 grow truncate text-left text-xs font-semibold"
              title="{layer.name}: {layer.mode === 'override'
                ? 'overrides what is below'
                : 'adds to what is below'}. Click to work in it, double click to rename, drag to reorder"
              onpointerdown={(e) => order(e, layer)}
              onkeydown={(e) => e.key === 'Enter' && session.shot.chooseLayer(layer.id)}
              ondblclick={() => (renaming = layer.id)}
              ><span class="pr-1 text-base-content/70" aria-hidden="true">{layer.mode === 'override' ? '▣' : '+'}</span
              >{layer.name}</button
            >
          {/if}
          <button
            class="h-6 w-6 rounded-field text-xs {layer.muted
              ? 'bg-warning text-warning-content'
              : 'hover:bg-base-300'}"
            aria-pressed={layer.muted}
            aria-label="Mute {layer.name}"
            title="Mute: layer ignored"
            onclick={() => set(layer, { muted: !layer.muted })}>M</button
          >
          <button
            class="h-6 w-6 rounded-field text-xs {layer.solo ? 'bg-info text-info-content' : 'hover:bg-base-300'}"
            aria-pressed={layer.solo}
            aria-label="Solo {layer.name}"
            title="Solo: of the layers only those that are solo have a say"
            onclick={() => set(layer, { solo: !layer.solo })}>S</button
          >
          <button
            class="grid h-6 w-6 place-items-center rounded-field {layer.locked ? 'bg-base-300' : 'hover:bg-base-300'}"
            aria-pressed={layer.locked}
            aria-label="Lock {layer.name}"
            title="Lock: its keys stay as they are"
            onclick={() => set(layer, { locked: !layer.locked })}
            >{#if layer.locked}<Lock size={12} />{:else}<LockOpen size={12} />{/if}</button
          >
        </div>
        {#if weight}
          {@const value = session.shot.valueOf(weight)}
          <div class="flex items-center gap-1 pt-0.5">
            <button
              class="grid h-5 w-5 shrink-0 place-items-center rounded-field hover:bg-base-300"
              aria-label="Key the weight of {layer.name} here"
              title={keyed.length > 0 ? 'The weight is keyed: key it here' : 'The weight is not keyed: key it here'}
              onclick={() => session.shot.keyNow([weight.address])}
            >
              <svg width="12" height="14" viewBox="-6 -7 12 14" aria-hidden="true"
                ><rect
                  x="-3.500"
                  y="-6"
                  width="7"
                  height="12"
                  rx="3.500"
                  fill={keyed.includes(session.frame) ? 'currentColor' : 'none'}
                  stroke="currentColor"
                  stroke-width="1.5"
                  stroke-dasharray={session.shot.waiting.has(weight.address) ? '2 2' : 'none'}
                />{#if keyed.length > 0 && !keyed.includes(session.frame)}<circle
                    r="1.8"
                    fill="currentColor"
                  />{/if}</svg
              >
            </button>
            <div
              class="relative h-4 grow cursor-ew-resize overflow-hidden rounded-full bg-base-300"
              role="slider"
              tabindex="0"
              aria-label="Weight of {layer.name}"
              aria-valuemin="0"
              aria-valuemax="1"
              aria-valuenow={value}
              title="Weight: drag, arrows, or type the number"
              onpointerdown={(e) => fade(e, layer)}
              onkeydown={(e) => {
                const by = { ArrowRight: 0.05, ArrowLeft: -0.05 }[e.key];
                if (by === undefined) return;
                e.preventDefault();
                e.stopPropagation();
                const to = Math.round(Math.min(1, Math.max(0, value + by)) * 100) / 100;
                session.shot.pose([{ address: weight.address, value: to }], true);
              }}
            >
              <div
                class="h-full rounded-full bg-primary/70"
                style="width:{Math.min(1, Math.max(0, value)) * 100}%"
              ></div>
            </div>
            <div class="w-11 shrink-0">
              <NumberField
                {value}
                step={0.01}
                label="Weight of {layer.name}"
                standard={1}
                least={0}
                most={1}
                ontry={(_, to) => session.shot.pose([{ address: weight.address, value: to }], false)}
                oncommit={(_, to) => session.shot.pose([{ address: weight.address, value: to }], true)}
                oncancel={() => session.shot.try(null)}
              />
            </div>
          </div>
        {/if}
      </div>
    {/each}
    <button
      class="w-full border-b border-base-300 px-2 py-2 text-left text-xs font-semibold {session.shot.layer === null
        ? 'bg-primary/15 shadow-[inset_3px_0_0_var(--color-primary)]'
        : 'hover:bg-base-200'}"
      role="option"
      aria-selected={session.shot.layer === null}
      title="What all layers lie on: click to work in it"
      onclick={() => session.shot.chooseLayer(null)}>Base</button
    >
    {#if layers.length === 0}
      <p class="px-2 py-3 text-xs text-base-content/75">
        A layer lies over the animation and leaves its keys alone: <b>New</b>, then pose and key as ever.
      </p>
    {/if}
  </div>
</div>
