import { firstAfter, type Range, type Seconds } from '../../time/range.ts';
import { type Detector, type Proposal, proposalId } from '../detector.ts';
import { type Loudest, loudestOf } from '../joining.ts';
import type { Settings } from '../settings.ts';
import type { Spoken } from '../spoken.ts';
import type { Aside } from './aside.ts';
import { brokenOff } from './broken.ts';
import { claps, spokenCues } from './cues.ts';
import { chatter } from './ends.ts';
import { utterancesOf } from './utterances.ts';

export interface PreparedAsides {
  readonly spoken: Spoken;
  readonly duration: Seconds;
  readonly loudest: Loudest;
  /** worked out once: no text changes them */
  claps: readonly Aside[] | undefined;
  found: { readonly lexicon: string; readonly asides: readonly Aside[] } | undefined;
}

/** What was said to whoever cuts and not to those who will listen: cues, claps, sentences dropped, chatter at both ends. */
export const asides: Detector<PreparedAsides> = {
  kind: 'cue',
  slow: true,
  prepare: ({ duration, levels }, spoken) => ({
    spoken,
    duration,
    loudest: loudestOf(levels),
    claps: undefined,
    found: undefined,
  }),
  reword: (prepared, spoken) => ({ ...prepared, spoken, found: undefined }),

  detect(prepared, settings): Proposal[] {
    if (settings.asides === 'leave') return [];
    if (prepared.found?.lexicon !== settings.lexicon)
      prepared.found = { lexicon: settings.lexicon, asides: asidesIn(prepared, settings.lexicon) };
    return prepared.found.asides.map((aside) => proposalOf(aside, prepared, settings));
  },
};

function asidesIn(prepared: PreparedAsides, lexicon: string): Aside[] {
  const { spoken, duration, loudest } = prepared;
  prepared.claps ??= claps(loudest, spoken);
  const utterances = utterancesOf(spoken);
  const ends = chatter(spoken, utterances, duration);
  const inside = [...spokenCues(spoken, utterances, lexicon), ...prepared.claps, ...brokenOff(spoken, utterances)].filter(
    ({ start, end }) => !ends.some((aside) => start < aside.end && end > aside.start),
  );
  return [...ends, ...inside].sort((a, b) => a.start - b.start);
}

/** An aside with the silence around it, so that one natural gap is left. */
function proposalOf(
  { kind, start, end, confidence, group, evidence }: Aside,
  { spoken: { words }, duration }: PreparedAsides,
  { airBefore, airAfter, minPause }: Settings,
): Proposal {
  const found = { start, end };
  if (words.length === 0 || group === 'clap')
    return { ...common(kind, found, confidence, group, evidence), ...found, taken: found };
  const next = firstAfter(words.length, (k) => (words[k]?.start ?? 0) + 1e-6, end);
  const after = words[next]?.start ?? duration;
  const before = words[firstAfter(words.length, (k) => words[k]?.start ?? 0, start - 1e-6) - 1]?.end ?? 0;
  const taken = {
    start: start - before >= minPause ? Math.max(before, Math.min(start, before + airAfter)) : start,
    end: after - end >= minPause ? Math.max(end, after - airBefore) : end,
  };
  return { ...common(kind, found, confidence, group, evidence), ...taken, taken };
}

const common = (kind: Aside['kind'], found: Range, confidence: number, group: Aside['group'], evidence: Aside['evidence']) => ({
  id: proposalId(kind, found),
  kind,
  found,
  treatment: 'remove' as const,
  confidence,
  ...(group !== undefined && { group }),
  evidence,
});
