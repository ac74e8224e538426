// The menu of the right button in the tracks: for the keys that are selected, or for the channel below the pointer.
import { contextMenu } from '../widgets/contextMenu.svelte';
import { channelMenu } from '../properties/channelMenu';
import { keyId, session } from '../stores/session.svelte';
import { curvesOfTag, endsMenu, openEnds } from './graph/ends.svelte';
import { hitTest } from './hit';
import type { TracksPanel } from './panel.svelte';

export function openMenu(panel: TracksPanel, e: MouseEvent) {
  // With Alt the right button moves the tracks.
  if (e.altKey) return e.preventDefault();
  const { x, y } = panel.point(e);
  const hit = hitTest(panel.model(), x, y);
  if (hit.kind === 'keys' && !hit.keys.every((k) => panel.selected.has(keyId(k)))) session.selection.keys = hit.keys;
  const channel =
    hit.kind === 'row' && hit.row.kind === 'channel'
      ? hit.row.channel
      : hit.kind === 'segment'
        ? (session.shot.channelAt(hit.key.address) ?? null)
        : null;
  const at = { x: e.clientX, y: e.clientY };
  if (hit.kind !== 'keys' && channel) {
    const cycles = () => (endsMenu.shown = { channels: curvesOfTag(channel.address), end: 'after', ...at });
    contextMenu.open(e, [...channelMenu([channel]), null, { title: 'Cycles …', run: cycles }]);
    return;
  }
  contextMenu.open(e, [
    { command: 'copyKeys' },
    { command: 'paste' },
    { command: 'removeKeys' },
    null,
    { command: 'segment.bezier' },
    { command: 'segment.linear' },
    { command: 'segment.hold' },
    null,
    { command: 'handle.auto' },
    { command: 'handle.smooth' },
    { command: 'handle.flat' },
    { command: 'reverse' },
    { command: 'stagger' },
    { title: 'Cycles …', run: () => openEnds('after', at) },
    null,
    { command: 'fit' },
  ]);
}
