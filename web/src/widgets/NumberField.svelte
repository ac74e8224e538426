<script lang="ts">
  import { flushSync, tick } from 'svelte';
  import { gestures } from './gestures.svelte';
  import { passOn } from './typing';
  import { sum } from './sum';

  // A number to drag sideways, to type, or to type a sum into: +5, *2, 90/4. It says what becomes of an old number, so
  // that several objects keep their own: a drag and a sum change each by itself, a plain number gives all the same. Who has
  // one number takes it finished: it is reckoned from what it was when the hand took it, however often it changes meanwhile.
  type Change = (old: number) => number;
  let {
    value,
    step = 0.01,
    label,
    unit = '',
    standard,
    mixed = false,
    locked = false,
    whole = false,
    least = -Infinity,
    most = Infinity,
    id,
    empty = '',
    ontry,
    oncommit,
    oncancel,
  }: {
    value: number;
    step?: number;
    label: string;
    unit?: string;
    /** What a double click goes back to. */
    standard?: number;
    /** Several objects have different numbers. */
    mixed?: boolean;
    /** It is shown and cannot be changed. */
    locked?: boolean;
    /** Only whole numbers: others are rounded. */
    whole?: boolean;
    /** The smallest and the largest that it may be. */
    least?: number;
    most?: number;
    /** For a label that stands elsewhere. */
    id?: string;
    /** What an empty field means, where it means something: it is shown for a number that is none, and gives NaN. */
    empty?: string;
    ontry?: (change: Change, number: number) => void;
    oncommit: (change: Change, number: number) => void;
    oncancel?: () => void;
  } = $props();

  let input: HTMLInputElement;
  let editing = $state(false);
  let text = $state('');
  let wrong = $state('');
  // Whether somebody has typed: a field that only has the focus follows its number, and gives nothing to whatever comes after it.
  let typed = false;
  // Whether its number was made good with Enter, and nothing has been begun since.
  let settled = false;

  const shown = $derived(mixed ? '—' : Number.isFinite(value) ? String(Math.round(value * 1000) / 1000) : empty || '–');
  const held = (n: number) => Math.min(most, Math.max(least, whole ? Math.round(n) : n));
  const give = (to: typeof ontry, change: Change, from = value) => to?.((old) => held(change(old)), held(change(from)));

  $effect(() => {
    const now = mixed || !Number.isFinite(value) ? '' : shown;
    if (!editing || typed || text === now) return;
    text = now;
    // What is typed next takes its place.
    void tick().then(() => {
      if (editing && !typed && document.activeElement === input) input.select();
    });
  });

  function pointerdown(e: PointerEvent) {
    if (editing || locked || e.button !== 0) return;
    e.preventDefault();
    const [x, start] = [e.clientX, value];
    let change: Change | null = null;
    gestures.follow(e, {
      move: (m) => {
        const dx = m.clientX - x;
        if (!change && Math.abs(dx) < 4) return;
        const by = dx * step * (m.shiftKey ? 0.1 : m.ctrlKey ? 10 : 1);
        change = (old) => Math.round((old + by) * 1e6) / 1e6;
        gestures.readout = `${label} ${by >= 0 ? '+' : ''}${Math.round(by * 1000) / 1000}${unit}`;
        give(ontry, change, start);
      },
      type: (typed) => {
        change = typed === null ? (old) => old : () => typed;
        give(ontry, change, start);
      },
      commit: () => {
        if (change) give(oncommit, change, start);
        else input.focus();
      },
      cancel: () => {
        if (change) oncancel?.();
      },
    });
  }

  function focus() {
    if (locked) return;
    editing = true;
    wrong = '';
    typed = settled = false;
    text = mixed || !Number.isFinite(value) ? '' : shown;
    input.select();
  }

  /** Takes what was typed; false when it is no number. */
  function take(): boolean {
    if (!editing || !typed) return true;
    if (text === shown || (text === '' && (mixed || !Number.isFinite(value)))) {
      typed = false;
      return true;
    }
    const said = text.trim();
    if (said === '' || said === empty) {
      // Nothing is no number, and not 0.
      typed = false;
      if (empty) oncommit(() => NaN, NaN);
      return true;
    }
    const number = sum(said, value);
    if (number === null) {
      wrong = `“${said}” is no number: type one, or a sum such as +5 or *2`;
      return false;
    }
    if (number < least || number > most) {
      wrong = number < least ? `${least} is the least` : `${most} is the most`;
      return false;
    }
    typed = false;
    give(oncommit, (old) => sum(said, old) ?? old);
    return true;
  }

  /** A letter or the space bar after Enter; or a letter with Ctrl that no field needs for its own text. */
  const isForAll = (e: KeyboardEvent) =>
    !e.altKey && (e.ctrlKey || e.metaKey ? /^[^acvx\W\d]$/i.test(e.key) : settled && /^[\p{L} ]$/u.test(e.key));

  function keydown(e: KeyboardEvent) {
    if (!editing) return;
    if (!typed && isForAll(e)) {
      // K after Enter keys what was typed: a letter begins no number, so it is meant for the program.
      if (!e.ctrlKey && !e.metaKey) input.blur();
      return passOn(e);
    }
    e.stopPropagation();
    if (e.key === 'Enter') {
      if (!take()) return;
      settled = true;
      // At once: what is typed next must not meet the old number, however long the next picture takes.
      flushSync();
      text = shown;
      flushSync();
      if (document.activeElement === input) input.select();
    } else if (e.key === 'Escape') {
      // What was typed is taken back; a dialog round it stays.
      e.preventDefault();
      typed = false;
      text = shown;
      wrong = '';
      input.blur();
    } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault();
      const by = (e.key === 'ArrowUp' ? 1 : -1) * Math.max(whole ? 1 : 0, step * 10) * (e.shiftKey ? 10 : 1);
      typed = false;
      give(oncommit, (old) => Math.round((old + by) * 1e6) / 1e6);
      flushSync();
      text = shown;
    }
  }

  function blur() {
    if (!take()) text = shown;
    editing = false;
    wrong = '';
  }

  function reset() {
    if (standard === undefined || locked) return;
    give(oncommit, () => standard);
    requestAnimationFrame(() => (text = shown));
  }
</script>

<div class="relative">
  <input
    bind:this={input}
    class="h-6 w-full rounded-field px-2 text-right text-[13px] outline-none tabular-nums focus:ring-2 focus:ring-primary {wrong
      ? 'bg-error/25'
      : editing
        ? 'bg-base-100'
        : locked
          ? 'text-base-content/70'
          : 'cursor-ew-resize bg-base-200 hover:bg-base-300'}"
    style="padding-right:{unit && !editing ? 12 + 9 * unit.length : 8}px;touch-action:none"
    readonly={locked}
    inputmode="decimal"
    autocomplete="off"
    spellcheck="false"
    aria-label={label}
    aria-invalid={wrong ? 'true' : undefined}
    title={wrong ||
      `${label}: drag sideways, or click and type a number or a sum (+5, *2)${standard === undefined ? '' : `; double click for ${standard}`}`}
    {id}
    value={editing ? text : shown}
    oninput={(e) => {
      text = e.currentTarget.value;
      wrong = '';
      typed = true;
      settled = false;
    }}
    onpointerdown={pointerdown}
    onfocus={focus}
    onblur={blur}
    onkeydown={keydown}
    ondblclick={reset}
  />
  {#if unit && !editing}<span
      class="pointer-events-none absolute top-0 right-1.5 text-xs leading-6 text-base-content/75">{unit}</span
    >{/if}
  {#if wrong}<p class="absolute top-7 right-0 z-20 w-52 rounded-field bg-base-300 p-2 text-xs shadow-lg" role="alert">
      {wrong}.
    </p>{/if}
</div>
