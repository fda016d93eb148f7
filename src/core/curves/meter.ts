import { LEVEL_RATE, powerToCode } from './level.ts';
import { compand, PEAK_BASE_RATE, PEAK_FACTOR, PEAK_LAYERS } from './peaks.ts';

/** Where a meter puts what it measured. Chunks are fresh arrays that the receiver may keep. */
export interface MeterSink {
  level(codes: Uint8Array): void;
  peaks(layer: number, pairs: Int8Array): void;
}

/** Detection runs on about 16 kHz: enough for the fricatives, a third of the work at 48 kHz. */
const WORKING_RATE = 16_000;
/** Below this there is hum, rumble, wind and handling noise, and little of speech that helps to find it. */
const HIGH_PASS_HZ = 180;
const FLUSH = 4096;
/** Beyond any sum of a group. */
const HIGHEST = 2 ** 30;

/**
 * Measures one track in a single streaming pass and constant memory: level each 10 ms (RMS over 30 ms after a
 * fourth-order high-pass) and the peak pyramid for drawing.
 *
 * Samples are averaged in groups down to about 16 kHz before filtering. The average is a crude low-pass, but what
 * folds down is a few decibels of the top octave, which counts as sound either way.
 */
export class TrackMeter {
  private readonly group: number;
  private readonly rate: number;
  private readonly b0: number;
  private readonly a1: number;
  private readonly a2: number;
  private x1 = 0;
  private x2 = 0;
  private y1 = 0;
  private y2 = 0;
  private z1 = 0;
  private z2 = 0;
  /** Samples of a group that a chunk ended in. */
  private rest = new Int16Array(0);
  private counted = 0;
  private hops = 0;
  private nextHop: number;
  private hopPower = 0;
  private hopStart = 0;
  private powers: [number, number] = [-1, -1];
  private levelOut = new Uint8Array(FLUSH);
  private levelCount = 0;
  private buckets = 0;
  private nextBucket: number;
  /** sums of groups */
  private low = HIGHEST;
  private high = -HIGHEST;
  private sums = new Int32Array(0);
  private readonly layers = Array.from({ length: PEAK_LAYERS }, () => new Layer());

  /** @param sampleRate samples a second of what `push` will get (mono, signed 16 bit) */
  constructor(
    sampleRate: number,
    private readonly sink: MeterSink,
  ) {
    this.group = Math.max(1, Math.round(sampleRate / WORKING_RATE));
    this.rate = sampleRate / this.group;
    // Butterworth high-pass by the bilinear transform (Oppenheim & Schafer, Discrete-Time Signal Processing, 7.1).
    const c = Math.tan((Math.PI * HIGH_PASS_HZ) / this.rate);
    const norm = 1 / (1 + Math.SQRT2 * c + c * c);
    this.b0 = norm;
    this.a1 = 2 * (c * c - 1) * norm;
    this.a2 = (1 - Math.SQRT2 * c + c * c) * norm;
    this.nextHop = Math.round(this.rate / LEVEL_RATE);
    this.nextBucket = Math.round(this.rate / PEAK_BASE_RATE);
  }

  push(chunk: Int16Array): void {
    const missing = Math.min(chunk.length, (this.group - this.rest.length) % this.group);
    if (missing > 0) {
      const started = new Int16Array(this.rest.length + missing);
      started.set(this.rest);
      started.set(chunk.subarray(0, missing), this.rest.length);
      this.rest = started;
      if (started.length < this.group) return;
      this.run(started, 1);
    }
    const samples = chunk.subarray(missing);
    const groups = Math.floor(samples.length / this.group);
    this.run(samples, groups);
    this.rest = samples.slice(groups * this.group);
  }

  /** Seconds measured so far. */
  get seconds(): number {
    return this.counted / this.rate;
  }

  finish(): void {
    if (this.counted > this.hopStart) this.endHop();
    const [before, last] = this.powers;
    if (last >= 0) this.emitLevel(before >= 0 ? (before + last) / 2 : last);
    if (this.low <= this.high) this.endBucket();
    for (let layer = 0; layer < PEAK_LAYERS; layer++) {
      const carry = this.layers[layer] as Layer;
      if (carry.merged > 0) this.emitPeaks(layer, carry.low, carry.high);
      carry.merged = 0;
      if (carry.count > 0) this.sink.peaks(layer, carry.out.slice(0, carry.count));
      carry.count = 0;
    }
    if (this.levelCount > 0) this.sink.level(this.levelOut.slice(0, this.levelCount));
    this.levelCount = 0;
  }

  /**
   * The hot loop. Sums are made in a pass of their own and peaks are taken from them: a third of the comparisons, and
   * half the time in all. A peak shorter than a group is lowered by that, by less than a pixel shows.
   */
  private run(samples: Int16Array, groups: number): void {
    const { group, b0, a1, a2 } = this;
    if (this.sums.length < groups) this.sums = new Int32Array(groups);
    const sums = this.sums;
    sumGroups(samples, group, groups, sums);
    const scale = 1 / (group * 32768);
    let { x1, x2, y1, y2, z1, z2, low, high, hopPower } = this;
    for (let done = 0; done < groups; ) {
      const until = Math.min(groups, done + Math.min(this.nextHop, this.nextBucket) - this.counted);
      this.counted += until - done;
      for (; done < until; done++) {
        const sum = sums[done] as number;
        if (sum < low) low = sum;
        if (sum > high) high = sum;
        const x = sum * scale;
        // The newest value comes last: the next round waits for nothing else, and the loop runs a fifth faster.
        const y = b0 * (x - 2 * x1 + x2) - a2 * y2 - a1 * y1;
        x2 = x1;
        x1 = x;
        // The same filter once more: hum at twice the mains frequency would raise the floor over soft word ends.
        const z = b0 * (y - 2 * y1 + y2) - a2 * z2 - a1 * z1;
        y2 = y1;
        y1 = y;
        z2 = z1;
        z1 = z;
        hopPower += z * z;
      }
      if (this.counted === this.nextHop) {
        this.hopPower = hopPower;
        this.endHop();
        hopPower = 0;
      }
      if (this.counted === this.nextBucket) {
        this.low = low;
        this.high = high;
        this.endBucket();
        low = HIGHEST;
        high = -HIGHEST;
      }
    }
    this.x1 = x1;
    this.x2 = x2;
    this.y1 = y1;
    this.y2 = y2;
    this.z1 = z1;
    this.z2 = z2;
    this.low = low;
    this.high = high;
    this.hopPower = hopPower;
  }

  private endHop(): void {
    const power = this.hopPower / (this.counted - this.hopStart);
    const [before, last] = this.powers;
    if (last >= 0) this.emitLevel(before >= 0 ? (before + last + power) / 3 : (last + power) / 2);
    this.powers = [last, power];
    this.hopPower = 0;
    this.hopStart = this.counted;
    this.hops++;
    this.nextHop = Math.round(((this.hops + 1) * this.rate) / LEVEL_RATE);
  }

  private emitLevel(power: number): void {
    this.levelOut[this.levelCount++] = powerToCode(power);
    if (this.levelCount < FLUSH) return;
    this.sink.level(this.levelOut.slice());
    this.levelCount = 0;
  }

  private endBucket(): void {
    this.emitPeaks(0, compand(this.low / this.group), compand(this.high / this.group));
    this.low = HIGHEST;
    this.high = -HIGHEST;
    this.buckets++;
    this.nextBucket = Math.round(((this.buckets + 1) * this.rate) / PEAK_BASE_RATE);
  }

  private emitPeaks(layer: number, low: number, high: number): void {
    const carry = this.layers[layer] as Layer;
    carry.out[carry.count++] = low;
    carry.out[carry.count++] = high;
    if (carry.count === carry.out.length) {
      this.sink.peaks(layer, carry.out.slice());
      carry.count = 0;
    }
    const above = this.layers[layer + 1];
    if (!above) return;
    above.low = above.merged === 0 ? low : Math.min(above.low, low);
    above.high = above.merged === 0 ? high : Math.max(above.high, high);
    above.merged++;
    if (above.merged < PEAK_FACTOR) return;
    above.merged = 0;
    this.emitPeaks(layer + 1, above.low, above.high);
  }
}

/** Sums of `count` groups of samples; the common group, three at 48 and 44.1 kHz, without an inner loop. */
function sumGroups(samples: Int16Array, group: number, count: number, out: Int32Array): void {
  if (group === 3) {
    for (let k = 0, at = 0; k < count; k++, at += 3)
      out[k] = (samples[at] as number) + (samples[at + 1] as number) + (samples[at + 2] as number);
    return;
  }
  for (let k = 0, at = 0; k < count; k++) {
    let sum = 0;
    for (let j = 0; j < group; j++) sum += samples[at++] as number;
    out[k] = sum;
  }
}

/** One layer of the pyramid while it is measured: what waits to be merged into it, and what waits to be written. */
class Layer {
  low = 0;
  high = 0;
  merged = 0;
  count = 0;
  readonly out = new Int8Array(FLUSH);
}
