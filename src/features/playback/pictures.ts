import { type Programme, pieceAt, toSource } from '@/core/programme/programme.ts';
import { closerPieces } from '@/core/render/closer.ts';
import { recordingAt } from '@/core/sources/recording.ts';
import type { Range } from '@/core/time/range.ts';

/** A picture further off the sound than this jumps; nearer, it runs a little faster or slower until it fits. */
const JUMP_SECONDS = 0.3;
/** Browsers play no faster. */
const FASTEST = 16;
/** Differences that nobody sees. */
const FITS_SECONDS = 0.03;

/** A recording on the episode clock, and where its picture is; undefined where it has none to show. */
export interface PictureSource extends Range {
  readonly address: string | undefined;
}

/**
 * Keeps the picture with the sound. Of two video elements one shows the present piece while the other waits, paused
 * on the first frame of the next, and takes its place at the seam: no seek is ever waited for in sight.
 */
export class Pictures {
  private elements: readonly HTMLVideoElement[] = [];
  private sources: readonly PictureSource[] = [];
  private front = 0;
  private frontPiece = -1;
  private waitingAt = -1;

  private view: { readonly amount: number; readonly x: number; readonly y: number } | undefined;
  private closer: { readonly programme: Programme; readonly pieces: readonly boolean[] } | undefined;

  /** @param onReady told when a picture can be moved again: while one is being looked for, it stays where it is */
  constructor(private readonly onReady: () => void) {}

  /** Has the picture come closer at every other cut, around a point; undefined for never. */
  comeCloser(view: { readonly amount: number; readonly x: number; readonly y: number } | undefined): void {
    this.view = view;
    this.onReady();
  }

  private transformAt(programme: Programme, index: number): string {
    const { view } = this;
    if (!view) return '';
    if (this.closer?.programme !== programme) this.closer = { programme, pieces: closerPieces(programme) };
    return this.closer.pieces[index] ? `scale(${1 + view.amount})` : '';
  }

  configure(sources: readonly PictureSource[]): void {
    this.sources = sources;
    this.onReady();
  }

  attach(elements: readonly HTMLVideoElement[]): void {
    this.elements = elements;
    for (const element of elements) {
      element.onloadedmetadata = this.onReady;
      element.onseeked = this.onReady;
    }
    this.frontPiece = -1;
    this.waitingAt = -1;
    this.raise();
    this.onReady();
  }

  /** Shows the moment `at` of a programme, called for each frame of the screen while it moves. */
  show(programme: Programme, at: number, playing: boolean, rate: number): void {
    const [shown, waiting] = [this.elements[this.front], this.elements[1 - this.front]];
    if (!shown || !waiting) return;
    const index = pieceAt(programme, at);
    const piece = programme.pieces[index];
    if (!piece) return;
    const clock = toSource(programme, at);
    const { start, address } = this.sourceAt(clock);
    const source = clock - start;
    if (
      playing &&
      index !== this.frontPiece &&
      isShowing(waiting, address) &&
      Math.abs(waiting.currentTime - source) < JUMP_SECONDS &&
      this.waitingAt === piece.start
    ) {
      this.front = 1 - this.front;
      this.raise();
      shown.pause();
      this.waitingAt = -1;
    }
    this.frontPiece = index;
    this.raise(piece.hole === true || address === undefined);
    if (address === undefined) return;
    const front = this.elements[this.front] as HTMLVideoElement;
    const transform = this.transformAt(programme, index);
    if (front.style.transform !== transform) {
      front.style.transformOrigin = `${100 * (this.view?.x ?? 0.5)}% ${100 * (this.view?.y ?? 0.5)}%`;
      front.style.transform = transform;
    }
    load(front, address);
    this.keep(this.elements[this.front] as HTMLVideoElement, source, playing, Math.min(FASTEST, rate * piece.rate));
    const next = programme.pieces[index + 1];
    const spare = this.elements[1 - this.front] as HTMLVideoElement;
    if (playing && next && this.waitingAt !== next.start) {
      this.waitingAt = next.start;
      spare.pause();
      const { start: place, address: coming } = this.sourceAt(next.start);
      if (coming === undefined) return;
      load(spare, coming);
      spare.currentTime = next.start - place;
    }
  }

  private sourceAt(at: number): PictureSource {
    return recordingAt(this.sources, at) ?? { start: 0, end: 0, address: undefined };
  }

  private keep(video: HTMLVideoElement, source: number, playing: boolean, rate: number): void {
    if (!playing) {
      if (!video.paused) video.pause();
      if (!video.seeking && Math.abs(video.currentTime - source) > 0.02) video.currentTime = source;
      return;
    }
    if (video.paused) video.play().catch(() => {});
    const ahead = video.currentTime - source;
    if (Math.abs(ahead) > JUMP_SECONDS) {
      if (!video.seeking) video.currentTime = source;
    } else {
      const wanted = rate * (Math.abs(ahead) < FITS_SECONDS ? 1 : 1 - Math.max(-0.15, Math.min(0.15, ahead)));
      if (Math.abs(video.playbackRate - wanted) > 0.01) video.playbackRate = wanted;
    }
  }

  /** Shows the front element, or neither where the programme has a hole. */
  private raise(empty = false): void {
    for (const [k, element] of this.elements.entries()) {
      const visibility = k === this.front && !empty ? 'visible' : 'hidden';
      if (element.style.visibility !== visibility) element.style.visibility = visibility;
    }
  }
}

const isShowing = (video: HTMLVideoElement, address: string | undefined): boolean => video.dataset.address === address;

/** Gives an element another picture to show. */
function load(video: HTMLVideoElement, address: string): void {
  if (isShowing(video, address)) return;
  video.dataset.address = address;
  video.src = address;
}
