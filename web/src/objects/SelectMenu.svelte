<script lang="ts">
  // What can be selected at once: all of a kind, of a material, of a set.
  import ListChecks from '@lucide/svelte/icons/list-checks';
  import { DropdownMenu } from 'bits-ui';
  import { commandOf, readable, shortcutOf } from '../commands';
  import { menuBox, menuLine, menuRow } from '../widgets/menuLook';
  import { session } from '../stores/session.svelte';
  import { kindWords, materialsOf, selectKind, selectMaterial } from './selecting';
  import { selectSet } from './sets';

  const first = [
    'selectObjects',
    'select.others',
    'select.children',
    'select.parent',
    'select.sameKind',
    'select.sameMaterial',
  ];
  const last = ['set.keep', 'isolate'];
  const kinds = $derived([...new Set(session.shot.scene.nodes.map((n) => n.kind))]);
  const used = $derived(new Set(session.shot.scene.nodes.flatMap(materialsOf)));
  const materials = $derived(session.shot.scene.materials.filter((m) => used.has(m.id)));
</script>

{#snippet command(id: string)}
  {@const c = commandOf(id)!}
  <DropdownMenu.Item class={menuRow} onSelect={() => c.run()}
    ><span>{c.short ?? c.title}</span><span class="text-xs text-base-content/70">{readable(shortcutOf(c))}</span
    ></DropdownMenu.Item
  >
{/snippet}
{#snippet more(title: string, items: { id: string; name: string; run: () => void }[])}
  {#if items.length > 0}
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger class={menuRow}
        ><span>{title}</span><span aria-hidden="true">›</span></DropdownMenu.SubTrigger
      >
      <DropdownMenu.SubContent class={menuBox}>
        {#each items as item (item.id)}
          <DropdownMenu.Item class={menuRow} onSelect={item.run}>{item.name}</DropdownMenu.Item>
        {/each}
      </DropdownMenu.SubContent>
    </DropdownMenu.Sub>
  {/if}
{/snippet}

<DropdownMenu.Root>
  <DropdownMenu.Trigger
    class="btn btn-square btn-ghost btn-sm"
    title="Select by kind, material or set"
    aria-label="Select"><ListChecks size={15} /></DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content class={menuBox} align="end" preventScroll={false} aria-label="Select">
      {#each first as id (id)}{@render command(id)}{/each}
      <DropdownMenu.Separator class={menuLine} />
      {@render more(
        'Of a kind',
        kinds.map((kind) => ({ id: kind, name: kindWords[kind], run: () => selectKind(kind) })),
      )}
      {@render more(
        'With a material',
        materials.map((m) => ({ ...m, run: () => selectMaterial(m.id) })),
      )}
      {@render more(
        'In a set',
        session.shot.scene.sets.map((set) => ({ ...set, run: () => selectSet(set) })),
      )}
      <DropdownMenu.Separator class={menuLine} />
      {#each last as id (id)}{@render command(id)}{/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
