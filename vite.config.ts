import purge from '@fullhuman/postcss-purgecss';
import vue from '@vitejs/plugin-vue';
import type { Plugin } from 'postcss';
import { defineConfig } from 'vite';
import vuetify from 'vite-plugin-vuetify';
import { aliases } from './aliases.ts';

/** Of Vuetify's many utility classes, those that the page uses. */
const used = purge({ content: ['web/**/*.vue', 'web/**/*.ts'] }) as Plugin;
const usedUtilities: Plugin = {
  postcssPlugin: 'used-utilities',
  OnceExit(root, helpers) {
    if (/vuetify[\\/].*utilities\.css$/.test(root.source?.input.file ?? ''))
      return used.OnceExit?.(root, helpers);
  },
};

export default defineConfig({
  // Of vue-i18n what the page says by: no API of old, no components, no tools for its developers.
  define: {
    __VUE_I18N_LEGACY_API__: false,
    __VUE_I18N_FULL_INSTALL__: false,
    __INTLIFY_PROD_DEVTOOLS__: false,
    __INTLIFY_DROP_MESSAGE_COMPILER__: false,
  },
  css: { postcss: { plugins: [usedUtilities] } },
  root: 'web',
  resolve: { alias: aliases },
  plugins: [vue(), vuetify({ autoImport: true })],
  worker: { format: 'es' },
  build: {
    // What every view needs comes in few files: a browser asks one by one for many.
    rolldownOptions: {
      output: {
        advancedChunks: {
          groups: [
            { name: 'vue', test: /node_modules[\\/](@vue|vue|vue-router|pinia|@vueuse)[\\/]/ },
            {
              name: 'vuetify',
              test: /node_modules[\\/]vuetify[\\/].*(util|composables|framework|iconsets|V(Btn|Icon|Overlay|Menu|List|Dialog|Card|TextField|Field|Input|Select|SelectionControl|Checkbox|Tabs|SlideGroup|Chip|Snackbar|SnackbarQueue|Kbd|Label|Messages|Counter|Avatar|Defaults|App|Progress|Validation|Divider|Img|Responsive|Sheet|Toolbar|Grid))/,
            },
          ],
        },
      },
    },
    outDir: '../build/web',
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 1500,
  },
});
