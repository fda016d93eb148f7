/// <reference types="astro/client" />

declare module 'soundtouchjs';

declare module 'sherpa-onnx-node' {
  interface Stream {
    acceptWaveform(wave: Wave): void;
  }
  interface Wave {
    samples: Float32Array;
    sampleRate: number;
  }
  interface OfflineRecognizer {
    createStream(): Stream;
    decodeAsync(stream: Stream): Promise<{
      text: string;
      tokens: string[];
      timestamps: number[];
      durations: number[];
      ys_log_probs: number[];
    }>;
  }
  interface SpeakerEmbeddingExtractor {
    createStream(): Stream;
    compute(stream: Stream): Float32Array;
  }
  interface OfflineSpeakerDiarization {
    readonly handle: object;
  }
  const engine: {
    SpeakerEmbeddingExtractor: new (configuration: unknown) => SpeakerEmbeddingExtractor;
    OfflineSpeakerDiarization: new (configuration: unknown) => OfflineSpeakerDiarization;
    OfflineRecognizer: { createAsync(configuration: unknown): Promise<OfflineRecognizer> };
    /** @param isShared whether its samples stay where the engine put them */
    readWave(path: string, isShared: boolean): Wave;
  };
  export default engine;
}

declare module 'sherpa-onnx-node/addon.js' {
  const addon: {
    /**
     * @param handle of an `OfflineSpeakerDiarization`
     * @param tell told how many parts of how many are done
     * @returns who speaks from when to when, in seconds
     */
    offlineSpeakerDiarizationProcessAsync(
      handle: object,
      samples: Float32Array,
      tell: (done: number, all: number) => number,
    ): Promise<{ start: number; end: number; speaker: number }[]>;
  };
  export default addon;
}

declare namespace App {
  interface Locals extends Readonly<import('./server/http/webServer.ts').Asker> {}
}

interface ImportMetaEnv {
  /** where the page's worker lies; see astro.config.mjs */
  readonly THREAD_ADDRESS: string;
}
