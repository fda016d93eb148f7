import FFT from 'fft.js';
import { hertzOf, melOf } from '../curves/mel.ts';

const RATE = 16_000;
const LENGTH = 400;
const SHIFT = 160;
/** Seconds from one frame to the next. */
export const FRAME_SHIFT = SHIFT / RATE;
/** Samples of a frame for networks that hear 31.25 ms at a time. */
const LONG_LENGTH = 500;
const SIZE = 512;
const PREEMPHASIS = 0.97;
/** The least that is taken the logarithm of: what single precision can tell from nothing. */
const LEAST = 1.192_092_9e-7;
/** What a deviation is never less than, by which an even band would be divided. */
const LEAST_DEVIATION = 1e-5;

/** A scale of pitch, from hertz and back. */
interface Scale {
  readonly of: (hertz: number) => number;
  readonly back: (place: number) => number;
}

const MEL: Scale = { of: melOf, back: hertzOf };
const [STRAIGHT_TO, STRAIGHT_STEP, BENT_STEP] = [1000, 200 / 3, Math.log(6.4) / 27];
/** Slaney 1998: straight up to 1 kHz, logarithmic above. */
const SLANEY: Scale = {
  of: (hertz) =>
    hertz < STRAIGHT_TO ? hertz / STRAIGHT_STEP : STRAIGHT_TO / STRAIGHT_STEP + Math.log(hertz / STRAIGHT_TO) / BENT_STEP,
  back: (place) =>
    place < STRAIGHT_TO / STRAIGHT_STEP
      ? place * STRAIGHT_STEP
      : STRAIGHT_TO * Math.exp((place - STRAIGHT_TO / STRAIGHT_STEP) * BENT_STEP),
};

/** How a network takes its bands. */
export interface BankForm {
  readonly bands: number;
  /** hertz over which the filters lie */
  readonly range: readonly [lowest: number, highest: number];
  /** on which the filters lie evenly */
  readonly scale: Scale;
  /** filters are triangles over hertz, of one area; else triangles over the scale, of one height */
  readonly sameArea: boolean;
  /** what each of the samples of a frame counts for */
  readonly window: (k: number) => number;
  /** samples of a frame, where it is not the usual 25 ms */
  readonly length?: number;
  /** each frame goes without its mean */
  readonly centred: boolean;
  /** frames lie wholly inside the sound; else they reach over its ends, where it is reflected */
  readonly inside?: boolean;
}

const hann = (k: number, period: number): number => 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / period);

/** A Hann window to the power of 0.85 (Povey et al. 2011, the Kaldi toolkit). */
export const POVEY_BANK: BankForm = {
  bands: 80,
  range: [20, 7600],
  scale: MEL,
  sameArea: false,
  window: (k) => hann(k, LENGTH - 1) ** 0.85,
  centred: true,
};
/** The same over all that is heard, by a Hamming window. */
export const HAMMING_BANK: BankForm = {
  ...POVEY_BANK,
  range: [20, RATE / 2],
  window: (k) => 0.54 - 0.46 * Math.cos((2 * Math.PI * k) / (LENGTH - 1)),
  inside: true,
};
/** Slaney's bands (Auditory Toolbox, 1998). */
export const SLANEY_BANK: BankForm = {
  bands: 80,
  range: [0, RATE / 2],
  scale: SLANEY,
  sameArea: true,
  window: (k) => hann(k, LENGTH),
  centred: false,
};
/** The same over longer frames. */
export const LONG_SLANEY_BANK: BankForm = {
  ...SLANEY_BANK,
  length: LONG_LENGTH,
  window: (k) => hann(k, LONG_LENGTH),
};
/** Bands on the mel scale, each of one height. */
export const MEL_BANK: BankForm = { ...SLANEY_BANK, bands: 64, scale: MEL, sameArea: false };

/** A filter's weights on bins of the spectrum, from a first one on. */
interface Filter {
  readonly first: number;
  readonly weights: Float64Array;
}

function filters({ bands, range, scale, sameArea }: BankForm): Filter[] {
  const low = scale.of(range[0]);
  const step = (scale.of(range[1]) - low) / (bands + 1);
  const axis = sameArea ? (hertz: number) => hertz : scale.of;
  return Array.from({ length: bands }, (_, k) => {
    const [left, centre, right] = [k, k + 1, k + 2].map((edge) => axis(scale.back(low + edge * step))) as [
      number,
      number,
      number,
    ];
    const height = sameArea ? 2 / (right - left) : 1;
    const weights = Array.from({ length: SIZE / 2 }, (_, bin) => {
      const at = axis((bin * RATE) / SIZE);
      return height * Math.max(0, Math.min((at - left) / (centre - left), (right - at) / (right - centre)));
    });
    const first = Math.max(
      0,
      weights.findIndex((weight) => weight > 0),
    );
    return { first, weights: Float64Array.from(weights.slice(first, weights.findLastIndex((weight) => weight > 0) + 1)) };
  });
}

/** Bands of a sound, frame by frame: natural logarithms of power. */
export interface Bands {
  readonly values: Float32Array;
  readonly frames: number;
}

/**
 * Logarithms of bands as speech networks take them: 25 ms each 10 ms, pre-emphasised.
 * @param samples 16,000 a second
 */
export function filterBank(samples: Float32Array, form: BankForm): Bands {
  const { bands, centred, inside = false, length = LENGTH } = form;
  const frames = inside
    ? Math.max(0, 1 + Math.floor((samples.length - length) / SHIFT))
    : Math.floor((samples.length + SHIFT / 2) / SHIFT);
  const lead = inside ? 0 : (length - SHIFT) / 2;
  const values = new Float32Array(frames * bands);
  const window = Float64Array.from({ length }, (_, k) => form.window(k));
  const bank = filters(form);
  const fft = new FFT(SIZE);
  const [spectrum, frame] = [fft.createComplexArray(), new Float64Array(SIZE)];
  for (let n = 0; n < frames; n++) {
    const begin = n * SHIFT - lead;
    let sum = 0;
    for (let k = 0; k < length; k++) {
      frame[k] = samples[reflected(begin + k, samples.length)] as number;
      sum += frame[k] as number;
    }
    if (centred) for (let k = 0; k < length; k++) frame[k] = (frame[k] as number) - sum / length;
    for (let k = length - 1; k >= 0; k--)
      frame[k] = ((frame[k] as number) - PREEMPHASIS * (frame[Math.max(0, k - 1)] as number)) * (window[k] as number);
    fft.realTransform(spectrum, frame);
    for (const [band, { first, weights }] of bank.entries()) {
      let power = 0;
      for (const [k, weight] of weights.entries()) {
        const at = 2 * (first + k);
        power += weight * ((spectrum[at] as number) ** 2 + (spectrum[at + 1] as number) ** 2);
      }
      values[n * bands + band] = Math.log(Math.max(power, LEAST));
    }
  }
  return { values, frames };
}

/** Each band of a sound by how far it is from its mean, in deviations of its own. */
export function evened({ values, frames }: Bands, bands: number): Bands {
  const even = new Float32Array(values.length);
  for (let band = 0; band < bands; band++) {
    let [sum, squares] = [0, 0];
    for (let at = band; at < values.length; at += bands) sum += values[at] as number;
    const mean = sum / frames;
    for (let at = band; at < values.length; at += bands) squares += ((values[at] as number) - mean) ** 2;
    const deviation = Math.sqrt(squares / frames) + LEAST_DEVIATION;
    for (let at = band; at < values.length; at += bands) even[at] = ((values[at] as number) - mean) / deviation;
  }
  return { values: even, frames };
}

/** How frames are laid together, and each number of them shifted and scaled. */
export interface Stacking {
  /** frames that become one, and frames from one of these to the next */
  readonly size: number;
  readonly shift: number;
  /** what is added to each number of a stack, and what it is multiplied by then */
  readonly added: readonly number[];
  readonly scale: readonly number[];
}

/** Frames laid together by several, around each of them that is kept; beyond both ends the first and the last are said again. */
export function stacked({ values, frames }: Bands, bands: number, { size, shift, added, scale }: Stacking): Bands {
  const stacks = Math.ceil(frames / shift);
  const width = size * bands;
  const lead = (size - 1) >> 1;
  const laid = new Float32Array(stacks * width);
  for (let n = 0; n < stacks; n++)
    for (let k = 0; k < width; k++) {
      const frame = Math.min(frames - 1, Math.max(0, n * shift - lead + Math.floor(k / bands)));
      const value = values[frame * bands + (k % bands)] as number;
      laid[n * width + k] = (value + (added[k] ?? 0)) * (scale[k] ?? 1);
    }
  return { values: laid, frames: stacks };
}

/** Bands in place of frames, and frames in place of bands. */
export function bandByBand({ values, frames }: Bands, bands: number): Float32Array {
  return Float32Array.from(values, (_, k) => values[(k % frames) * bands + Math.floor(k / frames)] as number);
}

/** A place in what is so long, beyond whose ends it goes on backwards. */
function reflected(at: number, length: number): number {
  let place = at;
  while (place < 0 || place >= length) place = place < 0 ? -place - 1 : 2 * length - 1 - place;
  return place;
}
