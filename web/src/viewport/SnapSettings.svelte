<script lang="ts">
  // What handles and keys snap to, and in which steps.
  import { RadioGroup } from 'bits-ui';
  import { preferences, type SnapTo } from '../stores/preferences.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import Popup from '../widgets/Popup.svelte';

  const targets: { id: SnapTo; label: string; words: string }[] = [
    { id: 'grid', label: 'Steps', words: 'in the steps below' },
    { id: 'vertex', label: 'Vertex', words: 'to the vertex below the pointer' },
    { id: 'surface', label: 'Surface', words: 'to the surface below the pointer' },
  ];
  const now = $derived(targets.find((t) => t.id === preferences.snapTo)!);
  const steps = [
    { id: 'move', label: 'Move', unit: 'm', least: 0.0001, step: 0.01, usual: 0.1 },
    { id: 'turn', label: 'Rotate', unit: '°', least: 0.01, step: 0.5, usual: 5 },
    { id: 'scale', label: 'Scale', unit: '', least: 0.0001, step: 0.01, usual: 0.05 },
  ] as const;
  const angles = [5, 15, 45, 90];
</script>

<Popup label="Snapping" side="right" align="start">
  {#snippet trigger(props)}
    <button
      {...props}
      class="btn h-7 border-0 bg-base-100/75 px-1.5 text-xs font-normal btn-sm"
      title="Snapping: with Ctrl held, handles snap {now.words}. Click for steps of your own"
      aria-label="Snapping: {now.label}">{now.label}</button
    >
  {/snippet}
  <h3 class="text-xs font-semibold" id="snap-handles">Handles, with Ctrl held</h3>
  <RadioGroup.Root
    class="mt-1 flex gap-1"
    bind:value={preferences.snapTo}
    orientation="horizontal"
    aria-labelledby="snap-handles"
  >
    {#each targets as t (t.id)}
      <RadioGroup.Item value={t.id} class="btn grow btn-xs {preferences.snapTo === t.id ? 'btn-primary' : ''}"
        >{t.label}</RadioGroup.Item
      >
    {/each}
  </RadioGroup.Root>
  {#each steps as s (s.id)}
    <label class="flex items-center justify-between pt-1"
      >{s.label}{s.unit ? ` (${s.unit})` : ''}
      <div class="w-20">
        <NumberField
          label="{s.label} in steps of"
          step={s.step}
          least={s.least}
          most={1e6}
          digits={4}
          standard={s.usual}
          value={preferences.steps[s.id]}
          oncommit={(_, to) => (preferences.steps[s.id] = to)}
        />
      </div></label
    >
  {/each}
  <div class="flex gap-1 pt-1" role="group" aria-label="Rotate in steps of">
    {#each angles as angle (angle)}
      <button
        class="btn grow btn-xs {preferences.steps.turn === angle ? 'btn-primary' : ''}"
        aria-pressed={preferences.steps.turn === angle}
        onclick={() => (preferences.steps.turn = angle)}>{angle}°</button
      >
    {/each}
  </div>
  <h3 class="pt-3 text-xs font-semibold">Keys, markers and sounds</h3>
  <label class="flex items-center justify-between pt-1"
    >Frames (0: free)
    <div class="w-20">
      <NumberField
        label="Frames in steps of"
        whole
        step={0.1}
        least={0}
        most={1000}
        standard={1}
        value={preferences.steps.frames}
        oncommit={(_, to) => (preferences.steps.frames = to)}
      />
    </div></label
  >
  <label
    class="flex items-center justify-between pt-1"
    title="The playhead, markers, other keys and their values; Ctrl held while dragging leaves it out"
    >To what is near
    <input type="checkbox" class="checkbox checkbox-sm" bind:checked={preferences.near} /></label
  >
</Popup>
