import { createHash } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { wordsOfTokens } from '@/core/align/tokenWords.ts';
import { rightIn100 } from '@/core/contract/models.ts';
import { MediaError } from '../ffmpeg.ts';
import { Engine, type Heard } from '../models/engine.ts';
import { modelFilesIn } from '../models/modelFiles.ts';
import { type Model, modelFor, modelsIn, recognising } from '../models/models.ts';
import { tellsPosteriors } from '../models/posteriors.ts';
import {
  COMMON_LANGUAGES,
  type OpenRecogniser,
  type RecognisedWord,
  type Recogniser,
  RecogniserError,
  type SoundPart,
} from './recogniser.ts';

/** Networks of an encoder and a decoder hear half a minute at a time, and no more. */
const LONGEST = 28;
/** How far a word may be off: a frame of a network that places them is 40 ms, and it says a token somewhere inside it. */
const ERROR = 0.06;
/** Share of words heard wrong above which the last resort is better. */
const MOST_WRONG = 0.4;

/**
 * The models that were brought to this machine. Which one hears follows from the language; each job has a process of its own, so that it can be
 * ended at any moment and takes nobody else with it.
 * @param folder where they lie
 */
export const modelRecogniser = (folder: () => string): Recogniser => ({
  id: 'model',
  label: 'A model on this machine',
  parallel: Math.max(1, availableParallelism()),
  longest: LONGEST,

  async state() {
    const models = recognising(await modelsIn(folder()));
    // One that says no language is asked for any.
    const languages = models.flatMap(({ card }) => (card.languages.length > 0 ? card.languages : COMMON_LANGUAGES));
    return models.length === 0
      ? {
          help: '',
          languages: ['en'],
          unavailable: 'No model is here yet: bring one under Models on this machine, or by bin/zetemis models add.',
        }
      : {
          help: models.map(helpOf).join(' '),
          languages: [...new Set(languages)],
          isPoor: models.every(isPoor),
        };
  },

  async recognise(part, language, signal) {
    const open = await openModel(folder(), language);
    try {
      return await open.recognise(part, language, signal);
    } finally {
      open.close();
    }
  },

  open: (language) => openModel(folder(), language),

  async places(language) {
    const model = modelFor(await modelsIn(folder()), language);
    return model !== undefined && !isPoor(model) && tellsPosteriors(await modelFilesIn(model.folder));
  },

  async variant(language) {
    const card = modelFor(await modelsIn(folder()), language)?.card;
    return card ? createHash('sha256').update(`${card.name} ${card.added}`).digest('hex').slice(0, 12) : 'none';
  },
});

/** English is what a model is tried by; of one for other languages it says nothing. */
const isPoor = ({ card: { languages, wrong } }: Model): boolean =>
  (wrong ?? 0) > MOST_WRONG && (languages.length === 0 || languages.some((tag) => /^en\b/i.test(tag)));

function helpOf({ card: { name, bytes, pace, wrong } }: Model): string {
  return `${name}, ${Math.ceil(bytes / 1e6)} MB: a minute takes ${(60 * pace).toFixed(1)} s on one core here, and of shipped English speech it hears ${rightIn100(wrong ?? 0)} words in 100 right.`;
}

async function openModel(folder: string, language: string): Promise<OpenRecogniser> {
  const model = modelFor(await modelsIn(folder), language);
  if (!model) throw new RecogniserError(`No model here knows the language ${language}.`, false);
  const files = await modelFilesIn(model.folder).catch((error) => {
    throw asRecogniserError(error, false);
  });
  const engine = new Engine(files, language, model.card.tokenTimes);
  await engine.ready().catch((error) => {
    throw asRecogniserError(error, false);
  });
  return {
    recognise: async (part, _, signal) => {
      const heard = await engine.hear(part.path, signal).catch((error) => {
        throw asRecogniserError(error, true);
      });
      return wordsIn(heard);
    },
    ...(tellsPosteriors(files) && {
      place: async (part: SoundPart, words: readonly string[], signal: AbortSignal | undefined) => {
        const places = await engine.place(part.path, words, signal);
        return places?.map((place) => ({ ...place, error: ERROR, isLike: true }));
      },
    }),
    close: () => engine.close(),
  };
}

const asRecogniserError = (error: Error, again: boolean): Error =>
  error instanceof MediaError ? new RecogniserError(error.message, again) : error;

/** Words of what was heard: where each token has a time, with theirs; else in order alone. */
function wordsIn({ text, tokens, timestamps, durations, logProbabilities, seconds }: Heard): RecognisedWord[] {
  if (tokens.length > 0 && tokens.length === timestamps.length)
    return wordsOfTokens({ tokens, timestamps, durations, logProbabilities }, seconds).map((word) => ({
      confidence: 1,
      ...word,
    }));
  return text
    .split(/\s+/)
    .filter((word) => word !== '')
    .map((word) => ({ text: word, start: 0, end: 0, confidence: 1, timing: 'unknown' as const }));
}
