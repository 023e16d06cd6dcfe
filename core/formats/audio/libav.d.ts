/** What is used of the package: its own types stand where the compiler does not look for them. */
declare module '@libav.js/variant-default' {
  export interface Options {
    /** Whether it runs in this thread. */
    readonly noworker: true;
    /** Where its code and its WebAssembly are fetched from; beside the package where that is not said. */
    readonly toImport?: string;
    readonly wasmurl?: string;
  }
  export interface Parameters {
    readonly codec_type: number;
    readonly codec_id: number;
    readonly extradata: Uint8Array;
    readonly sample_rate: number;
  }
  export interface Packet {
    readonly data: Uint8Array;
    readonly stream_index: number;
  }
  export interface Frame {
    readonly data: Int16Array | Int32Array;
    readonly nb_samples: number;
  }
  export interface LibAV {
    readonly AVMEDIA_TYPE_AUDIO: number;
    av_log_set_level(level: number): Promise<void>;
    ff_init_decoder(
      name: string,
      config: { readonly codecpar: Parameters },
    ): Promise<[codec: number, context: number, packet: number, frame: number]>;
    /** @throws where a packet cannot be decoded */
    ff_decode_multi(
      context: number,
      packet: number,
      frame: number,
      packets: readonly Packet[],
    ): Promise<Frame[]>;
    ff_free_decoder(context: number, packet: number, frame: number): Promise<void>;
  }
  const wrapper: { LibAV(options: Options): Promise<LibAV> };
  export default wrapper;
}
