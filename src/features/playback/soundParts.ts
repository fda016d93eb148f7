import { LRUCache } from 'lru-cache';
import { SOUND_PART_SECONDS, SOUND_RATE } from '@/core/contract/sound.ts';
import type { SampleSource } from '@/core/render/sampleSource.ts';
import { recordingAt } from '@/core/sources/recording.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import { api } from '../api.ts';

/** A recording whose sound can be fetched, on the episode clock. */
export interface SoundSource extends Range {
  readonly mediaId: string;
  /** names its cleaned sound, where that is heard, and what it is multiplied by to be as loud as the recorded */
  readonly cleaned?: { readonly key: string; readonly gain: number } | undefined;
}

/** Decoded parts kept: about two minutes, fifty megabytes. */
const KEPT = 16;
/** How urgent a request is (RFC 9218): what is about to be heard comes before what may be heard next. */
const NOW = 1;
const LATER = 5;
const SIZE = SOUND_PART_SECONDS * SOUND_RATE;

/** Fetches, decodes and keeps the sound of recordings by parts of equal length. All moments and samples are counted on the episode clock. */
export class SoundParts implements SampleSource {
  private readonly parts = new LRUCache<string, Promise<AudioBuffer | undefined>>({ max: KEPT });
  private readonly derived = new LRUCache<string, Promise<Float32Array>>({ max: KEPT });

  private readonly closing = new AbortController();

  constructor(
    private readonly context: BaseAudioContext,
    private readonly sources: readonly SoundSource[],
  ) {}

  /** Copies samples `[from, to)` of the clock, two channels interleaved; what no recording holds is left as it is. */
  async copy(from: number, to: number, out: Float32Array, at: number): Promise<void> {
    for (const source of this.sources) {
      const place = Math.round(source.start * SOUND_RATE);
      const first = Math.max(0, from - place);
      const last = Math.min(Math.round(source.end * SOUND_RATE), to) - place;
      for (let k = first; k < last; ) {
        const part = Math.floor(k / SIZE);
        const until = Math.min(last, (part + 1) * SIZE);
        const buffer = await this.part(source, part);
        if (buffer) copyBuffer(buffer, k - part * SIZE, until - k, out, at + place + k - from, source.cleaned?.gain);
        k = until;
      }
    }
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

  /** Nobody will hear what is still on its way. */
  close(): void {
    this.closing.abort();
  }

  /** Begins to fetch the part that holds a moment, without waiting. */
  prefetch(at: Seconds): void {
    const source = recordingAt(this.sources, at);
    if (source && at < source.end)
      void this.part(source, Math.floor((at - source.start) / SOUND_PART_SECONDS), LATER).catch(() => {});
  }

  private part(source: SoundSource, index: number, urgency = NOW): Promise<AudioBuffer | undefined> {
    const key = `${source.mediaId} ${index}`;
    const known = this.parts.get(key);
    if (known) return known;
    const fetched = this.fetch(source, index, urgency);
    this.parts.set(key, fetched);
    fetched.catch(() => this.parts.delete(key));
    return fetched;
  }

  private async fetch(
    { mediaId, start, end, cleaned }: SoundSource,
    index: number,
    urgency: number,
  ): Promise<AudioBuffer | undefined> {
    if (index < 0 || index * SOUND_PART_SECONDS >= end - start) return undefined;
    const answer = await fetch(api.sound(mediaId, index, cleaned?.key), {
      headers: { priority: `u=${urgency}` },
      signal: this.closing.signal,
    });
    if (!answer.ok) throw new Error('The sound could not be fetched.');
    return this.context.decodeAudioData(await answer.arrayBuffer());
  }
}

/** Copies samples of a buffer, two channels interleaved, silence past its end. */
function copyBuffer(buffer: AudioBuffer, from: number, count: number, out: Float32Array, at: number, gain = 1): void {
  const left = buffer.getChannelData(0);
  const right = buffer.numberOfChannels > 1 ? buffer.getChannelData(1) : left;
  for (let k = 0; k < count; k++) {
    out[2 * (at + k)] = gain * (left[from + k] ?? 0);
    out[2 * (at + k) + 1] = gain * (right[from + k] ?? 0);
  }
}
