<script lang="ts">
  import Film from '@lucide/svelte/icons/film';
  import Image from '@lucide/svelte/icons/image';
  import { api, take } from '../api/client';
  import NumberField from '../widgets/NumberField.svelte';
  import { framesOf } from './frameSteps';
  import { renderSettings, type Quality } from './renderSettings.svelte';
  import { session } from '../stores/session.svelte';

  let { onordered }: { onordered: (id: string) => void } = $props();

  const settings = $derived(renderSettings(session.shotId));
  let error = $state('');
  let busy = $state(false);

  const s = $derived(session.shot.scene);
  const sizes = $derived<[number, number][]>(
    [
      [s.width / 4, s.height / 4],
      [s.width / 2, s.height / 2],
      [s.width, s.height],
    ].map(([w, h]) => [Math.round(w), Math.round(h)]),
  );
  const [width, height] = $derived(settings.size ?? sizes[1]);
  const range = $derived(settings.rangeOf(s));
  const pixels = { whole: true, step: 1, least: 1, most: 16384 };
  const asked = $derived(framesOf(range, settings.step));
  const wrong = $derived('wrong' in asked ? asked.wrong : '');
  const count = $derived('count' in asked ? asked.count : 0);
  const cameras = $derived(s.nodes.filter((n) => n.kind === 'camera'));
  // What a frame of this quality took last, by its pixels.
  const estimate = $derived.by(() => {
    const like = session.renders.list.find((r) => r.quality === settings.quality && r.done > 0);
    return like ? (((like.millisecondsPerFrame / (like.width * like.height)) * width * height) / 1000) * count : null;
  });
  const qualities: { id: Quality; label: string; hint: string }[] = [
    { id: 'draft', label: 'Draft', hint: 'one sample, simple light: is everything where it should be?' },
    { id: 'preview', label: 'Preview', hint: 'soft shadows, a few samples: does it read?' },
    { id: 'final', label: 'Final', hint: 'path traced, many samples: the picture itself' },
  ];

  const duration = (seconds: number) =>
    seconds < 1
      ? 'under 1 s'
      : seconds < 90
        ? `${Math.round(seconds)} s`
        : seconds < 5400
          ? `${Math.round(seconds / 60)} min`
          : `${(seconds / 3600).toFixed(1)} h`;

  async function order(which: string) {
    error = '';
    busy = true;
    try {
      // What is rendered is what is on the screen.
      await session.settled();
      const made = await take(
        api.POST('/api/renders', {
          body: {
            shotId: session.shotId!,
            frames: which,
            width,
            height,
            quality: settings.quality,
            camera: cameras.some((c) => c.id === settings.camera) ? settings.camera : null,
            fileName: settings.name,
          },
        }),
      );
      session.renders.take(made);
      onordered(made.id);
    } catch (e) {
      error = (e as Error).message;
    } finally {
      busy = false;
    }
  }
</script>

<section class="flex flex-col gap-3 p-3 text-sm" aria-label="Render settings">
  <h2 class="font-semibold">Render</h2>
  <div class="flex flex-col gap-1" role="radiogroup" aria-label="Quality">
    {#each qualities as q (q.id)}
      <button
        class="rounded-field px-3 py-1.5 text-left {settings.quality === q.id
          ? 'bg-primary/25 outline-1 outline-primary'
          : 'bg-base-200 hover:bg-base-300'}"
        role="radio"
        aria-checked={settings.quality === q.id}
        onclick={() => (settings.quality = q.id)}
      >
        <b>{q.label}</b><span class="block text-xs text-base-content/80">{q.hint}</span>
      </button>
    {/each}
  </div>
  <label class="flex flex-col gap-1 text-xs"
    >Camera
    <select class="select select-sm" bind:value={settings.camera}>
      <option value="">{session.shot.byId.get(s.camera ?? '')?.name ?? 'none'} (the shot's)</option>
      {#each cameras as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
    </select>
  </label>
  <div class="text-xs">
    Size
    <div class="mt-1 flex gap-1">
      {#each sizes as [w, h], i (i)}<button
          class="btn btn-xs grow {width === w && height === h ? 'btn-primary' : ''}"
          onclick={() => (settings.size = [w, h])}>{['Quarter', 'Half', 'Full'][i]}</button
        >{/each}
    </div>
    <div class="mt-1 flex items-center gap-1">
      <div class="w-20">
        <NumberField
          {...pixels}
          label="Width"
          value={width}
          oncommit={(_, w) => (settings.size = [w, Math.max(1, Math.round(w / (s.width / s.height)))])}
        />
      </div>
      ×
      <div class="w-20">
        <NumberField
          {...pixels}
          label="Height"
          value={height}
          oncommit={(_, h) => (settings.size = [Math.max(1, Math.round(h * (s.width / s.height))), h])}
        />
      </div>
    </div>
  </div>
  <div class="text-xs">
    Frames
    <div class="mt-1 flex items-center gap-1">
      <input
        class="input input-sm w-28 {wrong ? 'input-error' : ''}"
        aria-label="Frames"
        aria-invalid={wrong ? 'true' : undefined}
        title="A frame, or the first and the last with a dash between them: 12, 0-47"
        value={range}
        onchange={(e) => (settings.frames = e.currentTarget.value.trim() || null)}
      />
      every
      <div class="w-14">
        <NumberField
          label="Step"
          whole
          step={0.1}
          least={1}
          most={100000}
          value={settings.step}
          oncommit={(_, step) => (settings.step = step)}
        />
      </div>
    </div>
    {#if wrong}<p class="pt-1 text-error" role="alert">{wrong}</p>{/if}
    <label
      class="mt-1 flex items-center gap-2"
      title="The first and the last frame of a loop are the same picture: one fewer is rendered"
      ><input
        type="checkbox"
        class="checkbox checkbox-sm"
        bind:checked={settings.loop}
        onchange={() => (settings.frames = null)}
      />It is a loop: leave out the last frame</label
    >
  </div>
  <label class="flex flex-col gap-1 text-xs"
    >File name (# is the frame's number)
    <input class="input input-sm" bind:value={settings.name} />
  </label>
  <p class="text-xs text-base-content/80" data-testid="estimate">
    {count === 1 ? '1 frame' : `${count} frames`} of {width}×{height}{estimate !== null
      ? `, about ${duration(estimate)}`
      : ': render a still first to know how long they take'}
  </p>
  {#if error}<p class="rounded-field bg-error/20 p-2 text-xs" role="alert">{error}</p>{/if}
  <button class="btn btn-sm" disabled={busy} onclick={() => order(String(session.frame))}
    ><Image size={16} />Render frame {session.frame}</button
  >
  <button
    class="btn btn-primary btn-sm"
    disabled={busy || wrong !== ''}
    onclick={() => 'text' in asked && order(asked.text)}><Film size={16} />Render {range}</button
  >
</section>
