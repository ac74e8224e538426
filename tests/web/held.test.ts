// @vitest-environment jsdom
// Long lists of keys that a hand drags: the engine holds them, and shows what it would show if they came along at every step.
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Edit } from '../../web/src/engine/engine';
import { edits, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const [sway, turn] = ['buoy/transform.translate.z', 'buoy/transform.rotate.y'];
const frames = Array.from({ length: 300 }, (_, i) => 2 * i);

const open = () =>
  openDemo((shot) => {
    const buoy = shot.nodes.find((n: { id: string }) => n.id === 'buoy');
    const curve = { keys: frames.map((frame, i) => ({ frame, value: i % 7 })) };
    buoy.channels['transform.translate.z'] = { value: 0, curve };
    buoy.channels['transform.rotate.y'] = { value: 0, curve };
  });
const of = (address: string) => frames.map((frame) => ({ address, frame }));
const move = (keys: unknown, by: object) => ({ kind: 'transformKeys', keys, by }) as unknown as Edit;
const batch = (...edits: Edit[]) => ({ kind: 'batch', label: 'Move', edits }) as unknown as Edit;
const first = (address: string) => {
  const { frame, value } = session.shot.curve(address)!.keys[0];
  return [frame, value];
};

beforeEach(async () => {
  session = await open();
});

describe('a long list of keys', () => {
  it('moves as it would if it were sent at every step, alone and beside another', () => {
    const [a, b] = [of(sway), of(turn).slice(1)];
    session.shot.try(move(a, { frames: 3 }));
    expect(first(sway)).toEqual([3, 0]);
    session.shot.try(move(a, { frames: 5, value: 2 }));
    expect(first(sway)).toEqual([5, 2]);
    expect(first(turn)).toEqual([0, 0]);
    session.shot.try(batch(move(a, { frames: 1 }), move(of(turn).slice(0, 1), { frames: -1 }), move(b, { value: 4 })));
    expect([first(sway), first(turn)]).toEqual([
      [1, 0],
      [-1, 0],
    ]);
    session.shot.try(null);
    expect([first(sway), first(turn)]).toEqual([
      [0, 0],
      [0, 0],
    ]);
    session.shot.commit(move(a, { frames: 7 }));
    expect(first(sway)).toEqual([7, 0]);
    expect(session.shot.curve(sway)!.keys).toHaveLength(300);
  });

  it('is told from others, however many there have been, and from those of a shot that was open before', async () => {
    const lists = Array.from({ length: 9 }, (_, n) => of(n % 2 ? turn : sway).slice(0, 150 + n));
    for (let round = 0; round < 2; round++)
      lists.forEach((keys, n) => {
        session.shot.try(move(keys, { frames: -n - 1 }));
        expect(first(n % 2 ? turn : sway)).toEqual([-n - 1, 0]);
        expect(session.shot.curve(n % 2 ? turn : sway)!.keys[149 + n].frame).toBe(frames[149 + n] - n - 1);
      });
    // Many in one edit, each moved by its own.
    const third = (n: number) => of(n < 3 ? sway : turn).slice((n % 3) * 100, (n % 3) * 100 + 100);
    for (let round = 0; round < 2; round++) {
      session.shot.try(batch(...[0, 1, 2, 3, 4, 5].map((n) => move(third(n), { value: n + 1 }))));
      const values = [sway, turn].flatMap((a) =>
        [0, 100, 200].map((i) => session.shot.curve(a)!.keys[i].value - (i % 7)),
      );
      expect(values).toEqual([1, 2, 3, 4, 5, 6]);
    }
    session = await open();
    session.shot.try(move(lists[1], { frames: -4 }));
    expect(first(turn)).toEqual([-4, 0]);
  });

  it('is made good without being sent to the engine again, and goes to the server whole', async () => {
    const keys = of(sway);
    session.shot.try(batch(move(keys, { frames: 3 }), move(of(turn).slice(0, 2), { value: 1 })));
    const made = batch(move(keys, { frames: 4 }), move(of(turn).slice(0, 2), { value: 1 }));
    const before = sent.length;
    expect(session.shot.commit(made)).toBe(true);
    expect(first(sway)).toEqual([4, 0]);
    await vi.waitFor(() => expect(edits()).toContain('batch'));
    const bodies = sent.slice(before).map((s) => s.body as { entries: { edit: unknown; id: string }[] });
    const entry = bodies.flatMap((b) => b?.entries ?? []).at(-1)!;
    expect(entry.edit).toEqual(made);
    expect(entry.id.length).toBeGreaterThan(8);
    expect(session.shot.history!.steps.at(-1)).toMatchObject({ label: 'Move' });
    session.shot.undo();
    expect(first(sway)).toEqual([0, 0]);
    session.shot.redo();
    expect([first(sway), session.shot.curve(sway)!.keys.length]).toEqual([[4, 0], 300]);
    // Refused as a whole, nothing of it is made.
    expect(session.shot.commit(move(keys, { frames: 4 }))).toBe(false);
    expect(session.messages.notice?.text).toContain('has no key on frame 0');
  });

  it('keeps those selected that are there', () => {
    const [a, b] = [of(sway).slice(0, 4), of(turn).slice(2, 4)];
    const gone = { address: sway, frame: 3 };
    expect(session.shot.present([...a, gone, ...b, { address: 'buoy/none', frame: 0 }])).toEqual([...a, ...b]);
  });

  it('is refused with the same sentence where a key is gone', () => {
    const keys = of(sway);
    session.shot.try(move(keys, { frames: 1 }));
    session.shot.try(null);
    session.shot.commit({ kind: 'removeKeys', keys: [keys[4]] } as unknown as Edit);
    expect(session.shot.try(move(keys, { frames: 2 })).refusal).toContain('has no key on frame 8');
    // Nothing of it is shown.
    expect(first(sway)).toEqual([0, 0]);
  });
});

describe('a curve as the engine gives it', () => {
  it('has the looks of its keys, the ends of their handles, and its easings sampled', () => {
    session.shot.commit({
      kind: 'setSegments',
      keys: [{ address: sway, frame: 4 }],
      segment: { ease: 'bounce', direction: 'out' },
    } as unknown as Edit);
    session.shot.commit({
      kind: 'setHandle',
      key: { address: sway, frame: 10 },
      side: 'out',
      handle: { kind: 'free', frames: 0.5, value: 3 },
      joined: false,
    } as unknown as Edit);
    const { keys } = session.shot.curve(sway)!;
    expect(keys.map((k) => k.frame)).toEqual(frames);
    expect(keys[2].samples).toHaveLength(49);
    expect([keys[2].samples![0], keys[2].samples!.at(-1)]).toEqual([keys[2].value, keys[3].value]);
    expect(keys.filter((k) => k.samples)).toHaveLength(1);
    expect(keys[5]).toMatchObject({
      out: [0.5, 3],
      outKind: { kind: 'free' },
      inKind: { kind: 'auto' },
      joined: false,
    });
    expect(keys[6]).toMatchObject({ outKind: { kind: 'auto' }, joined: true });
    expect(keys[2].segment).toMatchObject({ ease: 'bounce' });
    expect(keys[3].segment).toBe(keys[0].segment);
  });
});
