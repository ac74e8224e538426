// What a hand does in the tracks: each way of dragging is made here, and shows itself by trying an edit.
import { changedSound, newEdit } from '../edits/edit';
import type { Edit } from '../engine/engine';
import { gestures, type Hand } from '../widgets/gestures.svelte';
import { keyId, type KeyRef, type Session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';
import { firstAt, rowAt } from './layout';
import type { Lane, TracksModel } from './model';
import { keysAround, keysIn, laneValue, type Hit } from './hit';
import { nearest, type Snapped } from './snapping';
import type { TimeScale } from '../stores/timeScale';

/** What the drags need of the panel. */
export interface Board {
  readonly session: Session;
  model(): TracksModel;
  point(e: MouseEvent): { x: number; y: number };
  /** The nearest frame to which things snap. */
  snapped(frame: number): number;
  /** Whether keys come to whole frames. */
  readonly snap: boolean;
  /** Whether what is near draws things to itself. */
  readonly near: boolean;
  /** What something has snapped to, for the lines that say so. */
  toward: TracksModel['toward'];
  time: TimeScale;
  scroll: number;
  marquee: TracksModel['box'];
  lasso: TracksModel['lasso'];
}

/** A drag that may have begun among the rows: these scroll when it comes to their upper or lower edge. */
export type RowsHand = Hand & { rows?: boolean };

const rounded = (v: number) => Math.round(v * 1000) / 1000;
const signed = (v: number) => `${v >= 0 ? '+' : ''}${rounded(v)}`;

/** So near, in pixels, things snap to what is there. */
const NEAR = 5;

/** What there is about a frame to snap to: the playhead, markers, the ends of the range that plays, keys of rows in sight that do not move. */
function* marksInTime(board: Board, to: number, reach: number, moved: ReadonlySet<string>): Iterable<Snapped> {
  const m = board.model();
  yield { at: board.session.frame, words: 'playhead' };
  for (const { frame, name } of m.markers) yield { at: frame, words: name || 'marker' };
  yield { at: m.playFirst, words: 'first frame' };
  yield { at: m.playLast, words: 'last frame' };
  for (let i = rowAt(m.rows, m.scroll); i < m.rows.length && m.rows[i].top - m.scroll < m.height; i++) {
    const row = m.rows[i];
    if (row.kind === 'head' || moved.has(row.address)) continue;
    const frames = m.keysOf(row.address);
    for (let k = firstAt(frames, to - reach, (f) => f); k < frames.length && frames[k] <= to + reach; k++)
      yield { at: frames[k], words: row.channel.label };
  }
}

/** What there is of values in a lane: 0, what the moved keys had, those of the other keys of its curve. */
function* marksOfValue(board: Board, lane: Lane, moved: readonly KeyRef[]): Iterable<Snapped> {
  const keys = board.session.shot.curve(lane.address)?.keys ?? [];
  const frames = new Set(moved.filter((k) => k.address === lane.address).map((k) => k.frame));
  for (const key of keys)
    yield { at: key.value, words: frames.has(key.frame) ? 'as before' : `frame ${rounded(key.frame)}` };
  yield { at: 0, words: 'zero' };
}

/** Takes back what was tried. */
const undone = (board: Board, keys: KeyRef[]) => () => {
  board.session.selection.keys = keys;
  board.session.shot.try(null);
};

/** Makes what was tried, and keeps selected what is there afterwards. */
function made(board: Board, edit: Edit | null, keep = true) {
  const { session } = board;
  if (!edit) return;
  const chosen = session.selection.keys;
  session.shot.commit(edit);
  if (keep) session.selection.keys = session.shot.present(chosen);
}

/** Goes along with the playhead, at once; taken back it is where it was. */
export function scrub(board: Board, x: number): Hand {
  const { session } = board;
  const before = session.frame;
  session.player.stop();
  session.goTo(board.time.frame(x));
  return {
    move: (e) => session.goTo(board.time.frame(board.point(e).x)),
    commit: () => undefined,
    cancel: () => session.goTo(before),
  };
}

export function pan(board: Board, x: number, y: number): Hand {
  const { time, scroll } = board;
  return {
    move: (e) => {
      const at = board.point(e);
      board.time = time.panned(at.x - x);
      board.scroll = scroll - (at.y - y);
    },
    commit: () => undefined,
    cancel: () => {
      board.time = time;
      board.scroll = scroll;
    },
  };
}

/** A place that stays where it is when the tracks scroll below it. */
function pinned(board: Board, at: { x: number; y: number }): () => { x: number; y: number } {
  const [frame, inner] = [board.time.frame(at.x), at.y + board.scroll];
  return () => ({ x: board.time.x(frame), y: inner - board.scroll });
}

/** A box round keys. A click that draws none is handed on. */
export function box(board: Board, x: number, y: number, add: KeyRef[], click: () => void): RowsHand {
  const before = board.session.selection.keys;
  const corner = pinned(board, { x, y });
  return {
    rows: y < board.model().height - (board.model().overlay?.height ?? 0),
    move: (e) => {
      const at = board.point(e);
      const from = corner();
      board.marquee = { x0: from.x, y0: from.y, x1: at.x, y1: at.y };
      const known = new Set(add.map(keyId));
      board.session.selection.keys = [
        ...add,
        ...keysIn(board.model(), board.marquee).filter((k) => !known.has(keyId(k))),
      ];
    },
    commit: (e) => {
      const at = e ? board.point(e) : { x, y };
      board.marquee = null;
      if (Math.hypot(at.x - x, at.y - y) < 3) click();
    },
    cancel: () => {
      board.marquee = null;
      board.session.selection.keys = before;
    },
  };
}

/** A line drawn by hand round keys. */
export function lasso(board: Board, x: number, y: number, add: KeyRef[]): RowsHand {
  const before = board.session.selection.keys;
  const known = new Set(add.map(keyId));
  const line = [pinned(board, { x, y })];
  return {
    rows: y < board.model().height - (board.model().overlay?.height ?? 0),
    move: (e) => {
      line.push(pinned(board, board.point(e)));
      board.lasso = line.map((at) => at());
      board.session.selection.keys = [
        ...add,
        ...keysAround(board.model(), board.lasso).filter((k) => !known.has(keyId(k))),
      ];
    },
    commit: () => (board.lasso = null),
    cancel: () => {
      board.lasso = null;
      board.session.selection.keys = before;
    },
  };
}

/** Where something alone comes to, by steps and by what is near; it is not drawn back to where it `was`. */
function drawnTo(board: Board, to: number, e: PointerEvent, was: number): number {
  const m = board.model();
  const reach = NEAR / m.time.pixelsPerFrame;
  const marks = [...marksInTime(board, to, reach, new Set())].filter((mark) => mark.at !== was);
  const near = board.near && !e.ctrlKey && !e.metaKey ? nearest(to, marks, reach) : null;
  board.toward = { frame: near, value: null };
  return near?.at ?? board.snapped(to);
}

/** Moves something that stands alone in time, from its frame; a press that goes nowhere is a click. */
function alone(
  board: Board,
  x: number,
  start: number,
  edited: (frame: number) => Edit,
  words: string,
  clicked: () => void,
): Hand {
  const { shot } = board.session;
  const from = board.time.frame(x);
  let edit: Edit | null = null;
  const to = (frame: number) => {
    edit = edited(frame);
    gestures.readout = `${words} ${frame}`;
    shot.try(edit);
  };
  return {
    move: (e) => {
      const at = board.point(e).x;
      if (!edit && Math.abs(at - x) < 3) return;
      to(drawnTo(board, start + board.time.frame(at) - from, e, start));
    },
    type: (v) => v !== null && to(v),
    commit: () => {
      board.toward = null;
      if (edit) made(board, edit);
      else clicked();
    },
    cancel: () => {
      board.toward = null;
      shot.try(null);
    },
  };
}

/** Moves a marker along the ruler. */
export function marker(board: Board, id: string, x: number, clicked: () => void): Hand {
  const start = board.session.shot.scene.markers.find((m) => m.id === id)!;
  const edited = (frame: number) => newEdit('putMarker', { marker: { ...start, frame } });
  return alone(board, x, start.frame, edited, 'Marker on frame', clicked);
}

/** Moves a sound in time. */
export function sound(board: Board, id: string, x: number, clicked: () => void): Hand {
  const start = board.session.shot.scene.sounds.find((s) => s.id === id)!;
  const edited = (frame: number) => changedSound(start, { start: frame });
  return alone(board, x, start.start, edited, `${start.name} from frame`, clicked);
}

export function playbackRange(board: Board, end: 'first' | 'last'): Hand {
  let edit: Edit | null = null;
  const to = (frame: number) => {
    const { playFirst, playLast } = board.session.shot.scene;
    const playRange =
      end === 'first'
        ? { first: Math.min(frame, playLast), last: playLast }
        : { first: playFirst, last: Math.max(frame, playFirst) };
    edit = newEdit('setShot', { playRange });
    gestures.readout = `Playback ${playRange.first}–${playRange.last}`;
    board.session.shot.try(edit);
  };
  return {
    move: (e) => to(Math.round(board.time.frame(board.point(e).x))),
    type: (v) => v !== null && to(Math.round(v)),
    commit: () => made(board, edit),
    cancel: () => board.session.shot.try(null),
  };
}

/** Moves the selected keys in time, and in a lane in value. A click without a move selects what was hit alone. */
export function keys(
  board: Board,
  hit: Extract<Hit, { kind: 'keys' }>,
  x: number,
  y: number,
  clicked: () => void,
): Hand {
  const { session } = board;
  const chosen = session.selection.keys;
  const m = board.model();
  const grip = hit.lane ? laneValue(m, hit.lane, y) : 0;
  const lane = hit.lane?.address;
  const own = chosen.filter((k) => k.address === lane);
  const others = chosen.filter((k) => k.address !== lane);
  // What is dragged is the key below the hand: where that comes to, it snaps.
  const held = hit.keys[0];
  const start = session.shot.curve(held.address)?.keys.find((k) => k.frame === held.frame)?.value ?? 0;
  const channels = new Set(chosen.map((k) => k.address));
  const valueMarks = hit.lane ? [...marksOfValue(board, hit.lane, chosen)] : [];
  /** How far it goes, after snapping. */
  function drawn(frames: number, value: number, e: PointerEvent) {
    const draws = board.near && !e.ctrlKey && !e.metaKey;
    const m = board.model();
    const [to, reach] = [held.frame + frames, NEAR / m.time.pixelsPerFrame];
    const near = draws ? nearest(to, marksInTime(board, to, reach, channels), reach) : null;
    const perPixel = hit.lane ? Math.abs(laneValue(m, hit.lane, 1) - laneValue(m, hit.lane, 0)) : 0;
    const level = draws && hit.lane && value !== 0 ? nearest(start + value, valueMarks, NEAR * perPixel) : null;
    board.toward = { frame: near, value: level && { ...level, lane: hit.lane! } };
    return {
      frames: (near?.at ?? board.snapped(to)) - held.frame,
      value: level ? level.at - start : value,
    };
  }
  let edit: Edit | null = null;
  let moved = false;
  const by = (frames: number, value: number) => {
    if (chosen.length === 0) return;
    const moves = [
      ...(own.length > 0 ? [newEdit('transformKeys', { keys: own, by: { frames, value } })] : []),
      ...(others.length > 0 ? [newEdit('transformKeys', { keys: others, by: { frames } })] : []),
    ];
    edit = moves.length === 1 ? moves[0] : newEdit('batch', { label: `Move ${chosen.length} keys`, edits: moves });
    gestures.readout = `${signed(frames)} frames${hit.lane ? `, value ${signed(value)}` : ''}`;
    if (session.shot.try(edit).refusal) edit = null;
    else session.selection.keys = chosen.map((k) => ({ ...k, frame: k.frame + frames }));
  };
  return {
    move: (e) => {
      const at = board.point(e);
      if (!moved && Math.hypot(at.x - x, at.y - y) < 3) return;
      moved = true;
      // Counted from where the hand began in time, which stays when the tracks scroll under it.
      const frames = board.time.frame(at.x) - m.time.frame(x);
      let value = hit.lane ? laneValue(board.model(), hit.lane, at.y) - grip : 0;
      // Shift keeps to the direction that was taken.
      let [stays, level] = [ui.lockFrame, ui.lockValue];
      if (e.shiftKey) {
        if (Math.abs(at.x - x) > Math.abs(at.y - y)) level = true;
        else stays = true;
      }
      if (level) value = 0;
      const to = drawn(frames, value, e);
      if (stays) board.toward = { ...board.toward!, frame: null };
      by(stays ? 0 : to.frames, to.value);
    },
    // A typed number is frames along a row, and a value in a lane.
    type: (v) => {
      moved = true;
      board.toward = null;
      by(hit.lane ? 0 : Math.round(v ?? 0), hit.lane ? (v ?? 0) : 0);
    },
    commit: () => {
      board.toward = null;
      if (moved) made(board, edit);
      else clicked();
    },
    cancel: () => {
      board.toward = null;
      undone(board, chosen)();
    },
  };
}

/** Drags a handle; those on the same side of the other selected keys of its curve go along by as much. */
export function handle(board: Board, hit: Extract<Hit, { kind: 'handle' }>, split: boolean): Hand {
  const { session } = board;
  const { key, side, lane } = hit;
  const { keys: all } = session.shot.curve(key.address)!;
  const at = all.find((k) => k.frame === key.frame)!;
  const chosen = new Set(session.selection.keys.filter((k) => k.address === key.address).map((k) => k.frame));
  const others = all.filter(
    (k, i) =>
      k !== at &&
      chosen.has(k.frame) &&
      (side === 'in' ? i > 0 && all[i - 1].segment === 'bezier' : i < all.length - 1 && k.segment === 'bezier'),
  );
  const within = (frames: number) => (side === 'in' ? Math.min(0, frames) : Math.max(0, frames));
  let edit: Edit | null = null;
  return {
    move: (e) => {
      const { x, y } = board.point(e);
      const m = board.model();
      let frames = ui.lockFrame ? at[side][0] : within(board.time.frame(x) - key.frame);
      let value = ui.lockValue ? at[side][1] : laneValue(m, lane, y) - at.value;
      if (ui.lockLength) {
        // As long on the screen as it was.
        const [perX, perY] = [board.time.frame(1) - board.time.frame(0), laneValue(m, lane, 0) - laneValue(m, lane, 1)];
        const was = Math.hypot(at[side][0] / perX, at[side][1] / perY);
        const now = Math.hypot(frames / perX, value / perY);
        if (was > 0 && now > 0) [frames, value] = [(frames * was) / now, (value * was) / now];
      }
      const joined = split || e.altKey ? { joined: false } : {};
      const bent = (frame: number, to: [number, number]) =>
        newEdit('setHandle', {
          key: { address: key.address, frame },
          side,
          handle: { kind: 'free', frames: within(to[0]), value: to[1] },
          ...joined,
        });
      const by = [frames - at[side][0], value - at[side][1]];
      const edits = [
        bent(key.frame, [frames, value]),
        ...others.map((k) => bent(k.frame, [k[side][0] + by[0], k[side][1] + by[1]])),
      ];
      edit = edits.length === 1 ? edits[0] : newEdit('batch', { label: `Bend ${edits.length} keys`, edits });
      gestures.readout = `Handle ${signed(frames)} frames, value ${signed(value)}`;
      session.shot.try(edit);
    },
    commit: () => made(board, edit, false),
    cancel: () => session.shot.try(null),
  };
}

/** Scales or moves the selected keys by the grips above them: about the other end, or with Alt about the playhead. */
export function scale(board: Board, end: 'first' | 'last' | 'middle', x: number, first: number, last: number): Hand {
  const { session, snap } = board;
  const chosen = session.selection.keys;
  const start = board.time.frame(x);
  let edit: Edit | null = null;
  const to = (moved: number, aboutPlayhead = false) => {
    const [edge, far] = end === 'last' ? [last, first] : [first, last];
    const framePivot = aboutPlayhead ? session.frame : far;
    if (end !== 'middle' && edge === framePivot) return;
    const by =
      end === 'middle'
        ? { frames: board.snapped(first + moved) - first }
        : {
            framePivot,
            frameScale: Math.max(0.02, (board.snapped(edge + moved) - framePivot) / (edge - framePivot)),
            snap,
          };
    const tried = newEdit('transformKeys', { keys: chosen, by });
    gestures.readout =
      'frames' in by
        ? `${signed(by.frames!)} frames`
        : `${rounded(100 * by.frameScale!)} %${aboutPlayhead ? ' about the playhead' : ''}`;
    if (session.shot.try(tried).refusal) return;
    edit = tried;
    const { framePivot: pivot, frameScale, frames } = { framePivot: 0, frameScale: 1, frames: 0, ...by };
    // The same sum as the engine's (KeyTransform.Frame), to know the keys again.
    session.selection.keys = chosen.map((k) => {
      const frame = pivot + (k.frame - pivot) * frameScale + frames;
      return { ...k, frame: 'snap' in by && by.snap ? Math.floor(frame + 0.5) : frame };
    });
  };
  return {
    move: (e) => to(board.time.frame(board.point(e).x) - start, e.altKey),
    type: (v) => v !== null && to(v),
    commit: () => made(board, edit),
    cancel: undone(board, chosen),
  };
}
