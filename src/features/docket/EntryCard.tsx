import { useEffect, useState } from 'react';
import type { DocketEntry } from '@/core/docket/docket.ts';
import { inContext } from '../episode/review/inContext.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { reasonsFor } from '../episode/review/reasons.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { entryName, entryReason, proposedWords } from './entryWords.ts';
import { useDocket } from './useDocket.ts';

/** Of a long line its beginning and its end are shown. */
const MOST_WORDS = 14;
/** Large enough for a thumb where there is no mouse. */
const BUTTON = 'btn btn-sm pointer-coarse:btn-lg pointer-coarse:min-h-12 justify-between';

/** What is heard now, why it is asked, and what can be said of it: one key each. */
export function EntryCard() {
  const model = useModel();
  const current = useDocket((s) => s.current);
  const first = useDocket((s) => s.groups[0]?.entries[0]);
  const isHandsFree = useDocket((s) => s.isHandsFree);
  if (!current)
    return (
      <section className="mt-2 rounded border border-base-300 bg-base-100 p-2 text-sm" aria-label="Heard now">
        {first ? (
          <>
            <p className="mb-2">
              Each of these is played as it comes: a second before, the join, a second after. Say what you think of it, and the
              next one follows.
            </p>
            <div className="flex flex-wrap gap-1">
              <button
                type="button"
                className="btn btn-primary btn-sm pointer-coarse:min-h-12"
                onClick={() => model.docket.start()}
              >
                Start <kbd className="tabular text-[0.65rem]">F</kbd>
              </button>
              <CommandButton id="hands-free" className="btn btn-sm pointer-coarse:min-h-12">
                Hands-free
              </CommandButton>
            </div>
          </>
        ) : (
          <p>Nothing is left to ask. What goes by itself can still be listened through.</p>
        )}
      </section>
    );
  return (
    <section
      className={`mt-2 rounded border bg-base-100 p-2 text-sm ${isHandsFree ? 'border-2 border-primary' : 'border-base-300'}`}
      aria-label="Heard now"
    >
      <What entry={current} />
      <div className="grid grid-cols-2 gap-1">
        <CommandButton id="right" className={`${BUTTON} btn-primary`}>
          Right: {proposedWords[current.proposed]}
        </CommandButton>
        {current.proposed === 'out' ? (
          <CommandButton id="put-back" className={BUTTON}>
            {current.why === 'open' ? 'Leave in' : 'Put back'}
          </CommandButton>
        ) : (
          <CommandButton id="take-out" className={BUTTON}>
            Take out
          </CommandButton>
        )}
        <CommandButton id="more-air" className={BUTTON}>
          More air here
        </CommandButton>
        <CommandButton id="reopen" className={BUTTON}>
          Later
        </CommandButton>
        <CommandButton id="hear" className={BUTTON}>
          Without it
        </CommandButton>
        <CommandButton id="hear-with" className={BUTTON}>
          With it
        </CommandButton>
      </div>
      {current.word && (
        <CommandButton id="correct" className={`${BUTTON} mt-1 w-full`}>
          Write “{current.word.text}” anew
        </CommandButton>
      )}
      <Alike />
      <div className="mt-1 flex items-center justify-between gap-2 text-xs">
        <span>{isHandsFree ? 'What you let pass is right.' : 'Only objections need a key:'}</span>
        <CommandButton id="hands-free" className={`btn btn-xs ${isHandsFree ? 'btn-primary' : ''}`} pressed={isHandsFree}>
          {isHandsFree ? 'Stop' : 'Hands-free'}
        </CommandButton>
      </div>
    </section>
  );
}

function What({ entry }: { entry: DocketEntry }) {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const [reasons, setReasons] = useState<readonly string[]>([]);
  useEffect(() => {
    let current = true;
    setReasons([]);
    void model.engine
      .evidence(entry)
      .then((evidence) => current && evidence && setReasons(reasonsFor({ kind: entry.kind, evidence })));
    return () => {
      current = false;
    };
  }, [entry, model]);
  const { before, inside, after } = inContext(words, entry.found, MOST_WORDS);
  return (
    <div className="mb-2" role="status">
      <p>
        <b>{entryName(entry)}</b> at{' '}
        <span className="tabular">
          <Moment at={entry.start} tenths />
        </span>
      </p>
      {(before || inside || after) && (
        <p className="line-clamp-3 font-serif leading-snug">
          {before}{' '}
          <mark
            className={`bg-transparent text-inherit ${entry.proposed === 'out' ? 'line-through decoration-2' : 'underline decoration-2'}`}
          >
            {inside || '‖'}
          </mark>{' '}
          {after}
        </p>
      )}
      <p className="text-xs leading-snug quiet">
        {entryReason(entry)}
        {reasons.length > 0 && `; ${reasons.join('; ')}`}.
      </p>
    </div>
  );
}

/** Others that one decision can settle with it. */
function Alike() {
  const model = useModel();
  const count = useDocket(() => (model.docket.group()?.entries.length ?? 1) - 1);
  if (count < 1) return null;
  return (
    <div className="mt-1 grid grid-cols-2 gap-1">
      <CommandButton id="right-alike" className={BUTTON}>
        and {count} alike
      </CommandButton>
      <CommandButton id="put-back-alike" className={BUTTON}>
        keep all {count + 1}
      </CommandButton>
    </div>
  );
}
