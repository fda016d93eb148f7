import { SOUND_RATE } from '../contract/sound.ts';
import { type Piece, type Programme, pieceAt } from '../programme/programme.ts';
import type { Seconds } from '../time/range.ts';
import { renderProgramme, type SoundJoins, seamReach } from './programmeSound.ts';
import type { SampleSource } from './sampleSource.ts';

/** A run of a programme that is the recording itself, sample by sample. */
interface AsRecorded {
  /** samples of the programme */
  readonly from: number;
  readonly to: number;
  /** sample of the clock at its start */
  readonly clock: number;
}

/**
 * The sound of a stretch of a programme in 16 bits, as `renderProgramme` makes it. What is as it was recorded, which is nearly all, is
 * copied where the source has such samples, and never becomes a floating-point number.
 * @param from first sample of the programme
 * @returns interleaved stereo samples, fewer than asked at the programme's end
 */
export async function renderIntegers(
  programme: Programme,
  source: SampleSource,
  from: number,
  count: number,
  joins: SoundJoins = {},
): Promise<Int16Array> {
  const end = Math.min(from + count, Math.round(programme.length * SOUND_RATE));
  const out = new Int16Array(Math.max(0, end - from) * 2);
  const workOut = async (first: number, last: number) => {
    if (last > first) round(await renderProgramme(programme, source, first, last - first, joins), out, 2 * (first - from));
  };
  let at = from;
  for (const run of source.copyAsStored ? asRecorded(programme, from, end, joins) : []) {
    await workOut(at, run.from);
    await source.copyAsStored?.(run.clock, run.clock + run.to - run.from, out, run.from - from);
    at = run.to;
  }
  await workOut(at, end);
  return out;
}

/** Runs of `[from, to)` that are as they were recorded and out of reach of any seam, in order. */
function* asRecorded(programme: Programme, from: number, to: number, joins: SoundJoins): Generator<AsRecorded> {
  const { pieces, offsets, length } = programme;
  const reach = seamReach(joins);
  const sampleAt = (at: Seconds) => Math.round(at * SOUND_RATE);
  for (let index = pieceAt(programme, from / SOUND_RATE); index < pieces.length; index++) {
    const [begin, next] = [sampleAt(offsets[index] as Seconds), sampleAt(offsets[index + 1] ?? length)];
    if (begin >= to) return;
    const piece = pieces[index] as Piece;
    if (piece.rate !== 1 || piece.hole) continue;
    const first = Math.max(from, begin + (index > 0 ? reach : 0));
    const last = Math.min(to, next - (index + 1 < pieces.length ? reach : 0));
    if (last > first) yield { from: first, to: last, clock: sampleAt(piece.start) + first - begin };
  }
}

/** To the nearest, the even one of two that are as near, as ffmpeg does; within what 16 bits hold. */
function round(samples: Float32Array, out: Int16Array, at: number): void {
  for (let k = 0; k < samples.length; k++) {
    const value = (samples[k] as number) * 32_768;
    const below = Math.floor(value);
    const over = value - below;
    const nearest = over > 0.5 || (over === 0.5 && below % 2 !== 0) ? below + 1 : below;
    out[at + k] = Math.max(-32_768, Math.min(32_767, nearest));
  }
}
