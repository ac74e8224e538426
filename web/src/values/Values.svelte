<script lang="ts">
  import { changedNode, newEdit, type Members } from '../edits/edit';
  import Plus from '@lucide/svelte/icons/plus';
  import Search from '@lucide/svelte/icons/search';
  import X from '@lucide/svelte/icons/x';
  import type { ChannelView, Family } from '../engine/engine';
  import { tip } from '../commands';
  import { session } from '../stores/session.svelte';
  import ChannelRow from '../properties/ChannelRow.svelte';
  import ChannelRows from '../properties/ChannelRows.svelte';
  import MaterialSection from '../materials/MaterialSection.svelte';
  import MaterialShelf from '../materials/MaterialShelf.svelte';
  import NodeSource from './NodeSource.svelte';
  import ShapeSource from './ShapeSource.svelte';
  import TracedPoints from '../viewport/TracedPoints.svelte';
  import WorldSource from './WorldSource.svelte';

  type RotationOrder = Members<'setRotationOrder'>['order'];
  const node = $derived(session.selection.nodes.at(-1));
  const title = $derived(
    session.selection.nodes.length > 1
      ? `${session.selection.nodes.length} objects`
      : (node?.name ?? 'Sky and exposure'),
  );
  const families: { family: Family; label: string }[] = [
    { family: 'position', label: 'Position' },
    { family: 'rotation', label: 'Rotation' },
    { family: 'scale', label: 'Scale' },
    { family: 'shape', label: 'Shape' },
    { family: 'look', label: 'Look' },
  ];
  /** What these are is said by the row itself: position, rotation and scale are one row each. */
  const alone: Family[] = ['position', 'rotation', 'scale'];
  const own = $derived(session.shot.channelsOf(node?.id ?? 'world'));
  const shape = $derived(node?.data.shape as Record<string, number | string> | undefined);
  const deformers = $derived((node?.data.deformers ?? []) as { kind: string; id: string }[]);

  /** Whether a channel does anything as the object is now: a camera has one lens of three. */
  const unused = $derived.by(() => {
    if (!node) {
      const { skyPicture, background } = session.shot.scene;
      const colours = ['top', 'horizon', ...(skyPicture ? ['ground'] : [])].flatMap((p) =>
        ['r', 'g', 'b'].map((c) => `sky.${p}.${c}`),
      );
      return new Set([
        ...(skyPicture ? ['sky.physical', 'sky.turbidity', ...colours] : ['sky.turn']),
        ...(background === 'color' ? [] : ['background.r', 'background.g', 'background.b']),
      ]);
    }
    if (node?.kind === 'lamp') {
      const form = (node.data.form as string | undefined) ?? 'point';
      return new Set([
        ...(form === 'spot' ? [] : ['light.cone', 'light.softness']),
        ...(form === 'rectangle' ? ['light.radius'] : ['light.width', 'light.height']),
      ]);
    }
    if (node?.kind !== 'camera') return new Set<string>();
    const flat = node.data.projection === 'orthographic';
    const focal = !flat && node.data.lens === 'focal';
    return new Set([
      ...(flat ? ['camera.focus', 'camera.fstop'] : ['camera.height']),
      ...(flat || focal ? ['camera.fov'] : []),
      ...(flat || !focal ? ['camera.focal'] : []),
      ...(flat ? ['camera.sensor'] : []),
    ]);
  });
  let filter = $state('');
  /** Where there are many, they can be looked for. */
  const MANY = 24;
  const isSought = (c: ChannelView) => c.label.toLowerCase().includes(filter.trim().toLowerCase());
  const isOfUse = (path: string) => !path.startsWith('shape.') && !unused.has(path);

  const others = (c: ChannelView) =>
    session.selection.nodes
      .filter((n) => n.id !== node?.id)
      .flatMap((n) => session.shot.channelsOf(n.id).filter((o) => o.path === c.path));

  const replace = (change: Record<string, unknown>) => session.shot.commit(changedNode(node!, change));

  const meshes = $derived(session.selection.nodes.filter((n) => n.kind === 'mesh'));
  /** Of each of the selected meshes. */
  const each = $derived.by(() => {
    void session.shot.changed;
    const { engine } = session.shot;
    return engine && meshes.length <= 1000 ? engine.counts(meshes.map((n) => n.id)) : [];
  });
  const vertexCount = $derived(each[0]?.vertices ?? 0);
  /** Of all together; and whether they could be mixed. */
  const counts = $derived.by(() => {
    if (each.length === 0) return '';
    const [vertices, triangles] = [
      each.reduce((sum, c) => sum + c.vertices, 0),
      each.reduce((sum, c) => sum + c.triangles, 0),
    ];
    const all = `${vertices.toLocaleString()} vertices, ${triangles.toLocaleString()} triangles`;
    if (meshes.length === 1) return all;
    const differ = each.some((c) => c.vertices !== each[0].vertices || c.triangles !== each[0].triangles);
    return `${all} in ${meshes.length} meshes. ${differ ? 'Their numbers differ: they cannot be mixed.' : 'Each has as many.'}`;
  });
  const deformerLabels: Record<string, string> = {
    twist: 'Twist',
    squash: 'Squash and stretch',
    morph: 'Morph targets',
    skin: 'Skin',
  };

  function addDeformer(kind: string) {
    let n = deformers.length + 1;
    while (deformers.some((d) => d.id === `${kind}${n}`)) n++;
    replace({ deformers: [...deformers, { kind, id: `${kind}${n}` }] });
  }
</script>

<section class="flex h-full flex-col bg-base-100" aria-label="Values">
  <header class="flex h-10 shrink-0 items-center justify-between border-b border-base-300 px-3">
    <h2 class="truncate text-sm font-semibold" {title}>{title}</h2>
    {#if session.selection.channels.length > 0}<button
        class="btn btn-xs btn-primary"
        title={tip('leave', 'Keys, in-betweens and tools are for these only: click for all channels again')}
        onclick={() => session.selection.choose([])}
        >{session.selection.channels.length === 1 ? '1 channel' : `${session.selection.channels.length} channels`}<X
          size={12}
        /></button
      >
    {:else}<span class="text-xs text-base-content/75">frame {session.frame}</span>{/if}
  </header>
  <div class="grow overflow-y-auto pt-1 pb-4">
    {#if own.length > MANY || filter}
      <label class="mx-2 mt-1 flex h-7 items-center gap-1 rounded-field bg-base-200 px-2 text-xs">
        <Search size={12} />
        <input
          class="w-full bg-transparent outline-none"
          placeholder="Filter the values"
          aria-label="Filter the values by name"
          bind:value={filter}
        />
      </label>
    {/if}
    {#if node}<NodeSource {node} />{:else}<WorldSource />{/if}
    {#each families as { family, label } (family)}
      {@const channels = own.filter((c) => c.family === family && isOfUse(c.path) && isSought(c))}
      {#if channels.length > 0}
        {#if !alone.includes(family)}
          <h3 class="px-3 pt-3 pb-1 text-xs font-semibold">
            <button
              class="flex items-center gap-2 rounded-field hover:bg-base-300"
              tabindex="-1"
              title="Choose these channels, Shift for more: keys, in-betweens and tools are for the chosen ones only"
              onclick={(e) =>
                session.selection.choose(
                  channels.flatMap((c) => [c, ...others(c)]).map((c) => c.address),
                  e.shiftKey || e.ctrlKey || e.metaKey,
                )}><span class="h-2 w-2 rounded-full" style="background:var(--family-{family})"></span>{label}</button
            >
          </h3>
        {/if}
        <ChannelRows {channels} othersOf={others} />
      {/if}
    {/each}
    {#if shape && node}
      <h3 class="px-3 pt-3 pb-1 text-xs font-semibold">{shape.kind === 'asset' ? 'Mesh' : 'Dimensions'}</h3>
      {#if counts}
        <p class="px-3 pb-1 text-xs text-base-content/75" data-testid="counts">{counts}</p>
      {/if}
      <ShapeSource {node} />
      {#if meshes.length === 1}<TracedPoints {node} vertices={vertexCount} />{/if}
      {#each own.filter((c) => c.path.startsWith('shape.')) as channel (channel.address)}
        <ChannelRow {channel} others={others(channel)} />
      {/each}
      <h3 class="px-3 pt-3 pb-1 text-xs font-semibold">Deformers</h3>
      {#each deformers as d (d.id)}
        <div class="flex h-7 items-center justify-between px-3 text-xs">
          {deformerLabels[d.kind] ?? d.kind}
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Remove {d.kind}"
            title="Remove, with its keys"
            onclick={() => replace({ deformers: deformers.filter((x) => x.id !== d.id) })}><X size={14} /></button
          >
        </div>
      {/each}
      <div class="flex gap-1 px-3">
        <button class="btn btn-xs" onclick={() => addDeformer('twist')}><Plus size={12} />Twist</button>
        <button class="btn btn-xs" onclick={() => addDeformer('squash')}><Plus size={12} />Squash</button>
      </div>
    {/if}
    {#if node?.kind === 'mesh'}<MaterialSection {node} />{/if}
    {#if !node || node.kind === 'mesh'}<MaterialShelf />{/if}
    {#if node?.kind === 'camera'}
      <div class="flex flex-col gap-1 px-3 pt-3">
        <button
          class="btn btn-sm"
          disabled={session.shot.scene.camera === node.id}
          onclick={() => session.shot.commit(newEdit('setShot', { camera: node.id }))}
        >
          {session.shot.scene.camera === node.id ? 'Renders the shot' : 'Render through this camera'}
        </button>
        <select
          class="select select-sm"
          aria-label="Projection"
          value={node.data.projection ?? 'perspective'}
          onchange={(e) => replace({ projection: e.currentTarget.value })}
        >
          <option value="perspective">Perspective</option><option value="orthographic">Orthographic</option>
        </select>
        {#if node.data.projection !== 'orthographic'}
          <select
            class="select select-sm"
            aria-label="Lens"
            value={node.data.lens ?? 'angle'}
            onchange={(e) => replace({ lens: e.currentTarget.value })}
          >
            <option value="angle">By the field of view</option><option value="focal">By the focal length</option>
          </select>
        {/if}
      </div>
    {/if}
    {#if node && node.kind !== 'camera'}
      <div class="flex items-center gap-2 px-3 pt-3 text-xs">
        <span class="w-24">Rotation order</span>
        <select
          class="select select-xs grow"
          aria-label="Rotation order"
          value={node.data.rotationOrder ?? 'xyz'}
          onchange={(e) =>
            session.shot.commit(
              newEdit('setRotationOrder', {
                ids: session.selection.nodes.map((n) => n.id),
                order: e.currentTarget.value as RotationOrder,
              }),
            )}
        >
          {#each ['xyz', 'xzy', 'yxz', 'yzx', 'zxy', 'zyx'] as o (o)}<option value={o}>{o.toUpperCase()}</option>{/each}
          <option value="quaternion">Quaternion</option>
        </select>
      </div>
    {/if}
  </div>
</section>
