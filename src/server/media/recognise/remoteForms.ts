import { openAsBlob } from 'node:fs';
import { basename, extname } from 'node:path';
import { z } from 'zod';
import { shareOut } from '@/core/align/share.ts';
import { segmentsIn } from '@/core/interchange/transcripts/segments.ts';
import type { Passage } from '@/core/transcript/roughTranscript.ts';
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
  read: (answer) => segmentsIn(answer)?.passages.flatMap(wordsOf),
};

/** The words of a segment with their times; without them, each with its share of it, or with none where a whole part has no segments. */
function wordsOf({ start, end, speaker, tokens }: Passage): RecognisedWord[] {
  const shares =
    start === undefined || end === undefined
      ? []
      : shareOut(
          tokens.map(({ text }) => text),
          { start, end: Math.max(start + 0.01, end) },
          [],
        );
  return tokens.map((token, k): RecognisedWord => {
    const heard = { text: token.text, confidence: token.confidence ?? 1, ...(speaker && { speaker }) };
    if (token.start !== undefined && token.end !== undefined)
      return { ...heard, start: token.start, end: token.end, ...(token.timing === 'estimated' && { timing: 'estimated' }) };
    const share = shares[k];
    return share ? { ...heard, ...share, timing: 'estimated' } : { ...heard, start: 0, end: 0, timing: 'unknown' };
  });
}

export const REMOTE_FORMS = { own, transcriptions } as const;
export type RemoteFormId = keyof typeof REMOTE_FORMS;
export const isForm = (name: string | undefined): name is RemoteFormId => name !== undefined && Object.hasOwn(REMOTE_FORMS, name);

/** The forms to try at an address, the likeliest first: the widely used one has a path of its own. */
export const formsFor = (url: string, set: RemoteFormId | undefined): readonly RemoteFormId[] => {
  if (set) return [set];
  return /\/audio\/transcriptions\/?$/.test(new URL(url).pathname) ? ['transcriptions'] : ['own', 'transcriptions'];
};
