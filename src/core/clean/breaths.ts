import type { Range, Seconds } from '../time/range.ts';
import type { NoiseProfile } from './noiseProfile.ts';

/** Steps in which a channel is followed. */
export const BREATH_STEP: Seconds = 0.01;
const PER_SECOND = 1 / BREATH_STEP;
/** Voicing is looked for at this rate, in windows of this many samples, at the pitch of voices: from 70 to 400 hertz. */
const SLOW_RATE = 4000;
const WINDOW = 160;
const SHORTEST = Math.floor(SLOW_RATE / 400);
const FURTHEST = Math.ceil(SLOW_RATE / 70);
/** What is brighter than this, in hertz, is an s and no breath. */
const BRIGHT = 4000;
const NOTHING = -120;

/** What is followed along a channel, by steps of `BREATH_STEP`. */
export interface BreathSteps {
  /** dB under full scale */
  readonly levels: Float32Array;
  /** the highest normalised autocorrelation at the pitch of voices: 1 for a vowel, near nought for noise */
  readonly voicing: Float32Array;
  /** the share of power over `BRIGHT` */
  readonly bright: Float32Array;
}

const decibels = (power: number): number => (power <= 0 ? NOTHING : Math.max(NOTHING, 10 * Math.log10(power)));

/** Follows what tells a breath from speech. */
export class BreathTrace {
  private readonly size: number;
  private readonly slower: number;
  private readonly smoothing: number;
  private readonly levels: number[] = [];
  private readonly voicing: number[] = [];
  private readonly bright: number[] = [];
  private readonly recent = new Float32Array(WINDOW);
  private place = 0;
  private slow = 0;
  private slowCount = 0;
  private low = 0;
  private power = 0;
  private brightPower = 0;
  private count = 0;

  constructor(rate: number) {
    this.size = Math.round(BREATH_STEP * rate);
    this.slower = Math.max(1, Math.round(rate / SLOW_RATE));
    this.smoothing = 1 - Math.exp((-2 * Math.PI * BRIGHT) / rate);
  }

  push(samples: Float32Array): void {
    for (const sample of samples) {
      this.low += this.smoothing * (sample - this.low);
      this.power += sample * sample;
      this.brightPower += (sample - this.low) ** 2;
      this.slow += sample;
      if (++this.slowCount === this.slower) {
        this.recent[this.place] = this.slow / this.slower;
        this.place = (this.place + 1) % WINDOW;
        this.slow = 0;
        this.slowCount = 0;
      }
      if (++this.count < this.size) continue;
      this.levels.push(decibels(this.power / this.size));
      this.bright.push(this.power > 0 ? this.brightPower / this.power : 0);
      this.voicing.push(this.voiced());
      this.power = 0;
      this.brightPower = 0;
      this.count = 0;
    }
  }

  /** How like a voice the last 40 ms are. */
  private voiced(): number {
    const { recent, place } = this;
    const ordered = new Float32Array(WINDOW);
    ordered.set(recent.subarray(place));
    ordered.set(recent.subarray(0, place), WINDOW - place);
    return likenessIn(ordered);
  }

  get steps(): BreathSteps {
    return {
      levels: Float32Array.from(this.levels),
      voicing: Float32Array.from(this.voicing),
      bright: Float32Array.from(this.bright),
    };
  }
}

/** The highest normalised autocorrelation of samples at the lags of voices; their mean is taken away in place. */
function likenessIn(samples: Float32Array): number {
  let mean = 0;
  for (const one of samples) mean += one / WINDOW;
  const upTo = new Float32Array(WINDOW + 1);
  for (let k = 0; k < WINDOW; k++) {
    const one = (samples[k] as number) - mean;
    samples[k] = one;
    upTo[k + 1] = (upTo[k] as number) + one * one;
  }
  const all = upTo[WINDOW] as number;
  let best = 0;
  for (let lag = SHORTEST; lag <= FURTHEST; lag++) {
    let both = 0;
    for (let k = lag; k < WINDOW; k++) both += (samples[k] as number) * (samples[k - lag] as number);
    if (both <= 0) continue;
    best = Math.max(best, both / Math.sqrt((all - (upTo[lag] as number)) * (upTo[WINDOW - lag] as number) + 1e-20));
  }
  return best;
}

/** A breath stands over the noise and under the voice by so much, in dB. */
const OVER_NOISE = 5;
const UNDER_SPEECH = 12;
/** ... is no vowel and no s. */
const MOST_VOICED = 0.6;
const MOST_BRIGHT = 0.5;
/** ... lasts so long */
const LEAST: Seconds = 0.14;
const LONGEST: Seconds = 1;
/** ... and comes after a gap, so that it is not the end of a word. */
const GAP: Seconds = 0.05;
/** What goes over into a voice may be its first consonant: so much before it is left, and what is shorter wholly. */
const CONSONANT: Seconds = 0.12;

/** Where somebody breathes, in seconds of the channel: noise in no word, softer than speech, after a gap. */
export function breathsIn(
  { levels, voicing, bright }: BreathSteps,
  { noise, speech }: Pick<NoiseProfile, 'noise' | 'speech'>,
): Range[] {
  const floor = noise + OVER_NOISE;
  const ceiling = speech - UNDER_SPEECH;
  const isQuiet = (k: number) => (levels[k] ?? NOTHING) < floor;
  const isBreath = (k: number) =>
    !isQuiet(k) && (levels[k] as number) < ceiling && (voicing[k] as number) < MOST_VOICED && (bright[k] as number) < MOST_BRIGHT;
  const found: Range[] = [];
  const gap = Math.round(GAP * PER_SECOND);
  let quiet = gap;
  for (let k = 0; k < levels.length; ) {
    if (isQuiet(k)) quiet++;
    if (isQuiet(k) || !isBreath(k)) {
      if (!isQuiet(k)) quiet = 0;
      k++;
      continue;
    }
    let to = k;
    while (to < levels.length && isBreath(to)) to++;
    // A voice at its end: what is before it may belong to it.
    const end = isQuiet(to) ? to : to - Math.round(CONSONANT * PER_SECOND);
    const seconds = (end - k) * BREATH_STEP;
    if (quiet >= gap && seconds >= LEAST && seconds <= LONGEST) found.push({ start: k * BREATH_STEP, end: end * BREATH_STEP });
    quiet = 0;
    k = to;
  }
  return found;
}

/** Steps over which a gain comes and goes. */
const SLOPE = 3;

/** Gains that lower breaths by so many dB, for each of so many steps; none where nobody breathes. */
export function breathGains(breaths: readonly Range[], by: number, steps: number): Float32Array {
  if (breaths.length === 0 || by === 0) return new Float32Array(0);
  const gains = new Float32Array(steps);
  for (const { start, end } of breaths) {
    const [from, to] = [Math.round(start * PER_SECOND), Math.round(end * PER_SECOND)];
    for (let k = from; k < to; k++) gains[k] = -by * Math.min(1, (k - from + 1) / SLOPE, (to - k) / SLOPE);
  }
  return gains;
}
