import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import { plainWord } from '../transcript/plainWord.ts';
import type { Passage, RoughTranscript, Token } from '../transcript/roughTranscript.ts';
import type { Transcript, Word } from '../transcript/word.ts';
import { SURE_OF_PLACED } from './fittedPlaces.ts';
import { linesFit } from './linesFit.ts';
import { matchWords } from './matching.ts';
import { shareOut } from './share.ts';

/** What words without times are put under. */
export interface HeardSound {
  readonly duration: Seconds;
  /** in order and disjoint */
  readonly silences: readonly Range[];
  /** words that a recogniser heard, whatever it took them for: where text has no times, it is anchored on these */
  readonly recognised?: readonly Word[] | undefined;
}

/** A lone short word that matches may match by chance; longer words, and several in a row, do not. */
const TELLING_LETTERS = 5;
const LEAST_ROW = 2;

/** Gives every word its time: its own, one inside its line, or one between words that a recogniser heard as well. */
export function timeTranscript(rough: RoughTranscript, sound: HeardSound): Transcript {
  // Put where something is heard, words of other lines would look as if they were said there.
  const silences = linesFit(rough.passages, sound) ? sound.silences : [];
  const timed = apart(rough.passages).flatMap((passage): Word[] => {
    const { tokens, speaker, start, end } = passage;
    if (hasTimes(tokens)) return tokens.map((token) => toWord(token, speaker, token, token.timing ?? 'measured'));
    if (start === undefined) return [];
    return placeLine({ ...passage, end: end ?? likelyEnd(start, tokens.length, sound) }, silences);
  });
  const untimed = rough.passages.filter(saysNoTime);
  const said = untimed.flatMap(({ tokens, speaker }) => tokens.map(({ text }) => ({ text, speaker })));
  const words = [...timed, ...placeText(said, sound)];
  words.sort((a, b) => a.start - b.start || a.end - b.end);
  return { language: rough.language ?? 'en', words };
}

/** Whether settling needs a recogniser to do well: there is text that says no times at all. */
export const needsAnchors = ({ passages }: RoughTranscript): boolean => passages.some(saysNoTime);

const saysNoTime = ({ tokens, start }: Passage): boolean => start === undefined && !hasTimes(tokens);

type TimedToken = Token & Range;
const hasTimes = (tokens: readonly Token[]): tokens is readonly TimedToken[] =>
  tokens.every(({ start, end }) => start !== undefined && end !== undefined);

/** Nobody takes longer for a word, its pauses with it. */
const LONGEST_WORD: Seconds = 1;

/** When a line ends of which only the beginning is known. */
const likelyEnd = (start: Seconds, words: number, { duration }: HeardSound): Seconds =>
  Math.max(start, Math.min(duration, start + LONGEST_WORD * words));

const millis = (at: Seconds): Seconds => Math.round(at * 1000) / 1000;

const toWord = (token: Token, speaker: string, { start, end }: Range, timing: Word['timing']): Word => ({
  text: token.text,
  start: millis(start),
  end: millis(Math.max(start, end)),
  confidence: token.confidence ?? 1,
  speaker,
  timing,
  ...(token.error !== undefined && { error: token.error }),
  ...(token.overlapped && { overlapped: true }),
});

/**
 * Lines that one person says one behind another: where they overlap, as captions do that come a little early and go a little late, each ends
 * in the middle of that. What people say at once stays so.
 */
function apart(passages: readonly Passage[]): readonly Passage[] {
  const ended = [...passages];
  for (let k = 1; k < ended.length; k++) {
    const [line, next] = [ended[k - 1] as Passage, ended[k] as Passage];
    const { start = 0, end = 0 } = line;
    const { start: from = 0, end: to = 0 } = next;
    if (line.speaker !== next.speaker || from <= start || from >= end || to <= end) continue;
    const middle = (from + end) / 2;
    ended[k - 1] = { ...line, end: middle };
    ended[k] = { ...next, start: middle };
  }
  return ended;
}

function placeLine({ tokens, speaker, start = 0, end = 0 }: Passage, silences: readonly Range[]): Word[] {
  const range = { start, end };
  const places = shareOut(
    tokens.map((token) => token.text),
    range,
    silencesIn(range, silences),
  );
  return tokens.map((token, k) => toWord(token, speaker, places[k] ?? range, 'estimated'));
}

function silencesIn({ start, end }: Range, silences: readonly Range[]): readonly Range[] {
  const first = firstAfter(silences.length, (k) => (silences[k] as Range).end, start);
  const last = firstAfter(silences.length, (k) => (silences[k] as Range).start, end);
  return silences.slice(first, last);
}

/** Text without times: words that were recognised too take their times, the rest is shared out between those. */
function placeText(
  said: readonly { readonly text: string; readonly speaker: string }[],
  { duration, silences, recognised = [] }: HeardSound,
): Word[] {
  const placed = new Array<Word | undefined>(said.length);
  const anchors = trusted(
    matchWords(
      said.map(({ text }) => plainWord(text)),
      recognised.map(({ text }) => plainWord(text)),
    ),
    said.map(({ text }) => plainWord(text)),
  );
  for (const [k, anchor] of anchors.entries()) {
    const { text, speaker } = said[k] as (typeof said)[number];
    const heard = recognised[anchor];
    if (heard)
      placed[k] = toWord(
        { text, confidence: Math.max(SURE_OF_PLACED, heard.confidence) },
        speaker || heard.speaker,
        heard,
        'measured',
      );
  }
  for (let k = 0; k < said.length; k++) {
    if (placed[k]) continue;
    let to = k;
    while (to < said.length && !placed[to]) to++;
    const run = said.slice(k, to);
    const [before, after] = [anchors[k - 1] ?? -1, to < said.length ? (anchors[to] as number) : recognised.length];
    const range = { start: placed[k - 1]?.end ?? 0, end: placed[to]?.start ?? duration };
    const places = placeRun(run, range, recognised.slice(before + 1, after), silences);
    for (const [n, { text, speaker }] of run.entries())
      placed[k + n] = toWord({ text, confidence: 0.5 }, speaker, places[n] ?? range, 'estimated');
  }
  return placed as Word[];
}

/** Words between two anchors: where as many were heard, however wrongly, each takes the place of one. */
function placeRun(
  run: readonly { readonly text: string }[],
  range: Range,
  heard: readonly Word[],
  silences: readonly Range[],
): readonly Range[] {
  if (heard.length === run.length) return heard;
  const [first, last] = [heard[0], heard.at(-1)];
  const within = first && last && last.end > first.start ? { start: first.start, end: last.end } : range;
  if (within.end <= within.start) return run.map(() => within);
  return shareOut(
    run.map(({ text }) => text),
    within,
    silencesIn(within, silences),
  );
}

/** Matches that are no accident: several in a row, or a long word. */
function trusted(matches: Int32Array, texts: readonly string[]): Int32Array {
  const kept = new Int32Array(matches.length).fill(-1);
  for (let k = 0; k < matches.length; k++) {
    const match = matches[k] as number;
    if (match < 0) continue;
    let row = 1;
    while (matches[k + row] === match + row) row++;
    if (row >= LEAST_ROW || (texts[k] as string).length >= TELLING_LETTERS) for (let n = 0; n < row; n++) kept[k + n] = match + n;
    k += row - 1;
  }
  return kept;
}
