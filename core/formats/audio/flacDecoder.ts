import type { LibAV } from '@libav.js/variant-default';
import { no, type AudioFacts, type FlacFacts } from './facts';
import type { FlacFrame } from './flacFrames';
import type { Samples } from '../../base/units';

/** Decoded samples, interleaved, at the top of 16 or of 32 bits. */
export type FlacSamples = Int16Array | Int32Array;

/** Where the page has the decoder's files. */
let files: { readonly toImport: string; readonly wasmurl: string } | undefined;
export const decoderIsAt = (places: typeof files) => (files = places);

/** One for all files of a thread. */
let making: Promise<LibAV> | null = null;
const library = () => (making ??= load());
async function load(): Promise<LibAV> {
  const { default: wrapper } = await import('@libav.js/variant-default');
  const libav = await wrapper.LibAV({ noworker: true, ...files });
  await libav.av_log_set_level(QUIET);
  return libav;
}
/** The library's numbers: of FLAC, and for saying nothing on the console. */
const CODEC_ID = 86028;
const QUIET = -8;

type Handles = readonly [context: number, packet: number, frame: number];
/** Gives back what a decoder has that was let go of in the middle of a file. */
const left = new FinalizationRegistry(({ libav, handles }: { libav: LibAV; handles: Handles }) => {
  void libav.ff_free_decoder(...handles).catch(() => {});
});

/** Decodes frames of FLAC of 4 to 32 bits to whole numbers, by FFmpeg's decoder. */
export class FlacDecoder {
  private constructor(
    private readonly library: LibAV,
    private readonly handles: Handles,
    private readonly channels: number,
    private readonly wide: boolean,
  ) {
    left.register(this, { libav: library, handles }, this);
  }

  /** @throws Refusal `audio` where it does not take what the file's first block says */
  static async of({
    flac,
    channels,
    sampleRate,
  }: AudioFacts & { readonly flac: FlacFacts }): Promise<FlacDecoder> {
    const libav = await library();
    const codecpar = {
      codec_type: libav.AVMEDIA_TYPE_AUDIO,
      codec_id: CODEC_ID,
      extradata: flac.streamInfo,
      sample_rate: sampleRate,
    };
    const [, ...handles] = await libav.ff_init_decoder('flac', { codecpar }).catch(() => {
      throw no('its first block tells of audio that FLAC does not have');
    });
    return new FlacDecoder(libav, handles, channels, flac.bits > 16);
  }

  /** @returns the samples of the frames, and whether they are those of all of them */
  async decode(
    frames: readonly FlacFrame[],
  ): Promise<{ readonly samples: FlacSamples; readonly whole: boolean }> {
    let parts = await this.decoded(frames);
    const whole = parts !== null;
    if (!parts) {
      // Those before the one that is damaged are right.
      parts = [];
      for (const frame of frames) {
        const one = await this.decoded([frame]);
        if (!one) break;
        parts.push(...one);
      }
    }
    const count = parts.reduce((sum, part) => sum + part.length, 0);
    const samples = new (this.wide ? Int32Array : Int16Array)(count);
    let at = 0;
    for (const part of parts) {
      samples.set(part, at);
      at += part.length;
    }
    return { samples, whole };
  }
  private async decoded(frames: readonly FlacFrame[]): Promise<FlacSamples[] | null> {
    const packets = frames.map(({ data }) => ({ data, stream_index: 0 }));
    const out = await this.library.ff_decode_multi(...this.handles, packets).catch(() => []);
    const right = (samples: Samples, k: number) => out[k]?.data.length === samples * this.channels;
    return out.length === frames.length && frames.every((f, k) => right(f.samples, k))
      ? out.map(({ data }) => data)
      : null;
  }

  async free(): Promise<void> {
    left.unregister(this);
    await this.library.ff_free_decoder(...this.handles);
  }
}
