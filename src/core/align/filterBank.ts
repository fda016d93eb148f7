import FFT from 'fft.js';

const RATE = 16_000;
const LENGTH = 400;
const SHIFT = 160;
const SIZE = 512;
const PREEMPHASIS = 0.97;
/** The band, in hertz, over which the filters lie. */
const [LOWEST, HIGHEST] = [20, RATE / 2 - 400] as const;
/** The least that is taken the logarithm of: what single precision can tell from nothing. */
const LEAST = 1.192_092_9e-7;

const mel = (hertz: number): number => 1127 * Math.log(1 + hertz / 700);

/** A filter's weights on bins of the spectrum, from a first one on. */
interface Filter {
  readonly first: number;
  readonly weights: Float64Array;
}

function filters(count: number): Filter[] {
  const [low, step] = [mel(LOWEST), (mel(HIGHEST) - mel(LOWEST)) / (count + 1)];
  return Array.from({ length: count }, (_, k) => {
    const [left, centre, right] = [low + k * step, low + (k + 1) * step, low + (k + 2) * step];
    const weights = Array.from({ length: SIZE / 2 }, (_, bin) => {
      const at = mel((bin * RATE) / SIZE);
      if (at <= left || at >= right) return 0;
      return at <= centre ? (at - left) / (centre - left) : (right - at) / (right - centre);
    });
    const first = Math.max(
      0,
      weights.findIndex((weight) => weight > 0),
    );
    return { first, weights: Float64Array.from(weights.slice(first, weights.findLastIndex((weight) => weight > 0) + 1)) };
  });
}

/**
 * Logarithms of mel bands as speech networks take them: 25 ms each 10 ms, reflected at the ends, without its mean, pre-emphasised, under a Hann
 * window to the power of 0.85 (Povey et al. 2011, the Kaldi toolkit).
 * @param samples 16,000 a second
 * @returns frames of so many bands
 */
export function filterBank(samples: Float32Array, bands: number): { readonly values: Float32Array; readonly frames: number } {
  const frames = Math.floor((samples.length + SHIFT / 2) / SHIFT);
  const values = new Float32Array(frames * bands);
  const window = Float64Array.from(
    { length: LENGTH },
    (_, k) => (0.5 - 0.5 * Math.cos((2 * Math.PI * k) / (LENGTH - 1))) ** 0.85,
  );
  const bank = filters(bands);
  const fft = new FFT(SIZE);
  const [spectrum, frame] = [fft.createComplexArray(), new Float64Array(SIZE)];
  for (let n = 0; n < frames; n++) {
    const begin = n * SHIFT + SHIFT / 2 - LENGTH / 2;
    let sum = 0;
    for (let k = 0; k < LENGTH; k++) {
      frame[k] = samples[reflected(begin + k, samples.length)] as number;
      sum += frame[k] as number;
    }
    for (let k = 0; k < LENGTH; k++) frame[k] = (frame[k] as number) - sum / LENGTH;
    for (let k = LENGTH - 1; k >= 0; k--)
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

/** A place in what is so long, beyond whose ends it goes on backwards. */
function reflected(at: number, length: number): number {
  let place = at;
  while (place < 0 || place >= length) place = place < 0 ? -place - 1 : 2 * length - 1 - place;
  return place;
}
