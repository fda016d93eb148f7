import FFT from 'fft.js';

/** A shift of a signal against another, in samples and parts of one, and how far it stands out from all others. */
export interface Peak {
  readonly shift: number;
  /** height over what is usual, in standard deviations of all shifts */
  readonly height: number;
}

/** Parts of the spectrum that are compared, as shares of the sampling rate. */
export interface Band {
  readonly low: number;
  readonly high: number;
}

/**
 * The shift at which a short signal goes best with a part of a long one: the short one's first sample lies `shift` samples after the long one's.
 * Only shifts count at which at least `overlap` of the short signal lies within the long one.
 * @param band where it is given, frequencies within it count alike however loud they are (generalised cross-correlation with phase
 * transform, Knapp and Carter 1976): sharp where rooms and microphones differ
 */
export function bestShift(long: Float32Array, short: Float32Array, overlap: number, band?: Band): Peak {
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, long.length + short.length)));
  const fft = new FFT(size);
  // Cut off hard, a tone would end in a click like any other.
  const [a, b] = [long, short].map((signal) => spectrumOf(fft, band ? tapered(signal) : signal, size)) as [number[], number[]];
  const product = fft.createComplexArray();
  for (let k = 0; k < size; k++) {
    const frequency = Math.min(k, size - k) / size;
    if (band && (frequency < band.low || frequency > band.high)) {
      product[2 * k] = 0;
      product[2 * k + 1] = 0;
      continue;
    }
    const [ar, ai, br, bi] = [a[2 * k] ?? 0, a[2 * k + 1] ?? 0, b[2 * k] ?? 0, b[2 * k + 1] ?? 0];
    const [re, im] = [ar * br + ai * bi, ai * br - ar * bi];
    const weight = band ? 1 / (Math.hypot(re, im) || 1) : 1;
    product[2 * k] = re * weight;
    product[2 * k + 1] = im * weight;
  }
  const out = fft.createComplexArray();
  fft.inverseTransform(out, product);
  const at = (shift: number): number => out[2 * ((shift + size) % size)] ?? 0;
  const least = Math.ceil(overlap * short.length);
  const [from, to] = [least - short.length, long.length - least];
  let best = from;
  let [sum, squares] = [0, 0];
  for (let shift = from; shift <= to; shift++) {
    const value = at(shift);
    sum += value;
    squares += value * value;
    if (value > at(best)) best = shift;
  }
  const count = Math.max(1, to - from + 1);
  const mean = sum / count;
  const deviation = Math.sqrt(Math.max(0, squares / count - mean * mean));
  return {
    shift: best + betweenSamples(at(best - 1), at(best), at(best + 1)),
    height: deviation > 0 ? (at(best) - mean) / deviation : 0,
  };
}

/** A signal that rises from silence and falls back to it, a quarter of it each (a tapered cosine window). */
function tapered(signal: Float32Array): Float32Array {
  const edge = Math.max(1, Math.floor(signal.length / 4));
  return signal.map((sample, k) => {
    const near = Math.min(k + 0.5, signal.length - k - 0.5, edge);
    return sample * 0.5 * (1 - Math.cos((Math.PI * near) / edge));
  });
}

function spectrumOf(fft: FFT, signal: Float32Array, size: number): number[] {
  const padded = new Float64Array(size);
  padded.set(signal);
  const out = fft.createComplexArray();
  fft.realTransform(out, padded);
  fft.completeSpectrum(out);
  return out;
}

/** Where a parabola through three values is highest, counted from the middle one. */
function betweenSamples(before: number, here: number, after: number): number {
  const bend = before - 2 * here + after;
  return bend < 0 ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend))) : 0;
}
