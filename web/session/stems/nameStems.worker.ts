import toImport from 'libav/libav-6.10.9.0-default.wasm.mjs?url';
import wasmurl from 'libav/libav-6.10.9.0-default.wasm.wasm?url';
import { decoderIsAt } from '@core/formats/audio/flacDecoder';
import { nameStems } from './nameStems';

decoderIsAt({ toImport, wasmurl });

/** Gives the names of a file's stems, or why it is refused. */
self.onmessage = async ({ data }: MessageEvent<{ file: File; rate: number; cut: boolean }>) => {
  try {
    const named = await nameStems(data.file, data.rate, data.cut, (bytes) =>
      self.postMessage({ type: 'read', bytes }),
    );
    self.postMessage({ type: 'done', named });
  } catch (error) {
    const { message, rule } = error as Error & { rule?: string };
    self.postMessage({ type: 'failed', reason: message, rule: rule ?? null });
  }
};
