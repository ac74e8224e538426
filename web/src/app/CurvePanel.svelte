<script lang="ts">
  // The tracks with what shapes curves: easings, handles, tools.
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import Repeat from '@lucide/svelte/icons/repeat';
  import Wrench from '@lucide/svelte/icons/wrench';
  import Easings from '../curves/Easings.svelte';
  import { session } from '../stores/session.svelte';
  import { run, tip } from '../commands';
  import { curveTools } from '../curves/curveTools';
  import { openEnds } from '../timeline/graph/ends.svelte';
  import { ui } from '../stores/ui.svelte';
  import { contextMenu } from '../widgets/contextMenu.svelte';
  import Tracks from '../timeline/Tracks.svelte';

  const tools = [
    'curve.simplify',
    'curve.bake',
    'curve.smooth',
    'curve.noise',
    'curve.retime',
    'curve.scaleValues',
    null,
    'curve.seamless',
    'curve.staggerTool',
    'curve.repeatKeys',
    'curve.mirror',
    'reverse',
    null,
    'curve.handles',
    'easing.copy',
    'curve.unroll',
    'curve.idle',
    null,
    'curve.between',
    'curve.keyAcross',
    'curve.keyRange',
    'curve.convertRate',
  ].map((command) => {
    const tool = curveTools.find((t) => command === `curve.${t.id}`);
    // Their numbers say what they do.
    return command ? { command, ...(tool ? { title: `${tool.title}…` } : {}) } : null;
  });

  const { newKeys } = $derived(session.shot);
  const newKeysMenu = $derived([
    ...['bezier', 'linear', 'hold'].map((s) => ({ command: `newKeys.${s}`, checked: newKeys.segment === s })),
    null,
    ...['auto', 'smooth', 'flat', 'straight'].map((h) => ({
      command: `newHandles.${h}`,
      checked: newKeys.handle.kind === h,
    })),
  ]);
  const segments: Record<string, string> = { bezier: 'Bézier', linear: 'linear', hold: 'hold' };
  const sides = {
    both: { label: 'Both', words: 'both sides of a key' },
    in: { label: 'In', words: 'the incoming side alone' },
    out: { label: 'Out', words: 'the outgoing side alone' },
  };
  const handles = [
    { id: 'handle.auto', label: 'Auto', hint: 'flat at extremes, never beyond its keys' },
    { id: 'handle.smooth', label: 'Smooth', hint: 'through the key, may overshoot' },
    { id: 'handle.flat', label: 'Flat', hint: 'level' },
    { id: 'handle.straight', label: 'Straight', hint: 'aims at the neighbour' },
    { id: 'split', label: 'Split', hint: 'the two sides point apart' },
    { id: 'join', label: 'Join', hint: 'the two sides turn together' },
  ];
</script>

<div class="flex h-full flex-col">
  <div class="flex shrink-0 items-center border-b border-base-300 bg-base-100">
    <div class="min-w-0 grow"><Easings /></div>
    <div class="flex shrink-0 items-center gap-1 px-2" role="toolbar" aria-label="Handles">
      <button
        class="btn w-14 btn-xs {ui.handleSide === 'both' ? 'btn-ghost' : 'btn-primary'}"
        title={tip('handle.side', `Kinds go to ${sides[ui.handleSide].words}`)}
        aria-label="Kinds of handles go to {sides[ui.handleSide].words}"
        onclick={() => run('handle.side')}>{sides[ui.handleSide].label}</button
      >
      {#each handles as h (h.id)}
        <button
          class="btn btn-xs"
          title={tip(h.id, `${h.label}: ${h.hint}`)}
          disabled={session.selection.keys.length === 0}
          onclick={() => run(h.id)}>{h.label}</button
        >
      {/each}
      <button
        class="btn btn-xs"
        title="How new keys of this shot go on, and how their handles point"
        aria-label="New keys: {segments[newKeys.segment] ?? 'an easing'}, handles {newKeys.handle.kind}"
        aria-haspopup="menu"
        onclick={(e) => contextMenu.open(e, newKeysMenu)}
        >New: {segments[newKeys.segment] ?? 'easing'}{newKeys.segment === 'bezier'
          ? `, ${newKeys.handle.kind}`
          : ''}<ChevronDown size={12} /></button
      >
      <button
        class="btn btn-xs"
        title={tip('ends', 'What comes before and after the keys: hold, linear, loop, ping-pong')}
        aria-haspopup="dialog"
        onclick={(e) => openEnds('after', { x: e.clientX - 120, y: e.clientY + 12 })}><Repeat size={14} />Cycles</button
      >
      <button
        class="btn btn-xs"
        title="Tools for the curves of the selected keys or objects"
        onclick={(e) => contextMenu.open(e, tools)}><Wrench size={14} />Tools</button
      >
    </div>
  </div>
  <div class="min-h-0 grow"><Tracks /></div>
</div>
