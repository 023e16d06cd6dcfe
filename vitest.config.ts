import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vitest/config';
import { aliases } from './aliases.ts';

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: aliases },
  test: {
    include: ['{core,engine,server,web,demo,bin,scripts}/**/*.test.ts'],
    globalSetup: ['server/testing/globalSetup.ts'],
    testTimeout: 400_000,
    hookTimeout: 300_000,
    // What comes by itself is waited for as long as a busy machine may need.
    expect: { poll: { timeout: 60_000, interval: 20 } },
    maxWorkers: 2,
    // npm run coverage: by parts; what only the real page or another process runs is counted as not covered.
    coverage: {
      provider: 'v8',
      include: ['{core,engine,server,web,demo,bin}/**/*.{ts,vue}'],
      exclude: ['**/*.test.ts', '**/testing/**', 'engine/assembly/**'],
      reportOnFailure: true,
      reporter: [['text-summary'], ['html'], ['json-summary']],
    },
  },
});
