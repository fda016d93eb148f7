/** A word under a row: where it is said, and how wide it is as it is written. All in CSS pixels. */
export interface SpokenWord {
  readonly text: string;
  readonly from: number;
  readonly to: number;
  readonly width: number;
}

/** A word as it is set. */
export interface SetWord {
  /** its place among the words of the row */
  readonly at: number;
  readonly x: number;
  readonly line: 0 | 1;
  /** how much narrower than natural it is set, 1 for not at all */
  readonly squeeze: number;
}

/** Words that gave way to the waveform: the first of them may still be set, and their number stands behind it. */
export interface LeftOut {
  readonly x: number;
  /** how many are not set */
  readonly count: number;
}

export interface SetText {
  readonly words: readonly SetWord[];
  readonly leftOut: readonly LeftOut[];
  /** left edges of phrases that are set in two lines: a rule holds them together */
  readonly folded: readonly number[];
}

/** Between words, and between one phrase and the next. */
const GAP = 4;
const PHRASE_ROOM = 9;
/** The most that a crowded word is pushed on from its moment before it is set narrower. */
const MOST_PUSHED = 26;
/** The narrowest that is still read at a glance comes last. */
const SQUEEZES = [1, 0.92, 0.85, 0.78, 0.7] as const;
/** Silences narrower than this do not part text. */
const LEAST_SILENCE = 14;

/**
 * Sets the words of a row as text. Words between two silences are a phrase: it begins where it is said, keeps its order, and never
 * reaches into the next. Each word stands under its moment where it can; a phrase without the room is set narrower, then in two lines
 * of its own, and last only by its first word and a count.
 * @param silence pixels of silence that part two phrases
 * @param countWidth width of a count as it is written
 */
export function setText(
  spoken: readonly SpokenWord[],
  rowWidth: number,
  silence: number,
  countWidth: (count: number) => number,
): SetText {
  const words: SetWord[] = [];
  const leftOut: LeftOut[] = [];
  const folded: number[] = [];
  let right = 0;
  const phrases = phrasesOf(spoken, Math.max(silence, LEAST_SILENCE));
  for (let n = 0; n < phrases.length; n++) {
    let phrase = phrases[n] as Phrase;
    const isFirst = words.length + leftOut.length === 0;
    const earliest = isFirst ? 0 : right + PHRASE_ROOM;
    for (;;) {
      const next = phrases[n + 1];
      const limit = next ? (spoken[next.first] as SpokenWord).from - PHRASE_ROOM : rowWidth;
      const set = setPhrase(spoken, phrase, earliest, limit, countWidth);
      if (set) {
        words.push(...set.words);
        leftOut.push(...set.leftOut);
        folded.push(...set.folded);
        right = set.right;
        break;
      }
      // Not even a count has room here: the phrases are told together.
      if (!next) break;
      phrase = { first: phrase.first, last: next.last };
      n++;
    }
  }
  return { words, leftOut, folded };
}

/** Words `[first, last)`. */
interface Phrase {
  readonly first: number;
  readonly last: number;
}

function phrasesOf(spoken: readonly SpokenWord[], silence: number): Phrase[] {
  const phrases: Phrase[] = [];
  let first = 0;
  for (let k = 1; k <= spoken.length; k++) {
    const [before, word] = [spoken[k - 1] as SpokenWord, spoken[k]];
    if (word && word.from - before.to <= silence) continue;
    phrases.push({ first, last: k });
    first = k;
  }
  return spoken.length === 0 ? [] : phrases;
}

interface Placed extends SetText {
  readonly right: number;
}

function setPhrase(
  spoken: readonly SpokenWord[],
  phrase: Phrase,
  earliest: number,
  limit: number,
  countWidth: (count: number) => number,
): Placed | undefined {
  const onset = Math.max(earliest, (spoken[phrase.first] as SpokenWord).from);
  return (
    SQUEEZES.map((squeeze) => inOneLine(spoken, phrase, onset, limit, squeeze, MOST_PUSHED)).find(Boolean) ??
    SQUEEZES.map((squeeze) => inOneLine(spoken, phrase, onset, limit, squeeze, Number.POSITIVE_INFINITY)).find(Boolean) ??
    SQUEEZES.map((squeeze) => inTwoLines(spoken, phrase, onset, limit, squeeze)).find(Boolean) ??
    // The silence before it is empty paper: a phrase that has no room behind its onset begins a little earlier.
    SQUEEZES.map((squeeze) => inTwoLines(spoken, phrase, earliest, limit, squeeze, true)).find(Boolean) ??
    asCount(spoken, phrase, onset, earliest, limit, countWidth)
  );
}

/** Each word under its moment, or as near to it as those before and behind it let it. */
function inOneLine(
  spoken: readonly SpokenWord[],
  { first, last }: Phrase,
  from: number,
  limit: number,
  squeeze: number,
  mostPushed: number,
): Placed | undefined {
  let behind = 0;
  for (let k = first; k < last; k++) behind += (spoken[k] as SpokenWord).width * squeeze + (k > first ? GAP : 0);
  if (from + behind > limit) return undefined;
  const words: SetWord[] = [];
  let right = from - GAP;
  for (let k = first; k < last; k++) {
    const word = spoken[k] as SpokenWord;
    const x = Math.max(right + GAP, Math.min(word.from, limit - behind));
    if (x - word.from > mostPushed) return undefined;
    words.push({ at: k, x, line: 0, squeeze });
    right = x + word.width * squeeze;
    behind -= word.width * squeeze + GAP;
  }
  return { words, leftOut: [], folded: [], right };
}

/** Running text in two lines, under itself. @param endsThere it ends at the limit rather than beginning at its onset */
function inTwoLines(
  spoken: readonly SpokenWord[],
  { first, last }: Phrase,
  from: number,
  limit: number,
  squeeze: number,
  endsThere = false,
): Placed | undefined {
  let total = 0;
  let widest = 0;
  for (let k = first; k < last; k++) {
    const width = (spoken[k] as SpokenWord).width * squeeze;
    total += width + GAP;
    widest = Math.max(widest, width);
  }
  const room = limit - from;
  if (widest > room || total > 2 * room + GAP) return undefined;
  // As wide as it must be, and no wider: then it stays near its onset.
  for (let measure = Math.min(room, Math.max(widest, total / 2)); measure <= room; measure += 6) {
    const lines = brokenInto(spoken, first, last, Math.min(room, measure), squeeze);
    if (!lines) continue;
    const left = endsThere ? limit - Math.min(room, measure) : from;
    return {
      words: lines.map(({ at, x, line }) => ({ at, x: left + x, line, squeeze })),
      leftOut: [],
      folded: lines.some(({ line }) => line === 1) ? [left] : [],
      right: left + Math.max(...lines.map(({ at, x }) => x + (spoken[at] as SpokenWord).width * squeeze)),
    };
  }
  return undefined;
}

function brokenInto(
  spoken: readonly SpokenWord[],
  first: number,
  last: number,
  measure: number,
  squeeze: number,
): { at: number; x: number; line: 0 | 1 }[] | undefined {
  const words: { at: number; x: number; line: 0 | 1 }[] = [];
  let [line, x] = [0 as 0 | 1, 0];
  for (let k = first; k < last; k++) {
    const width = (spoken[k] as SpokenWord).width * squeeze;
    if (x > 0 && x + width > measure + 1e-6) {
      if (line === 1) return undefined;
      [line, x] = [1, 0];
    }
    words.push({ at: k, x, line });
    x += width + GAP;
  }
  return words;
}

function asCount(
  spoken: readonly SpokenWord[],
  { first, last }: Phrase,
  onset: number,
  earliest: number,
  limit: number,
  countWidth: (count: number) => number,
): Placed | undefined {
  // As many words as there is room for, from the first on; then the count alone.
  for (const squeeze of SQUEEZES) {
    const words = leadingWords(spoken, first, last, onset, limit, squeeze, countWidth);
    if (words) return words;
  }
  const width = countWidth(last - first);
  const x = onset + width <= limit ? onset : limit - width;
  if (x < earliest) return undefined;
  return { words: [], leftOut: [{ x, count: last - first }], folded: [], right: x + width };
}

/** The first words of a phrase, one at least, and how many follow. */
function leadingWords(
  spoken: readonly SpokenWord[],
  first: number,
  last: number,
  from: number,
  limit: number,
  squeeze: number,
  countWidth: (count: number) => number,
): Placed | undefined {
  const words: SetWord[] = [];
  let x = from;
  for (let at = first; at < last; at++) {
    const right = x + (spoken[at] as SpokenWord).width * squeeze;
    const more = last - at - 1;
    if (right + (more > 0 ? GAP + countWidth(more) : 0) > limit) break;
    words.push({ at, x, line: 0, squeeze });
    x = right + GAP;
  }
  if (words.length === 0) return undefined;
  const count = last - first - words.length;
  return {
    words,
    leftOut: count > 0 ? [{ x, count }] : [],
    folded: [],
    right: count > 0 ? x + countWidth(count) : x - GAP,
  };
}
