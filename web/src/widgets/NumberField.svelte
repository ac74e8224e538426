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
    tight = false,
    digits = 3,
    onkey,
    ontry,
    oncommit,
    oncancel,
  }: {
    value: number;
    step?: number;
    label: string;
    unit?: string;
    /** What a click with Alt goes back to. */
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
    /** With little room. */
    tight?: boolean;
    /** How many are shown behind the point. */
    digits?: number;
    /** Keys it, when K is pressed and nothing has been typed: a letter begins no number. */
    onkey?: () => void;
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
  // Steps by the arrow keys and the wheel are one change, until something else is done or a moment has passed.
  let stepped = 0;
  let from = 0;
  let pause: ReturnType<typeof setTimeout> | undefined;
  const STEPS_END = 600;

  const shown = $derived(
    mixed ? '—' : Number.isFinite(value) ? String(Math.round(value * 10 ** digits) / 10 ** digits) : empty || '–',
  );
  /** As it is typed: with all that was given. */
  const full = $derived(mixed || !Number.isFinite(value) ? shown : String(Math.round(value * 1000) / 1000));
  const held = (n: number) => Math.min(most, Math.max(least, whole ? Math.round(n) : n));
  const give = (to: typeof ontry, change: Change, from = value) => to?.((old) => held(change(old)), held(change(from)));

  $effect(() => {
    const now = mixed || !Number.isFinite(value) ? '' : full;
    if (!editing || typed || text === now) return;
    text = now;
    // What is typed next takes its place.
    void tick().then(() => {
      if (editing && !typed && document.activeElement === input) input.select();
    });
  });

  function pointerdown(e: PointerEvent) {
    if (locked || e.button !== 0) return;
    endSteps();
    if (e.altKey && standard !== undefined) {
      e.preventDefault();
      return reset();
    }
    if (editing) return;
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
    text = mixed || !Number.isFinite(value) ? '' : full;
    input.select();
  }

  /** Takes what was typed; false when it is no number. */
  function take(): boolean {
    if (!editing || !typed) return true;
    if (text === full || (text === '' && (mixed || !Number.isFinite(value)))) {
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

  const byStep = (old: number) => Math.round((old + stepped) * 1e6) / 1e6;

  function stepBy(count: number) {
    typed = false;
    if (!ontry) give(oncommit, (old) => Math.round((old + stepOf(count)) * 1e6) / 1e6);
    else {
      if (pause === undefined) [stepped, from] = [0, value];
      clearTimeout(pause);
      stepped += stepOf(count);
      give(ontry, byStep, from);
      pause = setTimeout(endSteps, STEPS_END);
    }
    flushSync();
    text = full;
  }
  const stepOf = (count: number) => count * Math.max(whole ? 1 : 0, step * 10);

  /** What was stepped to is kept, as one change. */
  function endSteps() {
    if (pause === undefined) return;
    clearTimeout(pause);
    pause = undefined;
    give(oncommit, byStep, from);
  }
  // A field that goes away keeps what it has shown.
  $effect(() => endSteps);

  function keydown(e: KeyboardEvent) {
    // Sideways with Alt it is for the row that it stands in.
    if (!editing || (e.altKey && ['ArrowLeft', 'ArrowRight'].includes(e.key))) return;
    if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault();
      e.stopPropagation();
      return stepBy((e.key === 'ArrowUp' ? 1 : -1) * (e.shiftKey ? 10 : 1));
    }
    if (!['Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) endSteps();
    if (onkey && !typed && e.key.toLowerCase() === 'k' && !e.ctrlKey && !e.metaKey && !e.altKey && !e.shiftKey) {
      e.preventDefault();
      e.stopPropagation();
      onkey();
      return input.select();
    }
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
      text = full;
      flushSync();
      if (document.activeElement === input) input.select();
    } else if (e.key === 'Escape') {
      // What was typed is taken back; a dialog round it stays.
      e.preventDefault();
      typed = false;
      text = full;
      wrong = '';
      input.blur();
    }
  }

  function blur() {
    endSteps();
    if (!take()) text = full;
    editing = false;
    wrong = '';
  }

  function reset() {
    if (standard === undefined || locked) return;
    give(oncommit, () => standard);
    requestAnimationFrame(() => (text = full));
  }
</script>

<div class="relative">
  <input
    bind:this={input}
    class="h-6 w-full rounded-field text-right {tight
      ? 'px-0.5 text-xs'
      : 'px-2 text-[13px]'} outline-none tabular-nums focus:ring-2 focus:ring-primary {wrong
      ? 'bg-error/25'
      : editing
        ? 'bg-base-100'
        : locked
          ? 'text-base-content/70'
          : 'cursor-ew-resize bg-base-200 hover:bg-base-300'}"
    style="padding-right:{unit && !editing ? 12 + 9 * unit.length : tight ? 3 : 8}px;touch-action:none"
    readonly={locked}
    inputmode="decimal"
    autocomplete="off"
    spellcheck="false"
    aria-label={label}
    aria-invalid={wrong ? 'true' : undefined}
    title={wrong ||
      `${label}: drag sideways, or click and type a number or a sum (+5, *2)${standard === undefined ? '' : `; Alt+click for ${standard}`}`}
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
    onwheel={(e) => {
      // Only of the field that has the focus: elsewhere the wheel scrolls.
      if (!editing || locked || e.ctrlKey || e.deltaY === 0) return;
      e.preventDefault();
      stepBy(-Math.sign(e.deltaY) * (e.shiftKey ? 10 : 1));
    }}
  />
  {#if unit && !editing}<span
      class="pointer-events-none absolute top-0 right-1.5 text-xs leading-6 text-base-content/75">{unit}</span
    >{/if}
  {#if wrong}<p class="absolute top-7 right-0 z-20 w-52 rounded-field bg-base-300 p-2 text-xs shadow-lg" role="alert">
      {wrong}.
    </p>{/if}
</div>
