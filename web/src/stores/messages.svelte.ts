/** Something that can be done about a message, with one click. */
export interface Action {
  label: string;
  run(): void;
}

/** One sentence at a time for the person, shown for a while. */
export class Messages {
  notice = $state<{ text: string; action?: Action } | null>(null);
  private timer = 0;

  say(text: string, action?: Action) {
    this.notice = { text, action };
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => (this.notice = null), action ? 12000 : 7000);
  }

  /** Does what the message offers; it has then done its work. */
  act() {
    const action = this.notice?.action;
    this.clear();
    action?.run();
  }

  clear() {
    this.notice = null;
  }
}
