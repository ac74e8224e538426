// Tools that change whole curves: what each asks for, and the edit that it makes. Shown while one tries them.
import { newEdit } from '../edits/edit';
import { ownerOf, type Outcome, type Edit } from '../engine/engine';
import { isMirrored, meantParts, motionInHand, reportMotion } from './motion';
import { needKey } from '../commands/command';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';

export interface Field {
  id: string;
  label: string;
  value: number;
  step: number;
  min?: number;
  hint?: string;
  /** Words to choose from; the value is the place of the chosen one. */
  options?: string[];
}

export interface CurveTool {
  id: string;
  title: string;
  /** What it was called before. */
  once?: string;
  /** What it is good for. */
  hint: string;
  fields(): Field[];
  /** Of channels or of keys. */
  edit?(values: Record<string, number>): Edit;
  /** Where the engine makes the edit itself: tries it, or makes it. */
  make?(values: Record<string, number>, commit: boolean): Outcome;
  /** Its time is drawn as well. */
  isDrawn?: boolean;
  /** Says something of what it has done. */
  done?(edit: Edit): void;
}

/** The channels that are meant: those of the selected keys, else the chosen ones that have keys, else all that have keys of the selected objects. */
export function meantChannels(): string[] {
  const { keys, channels, ids } = session.selection;
  if (keys.length > 0) return [...new Set(keys.map((k) => k.address))];
  if (channels.length > 0) return channels.filter((a) => session.shot.keysOf(a).length > 0);
  const family = ids.length > 0 ? [...session.shot.family(ids)] : [...session.shot.keyedOwners.keys()];
  return family.flatMap((id) => session.shot.keyedOwners.get(id) ?? []);
}

/** The span of the selected keys where there are several frames of them, else the playback range. */
export function meantRange(): { first: number; last: number } {
  const frames = session.selection.keys.map((k) => k.frame);
  const first = frames.reduce((a, b) => Math.min(a, b), Infinity);
  const last = frames.reduce((a, b) => Math.max(a, b), -Infinity);
  const { scene } = session.shot;
  return last > first ? { first, last } : { first: scene.playFirst, last: scene.playLast };
}

/** A hundredth of how far the channels go, so that a first try does about the right thing. */
function aPart(of: number): number {
  const spans = meantChannels().map((a) => {
    const keys = session.shot.curve(a)?.keys ?? [];
    let [low, high] = [Infinity, -Infinity];
    for (const k of keys) [low, high] = [Math.min(low, k.value), Math.max(high, k.value)];
    return high - low;
  });
  const span = Math.max(0, ...spans.filter(Number.isFinite)) || 1;
  return Number((span * of).toPrecision(1));
}

const range = (): Field[] => {
  const { first, last } = meantRange();
  return [
    { id: 'first', label: 'From frame', value: first, step: 1 },
    { id: 'last', label: 'To frame', value: last, step: 1 },
  ];
};

export const curveTools: CurveTool[] = [
  {
    id: 'simplify',
    title: 'Simplify',
    hint: 'Fewest keys that keep the curve within a tolerance.',
    fields: () => [
      { id: 'tolerance', label: 'Tolerance', value: aPart(0.01), step: aPart(0.001), min: 0 },
      ...(session.selection.keys.length > 1 ? range() : []),
    ],
    edit: (v) =>
      newEdit('simplifyKeys', {
        channels: meantChannels(),
        tolerance: v.tolerance,
        ...('first' in v ? { first: v.first, last: v.last } : {}),
      }),
  },
  {
    id: 'bake',
    title: 'Bake',
    hint: 'A key on every nth frame, cycles and all.',
    fields: () => [...range(), { id: 'step', label: 'Every (frames)', value: 1, step: 1, min: 0.01 }],
    edit: (v) => newEdit('bakeKeys', { channels: meantChannels(), first: v.first, last: v.last, step: v.step }),
  },
  {
    id: 'noise',
    title: 'Noise',
    hint: 'An irregular shaking that fades in and out; the same seed shakes alike.',
    fields: () => [
      ...range(),
      { id: 'strength', label: 'Strength', value: aPart(0.05), step: aPart(0.005) },
      { id: 'rate', label: 'Frequency (Hz)', value: 2, step: 0.05 },
      { id: 'seed', label: 'Seed', value: 1, step: 1 },
    ],
    edit: (v) =>
      newEdit('addNoise', {
        channels: meantChannels(),
        first: v.first,
        last: v.last,
        strength: v.strength,
        rate: v.rate,
        seed: Math.round(v.seed),
      }),
  },
  {
    id: 'smooth',
    title: 'Smooth',
    hint: 'Selected keys are drawn towards the line between their neighbours.',
    fields: () => [{ id: 'strength', label: 'Strength (0–1)', value: 1, step: 0.01, min: 0 }],
    edit: (v) => newEdit('smoothKeys', { keys: session.selection.keys, strength: v.strength }),
  },
  {
    id: 'retime',
    title: 'Retime',
    hint: 'A range gets another length and its own timing, drawn below: steep is fast. What comes after follows.',
    isDrawn: true,
    fields: () => {
      const { first, last } = meantRange();
      return [
        ...range(),
        { id: 'length', label: 'New length', value: last - first, step: 1, min: 0.01 },
        { id: 'slowIn', label: 'Slow start (0–1)', value: 0, step: 0.01 },
        { id: 'slowOut', label: 'Slow end (0–1)', value: 0, step: 0.01 },
      ];
    },
    edit: (v) => {
      // The time of the range: through the points that are drawn, and how fast it leaves and arrives, as parts of its speed there.
      const points = [[0, 0], ...ui.retimePoints, [1, 1]];
      const slope = (slow: number) => 1 - Math.min(0.98, Math.max(-1.5, slow));
      const free = (a: number[], b: number[], side: number, slow: number) =>
        ({
          kind: 'free',
          frames: (side * (b[0] - a[0]) * v.length) / 3,
          value: (side * (b[1] - a[1]) * (v.last - v.first) * slope(slow)) / 3,
        }) as const;
      return newEdit('retime', {
        channels: meantChannels(),
        map: {
          keys: points.map(([t, s], i) => ({
            frame: v.first + t * v.length,
            value: v.first + s * (v.last - v.first),
            ...(i === 0 ? { out: free(points[0], points[1], 1, v.slowIn) } : {}),
            ...(i === points.length - 1 ? { in: free(points[i - 1], points[i], -1, v.slowOut) } : {}),
          })),
        },
      });
    },
  },
  {
    id: 'staggerTool',
    title: 'Stagger',
    hint: 'Each object starts so many frames after the one before.',
    fields: () => [
      { id: 'frames', label: 'Frames an object', value: 3, step: 1 },
      {
        id: 'order',
        label: 'In the order of',
        value: 0,
        step: 1,
        options: ['selection', 'name', 'place, left to right', 'place, front to back'],
      },
    ],
    edit: (v) => newEdit('staggerKeys', { keys: inOrder(staggered(), v.order), frames: v.frames }),
  },
  {
    id: 'repeatKeys',
    title: 'Repeat',
    hint: 'The selected keys once more, again and again, one after the other.',
    fields: () => [
      { id: 'times', label: 'Times', value: 2, step: 0.05, min: 1 },
      {
        id: 'apart',
        label: 'Frames from one to the next',
        value: Math.max(1, meantRange().last - meantRange().first),
        step: 1,
      },
    ],
    edit: (v) => {
      const copied = session.shot.engine!.copyKeys(session.selection.keys)!;
      const times = Math.max(1, Math.min(1000, Math.round(v.times)));
      const all = Array.from({ length: times }, (_, n) => n + 1);
      return newEdit('putKeys', {
        channels: copied.channels.map((c) => ({
          ...c,
          keys: all.flatMap((n) => c.keys.map((k) => ({ ...k, frame: k.frame + n * v.apart }))),
        })),
      });
    },
  },
  {
    id: 'scaleValues',
    title: 'Scale values',
    hint: 'Selected keys grow or shrink about a value; −1 mirrors them.',
    fields: () => [
      { id: 'by', label: 'Factor', value: 1, step: 0.01 },
      { id: 'pivot', label: 'Pivot', value: pivotOf(), step: aPart(0.01) },
      { id: 'shift', label: 'Offset', value: 0, step: aPart(0.01) },
    ],
    edit: (v) =>
      newEdit('transformKeys', {
        keys: session.selection.keys,
        by: { valueScale: v.by, valuePivot: v.pivot, value: v.shift },
      }),
  },
  {
    id: 'keyRange',
    title: 'Offset range',
    once: 'Move a range along',
    hint: 'What the selected objects have on this frame goes over the whole range: its keys move by as much.',
    fields: () => range(),
    edit: (v) =>
      newEdit('keyRange', {
        first: v.first,
        last: v.last,
        at: session.frame,
        values: session.selection.ids
          .flatMap((id) => session.shot.channelsOf(id))
          .filter((c) => session.shot.waiting.has(c.address))
          .map((c) => ({ address: c.address, value: session.shot.engine!.valuesNow([c.address])[0] })),
      }),
  },
  {
    id: 'between',
    title: 'In-between',
    hint: 'A pose at the playhead between the keys before and after it; below 0 and above 100 it goes past them.',
    fields: () => [{ id: 'share', label: 'Towards the next (%)', value: 50, step: 1 }],
    make: (v, commit) => session.shot.between(meantChannels(), v.share / 100, commit),
  },
  {
    id: 'keyAcross',
    title: 'Hold value over range',
    once: 'Key across a range',
    hint: 'The values of this frame stay over the whole range; the keys in it give way.',
    fields: () => range(),
    edit: (v) =>
      newEdit('keyRange', {
        first: v.first,
        last: v.last,
        values: session.keyable().map((address) => ({
          address,
          value: session.shot.engine!.valuesNow([address])[0],
        })),
      }),
  },
  {
    id: 'putMotion',
    title: 'Put a motion',
    hint: 'Onto the selected objects: that of one object onto each, that of several by their names. What is keyed there in between gives way.',
    fields: () => [
      { id: 'frame', label: 'From frame', value: session.frame, step: 1 },
      { id: 'time', label: 'Time ×', value: 1, step: 0.01, min: 0.01 },
      { id: 'size', label: 'Positions ×', value: 1, step: 0.01 },
      {
        id: 'mirror',
        label: 'Sides',
        value: isMirrored() ? 1 : 0,
        step: 1,
        options: ['as they are', 'left for right'],
      },
      {
        id: 'place',
        label: 'Place',
        value: 0,
        step: 1,
        options: ['where it was taken', 'each object’s own'],
      },
    ],
    edit: (v) =>
      newEdit('putMotion', {
        parts: meantParts(motionInHand()?.parts ?? []),
        first: motionInHand()?.first ?? 0,
        frame: v.frame,
        time: v.time,
        size: v.size,
        mirror: v.mirror >= 0.5,
        keepPlace: v.place >= 0.5,
        targets: session.selection.ids,
        ...(session.shot.layer ? { layer: session.shot.layer } : {}),
      }),
    done: reportMotion,
  },
  {
    id: 'convertRate',
    title: 'Convert the frame rate',
    hint: 'Everything lasts as long as before: keys move to the new frames.',
    fields: () => [
      { id: 'rate', label: 'Frames a second', value: Math.round(session.shot.scene.rate), step: 1, min: 1 },
      { id: 'snap', label: 'Keys', value: 1, step: 1, options: ['where they come', 'on whole frames'] },
    ],
    edit: (v) =>
      newEdit('convertRate', { rate: { numerator: Math.round(v.rate), denominator: 1 }, snap: v.snap >= 0.5 }),
  },
];

function pivotOf(): number {
  const key = session.selection.keys[0];
  return key ? (session.shot.curve(key.address)?.keys.find((k) => k.frame === key.frame)?.value ?? 0) : 0;
}

/** All keys of the selected objects and of what hangs below each, object by object in the order of selection. */
function staggered() {
  // Keys of one object have nothing to be staggered against.
  const { keys } = session.selection;
  if (new Set(keys.map((k) => ownerOf(k.address))).size > 1) return keys;
  const { ids, channels } = session.selection;
  return ids.flatMap((id) =>
    (session.shot.keyedOwners.get(id) ?? [])
      .filter((address) => channels.length === 0 || channels.includes(address))
      .flatMap((address) => session.shot.keysOf(address).map((frame) => ({ address, frame }))),
  );
}

/** Keys object by object: as they are, by name, or by where the objects stand on this frame. */
function inOrder<T extends { address: string }>(keys: T[], order: number): T[] {
  if (order === 0) return keys;
  const { byId, shown } = session.shot;
  // Numbers in names count as numbers: lamp 2 comes before lamp 10.
  const name = (id: string) => byId.get(id)?.name ?? id;
  const place = (id: string) => {
    const index = byId.get(id)?.index ?? -1;
    return index < 0 ? 0 : (shown?.matrices[16 * index + (order === 2 ? 12 : 14)] ?? 0);
  };
  const owners = [...new Set(keys.map((k) => ownerOf(k.address)))];
  owners.sort((a, b) =>
    order === 1
      ? name(a).localeCompare(name(b), undefined, { numeric: true })
      : order === 2
        ? place(a) - place(b)
        : place(b) - place(a),
  );
  return owners.flatMap((id) => keys.filter((k) => ownerOf(k.address) === id));
}

/** The keys whose segments an easing is for: the selected ones, or of every channel of the selected objects the one that leads over the playhead. */
export function meantSegments(): { address: string; frame: number }[] {
  const { keys, channels, ids } = session.selection;
  if (keys.length > 0) return keys;
  if (ids.length === 0 && channels.length === 0) return [];
  return meantChannels().flatMap((address) => {
    const frames = session.shot.keysOf(address);
    const i = frames.findLastIndex((f) => f <= session.frame);
    return i >= 0 && i < frames.length - 1 ? [{ address, frame: frames[i] }] : [];
  });
}

/** Opens the numbers of a tool, or says what it needs first. */
export function openTool(id: string) {
  if (meantChannels().length === 0 && !['keyAcross', 'convertRate', 'noise', 'putMotion'].includes(id))
    return session.messages.say('Nothing here has keys: select an animated object, or keys in the tracks.');
  if (['smooth', 'scaleValues', 'repeatKeys'].includes(id) && needKey()) return;
  ui.curveTool = id;
}
