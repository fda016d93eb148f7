import { firstAfter, type Seconds } from '../../time/range.ts';
import { type Detector, type Proposal, proposalId } from '../detector.ts';
import type { Settings } from '../settings.ts';
import { type Loudest, loudestIn } from '../words/joining.ts';
import type { Spoken } from '../words/spoken.ts';
import { reachAfter, reachBefore } from '../words/unwritten.ts';
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
  found: { readonly lexicon: string; readonly asides: readonly Placed[] } | undefined;
}

/** An aside between what is said before and after it, and the proposal last made of it. */
interface Placed {
  readonly aside: Aside;
  readonly before: Seconds;
  readonly after: Seconds;
  made: Proposal | undefined;
}

/** What was said to whoever cuts and not to those who will listen: cues, claps, sentences dropped, chatter at both ends. */
export const asides: Detector<PreparedAsides> = {
  kind: 'cue',
  reads: ['asides', 'lexicon', 'minPause', 'airBefore', 'airAfter'],
  speed: 'slow',
  prepare: (material, spoken) => ({
    spoken: spoken(),
    duration: material.duration,
    loudest: loudestIn(material),
    claps: undefined,
    found: undefined,
  }),
  reword: (prepared, spoken) => ({ ...prepared, spoken, found: undefined }),

  detect(prepared, settings): Proposal[] {
    if (settings.asides === 'leave') return [];
    if (prepared.found?.lexicon !== settings.lexicon)
      prepared.found = { lexicon: settings.lexicon, asides: asidesIn(prepared, settings.lexicon) };
    return prepared.found.asides.map((placed) => proposalOf(placed, settings));
  },
};

function asidesIn(prepared: PreparedAsides, lexicon: string): Placed[] {
  const { spoken, duration, loudest } = prepared;
  prepared.claps ??= claps(loudest, spoken);
  const utterances = utterancesOf(spoken);
  const ends = chatter(spoken, utterances, duration);
  const inside = [...spokenCues(spoken, utterances, lexicon), ...prepared.claps, ...brokenOff(spoken, utterances)].filter(
    ({ start, end }) => !ends.some((aside) => start < aside.end && end > aside.start),
  );
  return [...ends, ...inside].sort((a, b) => a.start - b.start).map((aside) => placed(aside, prepared));
}

function placed(aside: Aside, { spoken, duration }: PreparedAsides): Placed {
  const { words } = spoken;
  const { start, end, group } = aside;
  // A clap says nothing about the silence round it, and without words nothing else does.
  if (words.length === 0 || group === 'clap') return { aside, before: start, after: end, made: undefined };
  const next = firstAfter(words.length, (k) => (words[k]?.start ?? 0) + 1e-6, end);
  const before = words[firstAfter(words.length, (k) => words[k]?.start ?? 0, start - 1e-6) - 1]?.end ?? 0;
  const after = words[next]?.start ?? duration;
  return { aside, before: reachBefore(spoken, before, start), after: reachAfter(spoken, end, after), made: undefined };
}

/** An aside with the silence around it, so that one natural gap is left. Most steps of a slider change nothing about it. */
function proposalOf(place: Placed, { airBefore, airAfter, minPause }: Settings): Proposal {
  const { before, after, made } = place;
  const { start: from, end: to, kind, confidence, group, evidence } = place.aside;
  const start = from - before >= minPause ? Math.max(before, Math.min(from, before + airAfter)) : from;
  const end = after - to >= minPause ? Math.max(to, after - airBefore) : to;
  if (made?.start === start && made.end === end) return made;
  const found = { start: from, end: to };
  const proposal: Proposal = {
    id: proposalId(kind, found),
    kind,
    start,
    end,
    found,
    taken: { start, end },
    treatment: 'remove',
    confidence,
    ...(group !== undefined && { group }),
    evidence,
  };
  place.made = proposal;
  return proposal;
}
