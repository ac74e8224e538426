<script lang="ts">
  import { changedSegments } from '../edits/edit';
  import type { Segment } from '../engine/engine';
  import Plus from '@lucide/svelte/icons/plus';
  import { preferences } from '../stores/preferences.svelte';
  import { meantSegments } from './curveTools';
  import { session } from '../stores/session.svelte';

  // Small pictures of easings. The pictures are samples of the engine's own curves.
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
  let adding = $state(false);
  let css = $state('cubic-bezier(0.3, 0, 0.1, 1)');
  let name = $state('');
  const drawn = $derived(session.shot.engine && adding ? session.shot.engine.easingPicture(css) : []);

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
</script>

<div
  class="flex h-14 shrink-0 items-center gap-1 overflow-x-auto border-b border-base-300 bg-base-100 px-2"
  aria-label="Ease shelf"
  role="toolbar"
>
  <div class="join mr-1 shrink-0" role="radiogroup" aria-label="Direction">
    {#each [['in', 'In'], ['out', 'Out'], ['inOut', 'Both']] as [d, label] (d)}
      <button
        class="btn join-item btn-xs {direction === d ? 'btn-primary' : ''}"
        role="radio"
        aria-checked={direction === d}
        onclick={() => (direction = d as typeof direction)}>{label}</button
      >
    {/each}
  </div>
  <button
    class="btn btn-square shrink-0 btn-ghost btn-sm"
    title="Own easings, as CSS writes them"
    aria-label="Own easings"
    aria-expanded={adding}
    onclick={() => (adding = !adding)}><Plus size={16} /></button
  >
  {#each items as item (item.name)}
    <button
      class="flex h-12 w-[52px] shrink-0 flex-col items-center rounded-field pt-0.5 hover:bg-base-300"
      title="{item.name}: click for the selected keys, or for all channels of the selected objects between the two poses around the playhead; or drag it on to a stretch between two keys"
      draggable="true"
      ondragstart={(e) => e.dataTransfer?.setData('application/x-ease', JSON.stringify(item.segment))}
      onclick={() => apply(item.segment)}
    >
      <svg class="text-secondary" width="40" height="28" viewBox="0 0 40 28" aria-hidden="true"
        ><path d={pictures.get(item.name)} fill="none" stroke="currentColor" stroke-width="2" /></svg
      >
      <span class="text-xs">{item.name}</span>
    </button>
  {/each}
  {#each preferences.easings as own (own.name)}
    <button
      class="flex h-12 w-[52px] shrink-0 flex-col items-center rounded-field pt-0.5 hover:bg-base-300"
      title="{own.name}: {own.css.slice(0, 60)}. Click with keys selected; with the right button it is forgotten"
      onclick={() => applyCss(own.css)}
      oncontextmenu={(e) => {
        e.preventDefault();
        preferences.easings = preferences.easings.filter((o) => o !== own);
      }}
    >
      <svg class="text-primary" width="40" height="28" viewBox="0 0 40 28" aria-hidden="true"
        ><path
          d={path(session.shot.engine?.easingPicture(own.css) ?? [])}
          fill="none"
          stroke="currentColor"
          stroke-width="2"
        /></svg
      >
      <span class="w-full truncate text-center text-xs">{own.name}</span>
    </button>
  {/each}
</div>

{#if adding}
  <div
    class="absolute right-3 bottom-14 z-30 w-96 rounded-box border border-base-300 bg-base-200 p-3 text-sm shadow-xl"
    role="dialog"
    aria-label="Own easings"
  >
    <p class="pb-2 text-xs text-base-content/80">
      An easing as CSS writes it: cubic-bezier(), linear(), steps() or a name such as ease-in. It can be pasted here and
      copied out.
    </p>
    <div class="flex items-center gap-2">
      <svg class="text-secondary shrink-0" width="40" height="28" viewBox="0 0 40 28" aria-hidden="true"
        ><path d={path(drawn)} fill="none" stroke="currentColor" stroke-width="2" /></svg
      >
      <input class="input input-sm grow" aria-label="Easing as CSS" bind:value={css} spellcheck="false" />
    </div>
    <div class="flex gap-1 pt-2">
      <button class="btn btn-xs" title="The easing after the selected key" onclick={takeOver}>From the key</button>
      <button class="btn btn-xs" onclick={() => void navigator.clipboard.writeText(css)}>Copy</button>
      <span class="grow"></span>
      <input class="input input-xs w-24" aria-label="Name of the easing" placeholder="Name" bind:value={name} />
      <button class="btn btn-xs" disabled={drawn.length === 0 || drawn.every((v) => v === 0)} onclick={save}
        >Keep</button
      >
      <button class="btn btn-primary btn-xs" onclick={() => applyCss(css)}>Apply</button>
    </div>
  </div>
{/if}
