import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  timeout: 180_000,
  expect: { timeout: 30_000 },
  workers: 2,
  fullyParallel: true,
  retries: 0,
  reporter: [['list']],
  outputDir: '../../test-results',
  use: {
    baseURL: 'http://127.0.0.1:5187',
    viewport: { width: 1280, height: 800 },
    actionTimeout: 30_000,
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--ignore-gpu-blocklist',
        '--disable-background-networking',
        '--disable-component-update',
        '--no-first-run',
      ],
    },
  },
  webServer: {
    // A fresh folder every time, and the real server.
    command: `bash -c 'rm -rf "../../.build/e2e-data" && exec ../../src/Bradymotus.Cli/bin/Release/net10.0/bradymotus demo --port 5187 --data ../../.build/e2e-data'`,
    url: 'http://127.0.0.1:5187/healthz',
    env: { BRADYMOTUS_HOME: process.env.BRADYMOTUS_HOME ?? '../..' },
    reuseExistingServer: false,
    timeout: 30_000,
  },
});
