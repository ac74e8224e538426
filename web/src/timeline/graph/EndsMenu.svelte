<script lang="ts">
  // What curves do before their first or after their last key: for one, or for all that are chosen.
  import { untrack } from 'svelte';
  import Check from '@lucide/svelte/icons/check';
  import { Popover, Tabs } from 'bits-ui';
  import { newEdit } from '../../edits/edit';
  import NumberField from '../../widgets/NumberField.svelte';
  import { session } from '../../stores/session.svelte';
  import { pathOf, ownerOf } from '../../engine/engine';
  import { bakeEnds, endKinds, endOf, endsMenu, repeats, setEnds, type End, type Kind } from './ends.svelte';

  type Shown = NonNullable<typeof endsMenu.shown>;
  let { asked }: { asked: Shown | null } = $props();
  // While it goes its parts ask once more what it is for.
  let last = untrack(() => asked!);
  const shown = $derived.by<Shown>(() => (asked ? (last = asked) : last));
  const anchor = $derived.by(() => {
    const at = DOMRect.fromRect({ x: shown.x, y: shown.y });
    return { getBoundingClientRect: () => at };
  });
  const now = $derived.by(() => {
    void session.shot.changed;
    return shown.channels.map((a) => endOf(a, shown.end)).filter((e) => e !== undefined);
  });
  /** The kind of all, or nothing where they differ. */
  const kind = $derived(now.every((e) => e.kind === now[0].kind) ? now[0]?.kind : undefined);
  const same = <T,>(of: (e: (typeof now)[number]) => T) => now.every((e) => of(e) === of(now[0]));
  const what = $derived.by(() => {
    const [first] = shown.channels;
    const name = session.shot.channelAt(first)?.label ?? pathOf(first);
    const owner = session.shot.byId.get(ownerOf(first))?.name;
    return shown.channels.length > 1 ? `${shown.channels.length} curves` : owner ? `${owner} · ${name}` : name;
  });
  const close = () => (endsMenu.shown = null);

  function choose(to: Kind) {
    setEnds(shown.channels, shown.end, { kind: to });
    close();
  }
  const set = (change: { count?: number; until?: number | null }) =>
    setEnds(shown.channels, shown.end, change as { count?: number });
</script>

<Popover.Root open onOpenChange={(on) => !on && close()}>
  <Popover.Portal>
    <Popover.Content
      customAnchor={anchor}
      class="z-40 w-60 rounded-box border border-base-300 bg-base-200 p-2 text-base-content shadow-xl outline-none"
      side="bottom"
      align="start"
      collisionPadding={6}
      onInteractOutside={(e) => (e.target as Element).closest('[data-tracks]') && e.preventDefault()}
      aria-label="Before and after the keys"
      data-testid="ends"
    >
      <p class="truncate px-2 pb-1 text-xs font-semibold" title={what}>{what}</p>
      <Tabs.Root value={shown.end} onValueChange={(end) => (endsMenu.shown = { ...shown, end: end as End })}>
        <Tabs.List class="flex gap-1 pb-1">
          {#each [['before', 'Before the first'], ['after', 'After the last']] as const as [end, name] (end)}
            <Tabs.Trigger value={end} class="btn grow btn-xs {shown.end === end ? 'btn-primary' : ''}"
              >{name}</Tabs.Trigger
            >
          {/each}
        </Tabs.List>
      </Tabs.Root>
      <div role="radiogroup" aria-label="What comes {shown.end} the keys">
        {#each endKinds as k (k.kind)}
          <button
            class="btn btn-ghost btn-sm w-full justify-start {kind === k.kind ? 'btn-active' : ''}"
            role="radio"
            aria-checked={kind === k.kind}
            onclick={() => choose(k.kind)}
            ><span class="w-4"
              >{#if kind === k.kind}<Check size={14} />{/if}</span
            >{k.name}</button
          >
        {/each}
      </div>
      {#if kind && repeats(kind)}
        <label class="flex items-center justify-between gap-2 px-3 pt-1 text-xs">
          Cycles (0 = for ever)
          <div class="w-20 shrink-0">
            <NumberField
              label="Cycles (0 = for ever)"
              whole
              step={0.1}
              least={0}
              value={now[0].count ?? 0}
              mixed={!same((e) => e.count ?? 0)}
              oncommit={(_, count) => set({ count })}
            />
          </div>
        </label>
      {/if}
      {#if kind && kind !== 'hold'}
        <label class="flex items-center justify-between gap-2 px-3 pt-1 text-xs">
          Until frame (empty: no end)
          <div class="w-20 shrink-0">
            <NumberField
              label="Until frame (empty: no end)"
              step={0.1}
              empty="no end"
              value={now[0].until ?? NaN}
              mixed={!same((e) => e.until ?? null)}
              oncommit={(_, until) => set({ until: Number.isNaN(until) ? null : until })}
            />
          </div>
        </label>
        <div class="flex gap-1 px-2 pt-2">
          {#if repeats(kind)}<button
              class="btn btn-xs grow"
              title="Value and speed of both ends are made equal"
              onclick={() => (session.shot.commit(newEdit('makeSeamless', { channels: shown.channels })), close())}
              >Make seamless</button
            >{/if}
          <button
            class="btn btn-xs grow"
            title="A key on every frame of the shot's range, in the place of the cycle"
            onclick={() => (bakeEnds(shown.channels), close())}>Bake to keys</button
          >
        </div>
      {/if}
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
