<script lang="ts">
  import { newEdit } from '../edits/edit';
  import X from '@lucide/svelte/icons/x';
  import { preferences } from '../stores/preferences.svelte';
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
    { width: 640, height: 360, name: 'Small' },
    { width: 1280, height: 720, name: 'HD' },
    { width: 1920, height: 1080, name: 'Full HD' },
    { width: 3840, height: 2160, name: '4K' },
    { width: 2048, height: 858, name: 'Wide' },
    { width: 1440, height: 1080, name: '4:3' },
    { width: 1080, height: 1080, name: 'Square' },
    { width: 1080, height: 1920, name: 'Upright' },
  ];
  type Size = { width: number; height: number };
  const isNow = (size: Size) => s.width === size.width && s.height === size.height;
  const isKept = $derived([...sizes, ...preferences.sizes].some(isNow));
  const words = ({ width, height }: Size) => `${width}×${height}`;
  let keepRatio = $state(true);

  const set = (edit: Record<string, unknown>) => session.shot.commit(newEdit('setShot', { ...edit }));
  function rate(text: string) {
    const [numerator, denominator] = text.split('/').map(Number);
    set({ rate: { numerator, denominator } });
  }
  function forget(size: Size) {
    const before = preferences.sizes;
    preferences.sizes = before.filter((other) => words(other) !== words(size));
    session.messages.say(`The size ${words(size)} is not kept any more.`, {
      label: 'Take back',
      run: () => (preferences.sizes = before),
    });
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
      {#each sizes as { name, ...of } (name)}<button
          class="btn btn-xs {isNow(of) ? 'btn-primary' : ''}"
          title={words(of)}
          aria-pressed={isNow(of)}
          onclick={() => set({ size: of })}>{name}</button
        >{/each}
    </div>
    <span class="text-xs">Your sizes</span>
    <div class="flex flex-wrap items-center gap-1" role="group" aria-label="Your sizes">
      {#each preferences.sizes as of (words(of))}<span class="join">
          <button
            class="btn join-item btn-xs {isNow(of) ? 'btn-primary' : ''}"
            aria-pressed={isNow(of)}
            onclick={() => set({ size: { ...of } })}>{words(of)}</button
          ><button
            class="btn join-item btn-square btn-xs"
            aria-label="Forget {words(of)}"
            title="Forget this size"
            onclick={() => forget(of)}><X size={12} /></button
          ></span
        >{/each}
      <button
        class="btn btn-xs"
        disabled={isKept}
        title={isKept ? 'This size is in the list already' : 'Put it into this list, for all shots'}
        onclick={() => (preferences.sizes = [...preferences.sizes, { width: s.width, height: s.height }])}
        >Keep {words(s)}</button
      >
      <button
        class="btn btn-xs"
        disabled={s.width === s.height}
        title="Width and height change places"
        onclick={() => set({ size: { width: s.height, height: s.width } })}>Turn</button
      >
    </div>
  </div>
</Dialog>
