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
  private readonly filter: HighPass;
  /** Samples of a group that a chunk ended in. */
  private rest = new Int16Array(0);
  private counted = 0;
  private hops = 0;
  private nextHop: number;
  private hopStart = 0;
  private powers: [number, number] = [-1, -1];
  private levelOut = new Uint8Array(FLUSH);
  private levelCount = 0;
  private buckets = 0;
  private nextBucket: number;
  private readonly running: Running = { power: 0, low: HIGHEST, high: -HIGHEST };
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
    this.filter = {
      b0: norm,
      a1: 2 * (c * c - 1) * norm,
      a2: (1 - Math.SQRT2 * c + c * c) * norm,
      memory: new Float64Array(4),
    };
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
    if (this.running.low <= this.running.high) this.endBucket();
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

  private run(samples: Int16Array, groups: number): void {
    const { group, filter, running } = this;
    for (let done = 0; done < groups; ) {
      const count = Math.min(groups - done, Math.min(this.nextHop, this.nextBucket) - this.counted);
      take(samples, done * group, count, group, filter, running);
      done += count;
      this.counted += count;
      if (this.counted === this.nextHop) this.endHop();
      if (this.counted === this.nextBucket) this.endBucket();
    }
  }

  private endHop(): void {
    const power = this.running.power / (this.counted - this.hopStart);
    const [before, last] = this.powers;
    if (last >= 0) this.emitLevel(before >= 0 ? (before + last + power) / 3 : (last + power) / 2);
    this.powers = [last, power];
    this.running.power = 0;
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
    const { running, group } = this;
    this.emitPeaks(0, compand(running.low / group), compand(running.high / group));
    running.low = HIGHEST;
    running.high = -HIGHEST;
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

/** What a hop and a bucket hold so far: the sum of squares after filtering, and the lowest and highest sum of a group. */
interface Running {
  power: number;
  low: number;
  high: number;
}

/** A second-order section that is run twice, in the transposed direct form, with what the two runs remember. */
interface HighPass {
  readonly b0: number;
  readonly a1: number;
  readonly a2: number;
  readonly memory: Float64Array;
}

/**
 * The hot loop: `count` groups of samples from `from` on. A function of its own, since its dozen numbers then stay in
 * registers: as a part of a method it took half as long again. Peaks are those of sums of groups: one shorter than a group
 * is lowered by that, by less than a pixel shows.
 */
function take(samples: Int16Array, from: number, count: number, group: number, filter: HighPass, running: Running): void {
  const { b0, a1, a2, memory } = filter;
  const scale = b0 / (group * 32768);
  let { power, low, high } = running;
  let s1 = memory[0] as number;
  let s2 = memory[1] as number;
  let t1 = memory[2] as number;
  let t2 = memory[3] as number;
  for (let k = 0, at = from; k < count; k++, at += group) {
    // The common group, three at 48 and 44.1 kHz, without an inner loop.
    const sum =
      group === 3
        ? (samples[at] as number) + (samples[at + 1] as number) + (samples[at + 2] as number)
        : sumOf(samples, at, at + group);
    if (sum < low) low = sum;
    if (sum > high) high = sum;
    const x = sum * scale;
    const y = x + s1;
    s1 = s2 - 2 * x - a1 * y;
    s2 = x - a2 * y;
    // The same filter once more: hum at twice the mains frequency would raise the floor over soft word ends.
    const scaled = y * b0;
    const z = scaled + t1;
    t1 = t2 - 2 * scaled - a1 * z;
    t2 = scaled - a2 * z;
    power += z * z;
  }
  memory[0] = s1;
  memory[1] = s2;
  memory[2] = t1;
  memory[3] = t2;
  running.power = power;
  running.low = low;
  running.high = high;
}

function sumOf(samples: Int16Array, from: number, to: number): number {
  let sum = 0;
  for (let k = from; k < to; k++) sum += samples[k] as number;
  return sum;
}

/** One layer of the pyramid while it is measured: what waits to be merged into it, and what waits to be written. */
class Layer {
  low = 0;
  high = 0;
  merged = 0;
  count = 0;
  readonly out = new Int8Array(FLUSH);
}
