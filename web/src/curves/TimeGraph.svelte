<script lang="ts">
  import { gestures } from '../widgets/gestures.svelte';
  import { ui } from '../stores/ui.svelte';

  // The time of a range, drawn: along is when, up is which of its frames is shown. Both ends stay; points between them are put with a double
  // click, dragged, moved with the arrow keys, and taken out with Delete. It cannot run backwards.
  let {
    picture,
    onchange,
  }: {
    /** Evenly spaced: the part of the range that is shown, 0 to 1. */
    picture: number[];
    onchange: () => void;
  } = $props();

  const [WIDTH, HEIGHT, PAD, APART] = [246, 120, 10, 0.01];
  let svg: SVGSVGElement;
  const points = $derived(ui.retimePoints);
  const x = (t: number) => PAD + t * (WIDTH - 2 * PAD);
  const y = (s: number) => HEIGHT - PAD - s * (HEIGHT - 2 * PAD);
  const line = $derived(
    picture.map((s, i) => `${i ? 'L' : 'M'}${x(i / (picture.length - 1)).toFixed(1)} ${y(s).toFixed(1)}`).join(''),
  );

  function set(next: [number, number][]) {
    ui.retimePoints = next;
    onchange();
  }

  /** Between the points beside it. */
  function moved(i: number, t: number, s: number): [number, number][] {
    const [a, b] = [points[i - 1] ?? [0, 0], points[i + 1] ?? [1, 1]];
    const held = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v));
    const to: [number, number] = [held(t, a[0] + APART, b[0] - APART), held(s, a[1], b[1])];
    return points.map((p, n) => (n === i ? to : p));
  }

  function place(e: MouseEvent): [number, number] {
    const rect = svg.getBoundingClientRect();
    return [
      ((e.clientX - rect.left) * (WIDTH / rect.width) - PAD) / (WIDTH - 2 * PAD),
      1 - ((e.clientY - rect.top) * (HEIGHT / rect.height) - PAD) / (HEIGHT - 2 * PAD),
    ];
  }

  function add(e: MouseEvent) {
    const [t, s] = place(e);
    if (t < 2 * APART || t > 1 - 2 * APART || points.some((p) => Math.abs(p[0] - t) < 2 * APART)) return;
    const i = points.filter((p) => p[0] < t).length;
    ui.retimePoints = [...points.slice(0, i), [t, s], ...points.slice(i)];
    set(moved(i, t, s));
  }

  function drag(e: PointerEvent, i: number) {
    if (e.button !== 0) return;
    e.stopPropagation();
    const before = points;
    gestures.follow(e, {
      move: (m) => set(moved(i, ...place(m))),
      commit: () => {},
      cancel: () => set(before),
    });
  }

  function keydown(e: KeyboardEvent, i: number) {
    const by = e.shiftKey ? 0.1 : 0.01;
    const [t, s] = points[i];
    if (e.key === 'Delete' || e.key === 'Backspace') set(points.filter((_, n) => n !== i));
    else if (e.key === 'ArrowLeft') set(moved(i, t - by, s));
    else if (e.key === 'ArrowRight') set(moved(i, t + by, s));
    else if (e.key === 'ArrowUp') set(moved(i, t, s + by));
    else if (e.key === 'ArrowDown') set(moved(i, t, s - by));
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
</script>

<svg
  bind:this={svg}
  class="mt-1 block w-full touch-none rounded-field bg-base-100"
  viewBox="0 0 {WIDTH} {HEIGHT}"
  role="group"
  aria-label="The time of the range"
  ondblclick={add}
>
  <title>Double click to put a point; steep is fast, level stands still</title>
  {#each [0.25, 0.5, 0.75] as part (part)}
    <path class="stroke-base-300" d="M{x(part)} {y(0)}V{y(1)}M{x(0)} {y(part)}H{x(1)}" />
  {/each}
  <path class="stroke-secondary" d={line} fill="none" stroke-width="2" />
  {#each points as [t, s], i (i)}
    <circle
      class="cursor-move fill-primary outline-none focus:stroke-base-content"
      stroke-width="2"
      cx={x(t)}
      cy={y(s)}
      r="7"
      role="slider"
      tabindex="0"
      aria-label="Point {i + 1} of the time"
      aria-valuenow={Math.round(100 * s)}
      aria-valuetext="{Math.round(100 * t)} % of the length shows {Math.round(100 * s)} % of the range"
      onpointerdown={(e) => drag(e, i)}
      onkeydown={(e) => keydown(e, i)}
      oncontextmenu={(e) => {
        e.preventDefault();
        set(points.filter((_, n) => n !== i));
      }}
    />
  {/each}
</svg>
