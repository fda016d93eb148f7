import { LRUCache } from 'lru-cache';
import type { FileFacts, MediaFacts } from '@/core/contract/media.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import type { SampleSource } from '@/core/render/sampleSource.ts';
import type { Range } from '@/core/time/range.ts';
import { rawSound } from '../decoding.ts';
import { mixOf } from '../sound.ts';

/** A file whose sound is read, and where it stands on the episode clock. */
export interface SoundFile extends Range {
  readonly path: string;
  readonly facts: MediaFacts;
  /** where its sound is read from, where it is another file */
  readonly sound?: { readonly path: string; readonly facts: MediaFacts } | undefined;
  /** files of further pictures, by their names as angles */
  readonly angles?: Readonly<Record<string, PictureFile>> | undefined;
}

/** A file whose picture is read. */
export interface PictureFile {
  readonly path: string;
  readonly facts: FileFacts;
}

/** Two channels of 16 bits, which go from -32768. */
const FRAME_BYTES = 4;
const TO_UNIT = 1 / 32_768;
/** Samples that are kept behind the last one read: seams and stretched parts look back so far. */
const KEPT = 20 * SOUND_RATE;
/** ... and as much again, so that they are moved to the front only now and then. */
const ROOM = 2 * KEPT;

/**
 * The sound of an episode, decoded from front to back by one process a recording, with the last seconds kept. Whoever asks for what lies
 * further back, as where passages were moved, has the recording decoded again from its start: sample-exact in any format.
 */
export class ClockSamples implements SampleSource {
  private readonly readers = new Map<SoundFile, ForwardReader>();
  private readonly derived = new LRUCache<string, Promise<Float32Array>>({ max: 4 });

  constructor(
    private readonly files: readonly SoundFile[],
    private readonly signal: AbortSignal,
  ) {}

  async copy(from: number, to: number, out: Float32Array, at: number): Promise<void> {
    await this.each(from, to, (kept, place) => {
      const target = 2 * (at + place - from);
      for (let k = 0; k < kept.length; k++) out[target + k] = (kept[k] as number) * TO_UNIT;
    });
  }

  async copyAsStored(from: number, to: number, out: Int16Array, at: number): Promise<void> {
    await this.each(from, to, (kept, place) => out.set(kept, 2 * (at + place - from)));
  }

  /** Hands over what there is of samples `[from, to)` of the clock, each run with the sample that it begins at. */
  private async each(from: number, to: number, take: (samples: Int16Array, at: number) => void): Promise<void> {
    for (const file of this.files) {
      const place = Math.round(file.start * SOUND_RATE);
      const [first, last] = [Math.max(from, place), Math.min(to, Math.round(file.end * SOUND_RATE))];
      if (last <= first) continue;
      let reader = this.readers.get(file);
      if (!reader?.holds(first - place)) {
        reader?.close();
        reader = new ForwardReader(file, this.signal);
        this.readers.set(file, reader);
      }
      const { samples, at } = await reader.upTo(first - place, last - place);
      take(samples, place + at);
    }
  }

  once(name: string, work: () => Promise<Float32Array>): Promise<Float32Array> {
    const known = this.derived.get(name) ?? work();
    this.derived.set(name, known);
    return known;
  }

  close(): void {
    for (const reader of this.readers.values()) reader.close();
  }
}

/** One file's samples, read forwards. */
class ForwardReader {
  private readonly ending = new AbortController();
  private readonly chunks: AsyncIterator<Buffer>;
  /** the last frames that were read, `count` of them, the first of them being number `start` of the file */
  private readonly kept = new Int16Array(2 * ROOM);
  private readonly bytes = new Uint8Array(this.kept.buffer);
  private start = 0;
  private count = 0;
  private rest: Buffer = Buffer.alloc(0);
  private isAtEnd = false;

  constructor(file: SoundFile, signal: AbortSignal) {
    this.chunks = decodedMix(file, AbortSignal.any([signal, this.ending.signal]))[Symbol.asyncIterator]();
  }

  holds(sample: number): boolean {
    return sample >= this.start;
  }

  /** What there is of frames `[from, to)`: fewer at its end. @returns with the frame that it begins at */
  async upTo(from: number, to: number): Promise<{ readonly samples: Int16Array; readonly at: number }> {
    while (!this.isAtEnd && this.start + this.count < to) await this.read();
    const [first, last] = [Math.max(from, this.start), Math.min(to, this.start + this.count)];
    return { samples: this.kept.subarray(2 * (first - this.start), 2 * Math.max(first, last) - 2 * this.start), at: first };
  }

  private async read(): Promise<void> {
    const { value, done } = await this.chunks.next();
    if (done) {
      this.isAtEnd = true;
      return;
    }
    const bytes = this.rest.length > 0 ? Buffer.concat([this.rest, value]) : value;
    const frames = Math.floor(bytes.length / FRAME_BYTES);
    this.rest = bytes.subarray(frames * FRAME_BYTES);
    if (this.count + frames > ROOM) {
      const drop = this.count - KEPT;
      this.kept.copyWithin(0, 2 * drop, 2 * this.count);
      this.start += drop;
      this.count = KEPT;
    }
    this.bytes.set(bytes.subarray(0, frames * FRAME_BYTES), this.count * FRAME_BYTES);
    this.count += frames;
  }

  close(): void {
    this.ending.abort();
    // What is left in the pipe would keep it open for ever.
    this.chunks.return?.().catch(() => {});
  }
}

function decodedMix(file: SoundFile, signal: AbortSignal): AsyncGenerator<Buffer> {
  const { path, facts } = file.sound ?? file;
  const format = ['-filter_complex', mixOf(facts), '-map', '[mix]', '-ac', '2', '-f', 's16le'];
  return rawSound(path, format, file.end - file.start, signal);
}
