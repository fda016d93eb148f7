import { LRUCache } from 'lru-cache';
import { HEADER_BYTES } from '@/core/curves/codec.ts';
import { PEAK_LAYERS, peakLayerRate } from '@/core/curves/peaks.ts';
import type { Seconds } from '@/core/time/range.ts';
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

/** The peak pyramids of a medium's tracks, fetched as they come into sight. */
export class PeakSource {
  private readonly pieces = new LRUCache<string, Int8Array | 'loading'>({ max: KEPT });
  private readonly listeners = new Set<() => void>();
  /** how often something that was asked for has come, or can be asked for again */
  loads = 0;
  private mediaId = '';
  tracks = 0;
  private duration = 0;
  private loudest = QUIET;
  /** the piece asked for last, or that it is being fetched */
  private last: { track: number; layer: number; index: number; piece: Int8Array | undefined } | undefined;

  /**
   * What to enlarge peaks by when drawing, so that a soft voice fills its row as well; never so that it leaves it. Known once
   * the coarsest layer is there: until then it is that of a soft voice.
   */
  gain = FULL / QUIET;

  configure(mediaId: string, tracks: number, duration: Seconds): void {
    const isOther = mediaId !== this.mediaId;
    this.mediaId = mediaId;
    this.tracks = tracks;
    this.duration = duration;
    if (!isOther) return;
    this.pieces.clear();
    this.loudest = QUIET;
    this.gain = FULL / QUIET;
    this.last = undefined;
    // Ahead of the rows: what they are enlarged by should be known when they are painted.
    for (const { track, index } of this.coarsest()) this.find(track, COARSEST, index);
  }

  private coarsest(): { track: number; index: number }[] {
    const count = Math.ceil((this.duration * peakLayerRate(COARSEST)) / PIECE);
    return Array.from({ length: this.tracks * count }, (_, k) => ({ track: Math.floor(k / count), index: k % count }));
  }

  /** Calls back when something that was asked for has come, or can be asked for again. */
  onLoad(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Lowest and highest peak byte of a track between two moments; undefined while it is fetched.
   * @param out receives them
   * @returns whether it was there
   */
  read(track: number, layer: number, from: number, to: number, out: { low: number; high: number }): boolean {
    const rate = peakLayerRate(layer);
    const first = Math.max(0, Math.floor(from * rate));
    const last = Math.max(first + 1, Math.ceil(to * rate));
    out.low = 0;
    out.high = 0;
    for (let k = first; k < last; ) {
      const index = Math.floor(k / PIECE);
      const piece = this.piece(track, layer, index);
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

  private piece(track: number, layer: number, index: number): Int8Array | undefined {
    // Rows ask pixel by pixel: the piece of the pixel before is nearly always the one that is wanted.
    const { last } = this;
    if (last && last.track === track && last.layer === layer && last.index === index) return last.piece;
    const piece = this.find(track, layer, index);
    this.last = { track, layer, index, piece };
    return piece;
  }

  private find(track: number, layer: number, index: number): Int8Array | undefined {
    const key = `${track} ${layer} ${index}`;
    const known = this.pieces.get(key);
    if (known) return known === 'loading' ? undefined : known;
    this.pieces.set(key, 'loading');
    // Starting it takes some milliseconds: what is there is painted first.
    setTimeout(() => void this.fetch(key, track, layer, index));
    return undefined;
  }

  private takeLoudest(peaks: Int8Array): void {
    for (const peak of peaks) this.loudest = Math.max(this.loudest, Math.abs(peak));
    for (const { track, index } of this.coarsest())
      if (!(this.pieces.get(`${track} ${COARSEST} ${index}`) instanceof Int8Array)) return;
    this.gain = FULL / this.loudest;
  }

  private async fetch(key: string, track: number, layer: number, index: number): Promise<void> {
    const start = HEADER_BYTES + index * PIECE * BYTES;
    try {
      const answer = await fetch(api.peaks(this.mediaId, track, layer), {
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
