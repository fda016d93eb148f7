import { LRUCache } from 'lru-cache';
import { SOUND_PART_SECONDS, SOUND_RATE } from '@/core/contract/sound.ts';
import { api } from '../api.ts';

/** Decoded parts kept: about two minutes, fifty megabytes. */
const KEPT = 16;

/** Fetches, decodes and keeps the sound of one medium by parts of equal length. */
export class SoundParts {
  private readonly parts = new LRUCache<number, Promise<AudioBuffer | undefined>>({ max: KEPT });
  private readonly derived = new LRUCache<string, Promise<Float32Array>>({ max: KEPT });

  constructor(
    private readonly context: BaseAudioContext,
    private readonly mediaId: string,
    private readonly duration: number,
  ) {}

  /** Loads what a stretch of the recording needs, in samples. */
  async load(from: number, to: number): Promise<Map<number, AudioBuffer>> {
    const size = SOUND_PART_SECONDS * SOUND_RATE;
    const loaded = new Map<number, AudioBuffer>();
    for (let part = Math.floor(from / size); part * size < to; part++) {
      const buffer = await this.part(part);
      if (buffer) loaded.set(part, buffer);
    }
    return loaded;
  }

  /** Sound that was worked out from parts, kept under a name: the last few only. */
  once(name: string, work: () => Promise<Float32Array>): Promise<Float32Array> {
    const known = this.derived.get(name);
    if (known) return known;
    const made = work();
    this.derived.set(name, made);
    made.catch(() => this.derived.delete(name));
    return made;
  }

  /** Begins to fetch the part that holds a moment, in seconds, without waiting. */
  prefetch(at: number): void {
    if (at < this.duration) void this.part(Math.floor(at / SOUND_PART_SECONDS)).catch(() => {});
  }

  private part(index: number): Promise<AudioBuffer | undefined> {
    const known = this.parts.get(index);
    if (known) return known;
    const fetched = this.fetch(index);
    this.parts.set(index, fetched);
    fetched.catch(() => this.parts.delete(index));
    return fetched;
  }

  private async fetch(index: number): Promise<AudioBuffer | undefined> {
    if (index < 0 || index * SOUND_PART_SECONDS >= this.duration) return undefined;
    const answer = await fetch(api.sound(this.mediaId, index));
    if (!answer.ok) throw new Error('The sound could not be fetched.');
    return this.context.decodeAudioData(await answer.arrayBuffer());
  }
}

/** Copies samples `[from, to)` of the recording, two channels interleaved, silence where there is none. */
export function copySamples(
  parts: ReadonlyMap<number, AudioBuffer>,
  from: number,
  to: number,
  out: Float32Array,
  at: number,
): void {
  const size = SOUND_PART_SECONDS * SOUND_RATE;
  for (let k = from; k < to; ) {
    const part = Math.floor(k / size);
    const until = Math.min(to, (part + 1) * size);
    const buffer = parts.get(part);
    if (buffer) {
      const left = buffer.getChannelData(0);
      const right = buffer.numberOfChannels > 1 ? buffer.getChannelData(1) : left;
      for (let j = k; j < until; j++) {
        const source = j - part * size;
        out[2 * (at + j - from)] = left[source] ?? 0;
        out[2 * (at + j - from) + 1] = right[source] ?? 0;
      }
    }
    k = until;
  }
}
