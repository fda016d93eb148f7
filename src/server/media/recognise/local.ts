import { availableParallelism } from 'node:os';
import { judgedPlaces } from '@/core/align/judgedPlaces.ts';
import { type ChainPlace, type Pronunciations, placesInChain, spokenForm, wordChain } from '@/core/align/wordChain.ts';
import { type DecodedSegment, decode, fillerDictionary, pronunciations, whatIsMissing } from './decoder.ts';
import { type RecognisedWord, type Recogniser, RecogniserError, type SoundPart } from './recogniser.ts';

/**
 * Hesitations as fillers of a single sound, which is what the decoder's filler dictionary allows: a neutral vowel, a
 * nasal, an r-coloured vowel. A vowel with a nasal behind it is "um".
 */
const HESITATIONS = { '[UH]': 'uh', '[MM]': 'um', '[ER]': 'er' } as const;
const FILLER_SOUNDS = '[UH] AH\n[MM] M\n[ER] ER\n';
const FILLER_PROBABILITY = ['-fillprob', '1e-2'];
/** Shorter than this it was a click or a release. */
const LEAST_HESITATION = 0.08;
/** The nasal of an "um" follows its vowel within this. */
const JOIN = 0.06;
const HESITATION_CONFIDENCE = 0.6;

const listen = async ({ path }: SoundPart, signal: AbortSignal | undefined) =>
  joinHesitations(wordsIn(await heard(path, signal)));

/**
 * Debian's pocketsphinx with its US English model, with hesitations in its filler dictionary. With those the decoder cannot
 * tell how sure it is of a word; that is reckoned from the scores it gives. It finds given words, too, by a grammar that knows no others.
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

  recognise: (part, _language, signal) => listen(part, signal),

  places: async (language) => /^en\b/i.test(language) && whatIsMissing() === undefined,

  async open() {
    let says: Promise<Pronunciations> | undefined;
    return {
      recognise: (part, _language, signal) => listen(part, signal),
      place: async (part, words, signal) => {
        says ??= pronunciations();
        return placed(part, words, await says, signal);
      },
      close: () => undefined,
    };
  },
};

/** Fillers may start anywhere and make the search wide; this keeps it as fast as without. */
const BOUNDED = ['-maxwpf', '5', '-maxhmmpf', '2000'];

/** With fillers of a single sound the decoder ends itself on some sounds, each time: words without hesitations are better than none. */
async function heard(path: string, signal: AbortSignal | undefined): Promise<DecodedSegment[]> {
  const fillers = { '-fdict': await fillerDictionary(FILLER_SOUNDS) };
  const segments =
    (await decode(path, [...BOUNDED, ...FILLER_PROBABILITY], fillers, signal)) ?? (await decode(path, BOUNDED, {}, signal));
  if (!segments) throw new RecogniserError('The recogniser stopped in the middle of a part.', true);
  return segments;
}

/** A grammar has few paths, and no good one is to be lost for one bad stretch. */
const WIDE = ['-beam', '1e-80', '-pbeam', '1e-80', '-wbeam', '1e-80', '-maxhmmpf', '3000', '-cmn', 'batch'];
/** Words more of which no dictionary has are of another language, and could be anywhere: rows of sounds beside one another are not soon gone through. A few are names. */
const MOST_UNKNOWN = 1 / 3;
const NAMES = 4;
/** How far the edges of a word may be off that is found so: on seven recordings nineteen in twenty were nearer. */
const ERROR = 0.06;

async function placed(part: SoundPart, words: readonly string[], says: Pronunciations, signal: AbortSignal | undefined) {
  const places = await chainIn(part.path, words, says, signal);
  return typeof places === 'object' ? judgedPlaces(places, words, ERROR) : places;
}

/**
 * The likeliest way to say given words in order, with silence and hesitations between them, or that there is none; undefined where the decoder
 * ended itself, or hardly knows these words.
 */
export async function chainIn(
  path: string,
  words: readonly string[],
  says: Pronunciations,
  signal?: AbortSignal,
): Promise<readonly ChainPlace[] | 'not said' | undefined> {
  const forms = words.map((word) => spokenForm(word, says));
  const unknown = forms.filter((form) => form.length === 0).length;
  if (unknown > Math.max(NAMES, MOST_UNKNOWN * forms.length)) return undefined;
  const { grammar, dictionary } = wordChain(forms, says);
  const files = { '-fsg': grammar, '-dict': dictionary, '-fdict': await fillerDictionary(FILLER_SOUNDS) };
  const segments = await decode(path, [...WIDE, ...FILLER_PROBABILITY], files, signal);
  return segments && (placesInChain(segments, forms) ?? 'not said');
}

/** Words and hesitations of what was decoded. */
export function wordsIn(segments: readonly DecodedSegment[]): RecognisedWord[] {
  return segments.flatMap(({ word, start, end, frames, score, languageScore }, k) => {
    if (/^<.*>$/.test(word) || word === '[NOISE]' || word === '[SPEECH]') return [];
    const hesitation = HESITATIONS[word as keyof typeof HESITATIONS];
    const hesitatesNext = segments[k + 1]?.word.startsWith('[') ?? false;
    const confidence = hesitation ? HESITATION_CONFIDENCE : sureness(score + languageScore, frames, word.length, hesitatesNext);
    return [{ text: hesitation ?? word, start, end, confidence }];
  });
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
