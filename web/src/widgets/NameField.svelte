<script lang="ts">
  // A name that is being given: Enter and leaving the field keep it, Escape takes it back. An empty one, or the same, is none.
  import { focused } from './focus';

  let {
    value,
    label,
    class: look = '',
    onname,
    onend,
  }: {
    value: string;
    label: string;
    class?: string;
    /** Another name was given. */
    onname: (name: string) => void;
    /** It is over, whichever way. */
    onend: () => void;
  } = $props();

  // What had the focus gets it back, unless a hand has gone elsewhere.
  const from = document.activeElement;
  let done = false;
  function end(name: string | null, byKey = true) {
    if (done) return;
    done = true;
    onend();
    if (byKey && from instanceof HTMLElement && from !== document.body)
      queueMicrotask(() => from.focus({ preventScroll: true }));
    const given = name?.trim();
    if (given && given !== value) onname(given);
  }
</script>

<input
  class="input input-xs {look}"
  {value}
  aria-label={label}
  maxlength="200"
  {@attach focused}
  onblur={(e) => end(e.currentTarget.value, false)}
  onclick={(e) => e.stopPropagation()}
  onkeydown={(e) => {
    e.stopPropagation();
    if (e.key !== 'Enter' && e.key !== 'Escape') return;
    // The key has done its work: what gets the focus now must not take it for a press.
    e.preventDefault();
    end(e.key === 'Enter' ? e.currentTarget.value : null);
  }}
/>
