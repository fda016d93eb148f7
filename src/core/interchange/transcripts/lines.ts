import type { Range } from '../../time/range.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';

/** Words that are shown at once. */
export interface Line extends Range {
  readonly speaker: string;
  readonly words: readonly Word[];
}

/** A line is full at this many letters, or at this many seconds. */
const MOST_LETTERS = 74;
const MOST_SECONDS = 7;
/** A pause of this length starts a new line; a shorter one does after a sentence. */
const LONG_PAUSE = 1.2;
const SENTENCE_PAUSE = 0.3;

/** Words set in lines as captions are: ended by sentences, pauses, another speaker, or when full. */
export function linesOf(words: readonly Word[]): Line[] {
  const lines: Line[] = [];
  let line: Word[] = [];
  let letters = 0;
  const close = () => {
    const [first, last] = [line[0], line.at(-1)];
    if (first && last) lines.push({ start: first.start, end: last.end, speaker: first.speaker, words: line });
    line = [];
    letters = 0;
  };
  for (const word of words) {
    const before = line.at(-1);
    if (before) {
      const gap = word.start - before.end;
      const full = letters + word.text.length > MOST_LETTERS || word.end - (line[0] as Word).start > MOST_SECONDS;
      const sentence = endsSentence(before.text) && (gap >= SENTENCE_PAUSE || letters > MOST_LETTERS / 2);
      if (full || gap >= LONG_PAUSE || sentence || word.speaker !== before.speaker) close();
    }
    line.push(word);
    letters += word.text.length + 1;
  }
  close();
  return lines;
}

/** Words of one speaker in a row, broken where there is a long pause after a sentence. */
export function paragraphsOf(words: readonly Word[], pause = LONG_PAUSE): Line[] {
  const paragraphs: { start: number; end: number; speaker: string; words: Word[] }[] = [];
  for (const word of words) {
    const last = paragraphs.at(-1);
    const before = last?.words.at(-1);
    if (!last || !before || word.speaker !== last.speaker || breaksAfter(before, word, last.words.length, pause))
      paragraphs.push({ start: word.start, end: word.end, speaker: word.speaker, words: [word] });
    else {
      last.words.push(word);
      last.end = Math.max(last.end, word.end);
    }
  }
  return paragraphs;
}

const breaksAfter = (before: Word, next: Word, count: number, pause: number): boolean =>
  count >= 2 * MOST_WORDS || (endsSentence(before.text) && (next.start - before.end >= pause || count >= MOST_WORDS));

/** A paragraph that nobody ended ends at the first sentence past this many words, or at twice as many. */
const MOST_WORDS = 120;

/** Milliseconds as `01:02:03.004`, with the sign before the thousandths that a format wants. */
export function cueTime(at: number, sign: '.' | ','): string {
  const millis = Math.max(0, Math.round(at * 1000));
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0');
  const clock = `${two(millis / 3_600_000)}:${two((millis / 60_000) % 60)}:${two((millis / 1000) % 60)}`;
  return `${clock}${sign}${String(millis % 1000).padStart(3, '0')}`;
}
