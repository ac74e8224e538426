import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['../tests/web/**/*.test.ts', '../tests/outside/**/*.test.ts'],
    root: '.',
    server: { deps: { inline: [/three/] } },
  },
  server: { fs: { allow: ['..'] } },
});
