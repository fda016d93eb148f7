import { overlapOf, type Range, type Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import type { Material } from '../detector.ts';
import type { Spoken } from '../words/spoken.ts';
import { StartAligner } from './prefix.ts';

/** Sayings of one line are looked for this far away. */
const FURTHEST: Seconds = 300;
/** Another saying has this share of the words of the one that is shown. */
const LEAST_SHARE = 0.5;
/** ... and no less than this part of what the best one has: a phrase that comes again is no saying beside a real one. */
const LEAST_BESIDE_BEST = 0.7;
const LEAST_MATCHES = 2;
/** One of the first words must be the same one of the first. */
const OPENING = 3;

/** What is said, or sounds, like a stretch that somebody shows, the stretch itself with it, in order of time. */
export function sayingsLike(spoken: Spoken, material: Material, shown: Range): Range[] {
  const byWords = likeByWords(spoken, shown);
  const bySound = (material.echoes ?? []).flatMap(({ left, right }) =>
    isSame(left, shown) ? [right] : isSame(right, shown) ? [left] : [],
  );
  const apart: Range[] = [shown];
  for (const range of [...byWords, ...bySound]) if (!apart.some((other) => overlapOf(other, range) > 0)) apart.push(range);
  return apart.sort((a, b) => a.start - b.start);
}

const isSame = (a: Range, b: Range): boolean => overlapOf(a, b) >= 0.5 * Math.max(a.end - a.start, b.end - b.start);

function likeByWords({ words, plain }: Spoken, shown: Range): Range[] {
  const [first, last] = wordsIn(words, shown);
  const line = plain.slice(first, last);
  if (line.length === 0) return [];
  const opening = new Set(line.slice(0, OPENING));
  const [from, to] = wordsIn(words, { start: shown.start - FURTHEST, end: shown.end + FURTHEST });
  const found: (Range & { share: number })[] = [];
  const aligner = new StartAligner();
  for (let k = from; k < to; k++) {
    if ((k >= first && k < last) || !opening.has(plain[k] as string)) continue;
    const until = Math.min(to, k < first ? first : plain.length, k + Math.ceil(line.length * 1.5) + 2);
    const { right, matches } = aligner.align(line, plain.slice(k, until));
    const share = matches / line.length;
    if (matches < Math.min(LEAST_MATCHES, line.length) || share < LEAST_SHARE) continue;
    found.push({ start: (words[k] as Word).start, end: (words[k + right - 1] as Word).end, share });
  }
  const least = LEAST_BESIDE_BEST * Math.max(0, ...found.map(({ share }) => share));
  return found
    .filter(({ share }) => share >= least)
    .sort((a, b) => b.share - a.share || a.start - b.start)
    .map(({ start, end }) => ({ start, end }));
}
