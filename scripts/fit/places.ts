import { writeFile } from 'node:fs/promises';
import { Command } from 'commander';
import pMap from 'p-map';
import { likenessTogether, PLACE_EVIDENCE, placeEvidence } from '@/core/align/judgedPlaces.ts';
import { matchWords } from '@/core/align/matching.ts';
import { openRuns } from '@/core/align/openRuns.ts';
import { timeTranscript } from '@/core/align/timeTranscript.ts';
import type { ChainPlace, Pronunciations } from '@/core/align/wordChain.ts';
import { type Example, fitLogistic, probabilityOf } from '@/core/detect/calibration/logistic.ts';
import { quantile } from '@/core/numbers/quantile.ts';
import { plainWord } from '@/core/transcript/plainWord.ts';
import type { Word } from '@/core/transcript/word.ts';
import { probe } from '@/server/media/probe.ts';
import { pronunciations } from '@/server/media/recognise/decoder.ts';
import { chainIn } from '@/server/media/recognise/local.ts';
import { LONGEST } from '@/server/media/recognise/placing.ts';
import { soundPart } from '@/server/media/recognise/soundPart.ts';
import { type FitRecording, recordingsIn } from './examples.ts';
import { captionsOf, type HeardRecording, hear, LINES, otherWords } from './heardRecordings.ts';

// Which words that were put under the sound are to be relied on: `npm run fit:places -- FOLDER…`, recordings with truth and transcripts. The words
// of each transcript are made lines, as captions have them, put under their own recording, where it is known how far each is off, and under another.

const KINDS = ['words', 'words-nofill', 'words-noisy'];
/** Off by more a word is wrong; what is further away was another saying of the same word. */
const MOST_OFF = 0.12;
const ANOTHER = 2;
const RIDGE = 2;
/** With each recording so many others' words are looked for in it, of each kind. */
const OTHERS = 2;
/** Of the words that are relied on, so many must be right, each recording told by what was learned from the others. */
const RIGHT = 0.985;
/** Of the words of another recording that are found at all, so many may be told. */
const MOST_OF_OTHER = 0.02;

/** A word that was found, and whether it is of the recording in which it was looked for. */
interface Looked extends Example {
  readonly isOwn: boolean;
}

interface Found {
  readonly examples: readonly Looked[];
  /** how the sound is like all of the words of each run */
  readonly own: readonly number[];
  readonly other: readonly number[];
}

const program = new Command('places')
  .argument('<folders...>')
  .option('--keep <folder>', 'where what is measured is kept', 'var/fit/measures')
  .option('--every <count>', 'one of so many recordings is looked at', Number, 1)
  .option('--write', 'write the numbers into the project')
  .action(async (folders: string[], { keep, every, write }: { keep: string; every: number; write?: boolean }) => {
    const recordings = (await Promise.all(folders.map(recordingsIn))).flat().filter((_, k) => k % every === 0);
    const heard = await pMap(recordings, (recording) => hear(recording, keep), { concurrency: 2 });
    const says = await pronunciations();
    const found = await pMap(recordings, (_, k) => foundIn(recordings, heard, k, says), { concurrency: 2 });
    const told = found
      .flatMap(({ examples }, k) => {
        const others = found.filter((_, n) => n !== k).flatMap((one) => one.examples);
        const model = fitLogistic(others, PLACE_EVIDENCE, RIDGE);
        return examples.map(({ right, isOwn, evidence }) => ({ right, isOwn, told: probabilityOf(model, evidence) }));
      })
      .sort((a, b) => b.told - a.told);
    const { least, share } = leastFor(told);
    const right = told.filter((one) => one.right).length;
    process.stdout.write(
      `${recordings.length} recordings, ${told.length} words, ${(right / told.length).toFixed(3)} right; from ${least} on ${share.toFixed(3)} of their own, ${RIGHT} right\n`,
    );
    const [own, other] = [found.flatMap((one) => one.own), found.flatMap((one) => one.other)];
    const [low, high] = [quantile(own, 0.005), quantile(other, 0.95)];
    process.stdout.write(
      `together: ${own.length} runs of their own recording from ${low.toFixed(1)}, ${other.length} of another to ${high.toFixed(1)}\n`,
    );
    const model = fitLogistic(
      found.flatMap(({ examples }) => examples),
      PLACE_EVIDENCE,
      RIDGE,
    );
    const text = `import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: ${told.length} words of ${recordings.length} recordings. */
export const PLACED: LogisticModel = {
  intercept: ${model.intercept},
  weights: {
${PLACE_EVIDENCE.map((name) => `    ${name}: ${model.weights[name]},\n`).join('')}  },
};

/** From this probability on ${share.toFixed(2)} of a recording's own words are told, ${MOST_OF_OTHER} of those of another one at most, and ${RIGHT} of those are right in recordings that were not learned from. */
export const LEAST_PLACED = ${least};

/** How sure a word is that is told so, whatever it was before. */
export const SURE_OF_PLACED = ${RIGHT};

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of ${own.length} runs of their own recording come to ${low.toFixed(1)} and more, 95 % of
 * ${other.length} of another one to ${high.toFixed(1)} at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = ${((low + high) / 2).toFixed(1)};
`;
    if (write) await writeFile('src/core/align/fittedPlaces.ts', text);
  });

interface Told {
  readonly right: boolean;
  readonly isOwn: boolean;
  readonly told: number;
}

/**
 * The least probability from which on enough of what is told is right and little of it of another recording, and the share of a recording's own words
 * that are told then.
 * @param told the surest first
 */
function leastFor(told: readonly Told[]): { least: number; share: number } {
  const own = told.filter(({ isOwn }) => isOwn).length;
  const mostOther = MOST_OF_OTHER * (told.length - own);
  let [right, other, best] = [0, 0, { least: 1, share: 0 }];
  for (const [k, one] of told.entries()) {
    if (one.right) right++;
    if (!one.isOwn) other++;
    if (other > mostOther) break;
    if (right / (k + 1) >= RIGHT) best = { least: one.told, share: (k + 1 - other) / own };
  }
  return best;
}

async function foundIn(
  recordings: readonly FitRecording[],
  heard: readonly HeardRecording[],
  k: number,
  says: Pronunciations,
): Promise<Found> {
  const [recording, sound] = [recordings[k] as FitRecording, heard[k] as HeardRecording];
  const examples: Looked[] = [];
  const [own, other]: [number[], number[]] = [[], []];
  for (const [n, [kind, words]] of sound.transcripts.entries()) {
    if (!KINDS.includes(kind)) continue;
    const form = LINES[(k + n) % LINES.length] as (typeof LINES)[number];
    for (const run of await placedRuns(recording, sound, captionsOf(words, form), says)) {
      own.push(likenessTogether(run.places));
      examples.push(...examplesOf(run, recording).map((one) => ({ ...one, isOwn: true })));
    }
    for (let further = 1; further <= OTHERS; further++) {
      const strange = otherWords(heard, k, kind, further)?.filter(({ end }) => end < sound.duration);
      for (const run of await placedRuns(recording, sound, captionsOf(strange ?? [], form), says)) {
        other.push(likenessTogether(run.places));
        examples.push(...evidenceOf(run).map((evidence) => ({ evidence, right: false, isOwn: false })));
      }
    }
  }
  return { examples, own, other };
}

interface PlacedRun {
  /** as they were guessed */
  readonly words: readonly Word[];
  readonly places: readonly ChainPlace[];
  readonly from: number;
}

async function placedRuns(
  { media }: FitRecording,
  { duration, silences }: HeardRecording,
  passages: ReturnType<typeof captionsOf>,
  says: Pronunciations,
): Promise<PlacedRun[]> {
  const [track] = (await probe(media)).audio;
  const { words } = timeTranscript({ passages, notes: [] }, { duration, silences });
  const placed: PlacedRun[] = [];
  for (const { places: of, sound } of openRuns(words, duration, LONGEST)) {
    const own = of.map((n) => words[n] as Word);
    const texts = own.map(({ text }) => text);
    const places = await soundPart(media, [track ?? { index: 0 }], sound, undefined, (wav) => chainIn(wav, texts, says));
    if (typeof places === 'object') placed.push({ words: own, places, from: sound.start });
  }
  return placed;
}

const evidenceOf = ({ words, places }: Pick<PlacedRun, 'words' | 'places'>) =>
  placeEvidence(
    places,
    words.map(({ text }) => text),
  );

function examplesOf({ words, places, from }: PlacedRun, { truth }: FitRecording): Example[] {
  const [first, last] = [(words[0]?.start ?? 0) - ANOTHER, (words.at(-1)?.end ?? 0) + ANOTHER];
  const near = truth.words.filter(({ start, end }) => end > first && start < last);
  const plain = (some: readonly { readonly text: string }[]) => some.map(({ text }) => plainWord(text));
  const matches = matchWords(plain(words), plain(near));
  const evidence = evidenceOf({ words, places });
  return places.flatMap(({ start, end }, k) => {
    const actual = near[matches[k] as number];
    if (!actual || Math.abs(actual.start - (words[k] as Word).start) > ANOTHER) return [];
    const off = Math.max(Math.abs(from + start - actual.start), Math.abs(from + end - actual.end)) - truth.wordTol;
    return [{ evidence: evidence[k] as Example['evidence'], right: off <= MOST_OFF }];
  });
}

await program.parseAsync();
