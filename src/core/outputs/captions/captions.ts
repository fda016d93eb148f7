import type { SpeechPart } from '../../detect/words/partsOfSpeech.ts';
import { type Frames, frames } from '../../time/rate.ts';
import { plainWord } from '../../transcript/plainWord.ts';
import { endsSentence } from '../../transcript/word.ts';
import type { FramePlan } from '../plan/framePlan.ts';
import type { PlacedWord } from '../plan/onTimeline.ts';
import { articles, leaningWords } from './leaning.ts';
import { withCase } from './letterCase.ts';
import type { CaptionStyle } from './style.ts';

/** Words that are shown at once, on whole frames of the timeline. */
export interface Caption {
  readonly from: Frames;
  readonly to: Frames;
  /** empty where nobody is named */
  readonly speaker: string;
  /** whether somebody else spoke before */
  readonly isOther: boolean;
  readonly lines: readonly (readonly PlacedWord[])[];
}

/** What is known of the words besides their times. */
export interface CaptionLanguage {
  /** BCP 47 tag */
  readonly language: string;
  /** parts of speech, where they can be told */
  readonly partOf?: ((word: string) => SpeechPart) | undefined;
}

/** Seconds of silence that end a caption in any case, and those that end a phrase. */
const LONG_PAUSE = 1.2;
const PHRASE_PAUSE = 0.3;

/** What a break costs, by where it comes; among all ways to part the words the cheapest is taken. */
const COST = {
  /** of a caption at all: as few as may be */
  caption: 4,
  afterSentence: 0,
  afterPhrase: 1.5,
  elsewhere: 6,
  /** behind a word that leans on what follows it */
  leaning: 14,
  /** between an article and its noun; only where nothing else fits */
  torn: 500,
  /** a sentence that ends inside */
  sentenceInside: 2,
  /** a word alone */
  alone: 4,
  /** each letter a second beyond what can be read */
  hurry: 0.5,
} as const;

/**
 * Shapes words into captions. The breaks are those that cost least over all words (dynamic programming): at the ends of sentences and
 * phrases, with no article left behind by its noun, none longer than the style allows. Each is shown from the frame of its first word to
 * that of its last, longer where it could not be read otherwise and the next one lets it.
 * @param placed in the order in which they are heard
 */
export function captionsOf(
  placed: readonly PlacedWord[],
  plan: Pick<FramePlan, 'rate' | 'length'>,
  style: CaptionStyle,
  about: CaptionLanguage,
): Caption[] {
  const words = withCase(placed, style.letterCase, about.language);
  const several = style.speakers && new Set(words.map(({ word }) => word.speaker)).size > 1;
  const shaper = new Shaper(words, style, about, several);
  let before: string | undefined;
  const captions = shaper.groups().map(([first, last]): Caption => {
    const group = words.slice(first, last);
    const speaker = several ? (group[0] as PlacedWord).word.speaker : '';
    const isOther = several && speaker !== before;
    before = speaker;
    const lines = shaper.wrapped(first, last, isOther ? nameLength(speaker) : 0);
    return { from: (group[0] as PlacedWord).from, to: endOf(group), speaker, isOther, lines };
  });
  return timed(captions, plan, style);
}

/** Letters that a name takes up in front of a line. */
const nameLength = (speaker: string): number => (speaker === '' ? 0 : [...speaker].length + 3);

const endOf = (words: readonly PlacedWord[]): Frames => frames(Math.max(...words.map(({ to }) => to)));

/** Letters of words as they are set, with the spaces between them. */
const lettersOf = (words: readonly PlacedWord[]): number => words.reduce((sum, { word }) => sum + [...word.text].length + 1, -1);

class Shaper {
  private readonly lengths: readonly number[];
  /** what it costs to end a caption or a line behind each word */
  private readonly breaks: readonly number[];

  constructor(
    private readonly words: readonly PlacedWord[],
    private readonly style: CaptionStyle,
    about: CaptionLanguage,
    private readonly several: boolean,
  ) {
    this.lengths = words.map(({ word }) => [...word.text].length);
    const leaning = { words: leaningWords(about.language), articles: articles() };
    this.breaks = words.map((_, k) => this.breakCost(k, leaning, about.partOf));
  }

  /** First and last, exclusive, of each caption. */
  groups(): [number, number][] {
    const { words } = this;
    const cost: number[] = [0];
    const from: number[] = [0];
    for (let end = 1; end <= words.length; end++) {
      cost[end] = Number.POSITIVE_INFINITY;
      for (let start = end - 1; start >= 0 && this.mayGoTogether(start, end); start--) {
        const bare = (cost[start] as number) + this.cost(start, end);
        if (bare >= (cost[end] as number)) continue;
        const whole = bare + this.tearsIn(start, end);
        if (whole < (cost[end] as number)) {
          cost[end] = whole;
          from[end] = start;
        }
      }
    }
    const groups: [number, number][] = [];
    for (let end = words.length; end > 0; end = from[end] as number) groups.push([from[end] as number, end]);
    return groups.reverse();
  }

  /** Whether words may be one caption; a single word always may. */
  private mayGoTogether(start: number, end: number): boolean {
    const { words, style } = this;
    if (end - start <= 1) return true;
    if (style.words > 0 && end - start > style.words) return false;
    const [first, second, last] = [words[start], words[start + 1], words[end - 1]] as [PlacedWord, PlacedWord, PlacedWord];
    if (last.word.end - first.word.start > style.most) return false;
    if (second.word.start - first.word.end >= LONG_PAUSE) return false;
    if (this.several && first.word.speaker !== second.word.speaker) return false;
    return this.linesNeeded(start, end) <= (style.words > 0 ? 1 : style.lines);
  }

  private linesNeeded(start: number, end: number): number {
    const { letters } = this.style;
    let lines = 1;
    let used = this.isNamedAt(start) ? nameLength(this.words[start]?.word.speaker ?? '') - 1 : -1;
    for (let k = start; k < end; k++) {
      const length = this.lengths[k] as number;
      if (used >= 0 && used + 1 + length > letters) {
        lines++;
        used = length;
      } else used += 1 + length;
    }
    return lines;
  }

  private cost(start: number, end: number): number {
    const { words, style } = this;
    let sum: number = COST.caption + (this.breaks[end - 1] as number);
    for (let k = start; k < end - 1; k++) if (this.breaks[k] === COST.afterSentence) sum += COST.sentenceInside;
    if (end - start === 1 && style.words !== 1) sum += COST.alone;
    const seconds = Math.max(0.2, (words[end]?.word.start ?? Number.POSITIVE_INFINITY) - (words[start] as PlacedWord).word.start);
    const letters = lettersOf(words.slice(start, end));
    sum += Math.max(0, letters / seconds - style.speed) * COST.hurry;
    return sum;
  }

  /** What its lines cost by what they part; a caption that fits into one parts nothing. */
  private tearsIn(start: number, end: number): number {
    if (end - start === 1 || this.linesNeeded(start, end) === 1) return 0;
    let sum = 0;
    let last = start - 1;
    for (const line of this.wrapped(start, end, this.isNamedAt(start) ? nameLength(this.words[start]?.word.speaker ?? '') : 0)) {
      last += line.length;
      const tear = this.breaks[last] as number;
      if (last < end - 1 && tear >= COST.leaning) sum += tear;
    }
    return sum;
  }

  private isNamedAt(start: number): boolean {
    return this.several && this.words[start - 1]?.word.speaker !== this.words[start]?.word.speaker;
  }

  private breakCost(k: number, leaning: Leaning, partOf: CaptionLanguage['partOf']): number {
    const { words } = this;
    const [here, next] = [words[k] as PlacedWord, words[k + 1]];
    if (!next || endsSentence(here.word.text)) return COST.afterSentence;
    if (/[,;:–—…)]["'”’»]*$/u.test(here.word.text)) return COST.afterPhrase;
    if (next.word.start - here.word.end >= PHRASE_PAUSE) return COST.afterPhrase;
    if (isTorn(words, k, leaning.articles, partOf)) return COST.torn;
    return leaning.words.has(plainWord(here.word.text)) ? COST.leaning : COST.elsewhere;
  }

  /** The lines of a caption: those that tear nothing apart, and are as even as can be. */
  wrapped(start: number, end: number, indent: number): PlacedWord[][] {
    const most = this.style.words > 0 ? 1 : this.style.lines;
    const { letters } = this.style;
    const length = end - start;
    // cost[n][k]: of setting the first k words in n lines
    let cost: number[] = [0, ...Array<number>(length).fill(Number.POSITIVE_INFINITY)];
    const from: number[][] = [];
    let best = { lines: 0, cost: Number.POSITIVE_INFINITY };
    for (let line = 0; line < most; line++) {
      const next = Array<number>(length + 1).fill(Number.POSITIVE_INFINITY);
      const origin: number[] = [];
      for (let to = 1; to <= length; to++) {
        let used = line === 0 ? indent - 1 : -1;
        for (let at = to - 1; at >= 0; at--) {
          used += 1 + (this.lengths[start + at] as number);
          if (used - (line === 0 && at > 0 ? indent : 0) > letters && to - at > 1) break;
          const tear = to < length ? (this.breaks[start + to - 1] as number) : 0;
          const whole = (cost[at] as number) + ((letters - used) / letters) ** 2 * 10 + tear + 8;
          if (whole < (next[to] as number)) {
            next[to] = whole;
            origin[to] = at;
          }
        }
      }
      from.push(origin);
      cost = next;
      if ((cost[length] as number) < best.cost) best = { lines: line + 1, cost: cost[length] as number };
    }
    if (best.lines === 0) return [this.words.slice(start, end)];
    const lines: PlacedWord[][] = [];
    for (let line = best.lines - 1, to = length; line >= 0; line--) {
      const at = from[line]?.[to] as number;
      lines.unshift(this.words.slice(start + at, start + to));
      to = at;
    }
    return lines;
  }
}

interface Leaning {
  readonly words: ReadonlySet<string>;
  readonly articles: ReadonlySet<string>;
}

/** Words that may stand between an article and its noun. */
const MOST_BETWEEN = 3;

/** Whether a break behind a word would part an article from its noun, adjectives between them or not. */
function isTorn(words: readonly PlacedWord[], k: number, known: ReadonlySet<string>, partOf: CaptionLanguage['partOf']): boolean {
  const plain = (n: number) => plainWord(words[n]?.word.text ?? '');
  for (let n = k; n >= Math.max(0, k - MOST_BETWEEN); n--) {
    if (known.has(plain(n))) return true;
    const part = partOf?.(plain(n));
    const isBetween = part === 'adjective' || part === 'number' || part === 'adverb';
    // A noun before another says of which kind it is: brass wheel.
    if (!isBetween && !(part === 'noun' && partOf?.(plain(n + 1)) === 'noun')) return false;
  }
  return false;
}

/** Times of captions: none shorter than can be read where there is room, none over another, small gaps closed. */
function timed(
  captions: readonly Caption[],
  { rate, length }: Pick<FramePlan, 'rate' | 'length'>,
  style: CaptionStyle,
): Caption[] {
  const inFrames = (seconds: number) => Math.round((seconds * rate.num) / rate.den);
  let earliest = 0;
  const begun = captions.map((caption) => {
    const from = Math.max(earliest, caption.from);
    earliest = from + 1;
    return { ...caption, from };
  });
  return begun.map((caption, k): Caption => {
    const next = begun[k + 1]?.from ?? Math.max(length, caption.from + 1);
    const letters = caption.lines.reduce((sum, line) => sum + lettersOf(line) + 1, -1);
    const wanted = Math.max(caption.to, caption.from + inFrames(style.least), caption.from + inFrames(letters / style.speed));
    const longest = Math.max(caption.to, caption.from + inFrames(style.most));
    let to = Math.min(wanted, next, longest);
    if (next - to < inFrames(style.closeGap) && begun[k + 1]) to = Math.min(next, longest);
    return { ...caption, from: frames(caption.from), to: frames(Math.max(caption.from + 1, to)) };
  });
}
