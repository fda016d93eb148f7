import type { SeamDoubt } from '@/core/programme/risk.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';

const DOUBTS: Readonly<Record<SeamDoubt, string>> = {
  ending: 'the word before may be cut short',
  onset: 'the next word may begin earlier',
  inside: 'a sound inside was taken for a breath, a knock or noise',
  room: 'the room sounds different on the two sides',
  close: 'this may be meant to stay',
  pitch: 'the voice jumps in pitch',
  word: 'an edge lies inside a word',
};

/** The seams most likely to be wrong, one after another, and what to do when one is. */
export function EarCheckPanel() {
  const check = useEpisode((s) => s.earCheck);
  const seam = check?.seams[check.at];
  return (
    <section className="mt-2 rounded border border-base-300 bg-base-100 p-2 text-sm" aria-label="Ear check">
      {!check ? (
        <div className="flex items-center justify-between gap-2">
          <span>Hear the six seams most in doubt.</span>
          <CommandButton id="ear-check" className="btn btn-xs btn-primary">
            Ear check
          </CommandButton>
        </div>
      ) : !seam ? (
        <p>There is no seam to hear.</p>
      ) : (
        <>
          <p role="status" className="mb-1">
            <b>
              {check.at + 1} of {check.seams.length}
            </b>{' '}
            at{' '}
            <span className="tabular">
              <Moment at={seam.about.found.start} tenths />
            </span>
            : {DOUBTS[seam.doubt]}.
          </p>
          <div className="flex flex-wrap gap-1">
            <CommandButton id="hear" className="btn btn-xs">
              Again
            </CommandButton>
            <CommandButton id="ear-next" className="btn btn-xs btn-primary">
              Fine, next
            </CommandButton>
            <CommandButton id="put-back" className="btn btn-xs">
              Leave in
            </CommandButton>
          </div>
          <div className="mt-1 grid grid-cols-[auto_1fr_1fr] items-center gap-1 text-xs">
            <span>More air after</span>
            <CommandButton id="more-after" className="btn btn-xs">
              everywhere
            </CommandButton>
            <CommandButton id="one-after" className="btn btn-xs">
              here
            </CommandButton>
            <span>More air before</span>
            <CommandButton id="more-before" className="btn btn-xs">
              everywhere
            </CommandButton>
            <CommandButton id="one-before" className="btn btn-xs">
              here
            </CommandButton>
          </div>
        </>
      )}
    </section>
  );
}
