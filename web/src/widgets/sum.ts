/**
 * A number as a person types it: plain, or an operator and a number applied to the old value (+5, *2), or two
 * numbers with an operator (90/4). A minus sign in front is the sign of a number. Null when it is none of these.
 */
export function sum(input: string, old: number): number | null {
  const t = input.replace(',', '.').replace(/\s/g, '');
  const number = String.raw`-?(?:\d+\.?\d*|\.\d+)`;
  const relative = new RegExp(`^([+*/])(${number})$`).exec(t);
  const two = new RegExp(`^(${number})([+\\-*/])(${number})$`).exec(t);
  const apply = (a: number, op: string, b: number) =>
    op === '+' ? a + b : op === '-' ? a - b : op === '*' ? a * b : a / b;
  const result = relative
    ? apply(old, relative[1], Number(relative[2]))
    : two
      ? apply(Number(two[1]), two[2], Number(two[3]))
      : t === ''
        ? NaN
        : Number(t);
  return Number.isFinite(result) ? result : null;
}
