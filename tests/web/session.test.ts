// @vitest-environment jsdom
// What commands and panels do to a shot: the page's own state on the real engine.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { answers, demo, edits, kept, openDemo, sent } from './real';

type Session = Awaited<ReturnType<typeof openDemo>>;
let session: Session;
const { areApart, run, commands, readable, shortcutOf, tip } = await import('../../web/src/commands');
const { preferences } = await import('../../web/src/stores/preferences.svelte');
const { ui } = await import('../../web/src/stores/ui.svelte');
const { listen } = await import('../../web/src/commands/shortcuts');

const lift = 'fender/transform.translate.y';
const keys = (address: string) => session.shot.keysOf(address);
const value = (address: string) => session.shot.shown!.values[session.shot.channelAt(address)!.index];
/** As when the pointer is over the tracks of the Polish phase. */
const inTracks = () => {
  session.phase = 'polish';
  ui.part = 'tracks';
};
const labels = () => session.shot.history!.steps.map((s) => s.label);

beforeEach(async () => {
  session = await openDemo();
  ui.dialog = null;
  ui.sequence = null;
  ui.part = 'stage';
  session.phase = 'set';
});

describe('frames that have been shown', () => {
  it('are kept, and a change of keys lets go of those that it reaches', async () => {
    for (let f = 0; f <= 100; f++) session.goTo(f);
    await vi.waitFor(() => expect(session.shot.kept).toEqual([0, 100]));
    // A key reaches no further than its neighbours' neighbours.
    const scale = 'fender/transform.scale.y';
    const c = keys(scale)[5];
    session.shot.commit({ kind: 'transformKeys', keys: [{ address: scale, frame: c }], by: { value: 0.1 } } as never);
    await vi.waitFor(() => expect(session.shot.kept.length).toBe(4));
    const [first, before, after, last] = session.shot.kept;
    expect([first, last]).toEqual([0, 100]);
    expect(before).toBe(keys(scale)[3] - 1);
    expect(after).toBe(keys(scale)[7] + 1);
    // The playhead stands on 100, which was not reached.
    session.shot.commit({ kind: 'setValues', values: [{ address: 'sun/light.strength', value: 2 }] } as never);
    await vi.waitFor(() => expect(session.shot.kept).toEqual([100, 100]));
  });
});

describe('opening', () => {
  it('shows the first frame with nothing selected', () => {
    expect(session.ready).toBe(true);
    expect(session.shot.scene.name).toBe('Lantern Quay');
    expect(session.frame).toBe(session.shot.scene.playFirst);
    expect(session.selection.ids).toEqual([]);
    expect(session.shot.shown).toBe(session.shot.engine);
    expect(keys(lift).length).toBeGreaterThan(5);
    expect(session.hasUnsaved).toBe(false);
  });

  it('gives every object its channels, with places in the buffer of values that do not overlap', () => {
    const owners = [
      'world',
      ...session.shot.scene.nodes.map((n) => n.id),
      ...session.shot.scene.materials.map((m) => m.id),
    ];
    const places = owners.flatMap((id) => session.shot.channelsOf(id).map((c) => c.index));
    expect(new Set(places).size).toBe(places.length);
    expect(Math.max(...places)).toBe(session.shot.shown!.values.length - 1);
    for (const node of session.shot.scene.nodes)
      expect(session.shot.channelsOf(node.id).some((c) => c.path === 'visible')).toBe(true);
  });

  it('fills a matrix for every object', () => {
    expect(session.shot.shown!.matrices.length).toBe(16 * session.shot.scene.nodes.length);
    for (const n of session.shot.scene.nodes) expect(session.shot.shown!.matrices[16 * n.index + 15]).toBe(1);
  });
});

describe('keys', () => {
  it('are set for what is animated of the selection, undone and made again', () => {
    session.selection.select(['fender']);
    session.goTo(3);
    const before = keys(lift);
    run('key');
    expect(keys(lift)).toContain(3);
    expect(session.shot.history!.undoLabel).toMatch(/^Key/);
    run('undo');
    expect(keys(lift)).toEqual(before);
    run('redo');
    expect(keys(lift)).toContain(3);
  });

  it('of an object that is not animated yet are those of its transform', () => {
    const still = session.shot.scene.nodes.find((n) =>
      session.shot.channelsOf(n.id).every((c) => session.shot.keysOf(c.address).length === 0),
    )!;
    session.selection.select([still.id]);
    run('key');
    const keyed = session.shot.channelsOf(still.id).filter((c) => session.shot.keysOf(c.address).length > 0);
    expect(keyed.map((c) => c.path.replace(/\.[xyz]$/, ''))).toEqual([
      ...Array(3).fill('transform.translate'),
      ...Array(3).fill('transform.rotate'),
      ...Array(3).fill('transform.scale'),
    ]);
  });

  it('need a selection, which is said', () => {
    for (const id of ['key', 'hold', 'duplicate']) {
      session.messages.notice = null;
      run(id);
      expect(session.messages.notice!.text).toContain('Select an object first');
    }
    expect(labels()).toEqual(['Start']);
  });

  it('wait when a value is changed without automatic keying, and are forgotten on another frame', () => {
    session.goTo(5);
    const was = value(lift);
    session.shot.pose([{ address: lift, value: was + 2 }], true);
    expect([...session.shot.waiting]).toEqual([lift]);
    expect(value(lift)).toBe(was + 2);
    expect(labels()).toEqual(['Start']);
    session.goTo(6);
    session.goTo(5);
    expect(session.shot.waiting.size).toBe(0);
    expect(value(lift)).toBe(was);
  });

  it('are made of what waits by keying', () => {
    session.selection.select(['fender']);
    session.goTo(5);
    session.shot.pose([{ address: lift, value: 7 }], true);
    run('key');
    expect(session.shot.waiting.size).toBe(0);
    expect(keys(lift)).toContain(5);
    expect(value(lift)).toBe(7);
  });

  it('are made at once with automatic keying', () => {
    run('autoKey');
    session.goTo(5);
    session.shot.pose([{ address: lift, value: 7 }], true);
    expect(keys(lift)).toContain(5);
    expect(session.shot.waiting.size).toBe(0);
  });

  it('are not made while a hand still drags', () => {
    session.autoKey = true;
    session.goTo(5);
    const before = labels();
    session.shot.pose([{ address: lift, value: 7 }], false);
    expect(value(lift)).toBe(7);
    expect(labels()).toEqual(before);
    session.shot.pose([{ address: lift, value: 8 }], true);
    expect(labels().length).toBe(before.length + 1);
  });

  it('are copied and put in at the playhead, with their values', () => {
    const [first, second] = keys(lift);
    session.selection.keys = [first, second].map((frame) => ({ address: lift, frame }));
    const values = session.shot
      .curve(lift)!
      .keys.slice(0, 2)
      .map((k) => k.value);
    inTracks();
    run('copyKeys');
    session.goTo(200);
    run('paste');
    expect(keys(lift)).toEqual(expect.arrayContaining([200, 200 + second - first]));
    expect(session.selection.keys.map((k) => k.frame)).toEqual([200, 200 + second - first]);
    expect(
      session.shot
        .curve(lift)!
        .keys.slice(-2)
        .map((k) => k.value),
    ).toEqual(values);
  });

  it('of an object that is gone are not put in, which is said', () => {
    session.selection.keys = [{ address: lift, frame: keys(lift)[0] }];
    inTracks();
    run('copyKeys');
    session.selection.keys = [];
    session.selection.select(['fender']);
    run('removeObjects');
    run('paste');
    expect(session.messages.notice!.text).toContain('fit nothing here');
  });

  it('are removed in the tracks, where they are seen, and the selection of keys is empty then', () => {
    session.selection.select(['fender']);
    session.selection.keys = [{ address: lift, frame: keys(lift)[0] }];
    const count = keys(lift).length;
    inTracks();
    run('removeKeys');
    expect(keys(lift).length).toBe(count - 1);
    expect(session.selection.keys).toEqual([]);
    expect(session.shot.byId.has('fender')).toBe(true);
  });

  it('are all selected, reversed and staggered', () => {
    session.selection.select(['fender']);
    inTracks();
    run('selectKeys');
    const all = session.shot.channelsOf('fender').flatMap((c) => session.shot.keysOf(c.address));
    expect(session.selection.keys.length).toBe(all.length);
    const values = session.shot.curve(lift)!.keys.map((k) => k.value);
    session.selection.keys = keys(lift).map((frame) => ({ address: lift, frame }));
    run('reverse');
    expect(session.shot.curve(lift)!.keys.map((k) => k.value)).toEqual(values.toReversed());
    const buoy = 'buoy/transform.rotate.z';
    const [a, b] = [keys(lift)[0], keys(buoy)[0]];
    session.selection.keys = [
      { address: lift, frame: a },
      { address: buoy, frame: b },
    ];
    run('stagger');
    expect(keys(lift)[0]).toBe(a);
    expect(keys(buoy)).toContain(b + 3);
  });

  it('take handles and ways on from commands', () => {
    const frame = keys(lift)[1];
    const key = () => session.shot.curve(lift)!.keys.find((k) => k.frame === frame)!;
    session.selection.keys = [{ address: lift, frame }];
    run('handle.flat');
    expect([key().inKind.kind, key().outKind.kind]).toEqual(['flat', 'flat']);
    expect(key().out[1]).toBe(0);
    run('segment.hold');
    expect(key().segment).toBe('hold');
    run('segment.bezier');
    expect(key().segment).toBe('bezier');
    run('split');
    expect(key().joined).toBe(false);
    run('join');
    expect(key().joined).toBe(true);
  });

  it('hold a pose until the playhead', async () => {
    session.selection.select(['fender']);
    const before = Math.max(...keys(lift).filter((f) => f < 20));
    const held = session.shot.curve(lift)!.keys.find((k) => k.frame === before)!.value;
    session.goTo(20);
    run('hold');
    expect(value(lift)).toBe(held);
    session.goTo(before + 1);
    expect(value(lift)).toBe(held);
    await vi.waitFor(() => expect(edits()).toEqual(['holdUntil']));
  });

  it('are gone to, of the selection or of everything', () => {
    session.selection.select(['fender']);
    run('first');
    const own = [...new Set(session.shot.channelsOf('fender').flatMap((c) => session.shot.keysOf(c.address)))].sort(
      (a, b) => a - b,
    );
    run('nextKey');
    expect(session.frame).toBe(own.find((f) => f > 0));
    run('last');
    run('previousKey');
    expect(session.frame).toBe(own.filter((f) => f < session.shot.scene.playLast).at(-1));
  });
});

describe('objects', () => {
  it('are added with a free name under the selected group, and selected', () => {
    session.selection.select(['buoy']);
    run('add.box');
    const [box] = session.selection.nodes;
    expect([box.name, box.parent, box.kind]).toEqual(['Box', 'buoy', 'mesh']);
    session.selection.select(['buoy']);
    run('add.box');
    expect(session.selection.nodes[0].name).toBe('Box 2');
    expect(session.shot.scene.materials.map((m) => m.name)).toEqual(expect.arrayContaining(['Box', 'Box 2']));
  });

  it('of every kind can be added and taken away again', () => {
    const count = session.shot.scene.nodes.length;
    const adding = commands.filter((c) => c.id.startsWith('add.') && c.id !== 'add.text');
    for (const command of adding) {
      session.selection.select([]);
      command.run();
      expect(session.selection.nodes.length).toBe(1);
    }
    expect(session.shot.scene.nodes.length).toBe(count + adding.length);
    for (let i = 0; i < adding.length; i++) run('undo');
    expect(session.shot.scene.nodes.length).toBe(count);
  });

  it('are duplicated with what hangs below them, which is selected', async () => {
    const count = session.shot.scene.nodes.filter((n) => n.parent === 'buoy').length;
    session.selection.select(['buoy', 'fender']);
    run('duplicate');
    expect(session.selection.nodes.map((n) => n.name)).toEqual(['Buoy 2', 'Fender 2']);
    const copy = session.selection.ids[0];
    expect(session.shot.scene.nodes.filter((n) => n.parent === copy).length).toBe(count);
    expect(keys(`${session.selection.ids[1]}/transform.translate.y`)).toEqual(keys(lift));
    await vi.waitFor(() => expect(edits()).toEqual(['duplicateNodes']));
  });

  it('are not selected any more when they are gone, while the rest of the selection stays', () => {
    session.selection.select(['fender', 'buoy']);
    session.shot.commit({ kind: 'removeNodes', ids: ['fender'] });
    expect(session.selection.ids).toEqual(['buoy']);
    expect(session.shot.byId.has('fender')).toBe(false);
    run('undo');
    expect(session.shot.byId.has('fender')).toBe(true);
  });

  it('that are locked are not removed', () => {
    const locked = session.shot.scene.nodes.find((n) => n.locked)!;
    session.selection.select([locked.id]);
    run('removeObjects');
    expect(session.shot.byId.has(locked.id)).toBe(true);
    expect(labels()).toEqual(['Start']);
  });

  it('are put somewhere in the world by their values', () => {
    const buoy = session.shot.byId.get('buoy')!;
    const world = Array.from(session.shot.shown!.matrices.slice(16 * buoy.index, 16 * buoy.index + 16));
    world[12] += 2;
    session.shot.place(['buoy'], world, true);
    expect(value('buoy/transform.translate.x')).toBeCloseTo(-1.75 + 2, 5);
  });
});

describe('a change', () => {
  it('that is refused changes nothing and is said in one sentence', () => {
    const before = session.shot.history!.revision;
    expect(session.shot.commit({ kind: 'rename', id: 'buoy', name: 'a/b' })).toBe(false);
    expect(session.messages.notice!.text).toMatch(/slash.*[.:]/);
    expect(session.shot.history!.revision).toBe(before);
    expect(session.shot.byId.get('buoy')!.name).toBe('Buoy');
    expect(labels()).toEqual(['Start']);
  });

  it('that is tried is shown and leaves no trace', () => {
    const frame = keys(lift)[1];
    const free = { kind: 'free', frames: 2, value: 5 } as const;
    const was = session.shot.curve(lift)!.keys[1].out;
    session.shot.try({ kind: 'setHandle', key: { address: lift, frame }, side: 'out', handle: free });
    expect(session.shot.curve(lift)!.keys[1].out).not.toEqual(was);
    session.shot.try(null);
    expect(session.shot.curve(lift)!.keys[1].out).toEqual(was);
    expect(labels()).toEqual(['Start']);
  });

  it('of keys reads only their channel again', () => {
    const other = session.shot.curve('buoy/transform.rotate.z');
    const nodes = session.shot.scene.nodes;
    session.shot.commit({ kind: 'removeKeys', keys: [{ address: lift, frame: keys(lift)[0] }] });
    expect(session.shot.scene.nodes).toBe(nodes);
    expect(session.shot.curve('buoy/transform.rotate.z')).toBe(other);
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Bell buoy' });
    expect(session.shot.scene.nodes).not.toBe(nodes);
  });

  it('reaches the server in order', async () => {
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Bell buoy' });
    session.shot.commit({ kind: 'setShot', name: 'Evening' });
    run('undo');
    await vi.waitFor(() => expect(session.saveState).toBe('saved'));
    expect(edits()).toEqual(['rename', 'setShot', 'restore']);
    expect(session.shot.scene.name).toBe('Lantern Quay');
    const revisions = sent
      .filter((s) => s.method === 'POST' && s.path.endsWith('/journal'))
      .map((s) => (s.body as { revision: number }).revision);
    expect(revisions[0]).toBe(0);
    expect(revisions).toEqual(revisions.toSorted((a, b) => a - b));
  });

  it('can be gone back to from anywhere', () => {
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'One' });
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Two' });
    session.shot.restore(1);
    expect(session.shot.byId.get('buoy')!.name).toBe('One');
    session.shot.restore(0);
    expect(session.shot.byId.get('buoy')!.name).toBe('Buoy');
    expect(session.shot.history!.redoLabel).not.toBeNull();
  });
});

describe('stepped playing', () => {
  it('shows the last pose, and the true frame when it stops', () => {
    const frames = [
      ...new Set([...session.shot.keyedOwners.values()].flat().flatMap((a) => session.shot.keysOf(a))),
    ].sort((a, b) => a - b);
    const gap = frames.find((f, i) => frames[i + 1] - f > 2 && f > 0)!;
    session.goTo(gap);
    const pose = value(lift);
    session.goTo(gap + 1);
    const between = value(lift);
    Object.assign(session.player, { stepped: true, playing: true });
    session.shot.show();
    expect(value(lift)).toBe(pose);
    Object.assign(session.player, { stepped: false, playing: false });
    session.shot.show();
    expect(value(lift)).toBe(between);
  });
});

describe('Delete, copy, select all', () => {
  const press = (key: string, ctrlKey = false) =>
    window.dispatchEvent(new KeyboardEvent('keydown', { key, code: key, ctrlKey, bubbles: true, cancelable: true }));
  let quiet = () => {};
  beforeEach(() => (quiet = listen()));
  afterEach(() => quiet());

  it('are for the part that has the focus: objects in the stage and the list, though keys are selected', () => {
    session.selection.select(['fender']);
    session.selection.keys = [{ address: lift, frame: keys(lift)[0] }];
    session.phase = 'polish';
    ui.part = 'stage';
    press('Delete');
    expect(session.shot.byId.has('fender')).toBe(false);
  });

  it('never take an object in the tracks or among the poses', () => {
    session.selection.select(['fender']);
    for (const part of ['tracks', 'poses'] as const) {
      ui.part = part;
      session.goTo(0.5);
      press('Delete');
      press('x', true);
      expect(session.shot.byId.has('fender')).toBe(true);
      expect(session.messages.notice!.text).toMatch(/Select some keys first|There is no pose/);
    }
  });

  it('take the pose at the playhead among the poses, and copy it', () => {
    session.selection.select(['fender']);
    ui.part = 'poses';
    const [first] = keys(lift);
    session.goTo(first);
    const before = keys(lift).length;
    press('c', true);
    press('Delete');
    expect(keys(lift)).toHaveLength(before - 1);
    expect(session.shot.byId.has('fender')).toBe(true);
    press('v', true);
    expect(keys(lift)).toHaveLength(before);
  });

  it('select keys in the tracks, and objects elsewhere', () => {
    session.selection.select(['fender']);
    ui.part = 'tracks';
    press('a', true);
    expect(session.selection.keys.length).toBeGreaterThan(keys(lift).length - 1);
    ui.part = 'list';
    press('a', true);
    expect(session.selection.ids.length).toBeGreaterThan(5);
  });
});

describe('what is not sent yet', () => {
  it('survives a reload and is sent when the server is there', async () => {
    answers.set('POST /api/shots/shot/journal', { status: 503, body: { detail: 'Away.' } });
    session.shot.commit({ kind: 'setKeys', frame: 3, values: [{ address: lift, value: 1.5 }] } as never);
    await vi.waitFor(() => expect(session.saveState).toBe('waiting'));
    await vi.waitFor(() => expect([...kept.values()]).toHaveLength(1));
    const unsent = structuredClone([...kept.values()][0]);
    // The page is gone; another one opens the shot and finds what was left.
    session = await openDemo(
      () => {},
      () => kept.set('bradymotus/unsent/shot/another', unsent),
    );
    await vi.waitFor(() => expect(keys(lift)).toContain(3));
    await vi.waitFor(() => expect(edits()).toEqual(['setKeys']));
    await vi.waitFor(() => expect(session.saveState).toBe('saved'));
    await vi.waitFor(() => expect(kept.size).toBe(0));
  });
});

describe('shots that are opened', () => {
  const documentOf = (id: string) => ({
    status: 200,
    body: { id, baseRevision: 0, base: { ...demo(), name: id }, entries: [], revision: 0, notice: null },
  });

  it('are the one that was wished for last, whichever answer comes first', async () => {
    let late = () => {};
    const slow = new Promise<void>((done) => (late = done));
    answers.set('GET /api/shots/slow', { ...documentOf('slow'), after: slow });
    answers.set('GET /api/shots/quick', documentOf('quick'));
    const first = session.open('slow');
    await session.open('quick');
    late();
    await first;
    expect([session.shotId, session.shot.scene.name]).toEqual(['quick', 'quick']);
  });

  it('are opened once where one clicks twice', async () => {
    answers.set('GET /api/shots/quick', documentOf('quick'));
    const before = sent.length;
    await Promise.all([session.open('quick'), session.open('quick')]);
    expect(sent.slice(before).filter((s) => s.path === '/api/shots/quick')).toHaveLength(1);
  });
});

describe('what was changed and not keyed', () => {
  it('in a material is what K keys, though an object is selected', () => {
    session.selection.select(['buoy-cone']);
    const rough = 'red/look.roughness';
    const red = session.shot.scene.materials.find((m) => m.name.includes('red'))!;
    const address = rough.replace('red', red.id);
    session.goTo(12);
    session.shot.pose([{ address, value: 0.9 }], true);
    // What is not animated changes for the whole shot; what is keyed waits.
    session.shot.keyNow([address]);
    session.goTo(20);
    session.shot.pose([{ address, value: 0.2 }], true);
    expect([...session.shot.waiting]).toEqual([address]);
    run('key');
    expect(keys(address)).toEqual([12, 20]);
    expect(keys('buoy-cone/transform.translate.y')).toEqual([]);
  });

  it('begins where a hold is keyed: it is keyed, and what was before stays until then', () => {
    session.selection.select(['fender']);
    const [first, second] = keys(lift);
    const frame = Math.round((first + second) / 2);
    session.goTo(frame);
    session.shot.pose([{ address: lift, value: 5 }], true);
    run('hold');
    expect([...session.shot.waiting]).toEqual([]);
    const curve = session.shot.curve(lift)!.keys;
    expect(curve.find((k) => k.frame === frame)!.value).toBe(5);
    expect(session.shot.engine!.sample(lift, frame - 1, 1, 1)[0]).toBe(curve.find((k) => k.frame === first)!.value);
  });

  it('is said to be left behind with its frame, and comes back by one click', () => {
    session.goTo(3);
    session.shot.pose([{ address: lift, value: 7 }], true);
    expect(session.shot.waiting.has(lift)).toBe(true);
    // Small pictures of other frames leave it where it is.
    session.shot.engine!.beside.evaluate(20);
    session.shot.show();
    expect(value(lift)).toBe(7);
    session.goTo(5);
    expect(value(lift)).not.toBe(7);
    expect(session.messages.notice!.text).toContain('One change on frame 3');
    session.messages.notice!.action!.run();
    expect(session.frame).toBe(3);
    expect(value(lift)).toBe(7);
    expect(session.shot.waiting.has(lift)).toBe(true);
  });

  it('waits no longer when it is set back to what the curve says', () => {
    session.goTo(3);
    const was = value(lift);
    session.shot.pose([{ address: lift, value: 8 }], true);
    session.shot.pose([{ address: lift, value: was }], true);
    expect(session.shot.waiting.size).toBe(0);
  });
});

describe('an object', () => {
  it('can be turned on and on: turns add up while a hand drags', () => {
    session.selection.select(['fender']);
    session.autoKey = false;
    const turn = 'fender/transform.rotate.y';
    const start = value(turn);
    const index = session.shot.byId.get('fender')!.index;
    const world = Array.from(session.shot.shown!.matrices.slice(16 * index, 16 * index + 16));
    const about = (degrees: number) => {
      const [s, c] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
      const m = world.slice();
      for (const column of [0, 4, 8]) {
        m[column] = world[column] * c + world[column + 2] * s;
        m[column + 2] = world[column + 2] * c - world[column] * s;
      }
      return m;
    };
    for (let a = 0; a <= 720; a += 30) session.shot.place(['fender'], about(a), false);
    session.shot.place(['fender'], about(720), true);
    expect(Math.abs(value(turn) - start)).toBeCloseTo(720, 0);
  });
});

describe('undo', () => {
  it('takes back what was done here and leaves what another window has done', () => {
    session.shot.commit({ kind: 'setKeys', frame: 3, values: [{ address: lift, value: 1.5 }] } as never);
    const theirs = { kind: 'edit', id: 'x', edit: { kind: 'rename', id: 'buoy', name: 'Bell buoy' } };
    session.shot.engine!.merge(session.shot.history!.revision, [theirs]);
    session.shot.reread();
    session.shot.undo();
    expect(keys(lift)).not.toContain(3);
    expect(session.shot.byId.get('buoy')!.name).toBe('Bell buoy');
    session.shot.redo();
    expect(keys(lift)).toContain(3);
  });
});

describe('renders', () => {
  const view = (id: string, done: number, version = done, removed = false) =>
    ({ id, shotId: 'shot', version, done, removed, created: `2026-11-0${id.charCodeAt(0) - 96}T10:00:00Z` }) as never;
  const listed = () => session.renders.list.map((r) => [r.id, r.done]);
  it('are kept newest first, replaced in place, and only those of this shot', () => {
    session.renders.take(view('a', 0));
    session.renders.take(view('b', 0));
    session.renders.take(view('a', 5));
    session.renders.take({ id: 'c', shotId: 'another' } as never);
    expect(session.renders.list.map((r) => [r.id, r.done])).toEqual([
      ['b', 0],
      ['a', 5],
    ]);
    // One that was removed and is taken back stands where it was.
    session.renders.take(view('a', 5, 6, true));
    expect(session.renders.list.map((r) => r.id)).toEqual(['b']);
    session.renders.take(view('a', 5, 7));
    expect(session.renders.list.map((r) => r.id)).toEqual(['b', 'a']);
  });

  it('stay as new as they are when older news comes late', () => {
    session.renders.take(view('a', 5, 20));
    session.renders.take(view('a', 0, 10));
    expect(listed()).toEqual([['a', 5]]);
    session.renders.take(view('a', 5, 30, true));
    session.renders.take(view('a', 5, 25));
    expect(listed()).toEqual([]);
  });

  it('are asked for without losing what was heard meanwhile', async () => {
    session.renders.take(view('a', 1, 10));
    session.renders.take(view('b', 1, 11));
    session.renders.take(view('d', 1, 11));
    answers.set('GET /api/renders', { status: 200, body: [view('b', 3, 30), view('d', 1, 30)] });
    const asked = session.renders.of('shot');
    session.renders.take(view('b', 9, 40));
    session.renders.take(view('c', 0, 41));
    session.renders.take(view('d', 1, 42, true));
    await asked;
    // The one that is gone went into the trash while nothing was heard.
    expect(listed()).toEqual([
      ['c', 0],
      ['b', 9],
    ]);
  });
});

describe('commands', () => {
  it('have ids and shortcuts of their own', () => {
    expect(new Set(commands.map((c) => c.id)).size).toBe(commands.length);
    for (const [i, a] of commands.entries())
      for (const b of commands.slice(i + 1))
        if (shortcutOf(a) && shortcutOf(a) === shortcutOf(b)) expect(areApart(a, b), `${a.id}, ${b.id}`).toBe(true);
    for (const c of commands) expect(c.title).toMatch(/^[A-Z]/);
  });

  it('tell their shortcut as people read it', () => {
    expect(readable('$mod+Shift+k')).toBe('Ctrl+Shift+K');
    expect(readable('Shift+ArrowLeft')).toBe('Shift+←');
    expect(readable('Shift+?')).toBe('?');
    expect(tip('key')).toBe('Key the selected objects on this frame (K)');
    expect(tip('theme', 'Other light')).toBe('Other light');
    expect(tip('nothing of that name', 'Text')).toBe('Text');
  });

  it('hear their keys, but not while someone types or a dialog is open', () => {
    const stop = listen();
    const press = (code: string, key: string, target: EventTarget = window, more = {}) =>
      target.dispatchEvent(new KeyboardEvent('keydown', { code, key, bubbles: true, ...more }));
    press('Digit3', '3');
    expect(session.phase).toBe('polish');
    const input = document.body.appendChild(document.createElement('input'));
    press('Digit1', '1', input);
    expect(session.phase).toBe('polish');
    ui.dialog = 'help';
    press('Digit1', '1');
    expect(session.phase).toBe('polish');
    ui.dialog = null;
    press('Digit1', '1');
    expect(session.phase).toBe('set');
    press('KeyK', 'k', window, { ctrlKey: true });
    expect(ui.dialog).toBe('search');
    stop();
    ui.dialog = null;
    press('Digit4', '4');
    expect(session.phase).toBe('set');
    input.remove();
  });

  it('hear their letters where they are written, and where they mostly are on boards that write others', () => {
    const stop = listen();
    const press = (code: string, key: string, more = {}) =>
      window.dispatchEvent(new KeyboardEvent('keydown', { code, key, bubbles: true, ...more }));
    const before = session.autoKey;
    press('KeyQ', 'a');
    expect(session.autoKey).toBe(!before);
    press('KeyA', 'q');
    expect(session.autoKey).toBe(!before);
    press('KeyA', 'ф');
    expect(session.autoKey).toBe(before);
    session.shot.commit({ kind: 'rename', id: 'buoy', name: 'Bell buoy' });
    press('KeyY', 'z', { ctrlKey: true });
    expect(session.shot.byId.get('buoy')!.name).toBe('Buoy');
    press('KeyY', 'н', { ctrlKey: true });
    expect(session.shot.byId.get('buoy')!.name).toBe('Bell buoy');
    session.shot.undo();
    stop();
  });

  it('use the keys that a person has chosen', () => {
    preferences.shortcuts = { autoKey: 'KeyJ' };
    const stop = listen();
    window.dispatchEvent(new KeyboardEvent('keydown', { code: 'KeyA', key: 'a' }));
    expect(session.autoKey).toBe(false);
    window.dispatchEvent(new KeyboardEvent('keydown', { code: 'KeyJ', key: 'j' }));
    expect(session.autoKey).toBe(true);
    expect(tip('autoKey')).toContain('(J)');
    stop();
    preferences.shortcuts = {};
  });

  it('of time belong to finished pictures while these are shown', () => {
    const done: string[] = [];
    ui.sequence = {
      toggle: (direction) => void done.push(`toggle ${direction}`),
      step: (by) => void done.push(`step ${by}`),
      end: (last) => void done.push(`end ${last}`),
    };
    const frame = session.frame;
    for (const id of ['play', 'playBack', 'next', 'back', 'first', 'last']) run(id);
    expect(done).toEqual(['toggle 1', 'toggle -1', 'step 1', 'step -1', 'end false', 'end true']);
    expect(session.frame).toBe(frame);
    expect(session.player.playing).toBe(false);
  });
});
