<script lang="ts">
  // What a curve does before its first or after its last key.
  import { newEdit } from '../../edits/edit';
  import type { Extrapolation } from '../../engine/engine';
  import NumberField from '../../widgets/NumberField.svelte';
  import { session } from '../../stores/session.svelte';
  import { extrapolationWords } from '../model';

  let {
    address,
    end,
    left,
    top,
    onclose,
  }: { address: string; end: 'before' | 'after'; left: number; top: number; onclose: () => void } = $props();

  function extrapolate(kind: Extrapolation['kind'], count: number, until: number | null = null) {
    session.shot.commit(
      newEdit('setExtrapolation', {
        channels: [address],
        [end]: { kind, count, ...(until === null || kind === 'hold' ? {} : { until }) },
      }),
    );
  }

  /** Keys in the place of what the curve does by itself, over the range of the shot. */
  function bakeBeyond() {
    const keys = session.shot.keysOf(address);
    const { first, last } = session.shot.scene;
    session.shot.commit(
      newEdit('bakeKeys', {
        channels: [address],
        first: Math.min(first, keys[0]),
        last: Math.max(last, keys[keys.length - 1]),
        step: 1,
      }),
    );
    onclose();
  }

  const current = $derived.by(() => {
    void session.shot.changed;
    return session.shot.curve(address)?.[end];
  });
  const repeats = ['loop', 'loopOffset', 'pingPong'];
  const words: Record<string, string> = {
    hold: 'Hold',
    linear: 'Linear',
    loop: 'Loop',
    loopOffset: 'Loop with offset',
    pingPong: 'Ping-pong',
  };
</script>

<svelte:window
  onkeydowncapture={(e) => e.key === 'Escape' && (onclose(), e.stopPropagation())}
  onpointerdown={(e) => !(e.target as Element).closest('[data-extrapolation], [data-continuations]') && onclose()}
/>

{#if current}
  <div
    class="absolute z-20 w-56 rounded-box border border-base-300 bg-base-200 p-2 shadow-xl"
    style="left:{left}px;top:{top}px"
    role="menu"
    data-extrapolation
    aria-label="What the curve does {end} its keys"
  >
    <p class="px-2 pb-1 text-xs text-base-content/75">
      {end === 'before' ? 'Before the first key' : 'After the last key'}
    </p>
    {#each Object.keys(extrapolationWords) as kind (kind)}
      <button
        class="btn btn-ghost btn-sm w-full justify-start {current.kind === kind ? 'btn-active' : ''}"
        role="menuitemradio"
        aria-checked={current.kind === kind}
        onclick={() => extrapolate(kind as Extrapolation['kind'], repeats.includes(kind) ? (current.count ?? 0) : 0)}
        >{words[kind]}</button
      >
    {/each}
    {#if repeats.includes(current.kind)}
      <label class="flex items-center justify-between gap-2 px-3 pt-1 text-xs">
        Cycles (0 = for ever)
        <div class="w-16">
          <NumberField
            label="Cycles (0 = for ever)"
            whole
            step={0.1}
            least={0}
            value={current.count ?? 0}
            oncommit={(_, count) => extrapolate(current.kind, count, current.until ?? null)}
          />
        </div>
      </label>
    {/if}
    {#if current.kind !== 'hold'}
      <label class="flex items-center justify-between gap-2 px-3 pt-1 text-xs">
        Until frame (empty: no end)
        <div class="w-16">
          <NumberField
            label="Until frame (empty: no end)"
            step={0.1}
            empty="no end"
            value={current.until ?? NaN}
            oncommit={(_, until) => extrapolate(current.kind, current.count ?? 0, Number.isNaN(until) ? null : until)}
          />
        </div>
      </label>
      <div class="flex gap-1 px-2 pt-2">
        {#if repeats.includes(current.kind)}<button
            class="btn btn-xs grow"
            title="Value and speed of both ends are made equal"
            onclick={() => session.shot.commit(newEdit('makeSeamless', { channels: [address] }))}>Make seamless</button
          >{/if}
        <button
          class="btn btn-xs grow"
          title="A key on every frame of the shot's range, in the place of the cycle"
          onclick={bakeBeyond}>Bake to keys</button
        >
      </div>
    {/if}
  </div>
{/if}
