import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

const folder = dirname(createRequire(import.meta.url).resolve('ebur128-wasm/package.json'));
// The package is made for bundlers, which import WebAssembly as a module; here its two halves are put together by hand.
const glue = readFileSync(join(folder, 'ebur128_wasm_bg.js'), 'utf8').replace(
  /^import \* as wasm.*$/m,
  'let wasm; export const bind = (exports) => { wasm = exports; };',
);
const meter = (await import(`data:text/javascript,${encodeURIComponent(glue)}`)) as {
  bind(exports: WebAssembly.Exports): void;
  ebur128_true_peak_mono(rate: number, samples: Float32Array): number;
  ebur128_integrated_stereo(rate: number, left: Float32Array, right: Float32Array): number;
};
const { instance } = await WebAssembly.instantiate(
  new Uint8Array(readFileSync(join(folder, 'ebur128_wasm_bg.wasm'))),
  { './ebur128_wasm_bg.js': meter as unknown as WebAssembly.ModuleImports },
);
meter.bind(instance.exports);

/** True peak by the ebur128 package, another implementation of BS.1770, in dBTP. */
export const packageTruePeak = (rate: number, audio: Float32Array): number =>
  meter.ebur128_true_peak_mono(rate, audio);
/** Integrated loudness of two sides by the same, in LUFS. */
export const packageIntegrated = (rate: number, left: Float32Array, right: Float32Array): number =>
  meter.ebur128_integrated_stereo(rate, left, right);
