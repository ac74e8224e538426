<script lang="ts">
  import { gestures } from './gestures.svelte';

  // How much of something, shown while one slides: let go, or Enter, keeps it as one step; Escape leaves it. Percent can be typed while it is dragged.
  let {
    value,
    label,
    title,
    min = -50,
    max = 150,
    class: look = '',
    onbegin,
    ontry,
    onkeep,
    oncancel,
  }: {
    /** Where it rests, in percent. */
    value: number;
    label: string;
    title?: string;
    min?: number;
    max?: number;
    class?: string;
    /** False where there is nothing to slide. */
    onbegin?: () => boolean;
    ontry: (share: number) => void;
    onkeep: (share: number) => void;
    oncancel: () => void;
  } = $props();

  let input: HTMLInputElement;
  let sliding = false;
  let typed: number | null = null;

  function begin(): boolean {
    sliding ||= onbegin?.() ?? true;
    if (!sliding) rest();
    return sliding;
  }

  const now = () => (typed ?? Number(input.value)) / 100;
  const rest = () => {
    sliding = false;
    typed = null;
    input.value = String(value);
  };

  function keep() {
    if (!sliding) return rest();
    const share = now();
    rest();
    onkeep(share);
  }

  function leave() {
    const was = sliding;
    rest();
    if (was) oncancel();
  }

  function show() {
    if (!begin()) return;
    gestures.readout = `${label}: ${Math.round(now() * 100)} %`;
    ontry(now());
  }

  function pointerdown(e: PointerEvent) {
    if (e.button !== 0) return;
    gestures.begin({
      type: (n) => {
        typed = n;
        if (n !== null) input.value = String(n);
        show();
      },
      commit: keep,
      cancel: leave,
    });
  }
</script>

<input
  bind:this={input}
  type="range"
  class="range range-xs {look}"
  {min}
  {max}
  {value}
  aria-label={label}
  {title}
  onpointerdown={pointerdown}
  onpointerup={() => gestures.commit()}
  onpointercancel={() => gestures.cancel()}
  oninput={() => {
    typed = null;
    show();
  }}
  onkeydown={(e) => {
    if (e.key === 'Enter' && sliding) keep();
    else if (e.key === 'Escape' && sliding) leave();
    else return;
    e.stopPropagation();
    e.preventDefault();
  }}
  onblur={keep}
/>
