import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { delimiter, join, parse } from 'node:path';
import { execa } from 'execa';
import { dictionaryOf, type Pronunciations, type Segment } from '@/core/align/wordChain.ts';
import { bounded } from '../bounds.ts';
import { RecogniserError } from './recogniser.ts';

const MODEL = '/usr/share/pocketsphinx/model/en-us';
const PROGRAM = 'pocketsphinx_batch';
/** A part takes a tenth of its length; this is for a machine that is busy with everything else. */
const TIMEOUT_MS = 300_000;
const LIMITS = { megabytes: 4000, cpuSeconds: 300, writesMegabytes: 100 };

/** A WAV file as it is; silence stays in, so that times hold. */
const SOUND = ['-adcin', 'yes', '-adchdr', '44', '-remove_silence', 'no', '-bestpath', 'no'];
/** Frames of the decoder a second. */
const FRAMES = 100;

/** What of Debian's pocketsphinx is missing here, fit to show. */
export function whatIsMissing(): string | undefined {
  if (!existsSync(`${MODEL}/en-us/mdef`)) return 'The English model is missing: apt-get install pocketsphinx-en-us.';
  const folders = (process.env.PATH ?? '').split(delimiter);
  const there = folders.some((folder) => existsSync(join(folder, PROGRAM)));
  return there ? undefined : 'The recogniser is missing: apt-get install pocketsphinx.';
}

/** The model's filler dictionary, with sounds of one's own beside silence and noise: a line each, a name and a single sound. */
export const fillerDictionary = async (sounds: string): Promise<string> =>
  `${(await readFile(`${MODEL}/en-us/noisedict`, 'utf8')).trimEnd()}\n${sounds}`;

/** How the words of the model's dictionary are said. */
export async function pronunciations(): Promise<Pronunciations> {
  const ways = new Map<string, string[]>();
  for (const line of (await readFile(`${MODEL}/cmudict-en-us.dict`, 'utf8')).split('\n')) {
    const [entry = '', ...sounds] = line.trim().split(/\s+/);
    const word = entry.replace(/\(\d+\)$/, '');
    if (word !== '') ways.set(word, [...(ways.get(word) ?? []), sounds.join(' ')]);
  }
  return dictionaryOf(ways);
}

/**
 * What the decoder finds in a WAV file of 16 kHz, one channel.
 * @param files texts that options name, by the option
 * @returns undefined where the decoder ended itself
 * @throws RecogniserError where it took too long, AbortError when it was cancelled
 */
export async function decode(
  path: string,
  options: readonly string[],
  files: Readonly<Record<string, string>>,
  signal: AbortSignal | undefined,
): Promise<DecodedSegment[] | undefined> {
  // It takes a list of names, here of one, and writes to a file.
  const { dir, name, ext } = parse(path);
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-decoder-'));
  const [list, answer] = [join(folder, 'list'), join(folder, 'answer')];
  try {
    await writeFile(list, `${name}\n`);
    const named = Object.entries(files).map(([option, text], k) => ({ option, text, file: join(folder, `file${k}`) }));
    for (const { file, text } of named) await writeFile(file, text);
    const { failed, timedOut, isCanceled } = await execa(
      ...bounded(
        PROGRAM,
        [
          ...['-hmm', `${MODEL}/en-us`, '-cepdir', dir, '-cepext', ext, '-ctl', list, '-hypseg', answer, '-logfn', '/dev/null'],
          ...SOUND,
          ...options,
          ...named.flatMap(({ option, file }) => [option, file]),
        ],
        LIMITS,
      ),
      { reject: false, timeout: TIMEOUT_MS, stdio: 'ignore', ...(signal && { cancelSignal: signal }) },
    );
    if (isCanceled || signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
    if (timedOut) throw new RecogniserError('The recogniser took over five minutes for one part.', true);
    return failed ? undefined : segmentsIn(await readFile(answer, 'utf8'));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** A segment with what the decoder's model of language says of it. */
export interface DecodedSegment extends Segment {
  readonly languageScore: number;
}

/**
 * What stands in a segmentation: after some totals that end with `L` and a number, each segment's first frame,
 * its acoustic and its language score and its word, at last the frame that ends them:
 * `part S 0 T -1 A -1 L -1 0 -8 -3 <s> 3 -8 -3 board(2) 27`.
 */
export function segmentsIn(output: string): DecodedSegment[] {
  const fields = output.trim().split(/\s+/);
  const columns = fields.slice(fields.indexOf('L') + 2);
  const segments: DecodedSegment[] = [];
  for (let k = 0; k + 4 < columns.length; k += 4) {
    const [start, acoustic, language, word = '', end] = columns.slice(k, k + 5);
    segments.push({
      // One of several ways to say it is numbered.
      word: word.replace(/\(\d+\)$/, ''),
      start: Number(start) / FRAMES,
      end: Number(end) / FRAMES,
      frames: Number(end) - Number(start),
      score: Number(acoustic),
      languageScore: Number(language),
    });
  }
  return segments;
}
