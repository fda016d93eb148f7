import { type Programme, pieceAt } from '@/core/assemble/programme.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { copySamples, type SoundParts } from './soundParts.ts';

/** Sound fades over this many samples at each seam, so that it does not click: 5 ms. */
const FADE = Math.round(0.005 * SOUND_RATE);

/**
 * The sound of a stretch of a programme, as if it had been recorded like that: pieces set end to end to the sample,
 * faded into each other at the seams.
 * @param from first sample of the programme
 * @returns interleaved stereo samples, fewer than asked at the programme's end
 */
export async function renderProgramme(
  programme: Programme,
  parts: SoundParts,
  from: number,
  count: number,
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
    const source = Math.round(piece.start * SOUND_RATE) - starts;
    const loaded = await parts.load(source + at, source + until);
    copySamples(loaded, source + at, source + until, out, at - from);
    if (index > 0) fade(out, from, at, until, starts, 1);
    if (index + 1 < programme.pieces.length) fade(out, from, at, until, ends, -1);
    at = Math.max(at, until);
  }
  return out;
}

/** Ramps samples `[at, until)` up after a seam (direction 1) or down before it (-1). */
function fade(out: Float32Array, from: number, at: number, until: number, seam: number, direction: 1 | -1): void {
  const first = Math.max(at, direction > 0 ? seam : seam - FADE);
  const last = Math.min(until, direction > 0 ? seam + FADE : seam);
  for (let k = first; k < last; k++) {
    const gain = Math.abs(k + 0.5 - seam) / FADE;
    out[2 * (k - from)] = (out[2 * (k - from)] as number) * gain;
    out[2 * (k - from) + 1] = (out[2 * (k - from) + 1] as number) * gain;
  }
}
