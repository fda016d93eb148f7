/** Sound of an episode at `SOUND_RATE`, two channels interleaved, on the episode clock: whoever renders reads it from here. */
export interface SampleSource {
  /** Copies samples `[from, to)` of the clock into `out`, from its sample `at` on; what no recording holds is left as it is. */
  copy(from: number, to: number, out: Float32Array, at: number): Promise<void>;
  /** Sound that takes long to work out, kept under a name for a while. */
  once(name: string, work: () => Promise<Float32Array>): Promise<Float32Array>;
}
