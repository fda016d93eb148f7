import { readFile } from 'node:fs/promises';
import * as ort from 'onnxruntime-web';
import { alignTokens, likeliestTokens, type Posteriors } from '@/core/align/ctc.ts';
import {
  type BankForm,
  bandByBand,
  evened,
  FRAME_SHIFT,
  filterBank,
  HAMMING_BANK,
  LONG_SLANEY_BANK,
  MEL_BANK,
  POVEY_BANK,
  SLANEY_BANK,
  type Stacking,
  stacked,
} from '@/core/align/filterBank.ts';
import { BETWEEN, piecesOf, readTokenNumbers } from '@/core/align/pieces.ts';
import { LONGEST_TOKEN } from '@/core/align/tokenWords.ts';
import type { Range } from '@/core/time/range.ts';
import type { ModelFiles } from './modelFiles.ts';
import { onnxMetadata } from './onnxMetadata.ts';

/** What the engine does with sound before a network gets it. */
interface Intake {
  /** what samples are multiplied by */
  readonly gain?: number;
  /** left out where it takes the samples themselves, less their mean, in deviations, and nothing besides */
  readonly form?: BankForm;
  /** each band goes by its own mean and deviation */
  readonly evened?: boolean;
  /** all of a band comes before the next one */
  readonly bandByBand?: boolean;
  readonly stacking?: Stacking;
  /** what it takes besides, in its order; lengths are whole numbers of 32 bits then */
  readonly besides?: readonly number[];
  /** frames of its answer that come before those of the sound */
  readonly ahead?: number;
}

/** What a network says of itself, and in which language it is asked to hear. */
interface Asked {
  readonly says: ReadonlyMap<string, string>;
  readonly language: string;
}

/** Networks whose intake is known, by what they say of themselves. That of the engine was read off it by networks that write what they get. */
const KNOWN: Readonly<Record<string, (asked: Asked) => Intake>> = {
  zipformerCtc: () => ({ form: POVEY_BANK }),
  wenetCtc: () => ({ form: POVEY_BANK, gain: 32_768 }),
  nemoCtc: ({ says }) => ({
    form: says.get('is_giga_am') === '1' ? MEL_BANK : SLANEY_BANK,
    evened: says.get('normalize_type') === 'per_feature',
    bandByBand: true,
  }),
  dolphin: ({ says }) => ({
    form: LONG_SLANEY_BANK,
    stacking: {
      size: 1,
      shift: 1,
      added: numbersIn(says.get('mean')).map((mean) => -mean),
      scale: numbersIn(says.get('invstd')),
    },
  }),
  omnilingual: () => ({}),
  senseVoice: ({ says, language }) => ({
    form: HAMMING_BANK,
    gain: says.get('normalize_samples') === '1' ? 1 : 32_768,
    stacking: {
      size: Number(says.get('lfr_window_size')),
      shift: Number(says.get('lfr_window_shift')),
      added: numbersIn(says.get('neg_mean')),
      scale: numbersIn(says.get('inv_stddev')),
    },
    besides: [says.get(`lang_${language}`) ?? says.get('lang_auto'), says.get('with_itn')].map(Number),
    // It writes what language it hears, in what mood, what else sounds, and how numbers are written.
    ahead: 4,
  }),
};
const numbersIn = (written = ''): number[] => written.split(',').map(Number);
/** Samples a second. */
const RATE = 16_000;
/** What the variance of samples is never less than. */
const LEAST_VARIANCE = 1e-5;
/** Larger networks are no longer run beside the engine. */
const MOST_BYTES = 800_000_000;
/** Tokens that stand for none, by the names that they have. */
const BLANKS = ['<blk>', '<blank>', '<eps>', '<pad>'];

/** Whether a model tells of each frame how likely each token is, in a way that is known here. */
export const tellsPosteriors = ({ engine, bytes }: Pick<ModelFiles, 'engine' | 'bytes'>): boolean =>
  engine in KNOWN && bytes < MOST_BYTES;

/** A CTC network that says of each frame how likely each token is, and the tokens. */
export class PosteriorNetwork {
  private constructor(
    private readonly session: ort.InferenceSession,
    private readonly numbers: ReadonlyMap<string, number>,
    private readonly blank: number,
    private readonly intake: Intake,
  ) {}

  /** @throws Error where it cannot be loaded */
  static async open({ engine, files, tokens }: Pick<ModelFiles, 'engine' | 'files' | 'tokens'>): Promise<PosteriorNetwork> {
    const says = await onnxMetadata(files.model ?? '');
    const intake = KNOWN[engine]?.({ says, language: files.language ?? '' });
    if (!intake) throw new Error(`What ${engine} takes is not known.`);
    ort.env.wasm.numThreads = 1;
    const network = await readFile(files.model ?? '');
    const session = await ort.InferenceSession.create(network, { executionProviders: ['wasm'], logSeverityLevel: 3 });
    const numbers = readTokenNumbers(await readFile(tokens, 'utf8'));
    const blank = BLANKS.map((name) => numbers.get(name)).find((number) => number !== undefined) ?? 0;
    return new PosteriorNetwork(session, numbers, blank, intake);
  }

  /** @param samples in -1..1, 16,000 a second */
  async posteriors(samples: Float32Array): Promise<Posteriors> {
    const { form, ahead = 0 } = this.intake;
    const [sound] = this.session.inputNames as [string];
    const answer = await this.session.run(
      form ? this.bandsOf(samples, form) : { [sound]: new ort.Tensor('float32', standardised(samples), [1, samples.length]) },
    );
    const { data, dims } = answer[this.session.outputNames[0] as string] as ort.Tensor;
    const classes = dims[2] as number;
    return {
      logProbabilities: (data as Float32Array).subarray(ahead * classes),
      frames: (dims[1] as number) - ahead,
      classes,
    };
  }

  private bandsOf(samples: Float32Array, form: BankForm): Record<string, ort.Tensor> {
    const { gain, stacking, besides } = this.intake;
    const raw = filterBank(gain ? samples.map((value) => value * gain) : samples, form);
    const even = this.intake.evened ? evened(raw, form.bands) : raw;
    const { values, frames } = stacking ? stacked(even, form.bands, stacking) : even;
    const [sound, length, ...others] = this.session.inputNames as [string, string, ...string[]];
    return {
      [sound]: this.intake.bandByBand
        ? new ort.Tensor('float32', bandByBand(even, form.bands), [1, form.bands, frames])
        : new ort.Tensor('float32', values, [1, frames, values.length / Math.max(1, frames)]),
      [length]: besides ? whole(frames) : new ort.Tensor('int64', BigInt64Array.of(BigInt(frames)), [1]),
      ...Object.fromEntries(others.map((name, k) => [name, whole(besides?.[k] ?? 0)])),
    };
  }

  /**
   * Puts words under the sound in which they are said.
   * @param heard tokens that the engine heard in the same sound: where what is computed here does not read like them, it is not relied on
   * @returns seconds from the start of the sound; undefined where the network cannot tell
   */
  async place(samples: Float32Array, words: readonly string[], heard: readonly string[]): Promise<Range[] | undefined> {
    const written = words.map((word) => piecesOf(word, this.numbers));
    if (!written.every((one) => one !== undefined)) return undefined;
    const pieces = written.map((own, k) => (k === 0 ? this.withoutGap(own) : own));
    const posteriors = await this.posteriors(samples);
    const read = likeliestTokens(posteriors, this.blank);
    const names = new Map([...this.numbers].map(([name, number]) => [number, name]));
    if (plain(read.map((number) => names.get(number) ?? '')) !== plain(heard)) return undefined;
    const placed = alignTokens(posteriors, pieces.flat(), this.blank);
    if (!placed) return undefined;
    const { stacking } = this.intake;
    const frame = stacking ? stacking.shift * FRAME_SHIFT : samples.length / (RATE * posteriors.frames);
    let first = 0;
    const ranges = pieces.map((own) => {
      const [from, to] = [placed[first + own.length - this.withoutGap(own).length], placed[first + own.length - 1]];
      first += own.length;
      return { start: (from?.from ?? 0) * frame, last: (to?.from ?? 0) * frame, end: (to?.to ?? 0) * frame };
    });
    return ranges.map(({ start, last, end }, k) => {
      const next = ranges[k + 1]?.start ?? samples.length / RATE;
      return { start, end: Math.max(end, Math.min(next, last + LONGEST_TOKEN)) };
    });
  }

  /** Tokens of a word without what stands before it, in a network of letters. */
  private withoutGap(tokens: readonly number[]): readonly number[] {
    const isGap = BETWEEN.some((gap) => this.numbers.has(gap) && this.numbers.get(gap) === tokens[0]);
    return isGap && tokens.length > 1 ? tokens.slice(1) : tokens;
  }
}

/** Samples less their mean, in deviations. */
function standardised(samples: Float32Array): Float32Array {
  const mean = samples.reduce((sum, value) => sum + value, 0) / Math.max(1, samples.length);
  const variance = samples.reduce((sum, value) => sum + (value - mean) ** 2, 0) / Math.max(1, samples.length);
  const deviation = Math.sqrt(variance + LEAST_VARIANCE);
  return samples.map((value) => (value - mean) / deviation);
}

/** The engine writes the mark of a beginning as a space. */
const plain = (tokens: readonly string[]): string => tokens.join('').replaceAll(/[▁|\s]/g, '');

const whole = (number: number) => new ort.Tensor('int32', Int32Array.of(number), [1]);
