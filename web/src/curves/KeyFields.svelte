<script lang="ts">
  import { changedSegments, newEdit, together } from '../edits/edit';
  import type { Ease, Edit } from '../engine/engine';
  import Lock from '@lucide/svelte/icons/lock';
  import Ruler from '@lucide/svelte/icons/ruler';
  import { session } from '../stores/session.svelte';
  import { ui } from '../stores/ui.svelte';
  import NumberField from '../widgets/NumberField.svelte';

  // Frame and value of the selected keys, to type or to drag.
  const keys = $derived(session.selection.keys);
  const chosen = $derived.by(() => {
    void session.shot.changed;
    // A few say whether they are all alike; so many more need not be asked.
    return keys.slice(0, 200).map((k) => ({ ...k, value: valueOf(k) }));
  });
  // The numbers of an easing, where all selected keys are left by it.
  const parameters: Record<string, { id: 'overshoot' | 'amplitude' | 'period'; usual: number; step: number }[]> = {
    back: [{ id: 'overshoot', usual: 1.70158, step: 0.02 }],
    elastic: [
      { id: 'amplitude', usual: 1, step: 0.01 },
      { id: 'period', usual: 0.3, step: 0.005 },
    ],
  };
  const eases = $derived(
    chosen.map((k) => session.shot.curve(k.address)?.keys.find((c) => c.frame === k.frame)?.segment),
  );
  const ease = $derived(
    typeof eases[0] === 'object' && eases.every((s) => typeof s === 'object' && s.ease === (eases[0] as Ease).ease)
      ? (eases[0] as Ease)
      : null,
  );
  const eased = (id: string, value: number): Edit => changedSegments(keys, { ...ease!, [id]: value });

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
    const edits = [...groups.values()].map((g) => newEdit('transformKeys', { keys: g.keys, by: g.by }));
    return together(`Set ${starts.length} keys`, edits);
  }

  const moves = (change: (old: number) => number) => edit((k) => ({ frames: change(k.frame) - k.frame }));
  const lifts = (change: (old: number) => number) => edit((k) => ({ value: change(k.value) - k.value }));

  /** The frame on which two keys of one channel would come to lie; null where that is none. */
  function clash(change: (old: number) => number): number | null {
    const taken = new Set<string>();
    for (const k of starts ?? keys) {
      const to = `${k.address} ${change(k.frame)}`;
      if (taken.has(to)) return change(k.frame);
      taken.add(to);
    }
    return null;
  }

  function commitFrames(change: (old: number) => number) {
    const at = clash(change);
    if (at === null) return commit(moves(change), (k) => change(k.frame));
    cancel();
    session.messages.say(
      `Two keys of one channel cannot both lie on frame ${at}: type a sum, such as +5, to move all of them.`,
    );
  }

  function commit(made: Edit, to: (k: { frame: number }) => number) {
    const from = starts ?? [];
    starts = null;
    if (session.shot.commit(made))
      session.selection.keys = session.shot.present(from.map((k) => ({ address: k.address, frame: to(k) })));
  }

  // The handles of the selected keys, where they have any: each an offset in frames and value. Of very many none are shown.
  type Side = 'in' | 'out';
  interface Bent {
    address: string;
    frame: number;
    at: [number, number];
  }
  const bent = $derived.by(() => {
    const found: Record<Side, Bent[]> = { in: [], out: [] };
    if (keys.length > 200) return found;
    for (const { address, frame } of chosen) {
      const all = session.shot.curve(address)?.keys ?? [];
      const i = all.findIndex((k) => k.frame === frame);
      if (i > 0 && all[i - 1].segment === 'bezier') found.in.push({ address, frame, at: all[i].in });
      if (i >= 0 && i < all.length - 1 && all[i].segment === 'bezier')
        found.out.push({ address, frame, at: all[i].out });
    }
    return found;
  });
  let bending: Bent[] | null = null;

  function bend(side: Side, part: 0 | 1, change: (old: number) => number): Edit {
    bending ??= bent[side];
    const edits = bending.map(({ address, frame, at }) => {
      const [frames, value] = at.map((v, i) => (i === part ? change(v) : v));
      // Time does not run backwards.
      const along = side === 'in' ? Math.min(0, frames) : Math.max(0, frames);
      return newEdit('setHandle', { key: { address, frame }, side, handle: { kind: 'free', frames: along, value } });
    });
    return together(`Bend ${edits.length} keys`, edits);
  }

  function commitBend(side: Side, part: 0 | 1, change: (old: number) => number) {
    const made = bend(side, part, change);
    bending = null;
    session.shot.commit(made);
  }

  function cancel() {
    bending = null;
    starts = null;
    session.shot.try(null);
  }
</script>

{#snippet lock(what: string, on: boolean, toggle: () => void)}
  <button
    class="flex h-6 items-center gap-0.5 rounded-field px-1 {on
      ? 'bg-primary text-primary-content'
      : 'hover:bg-base-300'}"
    aria-pressed={on}
    aria-label="{what} stays while {what === 'Length' ? 'handles' : 'keys'} are dragged"
    title={on
      ? `${what}: locked, keys and handles keep it while they are dragged. Click to unlock`
      : `${what}: click to keep it while keys and handles are dragged`}
    onclick={toggle}
    >{#if what === 'Length'}<Ruler size={13} />{:else}{#if on}<Lock size={11} />{/if}{what}{/if}</button
  >
{/snippet}

{#if chosen.length > 0}
  <div
    class="flex shrink-0 items-center gap-1 rounded-field bg-base-100 p-1 text-xs"
    role="group"
    aria-label="Selected keys"
  >
    {@render lock('Frame', ui.lockFrame, () => (ui.lockFrame = !ui.lockFrame))}
    <div class="w-12">
      <NumberField
        value={chosen[0].frame}
        mixed={!alike((k) => k.frame)}
        step={0.25}
        label="Frame of the selected keys"
        ontry={(change) => {
          const whole = (f: number) => Math.round(change(f));
          if (clash(whole) === null) session.shot.try(moves(whole));
        }}
        oncommit={commitFrames}
        oncancel={cancel}
      />
    </div>
    {@render lock('Value', ui.lockValue, () => (ui.lockValue = !ui.lockValue))}
    <div class="w-16">
      <NumberField
        value={chosen[0].value}
        mixed={!alike((k) => k.value)}
        label="Value of the selected keys"
        ontry={(change) => session.shot.try(lifts(change))}
        oncommit={(change) => commit(lifts(change), (k) => k.frame)}
        oncancel={cancel}
      />
    </div>
    {#each ['in', 'out'] as const as side (side)}
      {#if bent[side].length > 0}
        <span title="The handle {side === 'in' ? 'before' : 'after'} the key: frames and value from it"
          >{side === 'in' ? 'In' : 'Out'}</span
        >
        {#each [0, 1] as const as part (part)}
          <div class="w-12">
            <NumberField
              value={bent[side][0].at[part]}
              mixed={!bent[side].every((b) => Math.abs(b.at[part] - bent[side][0].at[part]) < 1e-9)}
              step={part === 0 ? 0.1 : 0.01}
              label="{part === 0 ? 'Frames' : 'Value'} of the handle {side === 'in'
                ? 'before'
                : 'after'} the selected keys"
              ontry={(change) => session.shot.try(bend(side, part, change))}
              oncommit={(change) => commitBend(side, part, change)}
              oncancel={cancel}
            />
          </div>
        {/each}
      {/if}
    {/each}
    {#if bent.in.length > 0 || bent.out.length > 0}
      {@render lock('Length', ui.lockLength, () => (ui.lockLength = !ui.lockLength))}
    {/if}
    {#each ease ? (parameters[ease.ease] ?? []) : [] as p (p.id)}
      <span>{p.id[0].toUpperCase()}{p.id.slice(1)}</span>
      <div class="w-16">
        <NumberField
          value={ease![p.id] ?? p.usual}
          step={p.step}
          standard={p.usual}
          label="{p.id[0].toUpperCase()}{p.id.slice(1)} of the easing"
          ontry={(_, to) => session.shot.try(eased(p.id, to))}
          oncommit={(_, to) => session.shot.commit(eased(p.id, to))}
          oncancel={() => session.shot.try(null)}
        />
      </div>
    {/each}
  </div>
{/if}
