// The folders of the interface, from what knows nothing of the others to what knows all. Each may import from those before it, never from those after it;
// features, which are built on the commands, follow one another in the order in which they build on each other.
export const folders = [
  'generated',
  'api',
  'widgets',
  'engine',
  'edits',
  'sync',
  'stores',
  'commands',
  // Features.
  'properties',
  'materials',
  'objects',
  'curves',
  'viewport',
  'timeline',
  'poses',
  'checks',
  'render',
  'shots',
  'values',
  //
  'app',
];

/** Widgets are used by all and know nothing of this program. */
const ALONE = ['widgets', 'generated', 'api'];

/** Rules that hold the arrows: for each folder, what may not be imported there. */
export const arrows = folders.map((folder, at) => {
  const above = ALONE.includes(folder)
    ? folders.filter((f) => f !== folder && !(folder === 'api' && f === 'generated'))
    : folders.slice(at + 1);
  const path = `^(\\.\\./)+(${above.join('|')})/`;
  const message = `${folder}/ may not import from here: see folders.js for what stands on what.`;
  return {
    files: [`src/${folder}/**/*.ts`, `src/${folder}/**/*.svelte`],
    rules:
      above.length === 0
        ? {}
        : {
            'no-restricted-imports': ['error', { patterns: [{ regex: path, message }] }],
            'no-restricted-syntax': [
              'error',
              { selector: `ImportExpression[source.value=/${path.replaceAll('/', '\\/')}/]`, message },
            ],
          },
  };
});
