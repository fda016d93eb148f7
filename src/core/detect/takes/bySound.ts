import type { Echo } from '../../curves/repeatedPassages.ts';
import { firstAfter, type Range, type Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import type { Spoken } from '../words/spoken.ts';
import type { Link } from './link.ts';
import { StartAligner } from './prefix.ts';

/** A try that the other goes through has at least this share of its sound in common with it ... */
const GONE_THROUGH = 0.7;
/** ... two whole ones this much of each, over this long. */
const ALIKE = 0.42;
const LEAST_ALIKE: Seconds = 2;
/** Further apart than this, a short phrase said again is only a phrase that comes again. */
const NEAR: Seconds = 12;
const LEAST_FAR: Seconds = 2.2;
const LEAST_FAR_SHARE = 0.75;
/** Words said a second, for weighing what is heard against what is read. */
const WORDS_A_SECOND = 2.5;
/** Where words are written on both sides and hardly any is the same, what sounds alike is not the same line. */
const LEAST_SHARED = 0.35;
const ENOUGH_WORDS = 4;
/** A saying that is heard to begin so near to a word begins with that word. */
const SNAP: Seconds = 0.4;

/** Pairs of sayings that sound alike, those that the words contradict left out. */
export function linksBySound(echoes: readonly Echo[], { words, plain }: Pick<Spoken, 'words' | 'plain'>): Link[] {
  const aligner = new StartAligner();
  return echoes.flatMap(({ left, right, matched, closeness }) => {
    const [shareLeft, shareRight] = [matched / lengthOf(left), matched / lengthOf(right)];
    const most = Math.min(1, Math.max(shareLeft, shareRight));
    const both = Math.min(shareLeft, shareRight);
    if (most < GONE_THROUGH && (both < ALIKE || matched < LEAST_ALIKE)) return [];
    if (right.start - left.end > NEAR && (matched < LEAST_FAR || most < LEAST_FAR_SHARE)) return [];
    const sides = [onWords(words, left), onWords(words, right)] as const;
    if (sides.every(({ from, to }) => to - from >= ENOUGH_WORDS)) {
      const [a, b] = sides.map(({ from, to }) => plain.slice(from, to)) as [string[], string[]];
      if (aligner.align(a, b).matches < LEAST_SHARED * Math.min(a.length, b.length)) return [];
    }
    const apart = (lengthOf(left) + lengthOf(right) - 2 * matched) / 2;
    return [
      {
        left: sides[0].range,
        right: sides[1].range,
        worth: WORDS_A_SECOND * (matched - 0.5 * Math.max(0, apart)),
        sound: { matched, closeness },
      },
    ];
  });
}

/** Links of both witnesses, those about the same two sayings as one. */
export function together(byWords: readonly Link[], bySound: readonly Link[]): Link[] {
  const sorted = [...bySound].sort((a, b) => a.left.start - b.left.start);
  const used = new Set<Link>();
  const joined = byWords.map((link): Link => {
    const at = firstAfter(sorted.length, (k) => (sorted[k] as Link).left.start, link.left.start - SNAP);
    for (let k = at; k < sorted.length && (sorted[k] as Link).left.start <= link.left.start + SNAP; k++) {
      const other = sorted[k] as Link;
      if (Math.abs(other.right.start - link.right.start) > SNAP) continue;
      used.add(other);
      return { ...link, sound: other.sound };
    }
    return link;
  });
  return [...joined, ...bySound.filter((link) => !used.has(link))];
}

const lengthOf = ({ start, end }: Range): Seconds => end - start;

/** A stretch of sound as the words that are said in it have it. */
function onWords(words: readonly Word[], range: Range): { readonly range: Range; readonly from: number; readonly to: number } {
  const [from, to] = wordsIn(words, range);
  const [first, last] = [words[from], words[to - 1]];
  if (from === to || !first || !last) return { range, from, to };
  return {
    from,
    to,
    range: {
      start: Math.abs(first.start - range.start) <= SNAP ? first.start : range.start,
      end: Math.abs(last.end - range.end) <= SNAP ? last.end : range.end,
    },
  };
}
