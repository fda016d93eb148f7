import type { Break } from '../../decisions/layout.ts';
import type { DecidedProposal } from '../../decisions/matching.ts';
import type { ProposalKind } from '../../detect/kinds.ts';
import { formatLength } from '../../time/clock.ts';
import { frames } from '../../time/rate.ts';
import { formatTimecode } from '../../time/timecode.ts';
import { type Chapter, chaptersOf } from './chapters.ts';
import type { Markable } from './choices.ts';
import type { FramePlan, TimelineEvent } from './framePlan.ts';
import type { Marker, MarkerAbout } from './marker.ts';
import { momentOnTimeline } from './onTimeline.ts';

/** Kinds as an editor reads them in a mark. */
const NAMES: Readonly<Record<ProposalKind, string>> = {
  pause: 'pause',
  filler: 'filler',
  repeat: 'repeated words',
  retake: 'earlier take',
  cue: 'cue',
  broken: 'broken sentence',
  head: 'before the beginning',
  tail: 'after the end',
  hand: 'cut by hand',
};

const DONE = { remove: 'taken out', shorten: 'shortened', hurry: 'hurried', hole: 'emptied' } as const;

/** The plan with marks on it, in order of time. */
export function withMarkers(
  plan: FramePlan,
  proposals: readonly DecidedProposal[],
  breaks: readonly Break[],
  wanted: readonly Markable[],
): FramePlan {
  const markers = [
    ...(wanted.includes('open') ? openMarkers(plan, proposals) : []),
    // Where nothing is taken out, what would go is told by its mark.
    ...(wanted.includes('reasons') || plan.removed === 'marked' ? reasonMarkers(plan, proposals) : []),
    ...(wanted.includes('chapters') ? chaptersOf(plan, breaks).map(chapterMarker) : []),
    ...(wanted.includes('removed') ? removedMarkers(plan) : []),
  ];
  return { ...plan, markers: markers.sort((a, b) => a.at - b.at) };
}

function openMarkers(plan: FramePlan, proposals: readonly DecidedProposal[]): Marker[] {
  return proposals
    .filter(({ verdict }) => verdict === 'open')
    .flatMap((proposal) => {
      const marker = ofProposal(plan, proposal, 'open', `open: ${NAMES[proposal.kind]}`, 'still open: it stays in');
      // What is open lies in what is shown; one without a frame lies in what went.
      return marker.length > 0 ? [marker] : [];
    });
}

const reasonMarkers = (plan: FramePlan, proposals: readonly DecidedProposal[]): Marker[] =>
  proposals
    .filter(({ verdict }) => verdict === 'out')
    .map((proposal) => ofProposal(plan, proposal, 'reason', NAMES[proposal.kind], DONE[proposal.treatment]));

function ofProposal(plan: FramePlan, proposal: DecidedProposal, about: MarkerAbout, name: string, what: string): Marker {
  const { kind, start, end, confidence, group } = proposal;
  const at = momentOnTimeline(plan, start);
  const length = Math.max(0, momentOnTimeline(plan, end) - at);
  const said = group && kind === 'filler' ? ` (${group})` : '';
  const sure = kind === 'hand' ? '' : `, ${Math.round(confidence * 100)} in 100 sure`;
  return { about, kind, at, length: frames(length), name, comment: `${formatLength(end - start)}${said} ${what}${sure}` };
}

const chapterMarker = ({ from, title }: Chapter): Marker => ({
  about: 'chapter',
  at: from,
  length: frames(0),
  name: title,
  comment: '',
});

/** Each stretch that went: over it where it is still on the timeline, at its seam where it is not. */
function removedMarkers(plan: FramePlan): Marker[] {
  const { events, rate, mode, sources } = plan;
  const label = (event: TimelineEvent, count: number) =>
    formatTimecode(frames((sources[event.source ?? 0]?.start ?? 0) + count), rate, mode);
  if (plan.removed !== 'gone') {
    const kept = new Set(plan.keptEvents);
    return events.flatMap((event, k) => {
      const { recordIn, recordOut, sourceIn, sourceOut } = event;
      if (kept.has(k)) return [];
      const comment = `${label(event, sourceIn)} to ${label(event, sourceOut)}`;
      return [{ about: 'removed', at: recordIn, length: frames(recordOut - recordIn), name: 'taken out', comment } as const];
    });
  }
  return events.flatMap((event, k) => {
    const before = events[k - 1];
    if (!before || (before.source ?? 0) !== (event.source ?? 0) || before.sourceOut >= event.sourceIn) return [];
    const comment = `${label(event, before.sourceOut)} to ${label(event, event.sourceIn)}`;
    return [{ about: 'removed', at: event.recordIn, length: frames(0), name: 'taken out', comment } as const];
  });
}
