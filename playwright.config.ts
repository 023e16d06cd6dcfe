import { existsSync } from 'node:fs';
import { defineConfig } from '@playwright/test';

const chromium = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);

const QUIET = /(accessible|answers|housekeeping|inserts|meters|sheet|zoom)\.spec\.ts$/;

export default defineConfig({
  testDir: 'e2e',
  testMatch: '**/*.spec.ts',
  fullyParallel: false,
  workers: 2,
  retries: 0,
  timeout: 400_000,
  expect: { timeout: 45_000 },
  reporter: [['list']],
  // Files that neither stop servers nor hold times against each other run by twos; then the rest, one after the other.
  projects: [
    { name: 'by twos', testMatch: QUIET, workers: 2 },
    { name: 'alone', testIgnore: QUIET, workers: 1, dependencies: ['by twos'] },
  ],
  globalSetup: './e2e/globalSetup.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 45_000,
    // What was done, asked and said is kept where a test fails; pictures of every step would make all of them slower.
    trace: { mode: 'retain-on-failure', snapshots: false, screenshots: false, sources: false },
    launchOptions: {
      executablePath: chromium,
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--autoplay-policy=no-user-gesture-required',
      ],
    },
  },
});
