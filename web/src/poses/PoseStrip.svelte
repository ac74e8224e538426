<script lang="ts">
  import { newEdit } from '../edits/edit';
  import Copy from '@lucide/svelte/icons/copy';
  import Footprints from '@lucide/svelte/icons/footprints';
  import Spline from '@lucide/svelte/icons/spline';
  import LibraryBig from '@lucide/svelte/icons/library-big';
  import Pause from '@lucide/svelte/icons/pause';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import type { Motion } from '../viewport/view/motionPictures';
  import type { StageView } from '../viewport/view/view';
  import { run, tip } from '../commands';
  import { posedOwners } from './poses';
  import { preferences } from '../stores/preferences.svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { session, type KeyRef } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import NumberField from '../widgets/NumberField.svelte';
  import { slice } from '../objects/sceneLines';
  import ShareSlider from '../widgets/ShareSlider.svelte';

  // A picture for every frame that holds a pose of the selection, where it is in time.
  let { view }: { view: StageView | null } = $props();

  interface Pose {
    frame: number;
    keys: KeyRef[];
  }

  const WIDTH = 128;
  const EACH = WIDTH + 12;
  let scroll = $state(0);
  let width = $state(800);
  let pictures = $state.raw(new Map<number, string>());
  let holdFor = $state(8);
  let drag = $state<{ from: number; by: number; copy: boolean } | null>(null);

  const owners = $derived(posedOwners());
  const channels = $derived(owners.flatMap((id) => session.shot.keyedOwners.get(id) ?? []));
  const poses = $derived.by(() => {
    const byFrame = new Map<number, Pose>();
    for (const id of owners)
      for (const address of session.shot.keyedOwners.get(id) ?? [])
        for (const frame of session.shot.keysOf(address)) {
          const pose = byFrame.get(frame);
          if (pose) pose.keys.push({ address, frame });
          else byFrame.set(frame, { frame, keys: [{ address, frame }] });
        }
    return [...byFrame.values()].sort((a, b) => a.frame - b.frame);
  });
  const chosen = $derived(poses.find((p) => p.frame === session.frame));
  const span = $derived({
    first: Math.min(session.shot.scene.first, poses[0]?.frame ?? session.shot.scene.first),
    last: Math.max(session.shot.scene.last, poses.at(-1)?.frame ?? session.shot.scene.last),
  });
  // Every pose has the room of its picture, in a row; only those that can be seen are in the page.
  const shown = $derived(slice(poses.length, EACH, scroll, width, 3));
  const shownPoses = $derived(poses.slice(shown.first, shown.last));

  // Pictures are made of a frame beside the shown one, when nothing else is going on, and kept until the shot changes.
  let madeFor = '';
  $effect(() => {
    const of = `${session.shotId} ${session.shot.history?.revision} ${session.selection.ids.join()} ${viewState.throughCamera}`;
    if (!view || !session.shot.engine) return;
    if (of !== madeFor) {
      madeFor = of;
      fresh = new Set();
      around = null;
    }
    const wanted = shownPoses.map((p) => p.frame).filter((f) => !fresh.has(f));
    let timer = 0;
    const next = () => {
      const { engine } = session.shot;
      if (wanted.length === 0 || !engine) return;
      if (session.player.playing || gestures.busy) {
        timer = window.setTimeout(next, 300);
        return;
      }
      const aside = (frame: number) => {
        engine.beside.evaluate(frame);
        return engine.beside;
      };
      // All pictures are taken from one place, which holds the whole motion: what moves is seen to move.
      const { ids } = session.selection;
      // Of a camera that one looks through, the pictures are what it sees.
      if (!around && ids.length > 0 && !ids.includes(view!.cameraId ?? '')) {
        const some = poses.filter((_, i) => i % Math.ceil(poses.length / 24) === 0).map((p) => p.frame);
        around = view!.pictures.extent(aside, some, session.shot.family(ids));
      }
      const drawn = view!.pictures.take(aside, wanted, around, WIDTH, 72);
      const made = new Map(pictures);
      drawn.forEach((picture) => {
        const frame = wanted.shift()!;
        fresh.add(frame);
        made.set(frame, picture);
      });
      pictures = made;
      timer = window.setTimeout(next, 30);
    };
    timer = window.setTimeout(next, 250);
    return () => clearTimeout(timer);
  });
  let fresh = new Set<number>();
  let around: Motion | null = null;

  const framesPerPixel = $derived((span.last - span.first) / Math.max(1, width));

  function down(e: PointerEvent, pose: Pose) {
    if (e.button !== 0) return;
    session.goTo(pose.frame);
    const x = e.clientX;
    const show = (by: number, copy: boolean) => {
      drag = { from: pose.frame, by, copy };
      gestures.readout = `${copy ? 'Copy' : 'Move'} the pose of frame ${pose.frame} to ${pose.frame + by}`;
    };
    gestures.follow(e, {
      move: (m) => show(Math.round((m.clientX - x) * framesPerPixel), m.altKey),
      type: (by) => show(Math.round(by ?? 0), drag?.copy ?? false),
      commit: () => {
        const done = drag;
        drag = null;
        if (!done || done.by === 0) return;
        if (done.copy) put(pose, pose.frame + done.by);
        else if (
          session.shot.commit(
            newEdit('transformKeys', {
              keys: preferences.posesFollow
                ? poses.filter((p) => p.frame >= pose.frame).flatMap((p) => p.keys)
                : pose.keys,
              by: { frames: done.by },
            }),
          )
        )
          session.goTo(pose.frame + done.by);
      },
      cancel: () => (drag = null),
    });
  }

  function put(pose: Pose, frame: number) {
    const edit = session.shot.engine!.copyKeys(pose.keys);
    if (edit?.kind !== 'putKeys') return;
    for (const c of edit.channels as { keys: { frame: number }[] }[]) for (const k of c.keys) k.frame = frame;
    if (session.shot.commit(edit)) session.goTo(frame);
  }

  /** The pose stays for some frames; later ones follow, or stay where there is room. */
  function hold() {
    if (!chosen) return;
    session.shot.commit(
      newEdit('holdPose', { frame: chosen.frame, channels, frames: holdFor, follow: preferences.posesFollow }),
    );
  }

  // In-betweens, and what is keyed, are of the chosen channels only where some are chosen.
  const chosenChannels = $derived(session.selection.channels);
  function between(share: number, commit: boolean) {
    const { refusal } = session.shot.between(chosenChannels.length > 0 ? chosenChannels : channels, share, commit);
    if (refusal) session.messages.say(refusal);
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Poses" data-part="poses">
  <!-- On a narrow screen the words are kept, not the pictures beside them. -->
  <header
    class="flex h-9 shrink-0 items-center gap-2 border-b border-base-300 px-3 max-xl:gap-1 max-xl:[&_button_svg]:hidden"
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
    <label
      class="flex shrink-0 items-center gap-1 text-xs"
      title="Retiming or holding a pose moves all later ones along"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={preferences.posesFollow} />Ripple</label
    >
    <label
      class="flex items-center gap-1 text-xs"
      title="A pose between the one before and the one after the playhead; past their ends as well"
      >In-between
      <ShareSlider
        value={50}
        label="In-between: how far it favours the next pose"
        class="w-28"
        ontry={(s) => between(s, false)}
        onkeep={(s) => between(s, true)}
        oncancel={() => session.shot.try(null)}
      />
    </label>
    <button
      class="btn btn-xs {viewState.shelf ? 'btn-primary' : 'btn-ghost'}"
      aria-pressed={viewState.shelf}
      title={tip('shelf')}
      onclick={() => run('shelf')}><LibraryBig size={14} />Library</button
    >
    <button class="btn btn-ghost btn-xs" title={tip('key')} onclick={() => run('key')}>Key pose</button>
    <button class="btn btn-ghost btn-xs" disabled={!chosen} title="This pose stays for so many frames" onclick={hold}
      ><Pause size={14} />Hold</button
    >
    <div class="w-12">
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
      class="btn btn-ghost btn-xs"
      disabled={!chosen}
      title={tip('copyPose', 'Copy this pose')}
      onclick={() => run('copyPose')}><Copy size={14} />Copy</button
    >
    <button
      class="btn btn-ghost btn-xs"
      disabled={session.clipboard.isEmpty}
      title="Put the copied pose at the playhead"
      onclick={() => session.clipboard.paste()}>Paste</button
    >
    <button class="btn btn-ghost btn-xs" title={tip('pose.mirror')} onclick={() => run('pose.mirror')}>Mirror</button>
    <button
      class="btn btn-ghost btn-xs"
      disabled={!chosen}
      title={tip('removePose', 'Remove all keys of this pose')}
      onclick={() => run('removePose')}><Trash2 size={14} />Remove</button
    >
    <button
      class="btn btn-xs {session.player.stepped ? 'btn-primary' : 'btn-ghost'}"
      aria-pressed={session.player.stepped}
      title="Playing holds each pose until the next, without in-betweens"
      onclick={() => (session.player.stepped = !session.player.stepped)}><Footprints size={14} />Stepped</button
    >
    <button
      class="btn btn-ghost btn-xs"
      title={tip('poses.toCurves', 'Held keys of the selection, or of everything, become curves')}
      onclick={() => run('poses.toCurves')}><Spline size={14} />Convert holds</button
    >
  </header>
  <div
    bind:clientWidth={width}
    class="relative min-h-0 grow overflow-x-auto overflow-y-hidden"
    role="list"
    onscroll={(e) => (scroll = e.currentTarget.scrollLeft)}
  >
    <div class="relative h-full" style="width:{poses.length * EACH + 12}px">
      {#each shownPoses as pose, n (pose.frame)}
        <div
          class="absolute top-1/2 -translate-y-1/2"
          role="listitem"
          style="left:{12 + (shown.first + n) * EACH}px;{drag?.from === pose.frame && drag.by !== 0
            ? 'opacity:.6'
            : ''}"
        >
          <button
            class="block overflow-hidden rounded-box border-2 {pose.frame === session.frame
              ? 'border-primary'
              : 'border-base-300 hover:border-secondary'}"
            style="touch-action:none"
            title="Frame {pose.frame}: {pose.keys.length} keys. Drag to retime, with Alt to copy"
            data-pose={pose.frame}
            onpointerdown={(e) => down(e, pose)}
            onclick={() => session.goTo(pose.frame)}
          >
            {#if pictures.get(pose.frame)}
              <img
                class="pointer-events-none h-[72px] w-[128px]"
                src={pictures.get(pose.frame)}
                alt="Pose on frame {pose.frame}"
                draggable="false"
              />
            {:else}<div class="h-[72px] w-[128px] bg-base-300"></div>{/if}
            <span class="flex justify-between bg-base-200 px-2 text-xs"
              ><b>{drag?.from === pose.frame ? pose.frame + drag.by : pose.frame}</b><span class="text-base-content/75"
                >{pose.keys.length}</span
              ></span
            >
          </button>
        </div>
      {/each}
    </div>
    {#if poses.length === 0}
      <p class="absolute inset-0 grid place-items-center text-center text-sm text-base-content/80">
        <span
          >No poses yet. Select an object, put the playhead on a frame, pose it, and press <kbd class="kbd kbd-sm"
            >K</kbd
          >.</span
        >
      </p>
    {/if}
    {#if drag && gestures.readout}<p
        class="pointer-events-none sticky bottom-1 left-1/2 z-10 inline-block -translate-x-1/2 rounded bg-base-100/90 px-3 py-0.5 text-sm"
        role="status"
      >
        {gestures.readout}
      </p>{/if}
  </div>
</section>
