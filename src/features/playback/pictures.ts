import type { AngleStretch } from '@/core/decisions/angles.ts';
import type { SeamChoice } from '@/core/decisions/replay.ts';
import { type Programme, pieceAt, toSource } from '@/core/programme/programme.ts';
import { seenBy } from '@/core/programme/seen.ts';
import type { CentrePoint } from '@/core/programme/views.ts';
import { type SeamSettings, type View, viewsOf } from '@/core/programme/views.ts';
import { type BesidePlace, ownTime } from '@/core/sources/besideTime.ts';
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
  /** further pictures that can be shown, by their names as angles */
  readonly angles?: Readonly<Record<string, AnglePicture>>;
}

/** A picture that ran together with a recording. */
export interface AnglePicture extends BesidePlace {
  readonly address: string;
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

  private looks: { readonly settings: SeamSettings; readonly seams: readonly SeamChoice[] } | undefined;
  private silences: () => readonly Range[] = () => [];
  private angles: readonly AngleStretch[] = [];
  private seen: { readonly of: Programme; readonly programme: Programme } | undefined;
  private views: { readonly of: Programme; readonly views: readonly View[] } | undefined;
  private centre: CentrePoint = { x: 0.5, y: 0.5 };

  /** @param onReady told when a picture can be moved again: while one is being looked for, it stays where it is */
  constructor(private readonly onReady: () => void) {}

  /** Sets how seams look: by the settings, and by what was chosen for single ones. */
  setLooks(settings: SeamSettings, seams: readonly SeamChoice[]): void {
    this.looks = { settings, seams };
    this.views = undefined;
    this.onReady();
  }

  /** Sets where other pictures are seen than the recordings' own. */
  setAngles(angles: readonly AngleStretch[]): void {
    this.angles = angles;
    this.seen = undefined;
    this.onReady();
  }

  /** Sets where nobody speaks, as of the programmes that come. */
  setSilences(silences: () => readonly Range[]): void {
    this.silences = silences;
    this.views = undefined;
  }

  /** Sets the point that stays where it is in a picture that comes closer. */
  setCentre(centre: CentrePoint): void {
    this.centre = centre;
    this.onReady();
  }

  /** The programme as its picture is seen. */
  private seenIn(programme: Programme): Programme {
    if (this.seen?.of !== programme) this.seen = { of: programme, programme: seenBy(programme, this.angles) };
    return this.seen.programme;
  }

  private viewsIn(programme: Programme): readonly View[] {
    const { looks } = this;
    if (!looks) return [];
    if (this.views?.of !== programme)
      this.views = { of: programme, views: viewsOf(programme, looks.settings, looks.seams, this.silences()) };
    return this.views.views;
  }

  /** How much of the picture that comes, or has just come, is seen over the other; undefined where nothing goes over. */
  private mixAt({ offsets }: Programme, views: readonly View[], index: number, at: number): Mix | undefined {
    const [own, next] = [views[index]?.dissolve ?? 0, views[index + 1]?.dissolve ?? 0];
    const since = at - (offsets[index] ?? 0);
    if (since < own / 2) return { share: 0.5 + since / own, comes: this.front };
    const left = (offsets[index + 1] ?? Number.POSITIVE_INFINITY) - at;
    return left < next / 2 ? { share: 0.5 - left / next, comes: 1 - this.front } : undefined;
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
  show(heard: Programme, at: number, playing: boolean, rate: number): void {
    const programme = this.seenIn(heard);
    const [shown, waiting] = [this.elements[this.front], this.elements[1 - this.front]];
    if (!shown || !waiting) return;
    const index = pieceAt(programme, at);
    const piece = programme.pieces[index];
    if (!piece) return;
    const { address, source, drift } = this.pictureAt(toSource(programme, at), piece.angle);
    const views = this.viewsIn(programme);
    if (
      playing &&
      index !== this.frontPiece &&
      isShowing(waiting, address) &&
      Math.abs(waiting.currentTime - source) < JUMP_SECONDS &&
      this.waitingAt === piece.start
    ) {
      this.front = 1 - this.front;
      this.raise();
      this.waitingAt = -1;
    }
    this.frontPiece = index;
    const mix = playing ? this.mixAt(programme, views, index, at) : undefined;
    this.raise(piece.hole === true || address === undefined, mix);
    if (address === undefined) return;
    const front = this.elements[this.front] as HTMLVideoElement;
    const spare = this.elements[1 - this.front] as HTMLVideoElement;
    this.enlarge(front, views[index]);
    load(front, address);
    const speed = Math.min(FASTEST, rate * piece.rate * (1 + drift));
    this.keep(front, source, playing, speed);
    if (mix) {
      this.enlarge(spare, views[index]);
      // What comes begins in what was taken out; what goes plays on into it.
      if (spare.paused) spare.play().catch(() => {});
      if (spare.playbackRate !== speed) spare.playbackRate = speed;
      return;
    }
    if (!spare.paused) spare.pause();
    const next = programme.pieces[index + 1];
    if (playing && next && this.waitingAt !== next.start) {
      this.waitingAt = next.start;
      const coming = this.pictureAt(next.start, next.angle);
      if (coming.address === undefined) return;
      load(spare, coming.address);
      spare.currentTime = Math.max(0, coming.source - (views[index + 1]?.dissolve ?? 0) / 2);
    }
  }

  private enlarge({ style }: HTMLVideoElement, view: View | undefined): void {
    const { x, y } = this.centre;
    const transform = view?.closer ? `scale(${1 + view.closer})` : '';
    const origin = `${100 * x}% ${100 * y}%`;
    if (style.transform !== transform) style.transform = transform;
    if (transform !== '' && style.transformOrigin !== origin) style.transformOrigin = origin;
  }

  /** What is to be shown of a moment of the clock, and where in it. An angle that cannot be shown yet is stood for by the recording's own. */
  private pictureAt(at: number, angle: string | undefined) {
    const { start, address, angles = {} } = recordingAt(this.sources, at) ?? { start: 0, address: undefined };
    const other = angle === undefined ? undefined : angles[angle];
    if (!other) return { address, source: at - start, drift: 0 };
    return { address: other.address, source: Math.max(0, ownTime(other, at - start)), drift: other.drift };
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

  /** Shows the front element, both while one goes over into the other, or neither where the programme has a hole. */
  private raise(empty = false, mix?: Mix): void {
    for (const [k, { style }] of this.elements.entries()) {
      const visibility = (k === this.front || mix) && !empty ? 'visible' : 'hidden';
      if (style.visibility !== visibility) style.visibility = visibility;
      // The second lies over the first, which need not be seen through.
      const opacity = mix && k === 1 ? String(mix.comes === 1 ? mix.share : 1 - mix.share) : '';
      if (style.opacity !== opacity) style.opacity = opacity;
    }
  }
}

/** One picture over another: which of the two elements comes, and how much of it is seen. */
interface Mix {
  readonly share: number;
  readonly comes: number;
}

const isShowing = (video: HTMLVideoElement, address: string | undefined): boolean => video.dataset.address === address;

/** Gives an element another picture to show. */
function load(video: HTMLVideoElement, address: string): void {
  if (isShowing(video, address)) return;
  video.dataset.address = address;
  video.src = address;
}
