// What the motion checks have found. They run beside the work, in short pieces, once nothing has changed for a moment.
import { newEdit } from '../edits/edit';
import type { Finding } from '../engine/engine';
import { gestures } from '../widgets/gestures.svelte';
import type { Session } from './session.svelte';

/** A piece leaves room for a picture. */
const PIECE = 4;
const QUIET = 500;
/** When a shot has just been opened the stage has much to do first. */
const OPENING = 1500;

export class Findings {
  list = $state.raw<Finding[]>([]);
  /** The list is of the shot as it is now. */
  current = $state(false);
  /** Milliseconds that the last run took, and its longest piece; for measuring. */
  took = { all: 0, longest: 0 };
  private timer = 0;
  private running = false;

  constructor(private readonly session: Session) {}

  /** Frames with a finding, for the rulers. */
  frames = $derived([...new Set(this.list.map((f) => f.first))].sort((a, b) => a - b));

  /** The shot is another, or one was opened: it is checked once it has been left alone for a moment. */
  changed(opened = false) {
    this.current = false;
    this.running = false;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => this.begin(), opened ? OPENING : QUIET);
  }

  /** Goes to a finding: its objects are selected, its frame is shown. */
  show(finding: Finding) {
    const ids = finding.nodes.filter((id) => this.session.shot.byId.has(id));
    if (ids.length > 0) this.session.selection.select(ids);
    this.session.goTo(finding.first);
  }

  mend(finding: Finding) {
    if (this.mendAll([finding])) this.session.goTo(finding.first);
  }

  /** As one step; what is left of them is found again. */
  mendAll(findings: Finding[]): boolean {
    const at = findings.map((f) => this.list.indexOf(f)).filter((i) => i >= 0);
    return at.length > 0 && this.current && this.session.shot.mend(at);
  }

  /** It is meant so: it is not found again. */
  mean(finding: Finding) {
    const meant = { kind: finding.kind, about: [...finding.nodes, ...finding.channels] };
    this.session.shot.commit(newEdit('meanFindings', { findings: [meant] }));
  }

  /** Everything that was meant is found again. */
  findAgain() {
    const { meant } = this.session.shot.scene;
    this.session.shot.commit(newEdit('meanFindings', { findings: meant, meant: false }));
  }

  private begin() {
    const { engine } = this.session.shot;
    if (!engine) return;
    engine.beginChecks();
    this.running = true;
    this.took = { all: 0, longest: 0 };
    this.go();
  }

  private go = () => {
    if (!this.running) return;
    // A hand that drags, and playing, come first.
    if (gestures.busy || this.session.player.playing) {
      this.timer = window.setTimeout(this.go, 200);
      return;
    }
    const engine = this.session.shot.engine!;
    const start = performance.now();
    const done = engine.check(PIECE);
    const spent = performance.now() - start;
    this.took = { all: this.took.all + spent, longest: Math.max(this.took.longest, spent) };
    if (done) {
      this.running = false;
      this.list = engine.findings();
      this.current = true;
    } else this.timer = window.setTimeout(this.go, 4);
  };
}
