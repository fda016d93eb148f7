import type { Loudness } from '@/core/clean/loudness.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import type { Programme } from '@/core/programme/programme.ts';
import { renderIntegers } from '@/core/render/integerSound.ts';
import { type MaskedBy, MaskedSamples } from '@/core/render/masked.ts';
import type { SoundJoins } from '@/core/render/programmeSound.ts';
import type { Range } from '@/core/time/range.ts';
import type { ProcessBounds } from '../bounds.ts';
import { MediaError } from '../ffmpeg.ts';
import { SampleSink } from '../sampleSink.ts';
import { ClockSamples, type SoundFile } from './clockSamples.ts';
import { levelling, MEASURING, readLoudness } from './loudness.ts';

/** Programme samples that are rendered at a time. */
const BLOCK = SOUND_RATE;

/** The sound of a programme, and how its sides are joined. */
export interface SoundToRender {
  readonly files: readonly SoundFile[];
  readonly programme: Programme;
  readonly joins: SoundJoins;
  /** stretches of the clock that are not to be heard, and what is heard in their place */
  readonly masked?: { readonly ranges: readonly Range[]; readonly by: MaskedBy } | undefined;
}

export interface Running {
  readonly signal: AbortSignal;
  /** told the share that is done, 0..1 */
  readonly onProgress?: ((share: number) => void) | undefined;
}

/** Names the sound among what is written. */
export const THE_SOUND: readonly string[] = ['-map', '[sound]'];

/** Where the sound of a programme goes: options of ffmpeg behind the input that brings it, which is its first. */
export interface SoundTarget {
  /** where relative names of the options lie */
  readonly cwd?: string | undefined;
  readonly inputs?: readonly string[];
  readonly filters?: readonly string[];
  /** what becomes of the sound behind its filters, as the rest of a filter graph; it must leave `[sound]` */
  readonly rest?: string | undefined;
  /** whether it is told how loud it was: that takes longer than all the rest */
  readonly isMeasured: boolean;
  readonly outputs: readonly string[];
  readonly bounds: ProcessBounds;
}

/**
 * Renders the sound of a programme into one process of ffmpeg: one decode of each recording, joins exact to the sample, as it is heard in
 * the page.
 * @returns how loud it was behind the filters; undefined for silence, and where it is not measured
 * @throws MediaError when a recording cannot be decoded, or the file not written
 */
export async function pourSound(
  { files, programme, joins, masked }: SoundToRender,
  { cwd, inputs = [], filters = [], rest = '[sound]', isMeasured, outputs, bounds }: SoundTarget,
  { signal, onProgress }: Running,
): Promise<Loudness | undefined> {
  if (programme.length === 0) throw new MediaError('Nothing is left of the recording: there is nothing to render.');
  const decoded = new ClockSamples(files, signal);
  const samples = masked ? new MaskedSamples(decoded, masked.ranges, masked.by) : decoded;
  const graph = `[0:a]${[...filters, isMeasured ? MEASURING : 'anull'].join(',')}${rest}`;
  const sink = new SampleSink('s16le', 2, [...inputs, '-filter_complex', graph, ...outputs], bounds, signal, cwd);
  try {
    const total = Math.round(programme.length * SOUND_RATE);
    for (let at = 0; at < total; at += BLOCK) {
      if (!(await sink.write(await renderIntegers(programme, samples, at, BLOCK, joins)))) break;
      onProgress?.(Math.min(1, (at + BLOCK) / total));
    }
    const said = await sink.end();
    return isMeasured ? readLoudness(said) : undefined;
  } finally {
    decoded.close();
    sink.close();
  }
}

/** How far loudness may be off what was asked for, in LU, before the limiter's share in it is made up for. */
const CLOSE_ENOUGH = 0.2;
const MOST_PASSES = 3;

/**
 * Filters that bring a programme to a loudness: it is measured first, and measured again where peaks have to be held down, since that
 * makes it softer.
 * @param target in LUFS
 */
export async function filtersTo(
  target: number,
  sound: SoundToRender,
  bounds: ProcessBounds,
  running: Running,
): Promise<{ readonly filters: string[]; readonly before: Loudness | undefined }> {
  let told = 0;
  // How often it will be measured is not known: each time takes half of what is left.
  const measured = async (filters: readonly string[]) => {
    const [from, left] = [told, (1 - told) / 2];
    const onProgress = (share: number) => {
      told = from + left * share;
      running.onProgress?.(told);
    };
    return pourSound(
      sound,
      { filters, isMeasured: true, outputs: [...THE_SOUND, '-f', 'null', '-'], bounds },
      { signal: running.signal, onProgress },
    );
  };
  const before = await measured([]);
  if (!before) return { filters: [], before };
  let gain = target - before.integrated;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const filters = levelling(gain, before.truePeak);
    if (filters.length === 1) break;
    const after = await measured(filters);
    if (!after || Math.abs(after.integrated - target) <= CLOSE_ENOUGH) break;
    gain += target - after.integrated;
  }
  return { filters: levelling(gain, before.truePeak), before };
}
