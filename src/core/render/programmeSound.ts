import { SOUND_RATE } from '../contract/sound.ts';
import type { RoomTone } from '../detect/sound/roomTone.ts';
import { type Piece, type Programme, pieceAt } from '../programme/programme.ts';
import type { Seconds } from '../time/range.ts';
import { type SampleSource, samplesOf } from './sampleSource.ts';
import { Stretcher } from './stretch.ts';
import { toneFor, toneLoop } from './toneLoop.ts';

/** How long one side of a seam fades into the other, unless the settings say otherwise. */
const USUAL_FADE: Seconds = 0.01;

/** How the pieces of a programme are joined in its sound. */
export interface SoundJoins {
  /** seconds that one side of a seam fades into the other; half of it on either side */
  readonly crossfade?: Seconds | undefined;
  /** the quiet rooms of the recordings, in order of the clock, where they are heard under what leaves nothing */
  readonly tones?: readonly RoomTone[] | undefined;
}

/**
 * The sound of a stretch of a programme, as if it had been recorded like that: pieces set end to end to the sample,
 * faded into each other at the seams.
 * @param from first sample of the programme
 * @returns interleaved stereo samples, fewer than asked at the programme's end
 */
export async function renderProgramme(
  programme: Programme,
  source: SampleSource,
  from: number,
  count: number,
  { crossfade, tones = [] }: SoundJoins = {},
): Promise<Float32Array> {
  const end = Math.min(from + count, Math.round(programme.length * SOUND_RATE));
  const out = new Float32Array(Math.max(0, end - from) * 2);
  let at = from;
  for (let index = pieceAt(programme, from / SOUND_RATE); at < end; index++) {
    const piece = programme.pieces[index];
    if (!piece) break;
    const starts = Math.round((programme.offsets[index] as number) * SOUND_RATE);
    const ends = Math.round((programme.offsets[index + 1] ?? programme.length) * SOUND_RATE);
    const until = Math.min(end, ends);
    const tone = isEmpty(piece) ? toneFor(tones, piece) : undefined;
    if (tone) copyLoop(await toneLoop(tone, source), piece, at - starts, until - starts, out, at - from);
    else if (piece.rate !== 1) await renderHurried(piece, source, at - starts, until - starts, out, at - from);
    else if (!piece.hole) {
      const first = Math.round(piece.start * SOUND_RATE) - starts;
      await source.copy(first + at, first + until, out, at - from);
    }
    at = Math.max(at, until);
  }
  const reach = seamReach({ crossfade });
  const first = Math.max(1, pieceAt(programme, (from - reach) / SOUND_RATE));
  for (let index = first; index < programme.pieces.length; index++) {
    const seam = Math.round((programme.offsets[index] as number) * SOUND_RATE);
    if (seam - reach >= end) break;
    await fadeAt(programme, index, seam, reach, { source, tones }, out, from, end);
  }
  return out;
}

/** Samples on either side of a seam that its fade reaches. */
export function seamReach({ crossfade = USUAL_FADE }: SoundJoins): number {
  return Math.ceil((crossfade / 2) * SOUND_RATE);
}

/** Fades the end of the piece before a seam into the start of the one behind it. */
async function fadeAt(
  { pieces, offsets }: Programme,
  index: number,
  seam: number,
  reach: number,
  { source, tones }: { readonly source: SampleSource; readonly tones: readonly RoomTone[] },
  out: Float32Array,
  from: number,
  end: number,
): Promise<void> {
  const [left, right] = [pieces[index - 1] as Piece, pieces[index] as Piece];
  // What goes on without a break needs no fading.
  if (left.end === right.start && left.rate === right.rate && !left.hole && !right.hole) return;
  const half = Math.min(
    reach,
    ...[left, right].map((piece) => Math.floor(((piece.end - piece.start) / piece.rate / 2) * SOUND_RATE)),
  );
  const [low, high] = [Math.max(from, seam - half), Math.min(end, seam + half)];
  if (high <= low) return;
  const sides = [left, right].map((piece) => (isEmpty(piece) ? toneFor(tones, piece) : undefined));
  const goesOn = (piece: Piece, side: number) => (piece.rate === 1 && !piece.hole) || sides[side] !== undefined;
  if (!goesOn(left, 0) || !goesOn(right, 1)) {
    // A hole has nothing to fade into, and what runs faster nothing beyond its end: each side fades by itself.
    for (let k = low; k < high; k++) {
      const gain = Math.abs(k + 0.5 - seam) / half;
      for (const channel of [0, 1]) out[2 * (k - from) + channel] = (out[2 * (k - from) + channel] as number) * gain;
    }
    return;
  }
  // Beyond its seam a piece goes on with what was taken out there, and the quiet room with itself.
  const samplesAt = async (side: number, edge: Seconds, begins: number): Promise<Float32Array> => {
    const tone = sides[side];
    if (!tone) return samplesOf(source, sampleOf(edge) + low - seam, sampleOf(edge) + high - seam);
    const samples = new Float32Array(2 * (high - low));
    const piece = side === 0 ? left : right;
    copyLoop(await toneLoop(tone, source), piece, low - begins, high - begins, samples, 0);
    return samples;
  };
  const before = await samplesAt(0, left.end, sampleOf(offsets[index - 1] as Seconds));
  const after = await samplesAt(1, right.start, seam);
  for (let k = low; k < high; k++) {
    const share = (k + 0.5 - (seam - half)) / (2 * half);
    // The two are different sounds: as much power in the middle as at the ends.
    const [down, up] = [Math.cos((share * Math.PI) / 2), Math.sin((share * Math.PI) / 2)];
    for (const channel of [0, 1]) {
      const place = 2 * (k - low) + channel;
      out[2 * (k - from) + channel] = (before[place] ?? 0) * down + (after[place] ?? 0) * up;
    }
  }
}

/** Whether nothing of its recording is heard in a piece. */
const isEmpty = ({ hole, rate, sound }: Piece): boolean => hole === true || (rate !== 1 && (sound ?? 'mute') === 'mute');

/** Samples `[from, to)` of a piece in which a loop is heard; where it stands in the loop follows from its place on the clock. */
function copyLoop(loop: Float32Array, { start }: Piece, from: number, to: number, out: Float32Array, at: number): void {
  const length = loop.length / 2;
  const first = sampleOf(start);
  for (let k = from; k < to; k++) {
    const place = (((first + k) % length) + length) % length;
    out[2 * (at + k - from)] = loop[2 * place] as number;
    out[2 * (at + k - from) + 1] = loop[2 * place + 1] as number;
  }
}

const sampleOf = (at: Seconds): number => Math.round(at * SOUND_RATE);

/** Sound of a hurried piece is stretched in stretches of this many source samples: one need not wait for the whole. */
const STRETCHED = 10 * SOUND_RATE;
/** ... and this much more, since the stretcher holds the last of it back. */
const HELD_BACK = SOUND_RATE;

/** Samples `[from, to)` of a piece that runs faster: silent, faster and higher, or faster at its own pitch. */
async function renderHurried(
  { start, end, rate, sound }: Piece,
  source: SampleSource,
  from: number,
  to: number,
  out: Float32Array,
  at: number,
): Promise<void> {
  if (sound === 'mute' || sound === undefined) return;
  const first = Math.round(start * SOUND_RATE);
  const last = Math.round(end * SOUND_RATE);
  if (sound === 'along') {
    const low = first + Math.floor(from * rate);
    const high = Math.min(last, first + Math.ceil(to * rate) + 1);
    const samples = await samplesOf(source, low, high);
    for (let k = from; k < to; k++) {
      const place = first + k * rate - low;
      const before = Math.floor(place);
      for (const channel of [0, 1]) {
        const [a, b] = [samples[2 * before + channel] ?? 0, samples[2 * before + 2 + channel] ?? 0];
        out[2 * (at + k - from) + channel] = a + (b - a) * (place - before);
      }
    }
    return;
  }
  const each = Math.floor(STRETCHED / rate);
  for (let part = Math.floor(from / each); part * each < to; part++) {
    const stretched = await source.once(`${first} ${last} ${rate} ${part}`, async () => {
      const low = first + part * STRETCHED;
      const samples = await samplesOf(source, low, Math.min(last, low + STRETCHED) + HELD_BACK);
      return new Stretcher(rate).push(samples).slice(0, 2 * each);
    });
    const begin = Math.max(from, part * each);
    const count = Math.min(to, (part + 1) * each) - begin;
    const offset = 2 * (begin - part * each);
    out.set(stretched.subarray(offset, offset + 2 * count), 2 * (at + begin - from));
  }
}
