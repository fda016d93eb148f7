import FFT from 'fft.js';
import { type HeldSound, pitchToCode } from './voice.ts';

export const VOICE_SAMPLE_RATE = 16_000;
const SIZE = 1024;
export const VOICE_HOP_SAMPLES = 256;
const HOP = VOICE_HOP_SAMPLES / VOICE_SAMPLE_RATE;

/** Pitches that voices have, in hertz. */
const LOWEST = 65;
const HIGHEST = 420;
const FROM_LAG = Math.floor(VOICE_SAMPLE_RATE / HIGHEST);
const TO_LAG = Math.ceil(VOICE_SAMPLE_RATE / LOWEST);
/** A frame is voiced when it is this much like itself a period later, and this loud. */
const LEAST_PERIODIC = 0.5;
const LEAST_POWER = 1e-7;
/** Bands of the spectrum that are compared, spaced as the ear does up to 5 kHz. */
const BANDS = 18;
/** A sound is held while its spectrum changes by less than so many decibels a band from frame to frame ... */
const MOST_CHANGE = 3.2;
/** ... and its pitch by less than so many codes: about a semitone. */
const MOST_PITCH_STEP = 5;
const LEAST_FRAMES = 3;

const bandEdges = Array.from({ length: BANDS + 1 }, (_, k) => {
  const mel = melOf(120) + ((melOf(5000) - melOf(120)) * k) / BANDS;
  return Math.round(((700 * (10 ** (mel / 2595) - 1)) / VOICE_SAMPLE_RATE) * SIZE);
});

function melOf(hertz: number): number {
  return 2595 * Math.log10(1 + hertz / 700);
}

/**
 * Finds held sounds in a stream of samples. Pitch by the autocorrelation of each frame, corrected for its window
 * (Boersma 1993), change by the distance of the spectra of neighbouring frames in bands of the mel scale.
 */
export class HoldingMeter {
  readonly sounds: HeldSound[] = [];
  private readonly fft = new FFT(SIZE);
  private readonly window = Float64Array.from({ length: SIZE }, (_, k) => 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / SIZE));
  private readonly windowLikeness: Float64Array;
  private readonly spectrum = this.fft.createComplexArray();
  private readonly power = this.fft.createComplexArray();
  private readonly back = this.fft.createComplexArray();
  private readonly frame = new Float64Array(SIZE);
  private before: Float64Array | undefined;
  private frames = 0;
  private held: { first: number; pitches: number[]; change: number } | undefined;

  constructor() {
    this.windowLikeness = Float64Array.from(this.likenessOf(this.window, false));
  }

  /**
   * Takes the next frame: 1024 samples, each frame 256 further on than the last. The first is centred on the start.
   * @param samples in -1..1
   */
  push(samples: Float64Array): void {
    let power = 0;
    for (let k = 0; k < SIZE; k++) power += (samples[k] as number) ** 2;
    power /= SIZE;
    const likeness = this.likenessOf(samples, true);
    const pitch = power > LEAST_POWER ? this.pitchIn(likeness) : 0;
    const bands = this.bands();
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

  /** Autocorrelation over its value at no lag. Leaves the spectrum of the frame behind. */
  private likenessOf(samples: Float64Array, windowed: boolean): number[] {
    let mean = 0;
    for (let k = 0; k < SIZE; k++) mean += samples[k] as number;
    mean = windowed ? mean / SIZE : 0;
    for (let k = 0; k < SIZE; k++) this.frame[k] = ((samples[k] as number) - mean) * (windowed ? (this.window[k] as number) : 1);
    this.fft.realTransform(this.spectrum, this.frame);
    this.fft.completeSpectrum(this.spectrum);
    for (let k = 0; k < SIZE; k++) {
      const [re, im] = [this.spectrum[2 * k] as number, this.spectrum[2 * k + 1] as number];
      this.power[2 * k] = re * re + im * im;
      this.power[2 * k + 1] = 0;
    }
    this.fft.inverseTransform(this.back, this.power);
    const whole = (this.back[0] as number) || 1;
    return Array.from({ length: TO_LAG + 2 }, (_, lag) => (this.back[2 * lag] as number) / whole);
  }

  private pitchIn(likeness: readonly number[]): number {
    let [best, at] = [0, 0];
    for (let lag = FROM_LAG; lag <= TO_LAG; lag++) {
      const here = corrected(likeness, this.windowLikeness, lag);
      if (here < corrected(likeness, this.windowLikeness, lag - 1) || here < corrected(likeness, this.windowLikeness, lag + 1))
        continue;
      // Twice the period is as like as the period: the shorter is meant.
      if (here > best + 0.05) [best, at] = [here, lag];
    }
    return best >= LEAST_PERIODIC ? pitchToCode(VOICE_SAMPLE_RATE / at) : 0;
  }

  private bands(): Float64Array {
    const bands = new Float64Array(BANDS);
    for (let band = 0; band < BANDS; band++) {
      let sum = 1e-9;
      for (let k = bandEdges[band] as number; k < (bandEdges[band + 1] as number); k++) sum += this.power[2 * k] as number;
      bands[band] = 10 * Math.log10(sum);
    }
    return bands;
  }
}

const corrected = (likeness: readonly number[], window: Float64Array, lag: number): number =>
  (likeness[lag] as number) / Math.max(0.1, window[lag] as number);

/** Mean difference of the bands in decibels; those far under the loudest do not count. */
function distance(a: Float64Array, b: Float64Array): number {
  const loudest = Math.max(...a, ...b);
  let sum = 0;
  let count = 0;
  for (let k = 0; k < BANDS; k++) {
    const [x, y] = [Math.max(a[k] as number, loudest - 45), Math.max(b[k] as number, loudest - 45)];
    sum += Math.abs(x - y);
    count++;
  }
  return sum / count;
}
