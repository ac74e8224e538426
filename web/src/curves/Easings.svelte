<script lang="ts">
  import { changedSegments } from '../edits/edit';
  import type { Segment } from '../engine/engine';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import X from '@lucide/svelte/icons/x';
  import { Popover, RadioGroup } from 'bits-ui';
  import { preferences } from '../stores/preferences.svelte';
  import { meantSegments } from './curveTools';
  import { session } from '../stores/session.svelte';

  // Small pictures of easings: samples of the engine's own curves. In one line, and all of them with their names and one's own behind a button.
  const families = ['sine', 'quad', 'cubic', 'quart', 'quint', 'expo', 'circ', 'back', 'elastic', 'bounce'];
  let direction = $state<'in' | 'out' | 'inOut'>('inOut');

  const items = $derived<{ name: string; segment: Segment; ease: boolean }[]>([
    { name: 'Bézier', segment: 'bezier', ease: false },
    { name: 'Linear', segment: 'linear', ease: false },
    { name: 'Hold', segment: 'hold', ease: false },
    ...families.map((ease) => ({
      name: ease[0].toUpperCase() + ease.slice(1),
      segment: { ease, direction },
      ease: true,
    })),
  ]);

  const pictures = $derived.by(() => {
    const made = new Map<string, string>();
    if (!session.shot.engine) return made;
    for (const item of items) made.set(item.name, path(session.shot.engine.easePicture(item.segment)));
    return made;
  });

  const path = (values: number[]) =>
    values
      .map((v, i) => `${i ? 'L' : 'M'}${((40 * i) / (values.length - 1)).toFixed(2)} ${(22 - 16 * v).toFixed(2)}`)
      .join('');

  const nothing =
    'Select the keys that it shall start from, or an object with the playhead between two of its poses, or drag it on to a stretch between two keys.';
  let open = $state(false);
  let css = $state('cubic-bezier(0.3, 0, 0.1, 1)');
  let name = $state('');
  const drawn = $derived(session.shot.engine && open ? session.shot.engine.easingPicture(css) : []);

  /** Takes the easing of the selected key, to be kept or changed. */
  function takeOver() {
    const key = session.selection.keys[0];
    const text = key ? session.shot.engine!.easingOf(key.address, key.frame) : '';
    if (text) css = text;
    else session.messages.say('Select a key that another one follows, with another value.');
  }

  function save() {
    const called = name.trim() || `Own ${preferences.easings.length + 1}`;
    preferences.easings = [...preferences.easings.filter((e) => e.name !== called), { name: called, css }];
    name = '';
  }

  function applyCss(text: string) {
    const keys = meantSegments();
    if (keys.length === 0) return session.messages.say(nothing);
    const { keys: selected } = session.selection;
    if (session.shot.shape(keys, text)) session.selection.keys = session.shot.present(selected);
  }

  function apply(segment: Segment) {
    const keys = meantSegments();
    if (keys.length === 0) return session.messages.say(nothing);
    session.shot.commit(changedSegments(keys, segment));
  }

  function remove(own: { name: string; css: string }) {
    const before = preferences.easings;
    preferences.easings = before.filter((o) => o.name !== own.name);
    session.messages.say(`The easing “${own.name}” is deleted.`, {
      label: 'Undo',
      run: () => (preferences.easings = [...preferences.easings.filter((o) => o.name !== own.name), own]),
    });
  }

  const hint =
    'click for the selected keys, or for all channels of the selected objects between the two poses around the playhead; or drag it on to a stretch between two keys';
  const directions = [
    ['in', 'In'],
    ['out', 'Out'],
    ['inOut', 'Both'],
  ] as const;
</script>

{#snippet curve(d: string | undefined, className: string)}
  <svg class={className} width="32" height="22" viewBox="0 0 40 28" aria-hidden="true"
    ><path {d} fill="none" stroke="currentColor" stroke-width="2.2" /></svg
  >
{/snippet}

<div class="flex h-9 items-center gap-1 px-2" aria-label="Easings" role="toolbar">
  <Popover.Root bind:open>
    <Popover.Trigger class="btn shrink-0 btn-ghost btn-xs" title="All easings with their names, and your own"
      >Easings<ChevronDown size={12} /></Popover.Trigger
    >
    <Popover.Portal>
      <Popover.Content
        class="z-50 w-[420px] rounded-box border border-base-300 bg-base-200 p-3 text-sm text-base-content shadow-xl outline-none"
        side="top"
        align="start"
        sideOffset={6}
        collisionPadding={8}
        preventScroll={false}
        aria-label="Easings"
      >
        <div class="grid grid-cols-7 gap-1">
          {#each items as item (item.name)}
            <button
              class="flex h-12 flex-col items-center justify-center rounded-field text-xs hover:bg-base-300"
              title="{item.name}: {hint}"
              onclick={() => apply(item.segment)}
              >{@render curve(pictures.get(item.name), 'text-secondary')}{item.name}</button
            >
          {/each}
        </div>
        <h3 class="pt-2 pb-1 text-xs font-semibold">Your own</h3>
        {#if preferences.easings.length === 0}
          <p class="text-xs text-base-content/75">None yet: write one below, or take that of a key, and save it.</p>
        {/if}
        <div class="grid max-h-40 grid-cols-3 gap-1 overflow-y-auto">
          {#each preferences.easings as own (own.name)}
            <div class="flex items-center rounded-field hover:bg-base-300">
              <button
                class="flex h-8 min-w-0 grow items-center gap-1 text-xs"
                title="{own.name}: {own.css.slice(0, 60)}"
                onclick={() => applyCss(own.css)}
                >{@render curve(path(session.shot.engine?.easingPicture(own.css) ?? []), 'shrink-0 text-primary')}<span
                  class="truncate">{own.name}</span
                ></button
              >
              <button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Delete {own.name}"
                title="Delete"
                onclick={() => remove(own)}><X size={12} /></button
              >
            </div>
          {/each}
        </div>
        <h3 class="pt-2 pb-1 text-xs font-semibold">As CSS</h3>
        <div class="flex items-center gap-2">
          {@render curve(path(drawn), 'shrink-0 text-secondary')}
          <input
            class="input input-sm grow"
            aria-label="Easing as CSS"
            title="cubic-bezier(), linear(), steps() or a name such as ease-in"
            bind:value={css}
            spellcheck="false"
          />
        </div>
        <div class="flex gap-1 pt-2">
          <button class="btn btn-xs" title="The easing after the selected key" onclick={takeOver}>From the key</button>
          <button class="btn btn-xs" onclick={() => void navigator.clipboard.writeText(css)}>Copy</button>
          <span class="grow"></span>
          <input class="input input-xs w-24" aria-label="Name of the easing" placeholder="Name" bind:value={name} />
          <button class="btn btn-xs" disabled={drawn.length === 0 || drawn.every((v) => v === 0)} onclick={save}
            >Save</button
          >
          <button class="btn btn-primary btn-xs" onclick={() => applyCss(css)}>Apply</button>
        </div>
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
  <RadioGroup.Root
    class="join shrink-0"
    aria-label="Direction"
    orientation="horizontal"
    value={direction}
    onValueChange={(d) => (direction = d as typeof direction)}
  >
    {#each directions as [d, label] (d)}
      <RadioGroup.Item
        value={d}
        class="btn join-item btn-xs {direction === d ? 'btn-primary' : ''}"
        title={d === 'inOut' ? 'Slow at both ends' : d === 'in' ? 'Slow at the start' : 'Slow at the end'}
        >{label}</RadioGroup.Item
      >
    {/each}
  </RadioGroup.Root>
  <div class="flex h-8 min-w-0 flex-wrap gap-0.5 overflow-hidden">
    {#each items as item (item.name)}
      <button
        class="grid h-8 w-8 shrink-0 place-items-center rounded-field hover:bg-base-300"
        aria-label={item.name}
        title="{item.name}: {hint}"
        draggable="true"
        ondragstart={(e) => e.dataTransfer?.setData('application/x-ease', JSON.stringify(item.segment))}
        onclick={() => apply(item.segment)}>{@render curve(pictures.get(item.name), 'text-secondary')}</button
      >
    {/each}
  </div>
</div>
