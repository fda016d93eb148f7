/** Sound of an episode at `SOUND_RATE`, two channels interleaved, on the episode clock: whoever renders reads it from here. */
export interface SampleSource {
  /** Copies samples `[from, to)` of the clock into `out`, from its sample `at` on; what no recording holds is left as it is. */
  copy(from: number, to: number, out: Float32Array, at: number): Promise<void>;
  /** The same as the 16-bit samples that the source is made of, where it is. */
  copyAsStored?(from: number, to: number, out: Int16Array, at: number): Promise<void>;
  /** Sound that takes long to work out, kept under a name for a while. */
  once(name: string, work: () => Promise<Float32Array>): Promise<Float32Array>;
}

/** Samples `[from, to)` of the clock; silence where no recording has any. */
export async function samplesOf(source: SampleSource, from: number, to: number): Promise<Float32Array> {
  const samples = new Float32Array(2 * Math.max(0, to - from));
  await source.copy(from, to, samples, 0);
  return samples;
}
