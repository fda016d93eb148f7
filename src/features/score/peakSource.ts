import { LRUCache } from 'lru-cache';
import { HEADER_BYTES } from '@/core/curves/codec.ts';
import { PEAK_LAYERS, peakLayerRate } from '@/core/curves/peaks.ts';
import { indexAt } from '@/core/sources/recording.ts';
import type { Range } from '@/core/time/range.ts';
import { api } from '../api.ts';

/** Peaks are fetched in pieces of this many buckets, by byte range. */
const PIECE = 4096;
const BYTES = 2;
/** About eight megabytes. */
const KEPT = 1000;
const COARSEST = PEAK_LAYERS - 1;
/** A peak byte that fills a row, and the loudest of a voice so soft that it need not be enlarged further. */
const FULL = 120;
const QUIET = 40;
/** A piece that could not be had is asked for again after this, by what still wants it. */
const RETRY_MS = 2000;

/** A part of the peaks of one track. */
interface PieceName {
  readonly recording: number;
  readonly track: number;
  readonly layer: number;
  readonly index: number;
}

/** A recording whose peaks can be fetched, on the episode clock. */
export interface PeakRecording extends Range {
  readonly mediaId: string;
  readonly tracks: number;
}

/** The peak pyramids of all recordings' tracks, fetched as they come into sight. */
export class PeakSource {
  private readonly pieces = new LRUCache<string, Int8Array | 'loading'>({ max: KEPT });
  private readonly listeners = new Set<() => void>();
  /** how often something that was asked for has come, or can be asked for again */
  loads = 0;
  private recordings: readonly PeakRecording[] = [];
  /** as many as the recording with most of them has */
  tracks = 0;
  private loudest = QUIET;
  /** the piece asked for last, or that it is being fetched */
  private last: ({ piece: Int8Array | undefined } & PieceName) | undefined;

  /**
   * What to enlarge peaks by when drawing, so that a soft voice fills its row as well; never so that it leaves it. Known once
   * the coarsest layer is there: until then it is that of a soft voice.
   */
  gain = FULL / QUIET;

  /** @param recordings in order of the clock */
  configure(recordings: readonly PeakRecording[]): void {
    const isSame =
      recordings.length === this.recordings.length &&
      recordings.every(({ mediaId }, k) => mediaId === this.recordings[k]?.mediaId);
    this.recordings = recordings;
    this.tracks = Math.max(0, ...recordings.map(({ tracks }) => tracks));
    if (isSame) return;
    this.pieces.clear();
    this.loudest = QUIET;
    this.gain = FULL / QUIET;
    this.last = undefined;
    // Ahead of the rows: what they are enlarged by should be known when they are painted.
    for (const name of this.coarsest()) this.find(name);
  }

  private coarsest(): PieceName[] {
    return this.recordings.flatMap(({ tracks, start, end }, recording) => {
      const count = Math.ceil(((end - start) * peakLayerRate(COARSEST)) / PIECE);
      return Array.from({ length: tracks * count }, (_, k) => ({
        recording,
        track: Math.floor(k / count),
        layer: COARSEST,
        index: k % count,
      }));
    });
  }

  /** Tracks of the recording that a moment lies in. */
  tracksAt(at: number): number {
    return this.recordings[Math.max(0, indexAt(this.recordings, at))]?.tracks ?? 0;
  }

  /** Calls back when something that was asked for has come, or can be asked for again. */
  onLoad(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Lowest and highest peak byte of a track between two moments of the clock; undefined while it is fetched.
   * @param out receives them
   * @returns whether it was there
   */
  read(track: number, layer: number, from: number, to: number, out: { low: number; high: number }): boolean {
    out.low = 0;
    out.high = 0;
    const recording = Math.max(0, indexAt(this.recordings, from));
    const source = this.recordings[recording];
    if (!source || track >= source.tracks || from >= source.end) return true;
    const rate = peakLayerRate(layer);
    const first = Math.max(0, Math.floor((from - source.start) * rate));
    const last = Math.max(first + 1, Math.ceil((Math.min(to, source.end) - source.start) * rate));
    for (let k = first; k < last; ) {
      const index = Math.floor(k / PIECE);
      const piece = this.piece(recording, track, layer, index);
      if (!piece) return false;
      const until = Math.min(last, (index + 1) * PIECE);
      for (; k < until; k++) {
        const at = (k - index * PIECE) * 2;
        const low = piece[at];
        if (low === undefined) return true;
        const high = piece[at + 1] as number;
        if (low < out.low) out.low = low;
        if (high > out.high) out.high = high;
      }
    }
    return true;
  }

  private piece(recording: number, track: number, layer: number, index: number): Int8Array | undefined {
    // Rows ask pixel by pixel: the piece of the pixel before is nearly always the one that is wanted.
    const { last } = this;
    if (last && last.recording === recording && last.track === track && last.layer === layer && last.index === index)
      return last.piece;
    const name = { recording, track, layer, index };
    const piece = this.find(name);
    this.last = { ...name, piece };
    return piece;
  }

  private find(name: PieceName): Int8Array | undefined {
    const key = this.keyOf(name);
    const known = this.pieces.get(key);
    if (known) return known === 'loading' ? undefined : known;
    this.pieces.set(key, 'loading');
    // Starting it takes some milliseconds: what is there is painted first.
    setTimeout(() => void this.fetch(key, name));
    return undefined;
  }

  private keyOf({ recording, track, layer, index }: PieceName): string {
    return `${this.recordings[recording]?.mediaId} ${track} ${layer} ${index}`;
  }

  private takeLoudest(peaks: Int8Array): void {
    for (const peak of peaks) this.loudest = Math.max(this.loudest, Math.abs(peak));
    for (const name of this.coarsest()) if (!(this.pieces.get(this.keyOf(name)) instanceof Int8Array)) return;
    this.gain = FULL / this.loudest;
  }

  private async fetch(key: string, { recording, track, layer, index }: PieceName): Promise<void> {
    const mediaId = this.recordings[recording]?.mediaId;
    if (mediaId === undefined) return;
    const start = HEADER_BYTES + index * PIECE * BYTES;
    try {
      const answer = await fetch(api.peaks(mediaId, track, layer), {
        headers: { range: `bytes=${start}-${start + PIECE * BYTES - 1}` },
      });
      if (answer.status >= 500) throw new Error(`Peaks could not be fetched: ${answer.status}`);
      // Past the end there is nothing, and of what is gone there is nothing: those are fine answers.
      const bytes = answer.status === 206 ? await answer.arrayBuffer() : new ArrayBuffer(0);
      const peaks = new Int8Array(bytes);
      this.pieces.set(key, peaks);
      this.last = undefined;
      if (layer === COARSEST) this.takeLoudest(peaks);
      this.tell();
    } catch {
      this.pieces.delete(key);
      this.last = undefined;
      setTimeout(() => this.tell(), RETRY_MS);
    }
  }

  private tell(): void {
    this.loads++;
    for (const listener of this.listeners) listener();
  }
}
