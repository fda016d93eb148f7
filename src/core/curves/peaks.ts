/** Buckets a second in the finest layer of a peak pyramid: 5 ms, about a pixel at the closest zoom. */
export const PEAK_BASE_RATE = 200;
/** Each layer of the pyramid is this many times coarser than the one below. */
export const PEAK_FACTOR = 4;
export const PEAK_LAYERS = 5;

export const peakLayerRate = (layer: number): number => PEAK_BASE_RATE / PEAK_FACTOR ** layer;

/** The coarsest layer that still has a bucket for each pixel. */
export function layerFor(pixelsPerSecond: number): number {
  let layer = 0;
  while (layer + 1 < PEAK_LAYERS && peakLayerRate(layer + 1) >= pixelsPerSecond) layer++;
  return layer;
}

/**
 * Sample value (-32768..32767) to a peak byte (-127..127) by square root: drawing wants soft consonants to be
 * visible beside loud vowels, and eight linear bits would show nothing under -42 dBFS.
 */
export const compand = (sample: number): number =>
  sample < 0 ? -Math.round(127 * Math.sqrt(-sample / 32768)) : Math.round(127 * Math.sqrt(sample / 32768));
