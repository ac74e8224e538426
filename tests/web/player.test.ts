// @vitest-environment jsdom
// Which frame is shown when: with a clock that the test turns by hand.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Player } from '../../web/src/stores/player.svelte';
import { preferences } from '../../web/src/stores/preferences.svelte';
import type { Session } from '../../web/src/stores/session.svelte';

let now = 0;
let waiting: ((time: number) => void) | null = null;

/** Lets one picture of the screen come, so many milliseconds after the last. */
function picture(after: number) {
  now += after;
  const call = waiting;
  waiting = null;
  call?.(now);
}

function make(scene: Partial<Session['shot']['scene']> = {}, frame = 0) {
  const shown: number[] = [];
  const heard: (number | null)[] = [];
  const session = {
    sounds: {
      start: (frame: number) => heard.push(frame),
      stop: () => heard.push(null),
      follow: () => undefined,
    },
    shot: { scene: { rate: 24, playFirst: 0, playLast: 9, ...scene } },
    frame,
    goTo(to: number) {
      this.frame = to;
      shown.push(to);
    },
  };
  return { player: new Player(session as unknown as Session), session, shown, heard };
}

beforeEach(() => {
  now = 1000;
  waiting = null;
  vi.spyOn(performance, 'now').mockImplementation(() => now);
  vi.stubGlobal('requestAnimationFrame', (call: (time: number) => void) => {
    waiting = call;
    return 1;
  });
  vi.stubGlobal('cancelAnimationFrame', () => (waiting = null));
  Object.assign(preferences, { trueSpeed: true, loop: 'loop' });
});

afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe('every frame', () => {
  it.each([24, 25, 30, 23.976])('is shown at %d a second on a screen of 60 pictures, through rounds too', (rate) => {
    preferences.trueSpeed = false;
    const { player, shown } = make({ rate, playLast: 99 });
    player.play();
    for (let i = 0; i < 600; i++) picture(1000 / 60);
    // Each is shown once, and ten seconds hold as many as they should.
    expect(Math.abs(shown.length - 10 * rate)).toBeLessThanOrEqual(1.5);
    expect(shown.every((f, i) => i === 0 || f === (shown[i - 1] + 1) % 100)).toBe(true);
    player.stop();
  });

  it('is not hurried through after pictures that took long', () => {
    preferences.trueSpeed = false;
    const { player, shown } = make({ playLast: 99 });
    player.play();
    for (let i = 0; i < 20; i++) picture(200);
    expect(shown).toHaveLength(20);
    for (let i = 0; i < 60; i++) picture(1000 / 60);
    // A second later there are 24 more, and one that was owed.
    expect(shown.length - 20).toBeLessThanOrEqual(26);
    player.stop();
  });
});

describe('sound', () => {
  it('begins with playing, begins again with each round and with each jump, and ends with it', () => {
    const { player, session, heard } = make();
    player.play();
    expect(heard).toEqual([0]);
    picture(125);
    expect([session.frame, heard]).toEqual([3, [0]]);
    // Round: from the frame that was due, by as much of it as is over.
    picture(10 * (1000 / 24) - 125 + 20);
    expect(session.frame).toBe(0);
    expect(heard).toHaveLength(2);
    expect(heard[1]).toBeCloseTo((24 * 20) / 1000, 6);
    session.frame = 7;
    picture(5);
    expect(heard[2]).toBe(7);
    player.stop();
    expect(heard[3]).toBeNull();
  });

  it('is left out backwards and where every frame is shown', () => {
    const { player, heard } = make({}, 5);
    player.play(-1);
    expect(heard).toEqual([null]);
    player.stop();
    preferences.trueSpeed = false;
    player.play();
    expect(heard).toEqual([null, null, null]);
  });
});

describe('true speed', () => {
  it('shows the frame that is due, whatever the screen does', () => {
    const { player, shown } = make();
    player.play();
    // 60 pictures a second for 24 frames a second: each frame once, in order.
    for (let i = 0; i < 20; i++) picture(1000 / 60);
    expect(shown).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
  });

  it('drops frames on a slow screen to keep time', () => {
    const { player, shown } = make();
    player.play();
    for (let i = 0; i < 3; i++) picture(125);
    expect(shown).toEqual([3, 6, 9]);
  });

  it('keeps time over many rounds of an odd rate', () => {
    const { player, session } = make({ rate: 24000 / 1001, playLast: 6 });
    player.play();
    const start = now;
    for (let i = 0; i < 1200; i++) picture(1000 / 60);
    expect(session.frame).toBe(Math.floor(((now - start) / 1000) * (24000 / 1001)) % 7);
  });
});

describe('every frame', () => {
  it('shows each one, however long it takes', () => {
    preferences.trueSpeed = false;
    const { player, shown } = make();
    player.play();
    for (let i = 0; i < 4; i++) picture(300);
    expect(shown).toEqual([1, 2, 3, 4]);
  });

  it('is no faster than the rate', () => {
    preferences.trueSpeed = false;
    const { player, shown } = make({ rate: 12 });
    player.play();
    for (let i = 0; i < 60; i++) picture(1000 / 60);
    expect(shown.length).toBeGreaterThanOrEqual(11);
    expect(shown.length).toBeLessThanOrEqual(12);
  });
});

describe('the end of the range', () => {
  it('is followed by the first frame', () => {
    const { player, shown } = make({ playFirst: 3, playLast: 5 }, 3);
    player.play();
    for (let i = 0; i < 5; i++) picture(1000 / 24 + 0.01);
    expect(shown).toEqual([4, 5, 3, 4, 5]);
  });

  it('stops playing once, and playing again starts over', () => {
    preferences.loop = 'once';
    const { player, shown, session } = make({ playLast: 2 });
    player.play();
    for (let i = 0; i < 6; i++) picture(1000 / 24 + 0.01);
    expect(shown.at(-1)).toBe(2);
    expect(player.playing).toBe(false);
    expect(waiting).toBeNull();
    player.play();
    expect(session.frame).toBe(0);
    expect(player.playing).toBe(true);
  });

  it('turns round when playing back and forth, and shows the ends once', () => {
    preferences.loop = 'backForth';
    const { player, shown } = make({ playLast: 3 });
    player.play();
    for (let i = 0; i < 9; i++) picture(1000 / 24 + 0.01);
    expect(shown).toEqual([1, 2, 3, 2, 1, 0, 1, 2, 3]);
  });

  it('is the first frame when playing backwards', () => {
    const { player, shown } = make({ playLast: 3 }, 1);
    player.play(-1);
    for (let i = 0; i < 4; i++) picture(1000 / 24 + 0.01);
    expect(shown).toEqual([0, 3, 2, 1]);
  });

  it('does not matter in a range of one frame', () => {
    for (const loop of ['loop', 'backForth'] as const) {
      preferences.loop = loop;
      const { player, session } = make({ playFirst: 4, playLast: 4 }, 4);
      player.play();
      for (let i = 0; i < 5; i++) picture(50);
      expect(session.frame).toBe(4);
      player.stop();
    }
  });

  it('is where a playhead outside of it starts from', () => {
    const { player, session } = make({ playFirst: 5, playLast: 9 }, 30);
    player.play();
    expect(session.frame).toBe(5);
    player.stop();
    session.frame = -3;
    player.play(-1);
    expect(session.frame).toBe(9);
  });
});

describe('the player', () => {
  it('stops and starts with one key, and shows nothing more after stopping', () => {
    const { player, shown } = make();
    player.toggle();
    picture(50);
    player.toggle();
    expect(player.playing).toBe(false);
    picture(500);
    expect(shown).toEqual([1]);
  });

  it('tells the rate that is really reached', () => {
    const { player } = make({ playLast: 1000 });
    player.play();
    for (let i = 0; i < 90; i++) picture(1000 / 60);
    expect(player.rate).toBeGreaterThan(22);
    expect(player.rate).toBeLessThan(26);
    player.stop();
    player.play();
    for (let i = 0; i < 20; i++) picture(100);
    expect(player.rate).toBeCloseTo(10, 0);
    player.stop();
    expect(player.rate).toBe(0);
  });
});
