import { useEffect, useState } from 'react';
import { HEARD_GROUP } from '@/core/detect/words/unwrittenHesitations.ts';
import type { SeenProposal } from '@/core/programme/packing.ts';
import type { SeamMeasure } from '@/core/programme/risk.ts';
import { chosenFor } from '@/core/programme/views.ts';
import { formatLength } from '@/core/time/clock.ts';
import { KIND_LOOKS } from '../../kindLooks.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { CommandButton } from '../workbench/CommandButton.tsx';
import { Moment } from './Moment.tsx';
import { reasonsFor } from './reasons.ts';

const VERDICTS = { out: 'out', stay: 'stays', open: 'open' } as const;
const TREATED = { remove: 'out', shorten: 'shortened', hurry: 'hurried', hole: 'left as a hole' } as const;

const LOOKS = { cut: 'is cut', closer: 'comes closer or goes back', dissolve: 'dissolves' } as const;

const wordedVerdict = ({ verdict, treatment }: SeenProposal): string =>
  verdict === 'out' ? TREATED[treatment] : VERDICTS[verdict];

/** The proposal that is looked at: what it is, why, and what can be decided. */
export function ProposalCard() {
  const model = useModel();
  const focus = useEpisode((s) => s.focus);
  // While a slider moves and nothing is looked at, nothing here changes.
  const cut = useEpisode((s) => s.focus && s.cut);
  const selection = useEpisode((s) => s.selection);
  const proposal = focus && cut?.same(focus);
  const seams = useEpisode((s) => s.decisions.seams);
  const hasFilm = useEpisode((s) => s.detail?.recordings.some(({ facts }) => facts.video) ?? false);
  const look = proposal?.verdict === 'out' ? chosenFor(proposal, seams) : undefined;
  const [evidence, setEvidence] = useState<Readonly<Record<string, number>>>();
  const [seam, setSeam] = useState<SeamMeasure>();
  const index = proposal?.index;
  useEffect(() => {
    let current = true;
    setEvidence(undefined);
    setSeam(undefined);
    if (index !== undefined && cut) {
      const asked = cut.at(index);
      void model.engine.evidence(asked).then((found) => current && setEvidence(found));
      void model.engine.seam(asked).then((found) => current && setSeam(found));
    }
    return () => {
      current = false;
    };
  }, [index, cut, model]);

  return (
    <section className="mt-2 min-h-36 rounded border border-base-300 bg-base-100 p-2 text-sm" aria-label="Looked at now">
      {selection ? (
        <p className="mb-1">
          <b>Selected</b> <span className="tabular">{formatLength(selection.end - selection.start)}</span> from{' '}
          <span className="tabular">
            <Moment at={selection.start} tenths />
          </span>
        </p>
      ) : proposal ? (
        <>
          <p className="mb-1">
            <b>{nameOf(proposal)}</b> <span className="tabular">{formatLength(proposal.end - proposal.start)}</span> at{' '}
            <span className="tabular">
              <Moment at={proposal.start} tenths />
            </span>
            , {wordedVerdict(proposal)}
            {look && `, the picture ${LOOKS[look]}`}
          </p>
          <p className="mb-2 text-xs leading-snug quiet">{reasonOf(proposal, evidence)}</p>
          {seam && proposal.kind !== 'pause' && <p className="mb-2 text-xs leading-snug quiet">{seamText(seam)}</p>}
        </>
      ) : (
        <p className="mb-2">
          Step through the proposals, or click one on the score. Drag over sound or words to select a stretch of your own.
        </p>
      )}
      <div className="flex flex-wrap gap-1">
        <CommandButton id="take-out">Take out</CommandButton>
        <CommandButton id="put-back">Put back</CommandButton>
        <CommandButton id="reopen">Leave open</CommandButton>
        <CommandButton id="treatment">Treatment</CommandButton>
        {hasFilm && <CommandButton id="seam-look">Look of the seam</CommandButton>}
        {(proposal?.kind === 'filler' || proposal?.kind === 'repeat') && (
          <CommandButton id="out-of-text">Out of the text</CommandButton>
        )}
        <CommandButton id="hear">Hear it</CommandButton>
        <CommandButton id="hear-with">Hear it with</CommandButton>
        <CommandButton id="previous">Previous</CommandButton>
        <CommandButton id="next">Next</CommandButton>
      </div>
    </section>
  );
}

/** How well the join will sound, by what is measured on both sides. */
function seamText({ levelStep, roomStep, pitchStep, midWord }: SeamMeasure): string {
  const steps = [
    `level ${Math.round(levelStep)} dB`,
    `room ${Math.round(roomStep)} dB`,
    ...(pitchStep === undefined ? [] : [`pitch ${Math.round(pitchStep)} semitones`]),
  ];
  return `Steps at its seam: ${steps.join(', ')}.${midWord ? ' An edge lies inside a word.' : ''}`;
}

const nameOf = ({ kind, group }: SeenProposal): string =>
  group === undefined
    ? KIND_LOOKS[kind].name
    : group === HEARD_GROUP
      ? 'Heard, not written'
      : `${KIND_LOOKS[kind].name}: ${group}`;

function reasonOf(proposal: SeenProposal, evidence: Readonly<Record<string, number>> | undefined): string {
  if (proposal.kind === 'hand') return 'You selected this stretch and took it out.';
  const sure = `${Math.round(proposal.confidence * 100)} % sure`;
  if (proposal.kind !== 'pause')
    return (
      [sure, ...(evidence ? reasonsFor({ kind: proposal.kind, evidence }) : [])].join('; ') +
      (proposal.decided ? '. Decided by you.' : '.')
    );
  if (!evidence) return '';
  const found = formatLength(proposal.found.end - proposal.found.start);
  const level = `${found} of silence at ${evidence.levelDbfs} dBFS, ${evidence.underThresholdDb} dB under the threshold.`;
  const { specks = 0, breaths = 0, noise = 0, speech } = evidence;
  const inside = [
    ...(specks > 0 ? [specks === 1 ? 'a knock' : `${specks} knocks`] : []),
    ...(breaths > 0 ? [breaths === 1 ? 'a breath' : `${breaths} breaths`] : []),
    ...(noise > 0 ? [`${formatLength(noise)} of noise`] : []),
  ].join(' and ');
  const heard = speech === undefined ? '' : ` Likelihood of speech ${Math.round(speech * 100)} %.`;
  return `${level}${inside && ` Inside: ${inside}, worth an ear.`}${heard}${proposal.decided ? ' Decided by you.' : ''}`;
}
