// What a hand on the tracks means: which way of dragging a press begins, what a double click and the keys do.
import { newEdit } from '../edits/edit';
import { gestures, type Hand } from '../widgets/gestures.svelte';
import { keyId, session } from '../stores/session.svelte';
import * as drags from './drags';
import { curvesOfTag, endsMenu } from './graph/ends.svelte';
import { hitTest, type Hit } from './hit';
import type { TracksPanel } from './panel.svelte';

export function press(panel: TracksPanel, e: PointerEvent) {
  // A press on another tag opens the menu for that.
  endsMenu.shown = null;
  panel.markerOpen = null;
  panel.soundOpen = null;
  panel.canvas!.focus({ preventScroll: true });
  const hand = handFor(panel, e);
  if (hand) gestures.follow(e, atTheEdge(panel, hand));
}

function handFor(panel: TracksPanel, e: PointerEvent): drags.RowsHand | null {
  const { x, y } = panel.point(e);
  if (e.button === 1 || (e.button === 2 && e.altKey)) return drags.pan(panel, x, y);
  if (e.button !== 0) return null;
  const hit = hitTest(panel.model(), x, y);
  const add = e.shiftKey || e.ctrlKey;
  const chosen = session.selection.keys;
  switch (hit.kind) {
    case 'ruler':
      return drags.scrub(panel, x);
    case 'playRange':
      return drags.playbackRange(panel, hit.end);
    case 'grip':
      return drags.scale(panel, hit.end, x, panel.range!.first, panel.range!.last);
    case 'tag':
      endsMenu.shown = { channels: curvesOfTag(hit.address), end: hit.end, x: e.clientX, y: e.clientY };
      return null;
    case 'marker':
      return drags.marker(panel, hit.id, x, () => {
        session.goTo(session.shot.scene.markers.find((m) => m.id === hit.id)?.frame ?? session.frame);
        panel.markerOpen = { id: hit.id, x };
      });
    case 'sound':
      return drags.sound(panel, hit.id, x, () => (panel.soundOpen = { id: hit.id, x }));
    case 'handle':
      return drags.handle(panel, hit, e.altKey);
    case 'keys':
      return keysHand(panel, hit, x, y, add);
    default:
      if (e.altKey) return drags.lasso(panel, x, y, add ? chosen : []);
      return drags.box(panel, x, y, add ? chosen : [], () => {
        if (!add) session.selection.keys = [];
        if (hit.kind === 'row' && hit.row.kind === 'head') panel.selectRow(hit.row);
      });
  }
}

function keysHand(panel: TracksPanel, hit: Extract<Hit, { kind: 'keys' }>, x: number, y: number, add: boolean): Hand {
  const { selection } = session;
  const { selected } = panel;
  if (!hit.keys.every((k) => selected.has(keyId(k)))) {
    selection.keys = add ? [...selection.keys, ...hit.keys.filter((k) => !selected.has(keyId(k)))] : hit.keys;
    return drags.keys(panel, hit, x, y, () => undefined);
  }
  // Whether a click takes it out or leaves it alone is known only when the hand lets go.
  const hits = new Set(hit.keys.map(keyId));
  return drags.keys(panel, hit, x, y, () => {
    selection.keys = add ? selection.keys.filter((k) => !hits.has(keyId(k))) : hit.keys;
  });
}

/** While a hand drags beyond an edge, the tracks scroll under it in time; round rows, over these too. */
function atTheEdge(panel: TracksPanel, hand: drags.RowsHand): Hand {
  let last: PointerEvent | null = null;
  let running = 0;
  const stop = () => cancelAnimationFrame(running);
  const speed = (beyond: number) => Math.sign(beyond) * Math.min(24, 4 + Math.abs(beyond) / 6);
  const past = (at: number, from: number, to: number) => (at < from ? at - from : at > to ? at - to : 0);
  const step = () => {
    running = 0;
    if (!last || gestures.current !== watched) return;
    const { x, y } = panel.point(last);
    const across = past(x, 0, panel.size.width);
    const down = hand.rows ? past(y, panel.body, panel.size.height - panel.overlayHeight) : 0;
    const before = panel.scroll;
    if (down !== 0) panel.scroll += speed(down);
    if (across !== 0) panel.time = panel.time.panned(-speed(across));
    if (across === 0 && panel.scroll === before) return;
    hand.move?.(last);
    running = requestAnimationFrame(step);
  };
  const watched: Hand = {
    ...hand,
    move: (e) => {
      last = e;
      hand.move?.(e);
      running ||= requestAnimationFrame(step);
    },
    commit: (e) => (stop(), hand.commit(e)),
    cancel: () => (stop(), hand.cancel()),
  };
  return watched;
}

/** The cursor says what a press would take. */
const cursors: Partial<Record<Hit['kind'], string>> = {
  keys: 'grab',
  handle: 'grab',
  grip: 'ew-resize',
  playRange: 'ew-resize',
  ruler: 'col-resize',
  marker: 'pointer',
  sound: 'grab',
  tag: 'pointer',
};

export function cursorAt(panel: TracksPanel, e: PointerEvent): string {
  const { x, y } = panel.point(e);
  return cursors[hitTest(panel.model(), x, y).kind] ?? 'default';
}

/** A double click on a curve puts a key onto it, where it runs. */
export function insert(panel: TracksPanel, e: MouseEvent) {
  const { x, y } = panel.point(e);
  const hit = hitTest(panel.model(), x, y);
  const address =
    hit.kind === 'segment'
      ? hit.key.address
      : hit.kind === 'row' && hit.row.kind === 'channel'
        ? hit.row.address
        : null;
  if (address === null) return;
  const keys = [{ address, frame: panel.snapped(panel.time.frame(x)) }];
  if (session.shot.commit(newEdit('insertKeys', { keys }))) session.selection.keys = keys;
}

export function wheel(panel: TracksPanel, e: WheelEvent) {
  e.preventDefault();
  if (e.ctrlKey || e.metaKey) panel.time = panel.time.zoomed(panel.point(e).x, Math.exp(-e.deltaY * 0.002));
  else if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY))
    panel.time = panel.time.panned(-(e.deltaX || e.deltaY));
  else panel.scroll += e.deltaY;
}

/** The keyboard's way through the tracks: up and down from row to row, [ and ] from key to key, Ctrl and arrows move. */
export function keydown(panel: TracksPanel, e: KeyboardEvent) {
  const channels = panel.rows.flatMap((r) => (r.kind === 'channel' ? [r] : []));
  const current = session.selection.keys.at(-1);
  const at = channels.findIndex((r) => r.address === current?.address);
  const pick = (address: string, frame: number) => {
    session.selection.keys = [{ address, frame }];
    session.goTo(frame);
    panel.reveal(address);
  };
  const nearestKey = (address: string) =>
    session.shot.keysOf(address).reduce((a, b) => (Math.abs(b - session.frame) < Math.abs(a - session.frame) ? b : a));
  const nudge = { ArrowLeft: { frames: -1 }, ArrowRight: { frames: 1 } }[e.key];
  if ((e.ctrlKey || e.metaKey) && nudge && session.selection.keys.length > 0) {
    const keys = session.selection.keys;
    if (session.shot.commit(newEdit('transformKeys', { keys, by: nudge })))
      session.selection.keys = keys.map((k) => ({ ...k, frame: k.frame + nudge.frames }));
  } else if (e.ctrlKey || e.metaKey || e.altKey) return;
  else if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && channels.length > 0) {
    const to = at < 0 ? 0 : Math.max(0, Math.min(channels.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1)));
    pick(channels[to].address, nearestKey(channels[to].address));
  } else if ((e.key === '[' || e.key === ']') && current) {
    const frames = session.shot.keysOf(current.address);
    const to = frames[frames.indexOf(current.frame) + (e.key === ']' ? 1 : -1)];
    if (to !== undefined) pick(current.address, to);
  } else if (e.key === 'Enter' && current) panel.toggle(current.address);
  else return;
  e.preventDefault();
  e.stopPropagation();
}

/** An easing that is dropped between two keys. */
export function drop(panel: TracksPanel, e: DragEvent) {
  const text = e.dataTransfer?.getData('application/x-ease');
  if (!text) return;
  e.preventDefault();
  const { x, y } = panel.point(e);
  const hit = hitTest(panel.model(), x, y);
  if (hit.kind === 'segment')
    session.shot.commit(newEdit('setSegments', { keys: [hit.key], segment: JSON.parse(text) }));
  else session.messages.say('Drop it between two keys.');
}
