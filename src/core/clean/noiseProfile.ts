import { Spectrum } from './spectrum.ts';

/** Size of the frames in which noise is measured and lowered, in samples. */
export const NOISE_FRAME = 2048;
/** Size of those in which hum is looked for: fine enough to part 50 from 60 hertz. */
const HUM_FRAME = 16_384;
/** Steps of level that frames are sorted by, in dB, down to what counts as nothing. */
const STEP = 1;
const LOWEST = -110;
const LEVELS = -LOWEST / STEP + 1;
/** The share of all frames that counts as the quietest, and how many those are at least. */
const QUIETEST = 0.1;
const LEAST_FRAMES = 12;

/** What a track holds where nobody speaks. */
export interface NoiseProfile {
  /** power of each bin of a frame of `NOISE_FRAME` samples under the window; empty where the quietest is digital silence */
  readonly power: Float64Array;
  /** dB under full scale */
  readonly noise: number;
  /** ... of what is loud: speech */
  readonly speech: number;
  /** frequencies of the hum that was found, in hertz; the mains first, then its harmonics */
  readonly hum: readonly number[];
  /** what is quiet and what is loud in each of `BANDS`, in dB under full scale */
  readonly bands: { readonly noise: readonly number[]; readonly speech: readonly number[] };
}

/** Middles of bands of a third of an octave, in hertz. */
export const BANDS: readonly number[] = Array.from({ length: 25 }, (_, k) => 1000 * 2 ** ((k - 12) / 3));
/** The share of all frames that counts as loud. */
const LOUDEST = 0.3;

/** The power of a mean spectrum in each band. */
const bandsOf = (power: Float64Array, rate: number): number[] =>
  BANDS.map((middle) => {
    const width = rate / NOISE_FRAME;
    const [low, high] = [middle * 2 ** (-1 / 6), middle * 2 ** (1 / 6)];
    let sum = 0;
    // A bin that reaches into two bands counts in each by its part.
    for (let k = Math.floor(low / width); k <= Math.ceil(high / width); k++) {
      const part = Math.min(high, (k + 0.5) * width) - Math.max(low, (k - 0.5) * width);
      if (part > 0) sum += ((power[k] ?? 0) * part) / width;
    }
    return Math.max(LOWEST, 10 * Math.log10((4 * sum) / NOISE_FRAME ** 2 + 1e-20));
  });

/** Sorts frames of one size by their level, and keeps the mean spectrum of each level. */
class ByLevel {
  private readonly spectrum: Spectrum;
  private readonly sums: (Float64Array | undefined)[] = Array(LEVELS).fill(undefined);
  private readonly counts = new Uint32Array(LEVELS);
  /** frames of digital silence */
  private silent = 0;
  private rest = new Float32Array(0);

  constructor(private readonly size: number) {
    this.spectrum = new Spectrum(size);
  }

  push(samples: Float32Array): void {
    const joined = new Float32Array(this.rest.length + samples.length);
    joined.set(this.rest);
    joined.set(samples, this.rest.length);
    let at = 0;
    for (; at + this.size <= joined.length; at += this.size / 2) this.take(joined, at);
    this.rest = joined.slice(at);
  }

  private take(samples: Float32Array, at: number): void {
    let sum = 0;
    for (let k = at; k < at + this.size; k++) sum += (samples[k] as number) ** 2;
    const level = 10 * Math.log10(sum / this.size + 1e-20);
    if (level <= LOWEST) {
      this.silent++;
      return;
    }
    const place = Math.min(LEVELS - 1, Math.max(0, Math.round((level - LOWEST) / STEP)));
    const { bins } = this.spectrum;
    const spectrum = this.spectrum.of(samples, at);
    this.sums[place] ??= new Float64Array(bins);
    const known = this.sums[place] as Float64Array;
    for (let k = 0; k < bins; k++)
      known[k] = (known[k] as number) + (spectrum[2 * k] as number) ** 2 + (spectrum[2 * k + 1] as number) ** 2;
    this.counts[place] = (this.counts[place] as number) + 1;
  }

  private all(): number {
    return this.counts.reduce((sum, count) => sum + count, this.silent);
  }

  /** Mean spectrum and level of the quietest frames; undefined where those are digital silence. */
  quietest(): { readonly power: Float64Array; readonly level: number } | undefined {
    const wanted = Math.max(LEAST_FRAMES, QUIETEST * this.all());
    if (this.silent >= wanted) return undefined;
    const power = new Float64Array(this.spectrum.bins);
    let count = 0;
    let level = LOWEST;
    for (let place = 0; place < LEVELS && count < wanted; place++) {
      const sum = this.sums[place];
      if (!sum) continue;
      for (let k = 0; k < power.length; k++) power[k] = (power[k] as number) + (sum[k] as number);
      count += this.counts[place] as number;
      level = LOWEST + place * STEP;
    }
    if (count === 0) return undefined;
    return { power: power.map((one) => one / count), level };
  }

  /** Mean spectrum of the loudest frames. */
  loudest(): Float64Array {
    const wanted = LOUDEST * this.all();
    const power = new Float64Array(this.spectrum.bins);
    let count = 0;
    for (let place = LEVELS - 1; place >= 0 && count < wanted; place--) {
      const sum = this.sums[place];
      if (!sum) continue;
      for (let k = 0; k < power.length; k++) power[k] = (power[k] as number) + (sum[k] as number);
      count += this.counts[place] as number;
    }
    return power.map((one) => one / Math.max(1, count));
  }

  /** The level that a share of all frames stays under. */
  levelAt(share: number): number {
    const all = this.all();
    let count = this.silent;
    for (let place = 0; place < LEVELS; place++) {
      count += this.counts[place] as number;
      if (count >= share * all) return LOWEST + place * STEP;
    }
    return LOWEST;
  }
}

/** Measures what a track holds where nobody speaks, going through it once. */
export class NoiseMeter {
  private readonly frames = new ByLevel(NOISE_FRAME);
  private readonly long = new ByLevel(HUM_FRAME);

  /** @param looksForHum which takes as long as all the rest */
  constructor(
    private readonly rate: number,
    private readonly looksForHum = true,
  ) {}

  push(samples: Float32Array): void {
    this.frames.push(samples);
    if (this.looksForHum) this.long.push(samples);
  }

  profile(): NoiseProfile {
    const quiet = this.frames.quietest();
    const long = this.long.quietest();
    return {
      power: quiet?.power ?? new Float64Array(0),
      noise: quiet?.level ?? LOWEST,
      speech: this.frames.levelAt(0.9),
      hum: long ? humIn(long.power, this.rate / HUM_FRAME) : [],
      bands: {
        noise: bandsOf(quiet?.power ?? new Float64Array(0), this.rate),
        speech: bandsOf(this.frames.loudest(), this.rate),
      },
    };
  }
}

/** Of the mains, all over the world. */
const MAINS = [50, 60] as const;
const HARMONICS = 12;
/** A line of a spectrum stands so far, in dB, over what is beside it. */
const STANDS_OUT = 9;
/** The mains wander by so much, as a share. */
const WANDER = 0.006;

/** Frequencies of hum in a spectrum: the mains and those of its harmonics that stand out. Two of the first four must. */
function humIn(power: Float64Array, width: number): number[] {
  const found = MAINS.map((mains) => {
    const lines: number[] = [];
    for (let n = 1; n <= HARMONICS; n++) {
      const line = lineNear(power, (mains * n) / width, Math.max(1, (WANDER * mains * n) / width));
      if (line !== undefined) lines.push(line * width);
    }
    return { lines, first: lines.filter((line) => line < 4.5 * mains).length };
  });
  const best = found.reduce((a, b) => (b.first > a.first ? b : a));
  return best.first >= 2 ? best.lines : [];
}

/** Bins beside a line that tell what is there without it. */
const BESIDE = 8;

/** The place of a line near a bin, between bins; undefined where none stands out. */
function lineNear(power: Float64Array, at: number, reach: number): number | undefined {
  const [low, high] = [Math.floor(at - reach), Math.ceil(at + reach)];
  let best = low;
  for (let k = low; k <= high; k++) if ((power[k] ?? 0) > (power[best] ?? 0)) best = k;
  const beside: number[] = [];
  for (let k = best - BESIDE; k <= best + BESIDE; k++) if (k > 0 && Math.abs(k - best) > 3) beside.push(power[k] ?? 0);
  beside.sort((a, b) => a - b);
  const usual = beside[Math.floor(beside.length / 2)] ?? 0;
  if (10 * Math.log10(((power[best] ?? 0) + 1e-30) / (usual + 1e-30)) < STANDS_OUT) return undefined;
  // The top of a parabola through the line and its neighbours, in dB.
  const [a, b, c] = [best - 1, best, best + 1].map((k) => Math.log((power[k] ?? 0) + 1e-30)) as [number, number, number];
  const bend = a - 2 * b + c;
  return best + (bend < 0 ? (a - c) / (2 * bend) : 0);
}
