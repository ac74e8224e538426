<script lang="ts">
  import Copy from '@lucide/svelte/icons/copy';
  import Footprints from '@lucide/svelte/icons/footprints';
  import Pause from '@lucide/svelte/icons/pause';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { addressOf, type Edit } from '../engine/engine';
  import type { StageView } from '../stage/view';
  import { run, tip } from '../state/commands';
  import { session, type KeyRef } from '../state/session.svelte';

  // A picture for every frame that holds a pose of the selection, where it is in time.
  let { view }: { view: StageView | null } = $props();

  interface Pose {
    frame: number;
    keys: KeyRef[];
  }

  let strip = $state<HTMLDivElement>();
  let pictures = $state.raw(new Map<number, string>());
  let drag = $state<{ from: number; x: number; by: number; copy: boolean } | null>(null);

  const owners = $derived.by(() => {
    const all = new Set(session.selection);
    for (let before = -1; before !== all.size;) {
      before = all.size;
      for (const n of session.scene.nodes) if (n.parent && all.has(n.parent)) all.add(n.id);
    }
    return all.size > 0 ? [...all] : session.scene.nodes.map((n) => n.id);
  });
  const poses = $derived.by(() => {
    const byFrame = new Map<number, Pose>();
    for (const id of owners)
      for (const c of session.channelsByOwner.get(id) ?? [])
        for (const frame of c.keys) {
          const pose = byFrame.get(frame);
          if (pose) pose.keys.push({ address: addressOf(c), frame });
          else byFrame.set(frame, { frame, keys: [{ address: addressOf(c), frame }] });
        }
    return [...byFrame.values()].sort((a, b) => a.frame - b.frame);
  });
  const chosen = $derived(poses.find((p) => p.frame === session.frame));
  const span = $derived.by(() => {
    const frames = poses.map((p) => p.frame);
    return { first: Math.min(session.scene.first, ...frames), last: Math.max(session.scene.last, ...frames) };
  });
  // Every pose has the room of its picture; what lies close together stands in a row, the ruler above tells the time.
  const shownPoses = $derived(
    poses.length > 60 ? poses.filter((_, i) => i % Math.ceil(poses.length / 60) === 0) : poses,
  );

  // Pictures are made when nothing else is going on, and kept until the shot changes.
  $effect(() => {
    void [session.history?.revision, session.shotId, shownPoses];
    if (!view) return;
    const made = new Map<number, string>();
    let i = 0;
    let timer = 0;
    const next = () => {
      if (session.player.playing || drag) {
        timer = window.setTimeout(next, 300);
        return;
      }
      const frames = shownPoses.slice(i).map((p) => p.frame);
      const engine = session.engine;
      if (frames.length === 0 || !engine) return;
      const drawn = view.thumbnails((f) => engine.evaluate(f), frames, session.frame, 128, 72);
      drawn.forEach((picture, n) => made.set(frames[n], picture));
      i += drawn.length;
      pictures = new Map([...pictures, ...made]);
      timer = window.setTimeout(next, 30);
    };
    timer = window.setTimeout(next, 250);
    return () => clearTimeout(timer);
  });

  const framesPerPixel = $derived((span.last - span.first) / Math.max(1, strip?.clientWidth ?? 1));

  function down(e: PointerEvent, pose: Pose) {
    if (e.button !== 0) return;
    session.goTo(pose.frame);
    drag = { from: pose.frame, x: e.clientX, by: 0, copy: e.altKey };
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
  }

  function move(e: PointerEvent, pose: Pose) {
    if (!drag || drag.from !== pose.frame) return;
    const by = Math.round((e.clientX - drag.x) * framesPerPixel);
    if (by === drag.by) return;
    drag = { ...drag, by, copy: e.altKey };
    session.say(`${drag.copy ? 'Copy' : 'Move'} the pose of frame ${pose.frame} to ${pose.frame + by}`);
  }

  function up(pose: Pose) {
    const done = drag;
    drag = null;
    if (!done || done.by === 0) return;
    session.notice = null;
    if (done.copy) put(pose, pose.frame + done.by);
    else if (session.commit({ kind: 'transformKeys', keys: pose.keys, by: { frames: done.by } } as Edit))
      session.goTo(pose.frame + done.by);
  }

  function put(pose: Pose, frame: number) {
    const edit = JSON.parse(session.engine!.copyKeys(pose.keys)) as { channels: { keys: { frame: number }[] }[] };
    for (const c of edit.channels) for (const k of c.keys) k.frame = frame;
    if (session.commit(edit as unknown as Edit)) session.goTo(frame);
  }

  function hold() {
    if (chosen) session.commit({ kind: 'setSegments', keys: chosen.keys, segment: 'hold' } as Edit);
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Poses">
  <header class="flex h-9 shrink-0 items-center gap-2 border-b border-base-300 px-3">
    <h2 class="text-sm font-semibold">Poses</h2>
    <span class="grow truncate text-xs text-base-content/75"
      >{session.selectedNodes.length > 0
        ? `of ${session.selectedNodes.map((n) => n.name).join(', ')}`
        : 'of everything'} · drag a picture to retime its pose, with Alt to copy it</span
    >
    <button class="btn btn-ghost btn-xs" title={tip('key')} onclick={() => run('key')}>Key pose</button>
    <button class="btn btn-ghost btn-xs" disabled={!chosen} title="This pose stays until the next one" onclick={hold}
      ><Pause size={14} />Hold</button
    >
    <button
      class="btn btn-ghost btn-xs"
      disabled={!chosen}
      title="Copy this pose to 12 frames later"
      onclick={() => chosen && put(chosen, chosen.frame + 12)}><Copy size={14} />Copy on</button
    >
    <button
      class="btn btn-ghost btn-xs"
      disabled={!chosen}
      title="Remove all keys of this pose"
      onclick={() => chosen && session.commit({ kind: 'removeKeys', keys: chosen.keys } as Edit)}
      ><Trash2 size={14} />Remove</button
    >
    <button
      class="btn btn-xs {session.player.stepped ? 'btn-primary' : 'btn-ghost'}"
      aria-pressed={session.player.stepped}
      title="Playing holds each pose until the next, without in-betweens"
      onclick={() => (session.player.stepped = !session.player.stepped)}><Footprints size={14} />Stepped</button
    >
  </header>
  <div bind:this={strip} class="flex min-h-0 grow items-center gap-2 overflow-x-auto px-3" role="list">
    {#each shownPoses as pose (pose.frame)}
      <div class="shrink-0" role="listitem" style={drag?.from === pose.frame && drag.by !== 0 ? 'opacity:.6' : ''}>
        <button
          class="block overflow-hidden rounded-box border-2 {pose.frame === session.frame
            ? 'border-primary'
            : 'border-base-300 hover:border-secondary'}"
          style="touch-action:none"
          title="Frame {pose.frame}: {pose.keys.length} keys"
          data-pose={pose.frame}
          onpointerdown={(e) => down(e, pose)}
          onpointermove={(e) => move(e, pose)}
          onpointerup={() => up(pose)}
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
    {:else}
      <p class="w-full text-center text-sm text-base-content/80">
        No poses yet. Select an object, put the playhead on a frame, pose it, and press <kbd class="kbd kbd-sm">K</kbd>.
      </p>
    {/each}
  </div>
</section>
