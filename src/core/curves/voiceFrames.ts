import FFT from 'fft.js';
import { hertzOf, melOf } from './mel.ts';
import { pitchToCode } from './voice.ts';

export const VOICE_SAMPLE_RATE = 16_000;
export const VOICE_FRAME = 1024;
export const VOICE_HOP_SAMPLES = 256;

/** Pitches that voices have, in hertz. */
const LOWEST = 65;
const HIGHEST = 420;
const FROM_LAG = Math.floor(VOICE_SAMPLE_RATE / HIGHEST);
const TO_LAG = Math.ceil(VOICE_SAMPLE_RATE / LOWEST);
/** A frame is voiced when it is this much like itself a period later, and this loud. */
const LEAST_PERIODIC = 0.5;
const LEAST_POWER = 1e-7;
/** Bands of the spectrum that are compared, spaced as the ear does up to 5 kHz. */
export const VOICE_BANDS = 18;

const bandEdges = Array.from({ length: VOICE_BANDS + 1 }, (_, k) => {
  const mel = melOf(120) + ((melOf(5000) - melOf(120)) * k) / VOICE_BANDS;
  return Math.round((hertzOf(mel) / VOICE_SAMPLE_RATE) * VOICE_FRAME);
});

/** What a voice does in one frame. */
export interface VoiceSpectrum {
  /** code of the pitch; 0 where there is none */
  readonly pitch: number;
  /** decibels in `VOICE_BANDS` bands */
  readonly bands: Float64Array;
}

/** How far one pitch accounts for what sounds in a frame. */
export interface Periodicity {
  /** how much the frame is like itself a period later: 1 is wholly */
  readonly first: number;
  /** what is left of its energy once that period is taken away, as a natural logarithm of the share: 0 is all */
  readonly left: number;
  /** how much what is left is like itself a period of its own later, no multiple of the first: 0 where nothing was periodic */
  readonly second: number;
}

/**
 * Looks at frames of samples: pitch by the autocorrelation of each, corrected for its window (Boersma 1993), and its spectrum in bands of the
 * mel scale.
 */
export class VoiceFrames {
  private readonly fft = new FFT(VOICE_FRAME);
  private readonly window = hann(0);
  private readonly combWindow = hann(TO_LAG);
  private readonly windowLikeness: Float64Array;
  private readonly combLikeness: Float64Array;
  private readonly combed = new Float64Array(VOICE_FRAME);
  private readonly spectrum = this.fft.createComplexArray();
  private readonly power = this.fft.createComplexArray();
  private readonly back = this.fft.createComplexArray();
  private readonly frame = new Float64Array(VOICE_FRAME);

  constructor() {
    this.windowLikeness = Float64Array.from(this.likenessOf(this.window, undefined));
    this.combLikeness = Float64Array.from(this.likenessOf(this.combWindow, undefined));
  }

  /** @param samples `VOICE_FRAME` of them, in -1..1 */
  look(samples: Float64Array): VoiceSpectrum {
    return this.spectrumOf(samples, this.likenessOf(samples, this.window));
  }

  /**
   * The same, and whether somebody else sounds beside the voice that is loudest: its period is taken away (a comb filter, as in de
   * Cheveigné 1993), and what is left is looked at for another one.
   */
  lookForTwo(samples: Float64Array): VoiceSpectrum & Periodicity {
    const likeness = this.likenessOf(samples, this.window);
    const energy = this.back[0] as number;
    return { ...this.spectrumOf(samples, likeness), ...this.periodicityOf(samples, likeness, energy) };
  }

  /** @param likeness of the samples, which was looked for last */
  private spectrumOf(samples: Float64Array, likeness: readonly number[]): VoiceSpectrum {
    let power = 0;
    for (let k = 0; k < VOICE_FRAME; k++) power += (samples[k] as number) ** 2;
    power /= VOICE_FRAME;
    return { pitch: power > LEAST_POWER ? this.pitchIn(likeness) : 0, bands: this.bands() };
  }

  private periodicityOf(samples: Float64Array, likeness: readonly number[], energy: number): Periodicity {
    const first = bestPeriod(likeness, this.windowLikeness);
    if (first.lag === 0) return { first: 0, left: 0, second: 0 };
    this.combed.fill(0);
    for (let k = TO_LAG; k < VOICE_FRAME; k++) this.combed[k] = (samples[k] as number) - (samples[k - first.lag] as number);
    const rest = this.likenessOf(this.combed, this.combWindow);
    // Two independent parts as loud as each other would be twice one; the shorter window holds less.
    const left = Math.log(((this.back[0] as number) * COMB_SHARE + 1e-12) / (2 * energy + 1e-12));
    const second = first.likeness > LEAST_FIRST ? bestPeriod(rest, this.combLikeness, first.lag).likeness : 0;
    return { first: Math.min(1, first.likeness), left: Math.max(MOST_TAKEN, Math.min(1, left)), second: Math.min(1, second) };
  }

  /** Autocorrelation over its value at no lag. Leaves the spectrum of the frame behind. */
  private likenessOf(samples: Float64Array, window: Float64Array | undefined): number[] {
    let mean = 0;
    for (let k = 0; k < VOICE_FRAME; k++) mean += samples[k] as number;
    mean = window ? mean / VOICE_FRAME : 0;
    for (let k = 0; k < VOICE_FRAME; k++) this.frame[k] = ((samples[k] as number) - mean) * (window ? (window[k] as number) : 1);
    this.fft.realTransform(this.spectrum, this.frame);
    this.fft.completeSpectrum(this.spectrum);
    for (let k = 0; k < VOICE_FRAME; k++) {
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
    const bands = new Float64Array(VOICE_BANDS);
    for (let band = 0; band < VOICE_BANDS; band++) {
      let sum = 1e-9;
      for (let k = bandEdges[band] as number; k < (bandEdges[band + 1] as number); k++) sum += this.power[2 * k] as number;
      bands[band] = 10 * Math.log10(sum);
    }
    return bands;
  }
}

/** A window over a frame from a sample on to its end, nothing before it. */
const hann = (from: number): Float64Array =>
  Float64Array.from({ length: VOICE_FRAME }, (_, k) =>
    k < from ? 0 : 0.5 - 0.5 * Math.cos((2 * Math.PI * (k - from)) / (VOICE_FRAME - from)),
  );

/** By how much the longer of the two windows holds more energy. */
const COMB_SHARE = VOICE_FRAME / (VOICE_FRAME - TO_LAG);
/** A frame that is less like itself has no voice to take away. */
const LEAST_FIRST = 0.4;
/** So little is left of a lone vowel at most, as a logarithm. */
const MOST_TAKEN = -6;
/** A period within this of a multiple or a part of another is the same voice's. */
const SAME_PERIOD = 0.06;
/** A period an octave longer must be this much more like: it is as like as the one it doubles. */
const OCTAVE_COST = 0.02;

/** The period after which a frame is most like itself; lag 0 where there is none. @param not a period whose multiples and parts are none */
function bestPeriod(
  likeness: readonly number[],
  window: Float64Array,
  not = 0,
): { readonly lag: number; readonly likeness: number } {
  let best = { lag: 0, likeness: 0, worth: 0 };
  for (let lag = FROM_LAG; lag < TO_LAG; lag++) {
    const here = corrected(likeness, window, lag);
    if (here < corrected(likeness, window, lag - 1) || here < corrected(likeness, window, lag + 1)) continue;
    const worth = here - OCTAVE_COST * Math.log2(lag / FROM_LAG);
    if (worth <= best.worth || (not > 0 && isSamePeriod(lag / not))) continue;
    best = { lag, likeness: here, worth };
  }
  return best;
}

function isSamePeriod(ratio: number): boolean {
  const [times, parts] = [Math.max(1, Math.round(ratio)), Math.max(1, Math.round(1 / ratio))];
  return Math.abs(ratio - times) < SAME_PERIOD * times || Math.abs(1 / ratio - parts) < SAME_PERIOD;
}

const corrected = (likeness: readonly number[], window: Float64Array, lag: number): number =>
  (likeness[lag] as number) / Math.max(0.1, window[lag] as number);
