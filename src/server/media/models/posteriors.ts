import { readFile } from 'node:fs/promises';
import * as ort from 'onnxruntime-web';
import { alignTokens, likeliestTokens, type Posteriors } from '@/core/align/ctc.ts';
import { type BankForm, bandByBand, evened, filterBank, MEL_BANK, POVEY_BANK, SLANEY_BANK } from '@/core/align/filterBank.ts';
import { BETWEEN, piecesOf, readTokenNumbers } from '@/core/align/pieces.ts';
import { LONGEST_TOKEN } from '@/core/align/tokenWords.ts';
import type { Range } from '@/core/time/range.ts';
import type { ModelFiles } from './modelFiles.ts';
import { onnxMetadata } from './onnxMetadata.ts';

/** What the engine does with sound before a network gets it. */
interface Intake {
  /** what samples are multiplied by */
  readonly gain?: number;
  readonly form: BankForm;
  /** each band goes by its own mean and deviation */
  readonly evened?: boolean;
  /** all of a band comes before the next one */
  readonly bandByBand?: boolean;
}

/** Networks whose intake is known, by what they say of themselves. That of the engine was read off it by networks that write what they get. */
const KNOWN: Readonly<Record<string, (says: ReadonlyMap<string, string>) => Intake>> = {
  zipformerCtc: () => ({ form: POVEY_BANK }),
  wenetCtc: () => ({ form: POVEY_BANK, gain: 32_768 }),
  nemoCtc: (says) => ({
    form: says.get('is_giga_am') === '1' ? MEL_BANK : SLANEY_BANK,
    evened: says.get('normalize_type') === 'per_feature',
    bandByBand: true,
  }),
};
/** Samples a second. */
const RATE = 16_000;
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
    const intake = KNOWN[engine]?.(await onnxMetadata(files.model ?? ''));
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
    const { form, gain } = this.intake;
    const raw = filterBank(gain ? samples.map((value) => value * gain) : samples, form);
    const bands = this.intake.evened ? evened(raw, form.bands) : raw;
    const { frames } = raw;
    const [sound, length] = this.session.inputNames as [string, string];
    const answer = await this.session.run({
      [sound]: this.intake.bandByBand
        ? new ort.Tensor('float32', bandByBand(bands, form.bands), [1, form.bands, frames])
        : new ort.Tensor('float32', bands.values, [1, frames, form.bands]),
      [length]: new ort.Tensor('int64', BigInt64Array.of(BigInt(frames)), [1]),
    });
    const { data, dims } = answer[this.session.outputNames[0] as string] as ort.Tensor;
    return { logProbabilities: data as Float32Array, frames: dims[1] as number, classes: dims[2] as number };
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
    const frame = samples.length / (RATE * posteriors.frames);
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

/** The engine writes the mark of a beginning as a space. */
const plain = (tokens: readonly string[]): string => tokens.join('').replaceAll(/[▁|\s]/g, '');
