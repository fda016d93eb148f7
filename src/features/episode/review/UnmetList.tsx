import { useEffect, useState } from 'react';
import type { AboutStep } from '@/core/decisions/replay.ts';
import { KIND_LOOKS } from '../../kindLooks.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { Moment } from './Moment.tsx';

const VERDICTS = { out: 'taken out', stay: 'put back', open: 'left open' } as const;
const TREATMENTS = { remove: 'take out', shorten: 'shorten', hurry: 'hurry', hole: 'leave a hole' } as const;
const MOST_SHOWN = 200;

/** Decisions about what is not proposed under the present settings: nothing that a person decided goes away unseen. */
export function UnmetList() {
  const model = useModel();
  const cut = useEpisode((s) => (s.isWhole ? s.settled : undefined));
  const [steps, setSteps] = useState<readonly AboutStep[]>([]);
  const count = cut?.packed.unmatched ?? 0;
  useEffect(() => {
    let current = true;
    // While the whole answer is on its way the list stays as it was.
    if (!cut) return;
    if (count === 0) setSteps([]);
    else void model.engine.unmet().then((found) => current && setSteps(latest(found)));
    return () => {
      current = false;
    };
  }, [model, cut, count]);
  if (steps.length === 0) return null;
  return (
    <details className="mt-3 rounded border border-base-300 p-2 text-sm" aria-label="Decided, but not proposed now">
      <summary className="cursor-pointer">
        <span className="tabular">{steps.length}</span> decided, but not proposed now
      </summary>
      <p className="mt-1 text-xs leading-snug quiet">
        These decisions are kept, and count again as soon as settings or words bring back what they are about.
      </p>
      <ul className="mt-1 max-h-40 overflow-y-auto">
        {steps.slice(0, MOST_SHOWN).map((step) => (
          <li key={`${step.id} ${step.about.start}`}>
            <button
              type="button"
              className="flex w-full cursor-pointer gap-2 py-0.5 text-left hover:underline"
              onClick={() => model.reveal(step.about.start)}
            >
              <span className="tabular w-16 shrink-0">
                <Moment at={step.about.start} tenths />
              </span>
              <span>
                {KIND_LOOKS[step.kind].name}, {wordedStep(step)}
              </span>
            </button>
          </li>
        ))}
        {steps.length > MOST_SHOWN && <li className="text-xs">and {steps.length - MOST_SHOWN} more</li>}
      </ul>
    </details>
  );
}

/** Only the last word of each kind about the same stretch counts. */
const latest = (steps: readonly AboutStep[]): AboutStep[] => [
  ...new Map(steps.map((step) => [`${step.type} ${step.kind} ${step.about.start} ${step.about.end}`, step])).values(),
];

const wordedStep = (step: AboutStep): string =>
  step.type === 'verdict'
    ? VERDICTS[step.verdict]
    : step.type === 'treat'
      ? `treated: ${TREATMENTS[step.treatment]}`
      : 'edge moved';
