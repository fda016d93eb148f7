import { type Piece, type Programme, pieceAt } from '@/core/assemble/programme.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { copySamples, type SoundParts } from './soundParts.ts';
import { Stretcher } from './stretch.ts';

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
    if (piece.rate !== 1) await renderHurried(piece, parts, at - starts, until - starts, out, at - from);
    else if (!piece.hole) {
      const source = Math.round(piece.start * SOUND_RATE) - starts;
      const loaded = await parts.load(source + at, source + until);
      copySamples(loaded, source + at, source + until, out, at - from);
    }
    if (index > 0) fade(out, from, at, until, starts, 1);
    if (index + 1 < programme.pieces.length) fade(out, from, at, until, ends, -1);
    at = Math.max(at, until);
  }
  return out;
}

/** Sound of a hurried piece is stretched in stretches of this many source samples: one need not wait for the whole. */
const STRETCHED = 10 * SOUND_RATE;
/** ... and this much more, since the stretcher holds the last of it back. */
const HELD_BACK = SOUND_RATE;

/** Samples `[from, to)` of a piece that runs faster: silent, faster and higher, or faster at its own pitch. */
async function renderHurried(
  { start, end, rate, sound }: Piece,
  parts: SoundParts,
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
    const source = await samplesOf(parts, low, high);
    for (let k = from; k < to; k++) {
      const place = first + k * rate - low;
      const before = Math.floor(place);
      for (const channel of [0, 1]) {
        const [a, b] = [source[2 * before + channel] ?? 0, source[2 * before + 2 + channel] ?? 0];
        out[2 * (at + k - from) + channel] = a + (b - a) * (place - before);
      }
    }
    return;
  }
  const each = Math.floor(STRETCHED / rate);
  for (let part = Math.floor(from / each); part * each < to; part++) {
    const stretched = await parts.once(`${first} ${last} ${rate} ${part}`, async () => {
      const low = first + part * STRETCHED;
      const source = await samplesOf(parts, low, Math.min(last, low + STRETCHED) + HELD_BACK);
      return new Stretcher(rate).push(source).slice(0, 2 * each);
    });
    const begin = Math.max(from, part * each);
    const count = Math.min(to, (part + 1) * each) - begin;
    const offset = 2 * (begin - part * each);
    out.set(stretched.subarray(offset, offset + 2 * count), 2 * (at + begin - from));
  }
}

async function samplesOf(parts: SoundParts, from: number, to: number): Promise<Float32Array> {
  const samples = new Float32Array(2 * Math.max(0, to - from));
  copySamples(await parts.load(from, to), from, to, samples, 0);
  return samples;
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
