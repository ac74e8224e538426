<script lang="ts">
  // A picture for every frame that holds a pose of the selection, where it is in time, below a ruler of the same scale.
  import { tick, untrack } from 'svelte';
  import { gestures } from '../widgets/gestures.svelte';
  import { rulerStep } from '../widgets/rulerStep';
  import { session } from '../stores/session.svelte';
  import { viewState } from '../stores/viewState.svelte';
  import type { StageView } from '../viewport/view/view';
  import { pickedPoses } from './pickedPoses.svelte';
  import PoseTools from './PoseTools.svelte';
  import { HEIGHT, PosePictures, WIDTH } from './posePictures.svelte';
  import { held, usualScale } from './poseScale';
  import { allPoses, retime, retiming, sayReplaced, sayRetiming, type Pose, type Retiming } from './poses';

  let { view }: { view: StageView | null } = $props();

  /** Room at both ends, in pixels. */
  const PAD = 12;
  let scroller: HTMLDivElement;
  let scroll = $state(0);
  let width = $state(800);
  let drag = $state.raw<Retiming | null>(null);

  const poses = $derived(allPoses());
  const frames = $derived(poses.map((p) => p.frame));
  const channels = $derived([...new Set(poses.flatMap((p) => p.keys.map((k) => k.address)))]);
  const span = $derived({
    first: Math.min(session.shot.scene.first, frames[0] ?? Infinity),
    last: Math.max(session.shot.scene.last, frames.at(-1) ?? -Infinity),
  });
  const scale = $derived(
    viewState.poseScale > 0
      ? held(viewState.poseScale, span.last - span.first)
      : usualScale(frames, span.first, span.last, width, WIDTH),
  );
  const x = (frame: number) => PAD + (frame - span.first) * scale;
  const whole = $derived(x(span.last) + WIDTH + PAD);

  // Only what can be seen is in the page.
  const shownPoses = $derived(
    poses.filter((p) => x(p.frame) > scroll - WIDTH - 200 && x(p.frame) < scroll + width + 200),
  );
  const step = $derived(rulerStep(scale));
  const marks = $derived.by(() => {
    const frameAt = (at: number) => span.first + (at - PAD) / scale;
    const from = Math.max(span.first, Math.floor(frameAt(scroll) / step) * step);
    const to = Math.min(span.last, frameAt(scroll + width));
    return Array.from({ length: Math.max(0, Math.floor((to - from) / step) + 1) }, (_, i) => from + i * step);
  });
  const picked = $derived(pickedPoses.among(poses));
  const replaced = $derived(new Set(drag?.replaced.map((p) => p.frame)));
  // The strip is one stop of the Tab key.
  const stop = $derived(frames.includes(session.frame) ? session.frame : (shownPoses[0]?.frame ?? frames[0]));

  const pictures = new PosePictures(
    () => view,
    () => poses,
    () => shownPoses,
  );

  // What is shown at first holds the playhead.
  $effect(() => {
    void session.shotId;
    untrack(() => void tick().then(() => into(session.frame)));
  });

  /** Scrolls so far that a frame is in view, and no further. */
  function into(frame: number) {
    if (!scroller) return;
    const [left, right] = [x(frame) - PAD, x(frame) + WIDTH + PAD];
    if (left < scroller.scrollLeft) scroller.scrollLeft = left;
    else if (right > scroller.scrollLeft + width) scroller.scrollLeft = right - width;
    // At once, so that what has come into view is in the page.
    scroll = scroller.scrollLeft;
  }

  /** Another scale, with the frame at a place of the strip where it is; 0 is the usual one. */
  async function zoom(factor: number, at = x(session.frame) - scroll) {
    const place = at >= 0 && at <= width ? at : width / 2;
    const frame = span.first + (scroll + place - PAD) / scale;
    viewState.poseScale = factor === 0 ? 0 : held(scale * factor, span.last - span.first);
    await tick();
    scroller.scrollLeft = x(frame) - place;
  }

  function wheel(e: WheelEvent) {
    if (!e.ctrlKey && !e.metaKey) {
      // A wheel that only turns goes along.
      if (Math.abs(e.deltaY) > Math.abs(e.deltaX)) scroller.scrollLeft += e.deltaY;
      else return;
    } else void zoom(Math.exp(-e.deltaY / 400), e.clientX - scroller.getBoundingClientRect().left);
    e.preventDefault();
  }

  /** The wheel is listened to so that it can be kept from the page. */
  const wheeled = (node: HTMLElement) => {
    node.addEventListener('wheel', wheel, { passive: false });
    return () => node.removeEventListener('wheel', wheel);
  };

  /** What a press picks: with Shift all up to there, with Ctrl one more or one less. */
  function pick(e: MouseEvent | KeyboardEvent, frame: number) {
    if (e.shiftKey) {
      const from = Math.min(frame, ...picked);
      const to = Math.max(frame, ...picked);
      pickedPoses.set(frames.filter((f) => f >= from && f <= to));
    } else if (e.ctrlKey || e.metaKey) {
      const next = new Set(picked);
      if (!next.delete(frame)) next.add(frame);
      pickedPoses.set(next);
    } else if (!picked.has(frame)) pickedPoses.set([frame]);
  }

  function down(e: PointerEvent, pose: Pose) {
    if (e.button !== 0) return;
    pick(e, pose.frame);
    session.goTo(pose.frame);
    const from = e.clientX;
    const start = scroll;
    const meant = new Set(picked.has(pose.frame) ? picked : [pose.frame]);
    let moved = false;
    const show = (by: number, copy: boolean) => {
      drag = retiming(poses, meant, by, copy);
      gestures.readout = sayRetiming(drag);
    };
    gestures.follow(e, {
      move: (m) => {
        moved ||= Math.abs(m.clientX - from) > 3;
        if (moved) show(Math.round((m.clientX - from + scroll - start) / scale), m.altKey);
      },
      type: (by) => show(Math.round(by ?? 0), drag?.copy ?? false),
      commit: () => {
        const done = drag;
        drag = null;
        if (done) put(done);
        // A press that moves nothing picks this one alone.
        if (!moved && !done && !e.shiftKey && !e.ctrlKey && !e.metaKey) pickedPoses.set([pose.frame]);
      },
      cancel: () => (drag = null),
    });
  }

  function put(done: Retiming) {
    const at = session.frame;
    if (!retime(done)) return;
    pickedPoses.set([...done.frames].map((f) => f + done.by));
    session.goTo(at + done.by);
  }

  /** By keyboard nothing was said before: what is replaced is said afterwards, with a way back. */
  function nudge(by: number, copy: boolean) {
    if (picked.size === 0) return;
    const done = retiming(poses, picked, by, copy);
    put(done);
    if (done.replaced.length > 0)
      session.messages.say(`${copy ? 'The copy' : 'It'} ${sayReplaced(done)}.`, {
        label: 'Undo',
        run: () => session.shot.undo(),
      });
  }

  function scrub(e: PointerEvent) {
    if (e.button !== 0) return;
    session.player.stop();
    const to = (m: PointerEvent) =>
      session.goTo(Math.round(span.first + (m.clientX - scroller.getBoundingClientRect().left + scroll - PAD) / scale));
    const before = session.frame;
    to(e);
    gestures.follow(e, { move: to, commit: () => undefined, cancel: () => session.goTo(before) });
  }

  function keydown(e: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key] ?? 0;
    if (by !== 0 && e.altKey) {
      // With Alt they go along in time, with Ctrl and Alt a copy does.
      nudge(by * (e.shiftKey ? 10 : 1), e.ctrlKey || e.metaKey);
    } else if (by !== 0 || e.key === 'Home' || e.key === 'End') {
      const at = frames.indexOf(stop);
      const to = e.key === 'Home' ? 0 : e.key === 'End' ? frames.length - 1 : at + by;
      const frame = frames[Math.min(frames.length - 1, Math.max(0, to))];
      if (e.shiftKey) pickedPoses.set(frames.filter((f) => picked.has(f) || f === frame || f === stop));
      else pickedPoses.set([frame]);
      session.goTo(frame);
    } else if (e.key === '+' || e.key === '=') void zoom(1.5);
    else if (e.key === '-') void zoom(1 / 1.5);
    else if (e.key === '0') void zoom(0);
    else if (e.key.toLowerCase() === 'a' && (e.ctrlKey || e.metaKey)) pickedPoses.set(frames);
    else return;
    e.preventDefault();
    e.stopPropagation();
    into(session.frame);
    void tick().then(() => scroller.querySelector<HTMLElement>(`[data-pose="${stop}"]`)?.focus());
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Poses" data-part="poses">
  <PoseTools {channels} count={picked.size} onzoom={(factor) => void zoom(factor)} />
  <div
    bind:this={scroller}
    bind:clientWidth={width}
    class="relative min-h-0 grow overflow-x-auto overflow-y-hidden"
    role="group"
    aria-label="Pictures of the poses"
    onscroll={(e) => (scroll = e.currentTarget.scrollLeft)}
    {@attach wheeled}
  >
    <div class="relative flex h-full flex-col" style="width:{Math.max(whole, width)}px">
      <div
        class="relative h-6 shrink-0 cursor-ew-resize border-b border-base-300 bg-base-200 text-xs"
        role="presentation"
        style="touch-action:none"
        title="Frames: drag to go along. {Math.round(scale * 10) / 10} pixels a frame"
        data-testid="pose-ruler"
        onpointerdown={scrub}
      >
        {#each marks as frame (frame)}
          <span
            class="pointer-events-none absolute bottom-0 border-l border-base-content/40 pl-1 text-base-content/75"
            style="left:{x(frame)}px">{frame}</span
          >
        {/each}
      </div>
      <div class="relative min-h-0 grow">
        {#each shownPoses as pose (pose.frame)}
          {@const mine = drag?.frames.has(pose.frame) && !drag.copy}
          {@const at = x(pose.frame + (mine ? drag!.by : 0))}
          <div
            class="absolute top-1/2 -translate-y-1/2 hover:z-20 {picked.has(pose.frame) ? 'z-10' : ''} {mine
              ? 'opacity-70'
              : ''}"
            style="left:{at}px"
          >
            <button
              class="block overflow-hidden rounded-box border-2 {replaced.has(pose.frame)
                ? 'border-dashed border-error'
                : picked.has(pose.frame)
                  ? 'border-primary'
                  : 'border-base-300 hover:border-secondary'}"
              style="touch-action:none"
              title="Frame {pose.frame}: {pose.keys
                .length} keys. Drag to retime, with Alt to copy; Shift or Ctrl picks several. By keyboard: Alt+← →, with Ctrl a copy"
              aria-label="Pose on frame {pose.frame}"
              aria-pressed={picked.has(pose.frame)}
              tabindex={pose.frame === stop ? 0 : -1}
              data-pose={pose.frame}
              onpointerdown={(e) => down(e, pose)}
              onclick={(e) => e.detail === 0 && (pick(e, pose.frame), session.goTo(pose.frame))}
              onkeydown={keydown}
            >
              {#if pictures.all.get(pose.frame)}
                <img
                  class="pointer-events-none"
                  style="width:{WIDTH}px;height:{HEIGHT}px"
                  src={pictures.all.get(pose.frame)}
                  alt=""
                  draggable="false"
                />
              {:else}<div class="bg-base-300" style="width:{WIDTH}px;height:{HEIGHT}px"></div>{/if}
              <span class="flex justify-between bg-base-200 px-2 text-xs"
                ><b>{pose.frame + (mine ? drag!.by : 0)}</b>{#if replaced.has(pose.frame)}<span class="text-error"
                    >replaced</span
                  >{:else}<span class="text-base-content/75">{pose.keys.length}</span>{/if}</span
              >
            </button>
          </div>
        {/each}
      </div>
      <div
        class="pointer-events-none absolute inset-y-0 z-20 w-px bg-primary"
        style="left:{x(session.frame)}px"
        aria-hidden="true"
      ></div>
    </div>
    {#if poses.length === 0}
      <p class="absolute inset-0 grid place-items-center pt-6 text-center text-sm text-base-content/80">
        <span
          >No poses yet. Select an object, put the playhead on a frame, pose it, and press <kbd class="kbd kbd-sm"
            >K</kbd
          >.</span
        >
      </p>
    {/if}
    {#if drag && gestures.readout}<p
        class="pointer-events-none sticky bottom-1 left-1/2 z-30 inline-block -translate-x-1/2 rounded bg-base-100/90 px-3 py-0.5 text-sm"
        role="status"
      >
        {gestures.readout}{#if gestures.typed}<span class="pl-2 font-semibold text-primary">{gestures.typed}</span>{/if}
      </p>{/if}
  </div>
</section>
