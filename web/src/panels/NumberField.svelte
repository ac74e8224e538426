<script lang="ts">
  import { sum } from './sum';

  // A number to drag sideways, to type, or to type a sum into: +5, *2, 90/4.
  let {
    value,
    step = 0.01,
    label,
    unit = '',
    disabled = false,
    ontry,
    oncommit,
  }: {
    value: number;
    step?: number;
    label: string;
    unit?: string;
    disabled?: boolean;
    ontry?: (value: number) => void;
    oncommit: (value: number) => void;
  } = $props();

  let editing = $state(false);
  let text = $state('');
  let from = { x: 0, value: 0 };
  let dragging = false;
  let last = 0;

  const shown = $derived(Number.isFinite(value) ? String(Math.round(value * 1000) / 1000) : '–');

  function pointerdown(e: PointerEvent) {
    if (editing || disabled || e.button !== 0) return;
    from = { x: e.clientX, value };
    dragging = false;
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
  }

  function pointermove(e: PointerEvent) {
    if (!(e.currentTarget as HTMLElement).hasPointerCapture(e.pointerId) || editing) return;
    const dx = e.clientX - from.x;
    if (!dragging && Math.abs(dx) < 4) return;
    dragging = true;
    const fine = e.shiftKey ? 0.1 : e.ctrlKey ? 10 : 1;
    last = Math.round((from.value + dx * step * fine) * 1e6) / 1e6;
    ontry?.(last);
  }

  function pointerup(e: PointerEvent) {
    const target = e.currentTarget as HTMLElement;
    if (!target.hasPointerCapture(e.pointerId)) return;
    target.releasePointerCapture(e.pointerId);
    if (dragging) oncommit(last);
    else begin();
    dragging = false;
  }

  function begin() {
    if (disabled) return;
    editing = true;
    text = shown;
  }

  function finish(keep: boolean) {
    if (!editing) return;
    editing = false;
    if (!keep || text === shown) return;
    const result = sum(text, value);
    if (result !== null) oncommit(result);
  }

  function focus(input: HTMLInputElement) {
    input.focus();
    input.select();
  }
</script>

{#if editing}
  <input
    class="input input-xs w-full text-right"
    aria-label={label}
    bind:value={text}
    use:focus
    onblur={() => finish(true)}
    onkeydown={(e) => {
      if (e.key === 'Enter') finish(true);
      if (e.key === 'Escape') finish(false);
      e.stopPropagation();
    }}
  />
{:else}
  <button
    class="h-6 w-full cursor-ew-resize truncate rounded-field bg-base-200 px-2 text-right hover:bg-base-300 disabled:opacity-60"
    aria-label="{label}: {shown}{unit}"
    title="{label}: drag sideways, or click and type a number or a sum (+5, *2)"
    {disabled}
    onpointerdown={pointerdown}
    onpointermove={pointermove}
    onpointerup={pointerup}
    onkeydown={(e) => (e.key === 'Enter' || e.key === 'F2') && (e.preventDefault(), begin())}
    >{shown}{#if unit}<span class="pl-1 text-base-content/75">{unit}</span>{/if}</button
  >
{/if}
