<script lang="ts">
  import type { Edit } from '../engine/engine';
  import { session } from '../state/session.svelte';
  import NumberField from './NumberField.svelte';

  // Frame and value of the selected keys, to type or to drag.
  const keys = $derived(session.selection.keys);
  const chosen = $derived.by(() => {
    void session.shot.changed;
    // A few say whether they are all alike; so many more need not be asked.
    return keys.slice(0, 200).map((k) => ({ ...k, value: valueOf(k) }));
  });
  const alike = (of: (k: { frame: number; value: number }) => number) =>
    chosen.every((k) => Math.abs(of(k) - of(chosen[0])) < 1e-9);

  function valueOf(k: { address: string; frame: number }): number {
    return session.shot.curve(k.address)?.keys.find((c) => c.frame === k.frame)?.value ?? 0;
  }

  let starts: { address: string; frame: number; value: number }[] | null = null;

  /** Keys that change alike go together. */
  function edit(by: (k: { frame: number; value: number }) => { frames?: number; value?: number }): Edit {
    starts ??= keys.map((k) => ({ ...k, value: valueOf(k) }));
    const groups = new Map<string, { by: object; keys: { address: string; frame: number }[] }>();
    for (const k of starts) {
      const move = by(k);
      const id = JSON.stringify(move);
      const group = groups.get(id) ?? { by: move, keys: [] };
      group.keys.push({ address: k.address, frame: k.frame });
      groups.set(id, group);
    }
    const edits = [...groups.values()].map((g) => ({ kind: 'transformKeys', keys: g.keys, by: g.by }));
    return (edits.length === 1 ? edits[0] : { kind: 'batch', label: `Set ${starts.length} keys`, edits }) as Edit;
  }

  const moves = (change: (old: number) => number) => edit((k) => ({ frames: change(k.frame) - k.frame }));
  const lifts = (change: (old: number) => number) => edit((k) => ({ value: change(k.value) - k.value }));

  function commit(made: Edit, to: (k: { frame: number }) => number) {
    const from = starts ?? [];
    starts = null;
    if (session.shot.commit(made))
      session.selection.keys = from
        .map((k) => ({ address: k.address, frame: to(k) }))
        .filter((k) => session.shot.hasKey(k.address, k.frame));
  }

  function cancel() {
    starts = null;
    session.shot.try(null);
  }
</script>

{#if chosen.length > 0}
  <div class="flex items-center gap-1 rounded-field bg-base-100 px-2 text-xs" role="group" aria-label="Selected keys">
    <span>Frame</span>
    <div class="w-16">
      <NumberField
        value={chosen[0].frame}
        mixed={!alike((k) => k.frame)}
        step={0.25}
        label="Frame of the selected keys"
        ontry={(change) => session.shot.try(moves((f) => Math.round(change(f))))}
        oncommit={(change) => commit(moves(change), (k) => change(k.frame))}
        oncancel={cancel}
      />
    </div>
    <span>Value</span>
    <div class="w-20">
      <NumberField
        value={chosen[0].value}
        mixed={!alike((k) => k.value)}
        label="Value of the selected keys"
        ontry={(change) => session.shot.try(lifts(change))}
        oncommit={(change) => commit(lifts(change), (k) => k.frame)}
        oncancel={cancel}
      />
    </div>
  </div>
{/if}
