import { SOUND_RATE } from '@/core/contract/sound.ts';
import { piecesBetween } from '@/core/programme/across.ts';
import { asRecorded, type Piece, type Programme, programmeOf, toProgramme, toSource } from '@/core/programme/programme.ts';
import { renderProgramme, type SoundJoins } from '@/core/render/programmeSound.ts';
import { Stretcher } from '@/core/render/stretch.ts';
import type { Range } from '@/core/time/range.ts';
import { type PictureSource, Pictures } from './pictures.ts';
import { SoundParts, type SoundSource } from './soundParts.ts';

/** Sound is rendered in blocks of this many programme samples, and scheduled this far ahead of the clock. */
const BLOCK = Math.round(0.4 * SOUND_RATE);
const AHEAD_SECONDS = 2;
const PUMP_MS = 80;
/** Room between asking for sound and hearing it. */
const START_SECONDS = 0.03;
const PREFETCH_SECONDS = 8;
const SHUTTLE_BACK = 2;

/** A recording as it is played. */
export interface PlayedRecording extends SoundSource, PictureSource {
  readonly id: string;
}

interface Stretch {
  /** audio clock at which it sounds */
  readonly at: number;
  /** programme time of its first sample */
  readonly from: number;
  readonly rate: number;
}

interface PlayerOptions {
  readonly onState: (playing: boolean) => void;
  /** told the stretches of the clock that were played of what is followed, now and then and whenever it stops or jumps */
  readonly onPlayed?: (pieces: readonly Piece[]) => void;
}

/** Programme seconds after which what was played is told. */
const TELL_SECONDS = 8;

/**
 * Plays a programme: the audio clock leads, sound is scheduled to the sample across seams, the picture follows.
 * What plays can be exchanged at any moment; the place in the recording is kept.
 */
export class Player {
  readonly pictures = new Pictures(() => this.wake());
  private context: AudioContext | undefined;
  private output: GainNode | undefined;
  private parts: SoundParts | undefined;
  private recordings: readonly PlayedRecording[] = [];
  private programme: Programme = asRecorded([]);
  /** where it stands while paused, and where it last started, in the time of what plays */
  private position = 0;
  private stretches: Stretch[] = [];
  private sources: AudioBufferSourceNode[] = [];
  private run = 0;
  private rate = 1;
  private joins: SoundJoins = {};
  /** of each medium, the cleaned sound that is heard in place of the recorded */
  private cleaned: Readonly<Record<string, SoundSource['cleaned']>> = {};
  private playing = false;
  private backwards = 0;
  private lastFrame = 0;
  private frame = 0;
  /** what was followed before some pieces were played once, to return to */
  private before: { programme: Programme; source: number } | undefined;
  private readonly listeners = new Set<(source: number) => void>();

  /** programme time from which on what was played has not been told yet */
  private untold = 0;
  private endOnce: ((toTheEnd: boolean) => void) | undefined;

  constructor(private readonly options: PlayerOptions) {}

  /** @param recordings all that may be heard, in order of the clock */
  configure(recordings: readonly PlayedRecording[]): void {
    const { recordings: before } = this;
    if (recordings.length !== before.length || recordings.some(({ id }, k) => id !== before[k]?.id)) {
      this.parts?.close();
      this.parts = undefined;
    }
    this.recordings = recordings;
    this.pictures.configure(recordings);
    this.wake();
  }

  /** Plays cleaned sound, by the media that have it; none for the recorded. What plays goes on at its place. */
  hearCleaned(cleaned: Readonly<Record<string, SoundSource['cleaned']>>): void {
    this.cleaned = cleaned;
    this.parts?.close();
    this.parts = undefined;
    if (!this.playing) return;
    this.pause();
    this.play();
  }

  /** Calls back with the recording's time: for each frame of the screen while it moves, else when something changed. */
  onTime(listener: (source: number) => void): () => void {
    this.listeners.add(listener);
    this.wake();
    return () => this.listeners.delete(listener);
  }

  /** Moment of the recording that sounds now. */
  get sourceTime(): number {
    return toSource(this.programme, this.now());
  }

  /** Shows where it stands with the next frame. Where nothing moves no frame is asked for: each costs as much as a slider's step. */
  wake(): void {
    this.frame ||= requestAnimationFrame(this.tick);
  }

  /** Plays another programme from the same moment of the recording on. */
  follow(programme: Programme): void {
    if (this.before) {
      this.before = { ...this.before, programme };
      return;
    }
    if (samePieces(programme, this.programme)) return;
    const source = this.sourceTime;
    this.programme = programme;
    this.moveTo(toProgramme(programme, source));
  }

  seek(source: number): void {
    this.endPlayOnce();
    this.moveTo(toProgramme(this.programme, source));
  }

  /** Goes so many seconds further, or back, in what plays: across cuts and joins as if they were not there. */
  nudge(seconds: number): void {
    this.endPlayOnce();
    this.moveTo(this.now() + seconds);
  }

  /** Whether it plays, or runs back. */
  get moves(): boolean {
    return this.playing || this.backwards > 0;
  }

  toggle(): void {
    if (this.moves) this.pause();
    else this.play();
  }

  play(): void {
    this.backwards = 0;
    if (this.playing) return;
    if (this.now() >= this.programme.length - 0.05) this.position = 0;
    this.playing = true;
    this.options.onState(true);
    this.wake();
    void this.start();
  }

  pause(): void {
    const source = this.now();
    this.silence();
    this.backwards = 0;
    this.position = source;
    if (this.playing) this.options.onState(false);
    this.playing = false;
    this.endPlayOnce();
    this.wake();
  }

  /** Sets how pieces are joined; heard from the next block on. */
  setJoins(joins: SoundJoins): void {
    this.joins = { ...this.joins, ...joins };
  }

  setRate(rate: number): void {
    const at = this.now();
    this.rate = rate;
    this.moveTo(at);
  }

  /** Runs back without sound, faster each time it is asked. */
  shuttleBack(): void {
    const speed = this.backwards ? Math.min(16, this.backwards * 2) : SHUTTLE_BACK;
    this.pause();
    this.backwards = speed;
    this.wake();
  }

  /** Plays some pieces once, then stands where it stood. @returns whether they were played to their end */
  playOnce(pieces: readonly Piece[]): Promise<boolean> {
    const before = this.before ?? { programme: this.programme, source: this.sourceTime };
    this.silence();
    this.endOnce?.(false);
    this.before = before;
    this.programme = programmeOf(pieces);
    this.position = 0;
    if (!this.playing) this.options.onState(true);
    this.playing = true;
    this.wake();
    void this.start();
    return new Promise((resolve) => {
      this.endOnce = resolve;
    });
  }

  /** Fetches the sound of what will be played next, so that it is heard at once. */
  prefetch(pieces: readonly Range[]): void {
    const { parts } = this.open();
    for (const { start, end } of pieces) for (const at of [start, end]) parts.prefetch(at);
  }

  close(): void {
    cancelAnimationFrame(this.frame);
    this.silence();
    void this.context?.close();
  }

  private endPlayOnce(): void {
    if (!this.before) return;
    const { programme, source } = this.before;
    this.before = undefined;
    this.endOnce?.(false);
    this.endOnce = undefined;
    this.programme = programme;
    this.moveTo(toProgramme(programme, source));
  }

  private moveTo(position: number): void {
    this.position = Math.max(0, Math.min(position, this.programme.length));
    this.wake();
    if (this.playing) {
      this.silence();
      void this.start();
    }
  }

  private silence(): void {
    this.tellPlayed();
    this.run++;
    for (const source of this.sources) {
      source.onended = null;
      source.stop();
    }
    this.sources = [];
    this.stretches = [];
  }

  /** Tells what was played since it was last told. */
  private tellPlayed(): void {
    const [from, to] = [this.untold, this.now()];
    this.untold = to;
    if (this.playing && !this.before && to > from) this.options.onPlayed?.(piecesBetween(this.programme, from, to));
  }

  private async start(): Promise<void> {
    this.untold = this.position;
    const run = ++this.run;
    const { context, parts } = this.open();
    if (context.state === 'suspended') await context.resume();
    const stretcher = this.rate === 1 ? undefined : new Stretcher(this.rate);
    let sample = Math.round(this.position * SOUND_RATE);
    let position = this.position;
    let at = 0;
    while (run === this.run) {
      if (at > 0 && at - context.currentTime > AHEAD_SECONDS) {
        await new Promise((resolve) => setTimeout(resolve, PUMP_MS));
        continue;
      }
      const block = await renderProgramme(this.programme, parts, sample, BLOCK, this.joins).catch(() => undefined);
      if (run !== this.run) return;
      if (!block || block.length === 0) {
        this.endWhenHeard(run, at);
        return;
      }
      sample += block.length / 2;
      parts.prefetch(toSource(this.programme, sample / SOUND_RATE + PREFETCH_SECONDS));
      const heard = stretcher ? stretcher.push(block) : block;
      if (heard.length === 0) continue;
      // Late (the first block, or sound that came slowly): begin a little after now.
      at = Math.max(at, context.currentTime + START_SECONDS);
      this.schedule(context, heard, at, position);
      at += heard.length / 2 / SOUND_RATE;
      position += (heard.length / 2 / SOUND_RATE) * this.rate;
    }
  }

  /** Opens the device that sound goes to, which takes a while the first time, and what sound is kept in. */
  private open(): { readonly context: AudioContext; readonly parts: SoundParts } {
    this.context ??= new AudioContext({ sampleRate: SOUND_RATE, latencyHint: 'interactive' });
    if (!this.output) {
      this.output = this.context.createGain();
      this.output.connect(this.context.destination);
    }
    this.parts ??= new SoundParts(
      this.context,
      this.recordings.map((one) => ({ ...one, cleaned: this.cleaned[one.mediaId] })),
    );
    return { context: this.context, parts: this.parts };
  }

  private schedule(context: AudioContext, samples: Float32Array, at: number, from: number): void {
    const frames = samples.length / 2;
    const buffer = context.createBuffer(2, frames, SOUND_RATE);
    const [left, right] = [buffer.getChannelData(0), buffer.getChannelData(1)];
    for (let k = 0; k < frames; k++) {
      left[k] = samples[2 * k] as number;
      right[k] = samples[2 * k + 1] as number;
    }
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.connect(this.output as GainNode);
    source.onended = () => {
      this.sources = this.sources.filter((other) => other !== source);
    };
    source.start(at);
    this.sources.push(source);
    this.stretches = [...this.stretches.filter((s) => s.at + 5 > context.currentTime), { at, from, rate: this.rate }];
  }

  private endWhenHeard(run: number, at: number): void {
    const wait = Math.max(0, at - (this.context?.currentTime ?? 0));
    setTimeout(() => {
      if (run !== this.run) return;
      const once = this.before !== undefined;
      const { endOnce } = this;
      this.endOnce = undefined;
      this.pause();
      endOnce?.(true);
      if (!once) this.moveTo(this.programme.length);
    }, wait * 1000);
  }

  /** Time of what plays, by the audio clock. */
  private now(): number {
    const clock = this.context?.currentTime ?? 0;
    const current = this.stretches.findLast((stretch) => stretch.at <= clock);
    if (!this.playing || !current) return this.position;
    return Math.min(this.programme.length, current.from + (clock - current.at) * current.rate);
  }

  private readonly tick = (time: number): void => {
    this.frame = 0;
    const passed = Math.min(0.1, (time - this.lastFrame) / 1000);
    this.lastFrame = time;
    if (this.backwards) {
      this.position = Math.max(0, this.position - passed * this.backwards);
      if (this.position === 0) this.backwards = 0;
    }
    const now = this.now();
    if (this.playing && now - this.untold > TELL_SECONDS) this.tellPlayed();
    if (this.recordings.some(({ address }) => address !== undefined))
      this.pictures.show(this.programme, now, this.playing, this.rate);
    const source = toSource(this.programme, now);
    for (const listener of this.listeners) listener(source);
    if (this.moves) this.wake();
  };
}

function samePieces(a: Programme, b: Programme): boolean {
  return (
    a.pieces.length === b.pieces.length &&
    a.pieces.every((piece, k) => {
      const other = b.pieces[k];
      return (
        piece.start === other?.start &&
        piece.end === other.end &&
        piece.rate === other.rate &&
        piece.hole === other.hole &&
        piece.sound === other.sound
      );
    })
  );
}
