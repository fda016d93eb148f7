import { VOICE_BANDS, VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE, VoiceFrames } from '../curves/voiceFrames.ts';
import type { Seconds } from '../time/range.ts';

/** Frames a second. */
export const TIMBRE_RATE = VOICE_SAMPLE_RATE / VOICE_HOP_SAMPLES;

/** How a track sounds over time, frame by frame. */
export interface Timbre {
  /** `VOICE_BANDS` decibels a frame */
  readonly bands: Float32Array;
  /** codes of pitches; 0 where there is none */
  readonly pitch: Uint8Array;
  /** `first`, `left` and `second` of each frame: see `Periodicity` */
  readonly periodicity: Float32Array;
}

export const PERIODICITIES = 3;

/** Follows how a track sounds. */
export class TimbreMeter {
  private readonly looking = new VoiceFrames();
  private bands: Float32Array;
  private pitch: Uint8Array;
  private periodicity: Float32Array;
  private count = 0;

  /** @param duration about how long the track is */
  constructor(duration: Seconds) {
    const frames = Math.ceil(duration * TIMBRE_RATE) + 1;
    this.bands = new Float32Array(frames * VOICE_BANDS);
    this.pitch = new Uint8Array(frames);
    this.periodicity = new Float32Array(frames * PERIODICITIES);
  }

  /** Takes the next frame of `VOICE_FRAME` samples. */
  push(samples: Float64Array): void {
    if (this.count === this.pitch.length) {
      this.bands = grown(this.bands, new Float32Array(2 * this.bands.length));
      this.pitch = grown(this.pitch, new Uint8Array(2 * this.pitch.length));
      this.periodicity = grown(this.periodicity, new Float32Array(2 * this.periodicity.length));
    }
    const { pitch, bands, first, left, second } = this.looking.lookForTwo(samples);
    this.bands.set(bands, this.count * VOICE_BANDS);
    this.periodicity.set([first, left, second], this.count * PERIODICITIES);
    this.pitch[this.count++] = pitch;
  }

  get timbre(): Timbre {
    const { count } = this;
    return {
      bands: this.bands.subarray(0, count * VOICE_BANDS),
      pitch: this.pitch.subarray(0, count),
      periodicity: this.periodicity.subarray(0, count * PERIODICITIES),
    };
  }
}

function grown<T extends Float32Array | Uint8Array>(from: T, to: T): T {
  to.set(from);
  return to;
}
