import { z } from 'zod';
import { parseJson } from '../../contract/json.ts';
import { firstAfter } from '../../time/range.ts';
import { TOLD_LANGUAGES } from '../../transcript/languageTags.ts';
import { withWholeNotes } from '../../transcript/notes.ts';
import type { Passage, RoughTranscript, Token } from '../../transcript/roughTranscript.ts';
import { MAX_WORDS, TranscriptError } from '../../transcript/word.ts';
import { split } from './cues.ts';
import type { TranscriptReader } from './format.ts';

/** Recognisers round, so that a first word may start a moment before the recording does. */
const moment = z
  .number()
  .min(-1)
  .max(1e6)
  .transform((at) => Math.max(0, at));
const sure = z.number().nullish();
const word = z.object({
  word: z.string().max(200),
  start: moment.nullish(),
  end: moment.nullish(),
  probability: sure,
  score: sure,
  speaker: z.string().max(100).nullish(),
});
const segment = z.object({
  start: moment,
  end: moment,
  text: z.string().max(100_000),
  avg_logprob: z.number().nullish(),
  speaker: z.string().max(100).nullish(),
  words: z.array(word).max(MAX_WORDS).nullish(),
});
const segments = z.object({
  language: z.string().max(35).nullish(),
  text: z.string().max(30_000_000).nullish(),
  words: z.array(word).max(MAX_WORDS).nullish(),
  segments: z.array(segment).max(MAX_WORDS).nullish(),
});
type Segment = z.infer<typeof segment>;
type SpokenWord = z.infer<typeof word>;

/**
 * What transcription servers answer to `verbose_json`, and recognisers write as JSON: segments with their text, and words with their times
 * inside them, beside them, or not at all. A list alone is one of segments.
 * @returns undefined for what is none of this form
 */
export function segmentsIn(value: unknown): Pick<RoughTranscript, 'language' | 'passages'> | undefined {
  const { data } = segments.safeParse(Array.isArray(value) ? { segments: value } : value);
  if (!data || (data.segments ?? data.words ?? data.text ?? undefined) === undefined) return undefined;
  const all = data.segments ?? [];
  const language = tagOf(data.language);
  return { ...(language && { language }), passages: passagesOf(data.words ?? [], all, data.text ?? '') };
}

function passagesOf(beside: readonly SpokenWord[], all: readonly Segment[], text: string): Passage[] {
  if (beside.length > 0) {
    const tokens = tokensOf(beside, { start: 0, end: all.at(-1)?.end ?? 0 }, (at) =>
      likely(all[firstAfter(all.length, (k) => (all[k] as Segment).end, at)]?.avg_logprob),
    );
    return tokens.length > 0 ? [{ speaker: '', start: tokens[0]?.start ?? 0, end: tokens.at(-1)?.end ?? 0, tokens }] : [];
  }
  if (all.length === 0) return text.trim() === '' ? [] : [{ speaker: '', tokens: split(text) }];
  return all.flatMap(({ words, speaker, avg_logprob, ...line }): Passage[] => {
    const confidence = likely(avg_logprob);
    const tokens = words?.length
      ? tokensOf(words, line, () => confidence)
      : split(line.text).map((token) => ({ ...token, confidence }));
    const { start, end } = line;
    return tokens.length > 0 ? [{ speaker: speaker ?? words?.[0]?.speaker ?? '', start, end: Math.max(start, end), tokens }] : [];
  });
}

/** Words with their times; one without any, as numbers often are, lies between those beside it. */
function tokensOf(
  words: readonly SpokenWord[],
  around: { readonly start: number; readonly end: number },
  otherwise: (at: number) => number,
): Token[] {
  const next: number[] = [];
  for (let k = words.length - 1, begins = around.end; k >= 0; k--) {
    next[k] = begins;
    begins = words[k]?.start ?? begins;
  }
  let before = around.start;
  const tokens = words.map(({ word, start, end, probability, score }, k): Token => {
    const isTimed = typeof start === 'number' && typeof end === 'number';
    const from = start ?? before;
    before = Math.max(from, end ?? next[k] ?? from);
    const told = probability ?? score;
    const confidence = typeof told === 'number' ? Math.max(0, Math.min(1, told)) : otherwise(from);
    return { text: word.trim(), start: from, end: before, confidence, ...(!isTimed && { timing: 'estimated' }) };
  });
  return withWholeNotes(tokens.filter(({ text }) => text !== ''));
}

const likely = (logProbability: number | null | undefined): number =>
  typeof logProbability === 'number' ? Math.min(1, Math.exp(Math.min(0, logProbability))) : 1;

/** The tag of a language that may be written as a tag or as its English name: `de`, `german`. */
function tagOf(language: string | null | undefined): string | undefined {
  if (!language) return undefined;
  const names = new Intl.DisplayNames(['en'], { type: 'language' });
  const named = TOLD_LANGUAGES.find((tag) => names.of(tag)?.toLowerCase() === language.toLowerCase());
  return named ?? (/^[a-z]{2,3}(-[a-z0-9]+)*$/i.test(language) ? language : undefined);
}

/** Segments of a recogniser as JSON. Read alone: our own form says more. */
export const segmentsJson: TranscriptReader = {
  looksLike: (text) => /^\uFEFF?\s*\[\s*\{/.test(text) || (/^\uFEFF?\s*\{/.test(text) && /"(?:segments|word)"\s*:/.test(text)),
  async read(file) {
    const value = parseJson(file, (why) => new TranscriptError(`The transcript is not JSON: ${why}`));
    const found = segmentsIn(value);
    if (!found) throw new TranscriptError('The segments of this transcript need a start, an end and a text each, in seconds.');
    if (found.passages.length === 0) throw new TranscriptError('The file holds no words.');
    return { ...found, notes: [] };
  },
};
