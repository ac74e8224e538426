// Playing: which frame comes when. Knows time, and nothing of the shot but its rate and range.
import { preferences } from './preferences.svelte';
import type { Session } from './session.svelte';

export class Player {
  playing = $state(false);
  /** The rate really reached, averaged over half a second. */
  rate = $state(0);
  /** Holds each pose until the next, to judge poses without in-betweens. */
  stepped = $state(false);

  private request = 0;
  private started = 0;
  private startFrame = 0;
  private direction = 1;
  private shown = 0;
  private since = 0;
  private last = 0;
  /** Where the last step went. */
  private expected = 0;

  constructor(private readonly session: Session) {}

  toggle(direction = 1) {
    if (this.playing) this.stop();
    else this.play(direction);
  }

  play(direction = 1) {
    const {
      frame,
      shot: { scene },
    } = this.session;
    this.direction = direction;
    const outside = frame < scene.playFirst || frame > scene.playLast;
    const atEnd = preferences.loop === 'once' && frame === (direction > 0 ? scene.playLast : scene.playFirst);
    if (outside || atEnd) this.session.goTo(direction > 0 ? scene.playFirst : scene.playLast);
    this.playing = true;
    this.restart(performance.now());
    this.shown = 0;
    this.since = this.started;
    this.request = requestAnimationFrame(this.tick);
  }

  stop() {
    cancelAnimationFrame(this.request);
    const held = this.playing && this.stepped;
    this.playing = false;
    this.session.sounds.stop();
    this.rate = 0;
    // Stepped playing shows poses; what stays is the frame itself.
    if (held) this.session.shot.show();
  }

  private restart(now: number) {
    this.expected = this.session.frame;
    this.started = now;
    this.last = now;
    this.startFrame = this.session.frame;
    this.hear();
  }

  /** Sound goes along forwards at true speed; elsewhere it could not keep time. */
  hear() {
    if (!this.playing) return;
    if (this.direction < 0 || !preferences.trueSpeed) return this.session.sounds.stop();
    const into = ((performance.now() - this.started) / 1000) * this.session.shot.scene.rate;
    this.session.sounds.start(this.startFrame + Math.max(0, into));
  }

  private tick = (now: number) => {
    this.request = requestAnimationFrame(this.tick);
    const {
      frame,
      shot: { scene },
    } = this.session;
    // Somebody has gone elsewhere meanwhile: playing goes on from there.
    if (frame !== this.expected) this.restart(now);
    const due = (now - this.started) / 1000;
    // True speed drops pictures; every frame shows each one, however long it takes.
    const steps = preferences.trueSpeed
      ? Math.floor(due * scene.rate) - Math.abs(frame - this.startFrame)
      : now - this.last >= 1000 / scene.rate - 1
        ? 1
        : 0;
    if (steps <= 0) return;
    // What a picture of the screen came too late counts for the next frame, so that the rate is kept; what took longer than a frame does not.
    const period = 1000 / scene.rate;
    const last = Math.max(this.last + period, now - period);
    this.last = last;
    let next = frame + steps * this.direction;
    const { playFirst, playLast } = scene;
    if (next > playLast || next < playFirst) {
      const count = playLast - playFirst + 1;
      if (preferences.loop === 'once') {
        this.session.goTo(this.direction > 0 ? playLast : playFirst);
        return this.stop();
      }
      if (preferences.loop === 'backForth' && count > 1) {
        next = this.direction > 0 ? Math.max(playFirst, 2 * playLast - next) : Math.min(playLast, 2 * playFirst - next);
        this.direction = -this.direction;
      } else {
        next = playFirst + ((((next - playFirst) % count) + count) % count);
      }
      this.session.goTo(next);
      // Counted from when the frame was due, not from when the screen could show it: rounds keep time too.
      this.restart(preferences.trueSpeed ? this.started + (1000 * Math.floor(due * scene.rate)) / scene.rate : now);
      this.last = last;
    } else {
      this.session.goTo(next);
    }
    this.session.sounds.follow();
    this.expected = this.session.frame;
    this.shown++;
    if (now - this.since >= 500) {
      this.rate = (1000 * this.shown) / (now - this.since);
      this.shown = 0;
      this.since = now;
    }
  };
}
