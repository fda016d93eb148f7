import { openAsBlob } from 'node:fs';
import { basename, extname } from 'node:path';
import { z } from 'zod';
import { shareOut } from '@/core/align/share.ts';
import { type RecognisedWord, recognisedWord, type SoundPart } from './recogniser.ts';

/** A way in which a service is asked over HTTP, and answers. */
export interface RemoteForm {
  ask(part: SoundPart, language: string, model: string): Promise<FormData>;
  /** @returns undefined where the answer is none of this form */
  read(answer: unknown): RecognisedWord[] | undefined;
}

const MOST_WORDS = 100_000;

/** Segments with their words, times in seconds from the start of the part; see docs/words.md. */
const ownAnswer = z.object({
  language: z.string().optional(),
  segments: z
    .array(z.object({ speaker: z.string().max(100).optional(), words: z.array(recognisedWord).max(MOST_WORDS) }))
    .max(MOST_WORDS),
});

const own: RemoteForm = {
  async ask({ path, recording, offset }, language) {
    const form = new FormData();
    form.set('audio', await openAsBlob(path, { type: 'audio/wav' }), 'part.wav');
    form.set('language', language);
    form.set('recording', recording);
    form.set('offset', String(offset));
    return form;
  },
  read(answer) {
    return ownAnswer
      .safeParse(answer)
      .data?.segments.flatMap(({ speaker, words }) =>
        words.map((word) => ({ ...word, ...(speaker && !word.speaker && { speaker }) })),
      );
  },
};

const moment = z.number().min(0).max(1e6);
const spokenWord = z.object({ word: z.string().max(200), start: moment, end: moment, probability: z.number().optional() });
/** What self-hosted transcription servers answer to `verbose_json`: words beside the segments, inside them, or not at all. */
const verboseAnswer = z.object({
  text: z.string().max(1_000_000),
  words: z.array(spokenWord).max(MOST_WORDS).nullish(),
  segments: z
    .array(
      z.object({
        start: moment,
        end: moment,
        text: z.string().max(100_000),
        avg_logprob: z.number().nullish(),
        words: z.array(spokenWord).max(MOST_WORDS).nullish(),
      }),
    )
    .max(MOST_WORDS)
    .nullish(),
});
type Segment = NonNullable<z.infer<typeof verboseAnswer>['segments']>[number];

const likely = (logProbability: number | null | undefined): number =>
  typeof logProbability === 'number' ? Math.min(1, Math.exp(Math.min(0, logProbability))) : 1;

const textsOf = (text: string): string[] => text.split(/\s+/).filter((word) => word !== '');

const transcriptions: RemoteForm = {
  async ask({ path, recording, offset }, language, model) {
    const form = new FormData();
    const name = basename(recording, extname(recording)).replace(/[^\w .-]/g, '_');
    form.set('file', await openAsBlob(path, { type: 'audio/wav' }), `${name}_${offset.toFixed(3)}.wav`);
    form.set('model', model);
    form.set('language', language.split('-')[0] ?? language);
    form.set('response_format', 'verbose_json');
    form.append('timestamp_granularities[]', 'word');
    form.append('timestamp_granularities[]', 'segment');
    return form;
  },
  read(answer) {
    const { data } = verboseAnswer.safeParse(answer);
    if (!data) return undefined;
    const segments = data.segments ?? [];
    const inSegments = segments.flatMap(({ words }) => words ?? []);
    const timed = data.words?.length ? data.words : inSegments;
    if (timed.length > 0)
      return timed.flatMap(({ word, start, end, probability }) => {
        const text = word.trim();
        const around = segments.find((segment) => start < segment.end);
        const confidence = probability === undefined ? likely(around?.avg_logprob) : Math.max(0, Math.min(1, probability));
        return text === '' ? [] : [{ text, start, end: Math.max(start, end), confidence }];
      });
    if (segments.length > 0) return segments.flatMap(sharedOut);
    return textsOf(data.text).map((text) => ({ text, start: 0, end: 0, confidence: 1, timing: 'unknown' as const }));
  },
};

/** Words of a segment, each with its share of it. */
function sharedOut({ start, end, text, avg_logprob }: Segment): RecognisedWord[] {
  const texts = textsOf(text);
  const confidence = likely(avg_logprob);
  return shareOut(texts, { start, end: Math.max(start + 0.01, end) }, []).map((range, k) => ({
    ...range,
    text: texts[k] as string,
    confidence,
    timing: 'estimated' as const,
  }));
}

export const REMOTE_FORMS = { own, transcriptions } as const;
export type RemoteFormId = keyof typeof REMOTE_FORMS;
export const isForm = (name: string | undefined): name is RemoteFormId => name !== undefined && Object.hasOwn(REMOTE_FORMS, name);

/** The forms to try at an address, the likeliest first: the widely used one has a path of its own. */
export const formsFor = (url: string, set: RemoteFormId | undefined): readonly RemoteFormId[] => {
  if (set) return [set];
  return /\/audio\/transcriptions\/?$/.test(new URL(url).pathname) ? ['transcriptions'] : ['own', 'transcriptions'];
};
