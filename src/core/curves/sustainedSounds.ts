import type { HeldSound } from './voice.ts';
import { VOICE_BANDS, VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE, VoiceFrames } from './voiceFrames.ts';

const HOP = VOICE_HOP_SAMPLES / VOICE_SAMPLE_RATE;

/** A sound is held while its spectrum changes by less than so many decibels a band from frame to frame ... */
const MOST_CHANGE = 3.2;
/** ... and its pitch by less than so many codes: about a semitone. */
const MOST_PITCH_STEP = 5;
const LEAST_FRAMES = 3;

/**
 * Finds held sounds in a stream of frames: those of one pitch whose spectrum hardly changes, by the distance of neighbouring frames in bands.
 */
export class HoldingMeter {
  readonly sounds: HeldSound[] = [];
  private readonly looking = new VoiceFrames();
  private before: Float64Array | undefined;
  private frames = 0;
  private held: { first: number; pitches: number[]; change: number } | undefined;

  /**
   * Takes the next frame: 1024 samples, each frame 256 further on than the last. The first is centred on the start.
   * @param samples in -1..1
   */
  push(samples: Float64Array): void {
    const { pitch, bands } = this.looking.look(samples);
    this.follow(pitch, this.before ? distance(bands, this.before) : 0);
    this.before = bands;
    this.frames++;
  }

  /** Ends what is held. */
  end(): readonly HeldSound[] {
    this.close();
    return this.sounds;
  }

  private follow(pitch: number, change: number): void {
    const last = this.held?.pitches.at(-1) ?? 0;
    if (pitch === 0 || (this.held && (change > MOST_CHANGE || Math.abs(pitch - last) > MOST_PITCH_STEP))) this.close();
    if (pitch === 0) return;
    if (!this.held) this.held = { first: this.frames, pitches: [pitch], change: 0 };
    else {
      this.held.pitches.push(pitch);
      this.held.change += change;
    }
  }

  private close(): void {
    const held = this.held;
    this.held = undefined;
    if (!held || held.pitches.length < LEAST_FRAMES) return;
    const sorted = [...held.pitches].sort((a, b) => a - b);
    this.sounds.push({
      start: held.first * HOP,
      length: held.pitches.length * HOP,
      pitch: sorted[sorted.length >> 1] as number,
      change: held.change / (held.pitches.length - 1),
    });
  }
}

/** Mean difference of the bands in decibels; those far under the loudest do not count. */
function distance(a: Float64Array, b: Float64Array): number {
  const loudest = Math.max(...a, ...b);
  let sum = 0;
  let count = 0;
  for (let k = 0; k < VOICE_BANDS; k++) {
    const [x, y] = [Math.max(a[k] as number, loudest - 45), Math.max(b[k] as number, loudest - 45)];
    sum += Math.abs(x - y);
    count++;
  }
  return sum / count;
}
