import { existsSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { availableParallelism, tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';
import { execa } from 'execa';
import { type RecognisedWord, type Recogniser, RecogniserError, type SoundPart } from './recogniser.ts';

const MODEL = '/usr/share/pocketsphinx/model/en-us';
const PROGRAM = 'pocketsphinx_continuous';
/** A part takes a tenth of its length; this is for a machine that is busy with everything else. */
const TIMEOUT_MS = 300_000;
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
/** How sure a word is that only one of the two passes heard. */
const ONE_PASS = 0.3;
const HESITATION_CONFIDENCE = 0.6;

/**
 * Debian's pocketsphinx with its US English model. Each part is decoded twice: once with hesitations in the filler
 * dictionary, for which the decoder cannot tell how sure it is, and once without, which says that of every word. What both
 * heard is as sure as the second says.
 */
export const local: Recogniser = {
  id: 'local',
  label: 'On this machine',
  help: 'US English, offline; about one word in five comes out wrong.',
  languages: ['en'],
  parallel: Math.max(1, availableParallelism()),

  async unavailable() {
    if (!existsSync(`${MODEL}/en-us/mdef`)) return 'The English model is missing: apt-get install pocketsphinx-en-us.';
    const folders = (process.env.PATH ?? '').split(delimiter);
    const there = folders.some((folder) => existsSync(join(folder, PROGRAM)));
    return there ? undefined : 'The recogniser is missing: apt-get install pocketsphinx.';
  },

  async recognise({ path }: SoundPart, _language, signal) {
    const fillers = await fillerDictionary();
    const [heard, sure] = [
      await decode([path, '-fdict', fillers, '-fillprob', FILLER_PROBABILITY, '-bestpath', 'no', ...BOUNDED], signal),
      await decode([path, ...NARROW, ...BOUNDED], signal),
    ];
    return withConfidence(joinHesitations(heard), sure);
  },
};

/** Fillers may start anywhere and make the search wide; this keeps it as fast as without. */
const BOUNDED = ['-maxwpf', '5', '-maxhmmpf', '3000'];

/** The second pass only says how sure words are: it may look less far. */
const NARROW = ['-fwdflat', 'no', '-topn', '2', '-beam', '1e-40', '-pbeam', '1e-40', '-wbeam', '1e-22'];

let dictionary: Promise<string> | undefined;

function fillerDictionary(): Promise<string> {
  dictionary ??= (async () => {
    const path = join(tmpdir(), `zetemis-fillers-${process.pid}.dict`);
    await writeFile(path, `${(await readFile(`${MODEL}/en-us/noisedict`, 'utf8')).trimEnd()}\n${FILLER_SOUNDS}`);
    return path;
  })();
  return dictionary;
}

async function decode([path, ...options]: readonly string[], signal: AbortSignal | undefined): Promise<RecognisedWord[]> {
  const { stdout, failed, timedOut, isCanceled } = await execa(
    PROGRAM,
    ['-infile', path as string, '-time', 'yes', '-logfn', '/dev/null', ...options],
    { reject: false, timeout: TIMEOUT_MS, maxBuffer: 16_000_000, stdin: 'ignore', ...(signal && { cancelSignal: signal }) },
  );
  if (isCanceled || signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
  if (timedOut) throw new RecogniserError('The recogniser took over five minutes for one part.', true);
  if (failed) throw new RecogniserError('The recogniser stopped in the middle of a part.', true);
  return wordsIn(stdout);
}

/** Lines such as `board(2) 8.890 9.140 0.342932`; other lines hold what was said as text. */
export function wordsIn(output: string): RecognisedWord[] {
  return output.split('\n').flatMap((line) => {
    const [, word = '', start, end, sure] = /^(\S+) (\d+\.\d+) (\d+\.\d+) ([\d.]+)\s*$/.exec(line) ?? [];
    if (word === '' || /^<.*>$/.test(word) || word === '[NOISE]' || word === '[SPEECH]') return [];
    const text = HESITATIONS[word as keyof typeof HESITATIONS] ?? word.replace(/\(\d+\)$/, '');
    const confidence = word.startsWith('[') ? HESITATION_CONFIDENCE : Math.max(0, Math.min(1, Number(sure)));
    // The decoder names the last frame of a word; it ends with the frame.
    return [{ text, start: Number(start), end: Number(end) + 0.01, confidence }];
  });
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

function withConfidence(heard: readonly RecognisedWord[], sure: readonly RecognisedWord[]): RecognisedWord[] {
  const hesitations: readonly string[] = Object.values(HESITATIONS);
  return heard.map((word) => {
    if (hesitations.includes(word.text)) return word;
    const same = sure.find(
      (other) => other.text === word.text && Math.min(other.end, word.end) - Math.max(other.start, word.start) > 0,
    );
    return { ...word, confidence: same ? same.confidence : ONE_PASS };
  });
}
