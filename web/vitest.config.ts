import { svelte } from '@sveltejs/vite-plugin-svelte';
import { svelteTesting } from '@testing-library/svelte/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [svelte(), svelteTesting()],
  test: {
    include: ['../tests/web/**/*.test.ts', '../tests/outside/**/*.test.ts'],
    root: '.',
    server: { deps: { inline: [/three/], external: [/public\/engine/] } },
  },
  server: { fs: { allow: ['..'] } },
});
