<script lang="ts">
  // What can be added, in groups.
  import Box from '@lucide/svelte/icons/box';
  import Camera from '@lucide/svelte/icons/camera';
  import Circle from '@lucide/svelte/icons/circle';
  import CircleDot from '@lucide/svelte/icons/circle-dot';
  import Cone from '@lucide/svelte/icons/cone';
  import Cylinder from '@lucide/svelte/icons/cylinder';
  import Disc from '@lucide/svelte/icons/disc';
  import Donut from '@lucide/svelte/icons/donut';
  import FileUp from '@lucide/svelte/icons/file-up';
  import Folder from '@lucide/svelte/icons/folder';
  import Globe from '@lucide/svelte/icons/globe';
  import Image from '@lucide/svelte/icons/image';
  import LampCeiling from '@lucide/svelte/icons/lamp-ceiling';
  import Lightbulb from '@lucide/svelte/icons/lightbulb';
  import PanelTop from '@lucide/svelte/icons/panel-top';
  import Pill from '@lucide/svelte/icons/pill';
  import Plus from '@lucide/svelte/icons/plus';
  import Repeat2 from '@lucide/svelte/icons/repeat-2';
  import Shell from '@lucide/svelte/icons/shell';
  import Spline from '@lucide/svelte/icons/spline';
  import Square from '@lucide/svelte/icons/square';
  import Sun from '@lucide/svelte/icons/sun';
  import Type from '@lucide/svelte/icons/type';
  import { DropdownMenu } from 'bits-ui';
  import { menuBox, menuLine } from '../widgets/menuLook';
  import type { Component } from 'svelte';
  import { run, tip } from '../commands';
  import { labelOf, newNode, type NewKind } from './creation';

  const icons: Record<NewKind, Component<{ size?: number }>> = {
    box: Box,
    sphere: Circle,
    geodesic: Globe,
    cylinder: Cylinder,
    cone: Cone,
    capsule: Pill,
    torus: Donut,
    plane: Square,
    disc: Disc,
    helix: Shell,
    tube: Spline,
    text: Type,
    group: Folder,
    control: CircleDot,
    repeat: Repeat2,
    camera: Camera,
    sun: Sun,
    lamp: Lightbulb,
    spot: LampCeiling,
    panel: PanelTop,
  };
  const groups: { label: string; kinds: NewKind[] }[] = [
    {
      label: 'Shapes',
      kinds: [
        'box',
        'sphere',
        'geodesic',
        'cylinder',
        'cone',
        'capsule',
        'torus',
        'plane',
        'disc',
        'helix',
        'tube',
        'text',
      ],
    },
    { label: 'Lights', kinds: ['lamp', 'spot', 'panel', 'sun'] },
    { label: 'Camera and helpers', kinds: ['camera', 'group', 'control', 'repeat'] },
  ];
  const files = [
    { id: 'import', label: 'From a file…', icon: FileUp },
    { id: 'reference', label: 'Reference picture or film…', icon: Image },
  ];
  const item = 'flex h-8 items-center gap-2 rounded-field px-2 text-[13px] outline-none data-highlighted:bg-base-300';
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="btn btn-ghost btn-sm" title="Add an object"><Plus size={16} />Add</DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content
      class="{menuBox} w-80 p-2"
      side="bottom"
      align="start"
      sideOffset={4}
      collisionPadding={8}
      preventScroll={false}
    >
      {#each groups as group (group.label)}
        <DropdownMenu.Group>
          <DropdownMenu.GroupHeading class="px-2 pt-1 text-xs font-semibold text-base-content/75"
            >{group.label}</DropdownMenu.GroupHeading
          >
          <div class="grid grid-cols-3">
            {#each group.kinds as kind (kind)}
              {@const Icon = icons[kind]}
              <DropdownMenu.Item class={item} onSelect={() => void newNode(kind)}
                ><Icon size={16} />{labelOf(kind)}</DropdownMenu.Item
              >
            {/each}
          </div>
        </DropdownMenu.Group>
        <DropdownMenu.Separator class={menuLine} />
      {/each}
      {#each files as { id, label, icon: Icon } (id)}
        <DropdownMenu.Item class={item} title={tip(id)} onSelect={() => run(id)}
          ><Icon size={16} />{label}</DropdownMenu.Item
        >
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
