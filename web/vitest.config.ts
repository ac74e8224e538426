import { availableParallelism } from 'node:os';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { svelteTesting } from '@testing-library/svelte/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [svelte(), svelteTesting()],
  test: {
    include: ['../tests/web/**/*.test.ts', '../tests/outside/**/*.test.ts'],
    root: '.',
    // The engine is started anew by each file that needs it.
    // Both processors of a small machine; by itself it would leave one.
    maxWorkers: Math.max(2, availableParallelism() - 1),
    testTimeout: 30_000,
    hookTimeout: 60_000,
    server: { deps: { inline: [/three/], external: [/public\/engine/] } },
  },
  server: { fs: { allow: ['..'] } },
});
