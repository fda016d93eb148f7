import { SimpleFilter, SoundTouch } from 'soundtouchjs';

/**
 * Plays samples faster with the pitch kept. Samples are pulled through: each `take` asks `pull` for as many as the
 * stretcher needs.
 */
export class Stretcher {
  private readonly filter: { extract(target: Float32Array, frames: number): number };
  private queue = new Float32Array(0);

  constructor(rate: number) {
    const touch = new SoundTouch();
    touch.tempo = rate;
    this.filter = new SimpleFilter(
      {
        extract: (target: Float32Array, frames: number): number => {
          const count = Math.min(frames, this.queue.length / 2);
          target.set(this.queue.subarray(0, count * 2));
          this.queue = this.queue.slice(count * 2);
          return count;
        },
      },
      touch,
    );
  }

  /** Puts interleaved samples in and gives back what has come through, interleaved. */
  push(samples: Float32Array): Float32Array {
    const joined = new Float32Array(this.queue.length + samples.length);
    joined.set(this.queue);
    joined.set(samples, this.queue.length);
    this.queue = joined;
    const out = new Float32Array(joined.length + 32_768);
    const frames = this.filter.extract(out, out.length / 2);
    return out.subarray(0, frames * 2);
  }
}
