<script lang="ts">
  import { changedSound, newEdit } from '../../edits/edit';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import X from '@lucide/svelte/icons/x';
  import type { Sound } from '../../engine/engine';
  import ChannelRow from '../../properties/ChannelRow.svelte';
  import NumberField from '../../widgets/NumberField.svelte';
  import { session } from '../../stores/session.svelte';

  // Name, place and level of a sound.
  let { id, left, top, onclose }: { id: string; left: number; top: number; onclose: () => void } = $props();
  const sound = $derived(session.shot.scene.sounds.find((s) => s.id === id));
  const level = $derived(session.shot.channelsOf(id)[0]);
  const put = (change: Partial<Sound>) => changedSound(sound!, change);
  function remove() {
    session.shot.commit(newEdit('removeSounds', { ids: [id] }));
    onclose();
  }
</script>

<svelte:window onkeydowncapture={(e) => e.key === 'Escape' && (onclose(), e.stopPropagation())} />
{#if sound}
  <div
    class="absolute z-20 w-72 rounded-box border border-base-300 bg-base-200 p-2 text-sm shadow-xl"
    style="left:{left}px;top:{top}px"
    role="dialog"
    aria-label="Sound"
  >
    <div class="flex items-center gap-1 pb-1">
      <input
        class="input input-sm grow"
        aria-label="Name of the sound"
        maxlength="200"
        value={sound.name}
        onchange={(e) =>
          e.currentTarget.value.trim() !== '' && session.shot.commit(put({ name: e.currentTarget.value.trim() }))}
      />
      <button class="btn btn-square btn-ghost btn-sm" aria-label="Remove the sound" title="Remove" onclick={remove}
        ><Trash2 size={14} /></button
      >
      <button class="btn btn-square btn-ghost btn-sm" aria-label="Close" title="Close (Esc)" onclick={onclose}
        ><X size={14} /></button
      >
    </div>
    <div class="flex h-7 items-center gap-2 px-2">
      <span class="w-32 shrink-0 text-xs">Begins on frame</span>
      <div class="grow">
        <NumberField
          value={sound.start}
          step={0.25}
          label="First frame of the sound"
          standard={session.shot.scene.first}
          ontry={(_, start) => session.shot.try(put({ start: Math.round(start) }))}
          oncommit={(_, start) => session.shot.commit(put({ start }))}
          oncancel={() => session.shot.try(null)}
        />
      </div>
    </div>
    {#if level}<ChannelRow channel={level} />{/if}
    <label class="flex h-7 items-center gap-2 px-2 text-xs">
      <input
        type="checkbox"
        class="toggle toggle-sm"
        checked={sound.muted}
        onchange={(e) => session.shot.commit(put({ muted: e.currentTarget.checked }))}
      />Muted: neither heard nor in films
    </label>
    <p class="px-2 pt-1 text-xs text-base-content/75">
      {sound.seconds.toFixed(2)} s. Drag its name in the tracks to move it.
    </p>
  </div>
{/if}
