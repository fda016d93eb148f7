import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { availableParallelism, tmpdir } from 'node:os';
import { delimiter, join, parse } from 'node:path';
import { execa } from 'execa';
import { bounded } from '../bounds.ts';
import { type RecognisedWord, type Recogniser, RecogniserError, type SoundPart } from './recogniser.ts';

const MODEL = '/usr/share/pocketsphinx/model/en-us';
const PROGRAM = 'pocketsphinx_batch';
/** A part takes a tenth of its length; this is for a machine that is busy with everything else. */
const TIMEOUT_MS = 300_000;
const LIMITS = { megabytes: 4000, cpuSeconds: 300, writesMegabytes: 100 };
/**
 * Hesitations as fillers of a single sound, which is what the decoder's filler dictionary allows: a neutral vowel, a
 * nasal, an r-coloured vowel. A vowel with a nasal behind it is "um".
 */
const HESITATIONS = { '[UH]': 'uh', '[MM]': 'um', '[ER]': 'er' } as const;
const FILLER_SOUNDS = '[UH] AH\n[MM] M\n[ER] ER\n';
const FILLER_PROBABILITY = '1e-2';
/** Shorter than this it was a click or a release. */
const LEAST_HESITATION = 0.08;
/** The nasal of an "um" follows its vowel within this. */
const JOIN = 0.06;
const HESITATION_CONFIDENCE = 0.6;

/**
 * Debian's pocketsphinx with its US English model, with hesitations in its filler dictionary. With those the decoder cannot
 * tell how sure it is of a word; that is reckoned from the scores it gives.
 */
export const local: Recogniser = {
  id: 'local',
  label: 'The last resort',
  parallel: Math.max(1, availableParallelism()),

  state: async () => ({
    help: 'US English, on this machine: a minute takes about 6 s on one core, and one word in five comes out wrong.',
    languages: ['en'],
    unavailable: whatIsMissing(),
  }),

  async recognise({ path }: SoundPart, _language, signal) {
    return joinHesitations(segmentsIn(await decode(path, signal)));
  },
};

function whatIsMissing(): string | undefined {
  if (!existsSync(`${MODEL}/en-us/mdef`)) return 'The English model is missing: apt-get install pocketsphinx-en-us.';
  const folders = (process.env.PATH ?? '').split(delimiter);
  const there = folders.some((folder) => existsSync(join(folder, PROGRAM)));
  return there ? undefined : 'The recogniser is missing: apt-get install pocketsphinx.';
}

/** Fillers may start anywhere and make the search wide; this keeps it as fast as without. */
const BOUNDED = ['-maxwpf', '5', '-maxhmmpf', '2000', '-bestpath', 'no'];

/** A WAV file as it is; silence stays in, so that times hold. */
const SOUND = ['-adcin', 'yes', '-adchdr', '44', '-remove_silence', 'no'];

/** The segmentation of one file. The decoder takes a list of names, here of one, and writes to a file. */
async function decode(path: string, signal: AbortSignal | undefined): Promise<string> {
  // With fillers of a single sound the decoder ends itself on some sounds, each time: words without hesitations are better than none.
  return (await decoded(path, FILLER_SOUNDS, signal)) ?? (await decoded(path, '', signal)) ?? fail();
}

const fail = (): never => {
  throw new RecogniserError('The recogniser stopped in the middle of a part.', true);
};

/**
 * @param hesitations lines that the filler dictionary gets beside its own; none leaves it as it is
 * @returns undefined where the decoder ended itself
 */
async function decoded(path: string, hesitations: string, signal: AbortSignal | undefined): Promise<string | undefined> {
  const { dir, name, ext } = parse(path);
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-decoder-'));
  const [list, answer, dictionary] = [join(folder, 'list'), join(folder, 'answer'), join(folder, 'fillers')];
  try {
    await writeFile(list, `${name}\n`);
    if (hesitations !== '')
      await writeFile(dictionary, `${(await readFile(`${MODEL}/en-us/noisedict`, 'utf8')).trimEnd()}\n${hesitations}`);
    const { failed, timedOut, isCanceled } = await execa(
      ...bounded(
        PROGRAM,
        [
          '-cepdir',
          dir,
          '-cepext',
          ext,
          '-ctl',
          list,
          '-hypseg',
          answer,
          '-logfn',
          '/dev/null',
          ...SOUND,
          ...BOUNDED,
          ...(hesitations === '' ? [] : ['-fdict', dictionary, '-fillprob', FILLER_PROBABILITY]),
        ],
        LIMITS,
      ),
      { reject: false, timeout: TIMEOUT_MS, stdio: 'ignore', ...(signal && { cancelSignal: signal }) },
    );
    if (isCanceled || signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
    if (timedOut) throw new RecogniserError('The recogniser took over five minutes for one part.', true);
    if (failed) return undefined;
    return await readFile(answer, 'utf8');
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Frames of the decoder a second. */
const FRAMES = 100;

/**
 * Words and hesitations in a segmentation: after some totals that end with `L` and a number, each segment's first frame,
 * its acoustic and its language score and its word, at last the frame that ends them:
 * `part S 0 T -1 A -1 L -1 0 -8 -3 <s> 3 -8 -3 board(2) 27`.
 */
export function segmentsIn(output: string): RecognisedWord[] {
  const fields = output.trim().split(/\s+/);
  const segments = fields.slice(fields.indexOf('L') + 2);
  const words: RecognisedWord[] = [];
  for (let k = 0; k + 4 < segments.length; k += 4) {
    const [start, acoustic, language, heard = '', end, , , next = ''] = segments.slice(k, k + 8);
    if (/^<.*>$/.test(heard) || heard === '[NOISE]' || heard === '[SPEECH]') continue;
    const hesitation = HESITATIONS[heard as keyof typeof HESITATIONS];
    const text = hesitation ?? heard.replace(/\(\d+\)$/, '');
    const frames = Number(end) - Number(start);
    const confidence = hesitation
      ? HESITATION_CONFIDENCE
      : sureness(Number(acoustic) + Number(language), frames, text.length, next.startsWith('['));
    words.push({ text, start: Number(start) / FRAMES, end: Number(end) / FRAMES, confidence });
  }
  return words;
}

/**
 * How likely it is that a word was said, by logistic regression. The weights were fitted to 1,483 words of four recordings whose
 * text is known; fitted to three, they tell right from wrong in the fourth with an area under the curve of 0.71 to 0.81.
 * @param score of both kinds together
 * @param letters long words are rarely heard where they were not said
 * @param hesitates whether a hesitation follows, which then may be the rest of another word
 */
function sureness(score: number, frames: number, letters: number, hesitates: boolean): number {
  const odds = 3.53 + (0.72 * score) / 300 + 1.34 * Math.log(frames / 20) + (0.83 * letters) / 5 - (hesitates ? 1.19 : 0);
  return 1 / (1 + Math.exp(-odds));
}

function joinHesitations(words: readonly RecognisedWord[]): RecognisedWord[] {
  const joined: RecognisedWord[] = [];
  for (const word of words) {
    const last = joined.at(-1);
    if (word.text === 'um' && last?.text === 'uh' && word.start - last.end <= JOIN)
      joined[joined.length - 1] = { ...word, start: last.start };
    else joined.push(word);
  }
  const hesitations: readonly string[] = Object.values(HESITATIONS);
  return joined.filter(({ text, start, end }) => !hesitations.includes(text) || end - start >= LEAST_HESITATION);
}
