import type { Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import { lexiconOf } from '../lexicon.ts';
import { type Spoken, spokenForm } from '../spoken.ts';
import { findTakes, type TakeGroup } from './attempts.ts';

export interface PreparedTakes {
  readonly spoken: Spoken;
  readonly duration: Seconds;
  /** found once for each text: no slider changes them */
  groups: readonly TakeGroup[] | undefined;
}

/** More words than this between two tries are something of their own, and stay. */
const REMARK = 12;
/** Taken beside an attempt so that no rest of the air stays that its pause leaves. */
const MARGIN: Seconds = 0.02;

/**
 * Tries at a line that are not the one suggested, each with the silence and the remark behind it up to the next try.
 * @see findTakes for the method
 */
export const takes: Detector<PreparedTakes> = {
  kind: 'retake',
  prepare: ({ duration }: Material, spoken) => ({ spoken, duration, groups: undefined }),
  reword: (prepared, spoken) => ({ ...prepared, spoken, groups: undefined }),

  detect(prepared, settings): Proposal[] {
    if (settings.takes === 'off') return [];
    const { spoken } = prepared;
    prepared.groups ??= findTakes(spoken, hesitationsOf(spoken));
    return prepared.groups
      .flatMap((group, number) =>
        group.attempts.flatMap((_, k) => (k === group.best ? [] : [spareOf(prepared, group, number, k, settings)])),
      )
      .sort((a, b) => a.start - b.start);
  },
};

const hesitationsOf = ({ language }: Spoken): ReadonlySet<string> =>
  new Set(
    lexiconOf(language, 'shipped')
      .filter(({ strength }) => strength === 'always')
      .map(({ phrase }) => spokenForm(phrase)),
  );

function spareOf(
  { spoken: { words }, duration }: PreparedTakes,
  { attempts, best, confidence, meaningDiffers }: TakeGroup,
  number: number,
  k: number,
  { airBefore, airAfter, minPause }: { readonly airBefore: Seconds; readonly airAfter: Seconds; readonly minPause: Seconds },
): Proposal {
  const attempt = attempts[k] as (typeof attempts)[number];
  const next = attempts[k + 1];
  // Between two tries only a remark goes along; anything longer was meant to be heard.
  const goesOn = next && next.first - attempt.last <= REMARK ? next.first : attempt.last;
  const before = words[attempt.first - 1]?.end ?? 0;
  const after = words[goesOn]?.start ?? duration;
  const lastEnd = (words[goesOn - 1] as Word).end;
  const found = { start: attempt.start, end: Math.max(attempt.end, lastEnd) };
  const quietBefore = attempt.start - before >= minPause;
  const start = Math.max(before, attempt.start - (quietBefore ? airBefore + MARGIN : 0));
  const end = Math.max(found.end, Math.min(after, quietBefore ? after - airBefore : found.end + airAfter));
  return {
    id: proposalId('retake', found),
    kind: 'retake',
    start,
    end,
    found,
    taken: { start, end },
    treatment: 'remove',
    confidence,
    group: `take ${number + 1}`,
    evidence: {
      attempt: k + 1,
      attempts: attempts.length,
      suggested: best + 1,
      score: attempt.score,
      complete: Math.round(attempt.parts.complete * 100) / 100,
      fluent: attempt.parts.fluent,
      clear: Math.round(attempt.parts.clear * 100) / 100,
      later: Math.round(attempt.parts.later * 100) / 100,
      ...(meaningDiffers && { meaningDiffers: 1 }),
    },
  };
}
