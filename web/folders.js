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

const CAST = {
  selector: "TSAsExpression TSTypeReference[typeName.name='Edit']",
  message: 'Edits are made by newEdit and its like in edits/edit.ts, so that their members are checked.',
};

/** Rules that hold the arrows: for each folder, what may not be imported there. */
export const arrows = folders.map((folder, at) => {
  const above = ALONE.includes(folder)
    ? folders.filter((f) => f !== folder && !(folder === 'api' && f === 'generated'))
    : folders.slice(at + 1);
  const path = `^(\\.\\./)+(${above.join('|')})/`;
  const message = `${folder}/ may not import from here: see folders.js for what stands on what.`;
  const imports = { selector: `ImportExpression[source.value=/${path.replaceAll('/', '\\/')}/]`, message };
  return {
    files: [`src/${folder}/**/*.ts`, `src/${folder}/**/*.svelte`],
    rules: {
      'no-restricted-imports': above.length > 0 ? ['error', { patterns: [{ regex: path, message }] }] : 'off',
      'no-restricted-syntax': [
        'error',
        ...(above.length > 0 ? [imports] : []),
        ...(['edits', 'engine'].includes(folder) ? [] : [CAST]),
      ],
    },
  };
});
