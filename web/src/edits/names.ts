// Names of new objects.

/** The wanted name, or it with the first free number behind it. */
export function freeName(wanted: string, taken: Iterable<string>): string {
  const names = new Set(taken);
  let name = wanted;
  for (let i = 2; names.has(name); i++) name = `${wanted.replace(/ \d+$/, '')} ${i}`;
  return name;
}
