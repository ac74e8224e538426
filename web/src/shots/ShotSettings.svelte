<script lang="ts">
  import { newEdit } from '../edits/edit';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import Dialog from '../widgets/Dialog.svelte';
  import NumberField from '../widgets/NumberField.svelte';

  const s = $derived(session.shot.scene);
  const rates = [
    { label: '24: film', n: 24, d: 1 },
    { label: '25: television', n: 25, d: 1 },
    { label: '30: television', n: 30, d: 1 },
    { label: '12: twos', n: 12, d: 1 },
    { label: '23.976', n: 24000, d: 1001 },
    { label: '29.97', n: 30000, d: 1001 },
    { label: '60', n: 60, d: 1 },
  ];
  const sizes = [
    [640, 360],
    [1280, 720],
    [1920, 1080],
    [960, 720],
    [1440, 1080],
  ];
  let keepRatio = $state(true);

  const set = (edit: Record<string, unknown>) => session.shot.commit(newEdit('setShot', { ...edit }));
  function rate(text: string) {
    const [numerator, denominator] = text.split('/').map(Number);
    set({ rate: { numerator, denominator } });
  }
  const frame = { whole: true, step: 0.25 };
  const pixels = { whole: true, step: 1, least: 1, most: 16384 };
  function size(side: 'width' | 'height', value: number) {
    const ratio = s.width / s.height;
    const width = side === 'width' ? value : keepRatio ? Math.round(value * ratio) : s.width;
    const height = side === 'height' ? value : keepRatio ? Math.round(value / ratio) : s.height;
    set({ size: { width, height } });
  }
</script>

<Dialog onleave={() => ui.leave('shot')} title="The shot">
  <div class="grid grid-cols-[9rem_1fr] items-center gap-3 text-sm">
    <label for="shot-name">Name</label>
    <input
      id="shot-name"
      class="input input-sm"
      value={s.name}
      onchange={(e) => set({ name: e.currentTarget.value })}
    />
    <label for="shot-rate">Frame rate</label>
    <select
      id="shot-rate"
      class="select select-sm"
      value="{s.rateNumerator}/{s.rateDenominator}"
      onchange={(e) => rate(e.currentTarget.value)}
    >
      {#if !rates.some((r) => r.n === s.rateNumerator && r.d === s.rateDenominator)}<option
          value="{s.rateNumerator}/{s.rateDenominator}">{s.rate}</option
        >{/if}
      {#each rates as r (r.label)}<option value="{r.n}/{r.d}">{r.label}</option>{/each}
    </select>
    <span></span>
    <p class="text-xs text-base-content/80">
      Another rate keeps the frames.
      <button
        class="link"
        onclick={() => {
          ui.dialog = null;
          ui.curveTool = 'convertRate';
        }}>Convert it</button
      > to keep the seconds.
    </p>
    <label for="shot-first">First and last frame</label>
    <div class="flex items-center gap-2">
      <div class="w-24">
        <NumberField
          {...frame}
          id="shot-first"
          label="First frame"
          value={s.first}
          most={s.last}
          oncommit={(_, first) => set({ range: { first, last: s.last } })}
        />
      </div>
      <div class="w-24">
        <NumberField
          {...frame}
          label="Last frame"
          value={s.last}
          least={s.first}
          oncommit={(_, last) => set({ range: { first: s.first, last } })}
        />
      </div>
      <span class="text-xs">{s.last - s.first + 1} frames, {((s.last - s.first + 1) / s.rate).toFixed(2)} s</span>
    </div>
    <label for="play-first">Playback range</label>
    <div class="flex items-center gap-2">
      <div class="w-24">
        <NumberField
          {...frame}
          id="play-first"
          label="Playback from"
          value={s.playFirst}
          most={s.playLast}
          oncommit={(_, first) => set({ playRange: { first, last: s.playLast } })}
        />
      </div>
      <div class="w-24">
        <NumberField
          {...frame}
          label="Playback to"
          value={s.playLast}
          least={s.playFirst}
          oncommit={(_, last) => set({ playRange: { first: s.playFirst, last } })}
        />
      </div>
      <button class="btn btn-sm" disabled={!s.hasPlayRange} onclick={() => set({ wholeRange: true })}>All</button>
    </div>
    <label for="shot-width">Resolution</label>
    <div class="flex items-center gap-2">
      <div class="w-24">
        <NumberField
          {...pixels}
          id="shot-width"
          label="Width"
          value={s.width}
          oncommit={(_, width) => size('width', width)}
        />
      </div>
      <div class="w-24">
        <NumberField {...pixels} label="Height" value={s.height} oncommit={(_, height) => size('height', height)} />
      </div>
      <label class="flex items-center gap-1 text-xs"
        ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={keepRatio} />keep ratio</label
      >
    </div>
    <span></span>
    <div class="flex flex-wrap gap-1">
      {#each sizes as [w, h] (`${w}x${h}`)}<button
          class="btn btn-xs {s.width === w && s.height === h ? 'btn-primary' : ''}"
          onclick={() => set({ size: { width: w, height: h } })}>{w}×{h}</button
        >{/each}
    </div>
  </div>
</Dialog>
