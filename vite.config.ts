import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';
import vuetify from 'vite-plugin-vuetify';
import { aliases } from './aliases.ts';

export default defineConfig({
  root: 'web',
  resolve: { alias: aliases },
  plugins: [vue(), vuetify({ autoImport: true })],
  worker: { format: 'es' },
  build: { outDir: '../build/web', emptyOutDir: true, target: 'es2022', chunkSizeWarningLimit: 1500 },
});
