import { HEADER_BYTES } from '@/core/curves/codec.ts';
import { PEAK_LAYERS, peakLayerRate } from '@/core/curves/peaks.ts';
import { api } from '../api.ts';

/** Peaks are fetched in pieces of this many buckets, by byte range. */
const PIECE = 4096;
const BYTES = 2;
/** About eight megabytes. */
const KEPT = 1000;

/** The peak pyramids of a medium's tracks, fetched as they come into sight. */
export class PeakSource {
  private readonly pieces = new Map<string, Int8Array | 'loading'>();
  private readonly listeners = new Set<() => void>();
  private mediaId = '';
  tracks = 0;
  private loudest = 40;
  private last: { track: number; layer: number; index: number; piece: Int8Array } | undefined;

  /** What to enlarge peaks by when drawing, so that a soft voice fills its row as well; never so that it leaves it. */
  get gain(): number {
    return 120 / this.loudest;
  }

  configure(mediaId: string, tracks: number): void {
    if (mediaId !== this.mediaId) {
      this.pieces.clear();
      this.loudest = 40;
      this.last = undefined;
    }
    this.mediaId = mediaId;
    this.tracks = tracks;
  }

  /** Calls back when something that was asked for has come. */
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
    if (piece) this.last = { track, layer, index, piece };
    return piece;
  }

  private find(track: number, layer: number, index: number): Int8Array | undefined {
    const key = `${track} ${layer} ${index}`;
    const known = this.pieces.get(key);
    if (known) return known === 'loading' ? undefined : known;
    this.pieces.set(key, 'loading');
    void this.fetch(key, track, layer, index);
    return undefined;
  }

  private async fetch(key: string, track: number, layer: number, index: number): Promise<void> {
    const start = HEADER_BYTES + index * PIECE * BYTES;
    try {
      const answer = await fetch(api.peaks(this.mediaId, track, layer), {
        headers: { range: `bytes=${start}-${start + PIECE * BYTES - 1}` },
      });
      // Past the end there is nothing, and that is a fine answer.
      const bytes = answer.status === 206 ? await answer.arrayBuffer() : new ArrayBuffer(0);
      const peaks = new Int8Array(bytes);
      this.pieces.set(key, peaks);
      if (layer === PEAK_LAYERS - 1) for (const peak of peaks) this.loudest = Math.max(this.loudest, Math.abs(peak));
      if (this.pieces.size > KEPT) this.pieces.delete(this.pieces.keys().next().value as string);
      for (const listener of this.listeners) listener();
    } catch {
      this.pieces.delete(key);
    }
  }
}
