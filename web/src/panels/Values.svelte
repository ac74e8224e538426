<script lang="ts">
  import CopyPlus from '@lucide/svelte/icons/copy-plus';
  import Pencil from '@lucide/svelte/icons/pencil';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import type { ChannelView, Edit, Family } from '../engine/engine';
  import { freeName } from '../state/creation';
  import { session } from '../state/session.svelte';
  import ChannelRow from './ChannelRow.svelte';
  import ColourRow from './ColourRow.svelte';
  import NodeSource from './NodeSource.svelte';
  import ShapeSource from './ShapeSource.svelte';

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
  const own = $derived(session.shot.channelsOf(node?.id ?? 'world'));
  const look = $derived(
    (node?.data.material as string | undefined) ? session.shot.channelsOf(node!.data.material as string) : [],
  );
  const material = $derived(session.shot.scene.materials.find((m) => m.id === node?.data.material));
  const shape = $derived(node?.data.shape as Record<string, number | string> | undefined);
  const deformers = $derived((node?.data.deformers ?? []) as { kind: string; id: string }[]);

  /** Whether a channel does anything as the object is now: a camera has one lens of three. */
  const unused = $derived.by(() => {
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
  const isOfUse = (path: string) => !path.startsWith('shape.') && !unused.has(path);

  const others = (c: ChannelView) =>
    session.selection.nodes
      .filter((n) => n.id !== node?.id)
      .flatMap((n) => session.shot.channelsOf(n.id).filter((o) => o.path === c.path));

  /** Channels in order, three of a colour together. */
  function grouped(channels: ChannelView[]): ({ one: ChannelView } | { colour: ChannelView[]; label: string })[] {
    const out: ({ one: ChannelView } | { colour: ChannelView[]; label: string })[] = [];
    for (let i = 0; i < channels.length; i++) {
      if (channels[i].path.endsWith('.r') && channels[i + 2]?.path.endsWith('.b'))
        out.push({ colour: channels.slice(i, i + 3), label: channels[i].label.replace(/ R$/, '') });
      out.push({ one: channels[i] });
    }
    return out;
  }

  const replacing = (change: Record<string, unknown>, n = node!) =>
    ({ kind: 'replaceNode', node: { ...n.data, ...change } }) as unknown as Edit;
  const replace = (change: Record<string, unknown>) => session.shot.commit(replacing(change));

  const meshes = $derived(session.selection.nodes.filter((n) => n.kind === 'mesh'));
  /** Of the selected meshes, all together; and whether they could be mixed. */
  const counts = $derived.by(() => {
    void session.shot.changed;
    const { engine } = session.shot;
    if (!engine || meshes.length === 0 || meshes.length > 1000) return '';
    const each = engine.counts(meshes.map((n) => n.id));
    const [vertices, triangles] = [
      each.reduce((sum, c) => sum + c.vertices, 0),
      each.reduce((sum, c) => sum + c.triangles, 0),
    ];
    const all = `${vertices.toLocaleString()} vertices, ${triangles.toLocaleString()} triangles`;
    if (meshes.length === 1) return all;
    const differ = each.some((c) => c.vertices !== each[0].vertices || c.triangles !== each[0].triangles);
    return `${all} in ${meshes.length} meshes. ${differ ? 'Their numbers differ: they cannot be mixed.' : 'Each has as many.'}`;
  });
  const sharers = $derived(
    material ? session.shot.scene.nodes.filter((n) => n.data.material === material.id).length : 0,
  );
  let renaming = $state(false);

  /** Gives all selected meshes a surface; an empty id takes it from them. */
  const paint = (id: string) =>
    meshes.map((n) => replacing({ material: id || undefined, partMaterials: undefined }, n) as Record<string, unknown>);

  function chooseMaterial(id: string) {
    const name = session.shot.scene.materials.find((m) => m.id === id)?.name ?? 'none';
    session.shot.commit({ kind: 'batch', label: `Material: ${name}`, edits: paint(id) } as unknown as Edit);
  }

  function newMaterial(like?: string) {
    const names = session.shot.scene.materials.map((m) => m.name);
    const name = freeName((like && material?.name) || node!.name, names);
    const id = `look-${crypto.randomUUID().slice(0, 8)}`;
    session.shot.commit({
      kind: 'batch',
      label: `New material: ${name}`,
      edits: [{ kind: 'addMaterial', material: { id, name }, like }, ...paint(id)],
    } as unknown as Edit);
  }

  function rename(name: string) {
    renaming = false;
    if (material && name.trim() && name !== material.name)
      session.shot.commit({ kind: 'rename', id: material.id, name });
  }

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
    <span class="text-xs text-base-content/75">frame {session.frame}</span>
  </header>
  <div class="grow overflow-y-auto pb-4">
    {#if node}<NodeSource {node} />{/if}
    {#each families as { family, label } (family)}
      {@const channels = own.filter((c) => c.family === family && isOfUse(c.path))}
      {#if channels.length > 0}
        <h3 class="flex items-center gap-2 px-3 pt-3 pb-1 text-xs font-semibold">
          <span class="h-2 w-2 rounded-full" style="background:var(--family-{family})"></span>{label}
        </h3>
        {#each grouped(channels) as item ('one' in item ? item.one.path : `colour-${item.label}`)}
          {#if 'one' in item}<ChannelRow channel={item.one} others={others(item.one)} />{:else}<ColourRow
              channels={item.colour}
              label={item.label}
            />{/if}
        {/each}
      {/if}
    {/each}
    {#if shape && node}
      <h3 class="px-3 pt-3 pb-1 text-xs font-semibold">{shape.kind === 'asset' ? 'Mesh' : 'Dimensions'}</h3>
      {#if counts}
        <p class="px-3 pb-1 text-xs text-base-content/75" data-testid="counts">{counts}</p>
      {/if}
      <ShapeSource {node} />
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
    {#if node?.kind === 'mesh'}
      <h3 class="flex items-center gap-2 px-3 pt-3 pb-1 text-xs font-semibold">
        <span class="h-2 w-2 rounded-full" style="background:var(--family-look)"></span>Material
      </h3>
      <div class="flex items-center gap-1 px-3 pb-1">
        {#if renaming && material}
          <!-- svelte-ignore a11y_autofocus -->
          <input
            class="input input-xs grow"
            aria-label="Name of the material"
            value={material.name}
            autofocus
            onblur={(e) => rename(e.currentTarget.value)}
            onkeydown={(e) => {
              if (e.key === 'Enter') rename(e.currentTarget.value);
              if (e.key === 'Escape') renaming = false;
              e.stopPropagation();
            }}
          />
        {:else}
          <select
            class="select min-w-0 grow select-xs"
            aria-label="Material"
            value={material?.id ?? ''}
            onchange={(e) => chooseMaterial(e.currentTarget.value)}
          >
            <option value="">none: plain grey</option>
            {#each session.shot.scene.materials as m (m.id)}<option value={m.id}>{m.name}</option>{/each}
          </select>
        {/if}
        <button
          class="btn btn-square btn-ghost btn-xs"
          aria-label="New material"
          title="A new material for what is selected"
          onclick={() => newMaterial()}><Plus size={14} /></button
        >
        {#if material}
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Copy the material"
            title="A copy of this material, with its keys, for what is selected"
            onclick={() => newMaterial(material.id)}><CopyPlus size={14} /></button
          >
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Rename the material"
            title="Rename this material"
            onclick={() => (renaming = true)}><Pencil size={14} /></button
          >
        {/if}
      </div>
      {#if sharers > 1}<p class="px-3 pb-1 text-xs text-base-content/75">
          On {sharers} objects: a change shows on all of them.
        </p>{/if}
      {#each grouped(look) as item ('one' in item ? item.one.path : `colour-${item.label}`)}
        {#if 'one' in item}<ChannelRow channel={item.one} />{:else}<ColourRow
            channels={item.colour}
            label={item.label}
          />{/if}
      {/each}
    {/if}
    {#if node?.kind === 'camera'}
      <div class="flex flex-col gap-1 px-3 pt-3">
        <button
          class="btn btn-sm"
          disabled={session.shot.scene.camera === node.id}
          onclick={() => session.shot.commit({ kind: 'setShot', camera: node.id })}
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
            session.shot.commit({
              kind: 'setRotationOrder',
              ids: session.selection.nodes.map((n) => n.id),
              order: e.currentTarget.value,
            } as Edit)}
        >
          {#each ['xyz', 'xzy', 'yxz', 'yzx', 'zxy', 'zyx'] as o (o)}<option value={o}>{o.toUpperCase()}</option>{/each}
          <option value="quaternion">Quaternion</option>
        </select>
      </div>
    {/if}
  </div>
</section>
