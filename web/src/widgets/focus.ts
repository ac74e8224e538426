/** For a field that appears: it takes the focus with its text selected, so that what is typed next goes into it. */
export function focused(field: HTMLInputElement | HTMLTextAreaElement) {
  field.focus();
  field.select();
}
