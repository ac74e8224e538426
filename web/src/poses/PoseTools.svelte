<script lang="ts">
  // What is done with poses, above their pictures.
  import Copy from '@lucide/svelte/icons/copy';
  import Footprints from '@lucide/svelte/icons/footprints';
  import LibraryBig from '@lucide/svelte/icons/library-big';
  import Minus from '@lucide/svelte/icons/minus';
  import Pause from '@lucide/svelte/icons/pause';
  import Plus from '@lucide/svelte/icons/plus';
  import Spline from '@lucide/svelte/icons/spline';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { run, tip } from '../commands';
  import { newEdit } from '../edits/edit';
  import { preferences } from '../stores/preferences.svelte';
  import { session } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import ShareSlider from '../widgets/ShareSlider.svelte';

  let {
    channels,
    count,
    onzoom,
  }: {
    /** The channels that the poses are of. */
    channels: string[];
    /** How many poses are picked. */
    count: number;
    /** Makes the scale larger by a factor; 0 is as usual. */
    onzoom: (factor: number) => void;
  } = $props();

  let holdFor = $state(8);

  /** The pose stays for some frames; later ones follow, or stay where there is room. */
  const hold = () =>
    session.shot.commit(
      newEdit('holdPose', { frame: session.frame, channels, frames: holdFor, follow: preferences.posesFollow }),
    );

  // In-betweens, and what is keyed, are of the chosen channels only where some are chosen.
  const chosenChannels = $derived(session.selection.channels);
  function between(share: number, commit: boolean) {
    const { refusal } = session.shot.between(chosenChannels.length > 0 ? chosenChannels : channels, share, commit);
    if (refusal) session.messages.say(refusal);
  }
</script>

<!-- On a narrow screen the words are kept, not the pictures beside them. -->
<header
  class="flex h-9 shrink-0 items-center gap-2 overflow-x-auto overflow-y-hidden border-b border-base-300 px-3 max-xl:gap-1 max-xl:[&_button:not(.btn-square)_svg]:hidden"
>
  <h2 class="text-sm font-semibold">Poses</h2>
  <span
    class="min-w-0 grow truncate text-xs text-base-content/75"
    title={chosenChannels.length > 0 ? 'Keys and in-betweens are of the chosen channels only' : undefined}
    >{session.selection.nodes.length > 0
      ? `of ${session.selection.nodes.map((n) => n.name).join(', ')}`
      : 'of everything'}{chosenChannels.length > 0
      ? ` · ${chosenChannels.map((a) => session.shot.channelAt(a)?.label).join(', ')}`
      : ''}</span
  >
  <div class="join shrink-0" role="group" aria-label="Scale of the strip">
    <button
      class="btn join-item btn-square btn-xs"
      title="Fewer pixels a frame (−, Ctrl+wheel)"
      aria-label="Smaller scale"
      onclick={() => onzoom(1 / 1.5)}><Minus size={13} /></button
    >
    <button class="btn join-item btn-xs px-1" title="So that most pictures stand free (0)" onclick={() => onzoom(0)}
      >Fit</button
    >
    <button
      class="btn join-item btn-square btn-xs"
      title="More pixels a frame (+, Ctrl+wheel)"
      aria-label="Larger scale"
      onclick={() => onzoom(1.5)}><Plus size={13} /></button
    >
  </div>
  <label class="flex shrink-0 items-center gap-1 text-xs" title="Retiming or holding a pose moves all later ones along"
    ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={preferences.posesFollow} />Ripple</label
  >
  <label
    class="flex shrink-0 items-center gap-1 text-xs"
    title="A pose between the one before and the one after the playhead; past their ends as well"
    >In-between
    <ShareSlider
      value={50}
      label="In-between: how far it favours the next pose"
      class="w-24"
      ontry={(s) => between(s, false)}
      onkeep={(s) => between(s, true)}
      oncancel={() => session.shot.try(null)}
    />
  </label>
  <button
    class="btn shrink-0 btn-xs {viewState.shelf ? 'btn-primary' : 'btn-ghost'}"
    aria-pressed={viewState.shelf}
    title={tip('shelf')}
    onclick={() => run('shelf')}><LibraryBig size={14} />Library</button
  >
  <button class="btn btn-ghost shrink-0 btn-xs" title={tip('key')} onclick={() => run('key')}>Key pose</button>
  <button
    class="btn btn-ghost shrink-0 btn-xs"
    disabled={count === 0}
    title="This pose stays for so many frames"
    onclick={hold}><Pause size={14} />Hold</button
  >
  <div class="w-12 shrink-0">
    <NumberField
      label="Frames of a hold"
      whole
      step={0.1}
      least={1}
      most={100000}
      value={holdFor}
      oncommit={(_, to) => (holdFor = to)}
    />
  </div>
  <button
    class="btn btn-ghost shrink-0 btn-xs"
    disabled={count === 0}
    title={tip('copyPose', count > 1 ? `Copy these ${count} poses` : 'Copy this pose')}
    onclick={() => run('copyPose')}><Copy size={14} />Copy</button
  >
  <button
    class="btn btn-ghost shrink-0 btn-xs"
    disabled={session.clipboard.isEmpty}
    title={tip('paste', 'Put the copied poses at the playhead')}
    onclick={() => session.clipboard.paste()}>Paste</button
  >
  <button class="btn btn-ghost shrink-0 btn-xs" title={tip('pose.mirror')} onclick={() => run('pose.mirror')}
    >Mirror</button
  >
  <button
    class="btn btn-ghost shrink-0 btn-xs"
    disabled={count === 0}
    title={tip('removePose', count > 1 ? `Remove all keys of these ${count} poses` : 'Remove all keys of this pose')}
    onclick={() => run('removePose')}><Trash2 size={14} />Remove</button
  >
  <button
    class="btn shrink-0 btn-xs {session.player.stepped ? 'btn-primary' : 'btn-ghost'}"
    aria-pressed={session.player.stepped}
    title="Playing holds each pose until the next, without in-betweens"
    onclick={() => (session.player.stepped = !session.player.stepped)}><Footprints size={14} />Stepped</button
  >
  <button
    class="btn btn-ghost shrink-0 btn-xs"
    title={tip('poses.toCurves', 'Held keys of the selection, or of everything, become curves')}
    onclick={() => run('poses.toCurves')}><Spline size={14} />Convert holds</button
  >
</header>
