// What the motion checks say.
import { type Command } from '../commands/command';
import { session } from '../stores/session.svelte';
import { ui } from '../stores/ui.svelte';

export const checkCommands: Command[] = [
  {
    id: 'findings',
    title: 'Findings: what the motion checks say',
    group: 'Keys',
    keys: 'w',
    run: () => (ui.dialog = ui.dialog === 'findings' ? null : 'findings'),
  },
  {
    id: 'nextFinding',
    title: 'Go to the next finding',
    group: 'Keys',
    keys: 'Shift+KeyW',
    run: toFinding,
  },
];

function toFinding() {
  const { list } = session.findings;
  const next = list.find((f) => f.first > session.frame) ?? list[0];
  if (!next) return session.messages.say('The checks have found nothing.');
  session.findings.show(next);
  ui.dialog = 'findings';
}
