<script lang="ts" module>
  import Bone from '@lucide/svelte/icons/bone';
  import CircleDot from '@lucide/svelte/icons/circle-dot';
  import Copy from '@lucide/svelte/icons/copy';
  import Repeat2 from '@lucide/svelte/icons/repeat-2';
  import Box from '@lucide/svelte/icons/box';
  import Camera from '@lucide/svelte/icons/camera';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Eye from '@lucide/svelte/icons/eye';
  import EyeOff from '@lucide/svelte/icons/eye-off';
  import Folder from '@lucide/svelte/icons/folder';
  import Lightbulb from '@lucide/svelte/icons/lightbulb';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import Sun from '@lucide/svelte/icons/sun';

  // Made once and shown again in every row: making them anew would be most of the work of scrolling.
  export const glyphs = {
    group: Folder,
    mesh: Box,
    camera: Camera,
    sun: Sun,
    lamp: Lightbulb,
    joint: Bone,
    control: CircleDot,
    instance: Copy,
    repeat: Repeat2,
    open: ChevronDown,
    closed: ChevronRight,
    seen: Eye,
    hidden: EyeOff,
    locked: Lock,
    unlocked: LockOpen,
  };
  export type Glyph = keyof typeof glyphs;
</script>

<svg class="absolute size-0" aria-hidden="true">
  {#each Object.entries(glyphs) as [name, Icon] (name)}<g id="glyph-{name}"><Icon size={14} /></g>{/each}
</svg>
