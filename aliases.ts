import { fileURLToPath } from 'node:url';

const folder = (name: string) => `${fileURLToPath(new URL(name, import.meta.url))}/`;

/** Short names of the folders that the page imports from; `paths` of tsconfig.json says the same to the compiler. */
export const aliases = {
  '@core/': folder('core'),
  '@engine/': folder('engine'),
  '@/': folder('web'),
  // The package gives its files no names.
  'libav/': folder('node_modules/@libav.js/variant-default/dist'),
};
