import { toast } from 'svelte-sonner';

/** Something that can be done about a message, with one click. */
export interface Action {
  label: string;
  run(): void;
}

/** Sentences for the person, shown for a while. One that is said again is not shown twice. */
export class Messages {
  /** The latest. */
  notice = $state<{ text: string; action?: Action } | null>(null);
  private timer = 0;

  say(text: string, action?: Action) {
    const notice = { text, action };
    this.notice = notice;
    const duration = action ? 12000 : 7000;
    toast(text, {
      id: text,
      duration,
      action: action && {
        label: action.label,
        onClick: () => {
          if (this.notice?.text === text) this.notice = null;
          action.run();
        },
      },
    });
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => (this.notice = null), duration);
  }

  clear() {
    this.notice = null;
    toast.dismiss();
  }
}
