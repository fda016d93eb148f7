import { codeToDbfs, LEVEL_RATE } from '../../curves/level.ts';
import type { Seconds } from '../../time/range.ts';
import type { Loudest } from '../words/joining.ts';
import { lexiconOf } from '../words/lexicon.ts';
import type { LexiconEntry } from '../words/lexiconEntry.ts';
import { type Spoken, spokenForm } from '../words/spoken.ts';
import { type Aside, doubtful } from './aside.ts';
import type { Utterance } from './utterances.ts';

/** A word to whoever cuts is short. */
const MOST_WORDS = 12;
const ALONE: Seconds = 0.3;
const LEAST_SUM = 0.2;
/** Words that stand beside a cue and say nothing of their own. */
const BESIDE = new Set(
  "okay ok so right yeah yes no oh um uh er well and but let me i i'll will do say try it that this one more time the from please now just can we go get".split(
    ' ',
  ),
);

/** "Sorry", "once more", "take two": entries of the lexicon that are said to whoever cuts, said by themselves. */
export function spokenCues(spoken: Spoken, utterances: readonly Utterance[], lexicon: string): Aside[] {
  const phrases = lexiconOf(spoken.language, lexicon).filter(({ strength }) => strength === 'cue');
  if (phrases.length === 0) return [];
  const byFirst = new Map<string, Phrase[]>();
  for (const entry of phrases) {
    const parts = entry.phrase.split(' ').map(spokenForm);
    const first = parts[0] as string;
    byFirst.set(first, [...(byFirst.get(first) ?? []), { entry, parts }]);
  }
  return utterances.flatMap((utterance) => cueIn(spoken, utterance, byFirst));
}

interface Phrase {
  readonly entry: LexiconEntry;
  readonly parts: readonly string[];
}

function cueIn(spoken: Spoken, utterance: Utterance, phrases: ReadonlyMap<string, readonly Phrase[]>): Aside[] {
  const { first, last, start, end, before, after, signed, capital, sure } = utterance;
  if (last - first > MOST_WORDS) return [];
  const plain = spoken.plain.slice(first, last);
  const covered = new Set<number>();
  let said: string | undefined;
  for (let k = 0; k < plain.length; k++)
    for (const { entry, parts } of phrases.get(plain[k] as string) ?? []) {
      if (!parts.every((part, n) => plain[k + n] === part)) continue;
      for (let n = 0; n < parts.length; n++) covered.add(k + n);
      said ??= entry.phrase;
    }
  if (said === undefined) return [];
  const evidence: Record<string, number> = {};
  const weigh = (id: string, weight: number, when: boolean) => {
    if (when) evidence[id] = weight;
  };
  weigh(
    'allCue',
    2,
    plain.every((word, k) => covered.has(k) || BESIDE.has(word)),
  );
  weigh('opens', 0.8, covered.has(0));
  weigh('closes', 0.8, covered.has(plain.length - 1));
  weigh('alone', 0.7, before >= ALONE && after >= ALONE);
  weigh('noSign', 0.6, spoken.punctuated && sure && !signed && !capital);
  const sum = -1.6 - (signed && capital && !evidence.allCue ? 2 : 0) + Object.values(evidence).reduce((a, b) => a + b, 0);
  if (sum < LEAST_SUM) return [];
  return [{ kind: 'cue', start, end, group: said, confidence: doubtful(sum), evidence }];
}

/** A clap rises so much within thirty milliseconds, and is over as soon. */
const RISE = 28;
const RISE_SAMPLES = 3;
const LONGEST = Math.round(0.18 * LEVEL_RATE);
const QUIET = Math.round(0.2 * LEVEL_RATE);
/** It is as loud as the loudest of the voice. */
const LOUD_SHARE = 0.97;
const CLAP_SUM = 0.4;

/** Claps: a short sound as loud as the loudest speech, in silence, where no word is. */
export function claps(loudest: Loudest, { words }: Spoken): Aside[] {
  const loud = codeOver(loudest, LOUD_SHARE);
  const found: Aside[] = [];
  let word = 0;
  for (let k = QUIET; k + LONGEST + QUIET < loudest.length; k++) {
    const level = loudest[k] as number;
    if (level < loud || level - (loudest[k - RISE_SAMPLES] as number) < 2 * RISE) continue;
    let end = k;
    while (end < k + LONGEST && (loudest[end] as number) > level - 2 * (RISE - 8)) end++;
    const quietAround =
      end < k + LONGEST && isQuiet(loudest, k - QUIET, k - RISE_SAMPLES, level) && isQuiet(loudest, end, end + QUIET, level);
    const [start, stop] = [(k - RISE_SAMPLES) / LEVEL_RATE, end / LEVEL_RATE];
    while (word < words.length && (words[word]?.end ?? 0) < start) word++;
    if (!quietAround || (words[word]?.start ?? Number.POSITIVE_INFINITY) < stop) continue;
    const clapDb = Math.round(codeToDbfs(level));
    found.push({ kind: 'cue', start, end: stop, group: 'clap', confidence: doubtful(CLAP_SUM), evidence: { clapDb } });
    k = end + QUIET;
  }
  return found;
}

/** The code that a share of all samples lies under. */
function codeOver(codes: Loudest, share: number): number {
  const counts = new Uint32Array(256);
  for (const code of codes) counts[code] = (counts[code] as number) + 1;
  let under = 0;
  for (let code = 0; code < 256; code++) {
    under += counts[code] as number;
    if (under >= share * codes.length) return code;
  }
  return 255;
}

function isQuiet(loudest: Loudest, from: number, until: number, level: number): boolean {
  for (let k = from; k < until; k++) if ((loudest[k] as number) > level - 2 * (RISE - 8)) return false;
  return true;
}
