import { useState } from 'react';
import { PARTS, type Part } from '@/core/detect/takes/scoring.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { overlapOf, type Range } from '@/core/time/range.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { AttemptHead } from './AttemptHead.tsx';
import { Lines } from './Lines.tsx';
import { useGroup, useTakes } from './useTakes.ts';

/** One group: its attempts under one another, what is suggested and why, and what can be done. */
export function GroupPanel() {
  const { takes } = useModel();
  const group = useGroup();
  const groups = useTakes((s) => s.groups);
  const [why, setWhy] = useState(false);
  if (!group) return null;
  const at = groups.indexOf(group);
  const joins = group.chosen && group.kept.length > 1;
  return (
    <section className="mt-2" aria-label="Attempts at this line">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="font-semibold text-sm">
          Take {at + 1} of {groups.length}
          <span className="tabular ml-2 font-normal text-xs">
            <Moment at={group.attempts[0]?.start ?? 0} />
          </span>
        </h2>
        <span className="flex gap-1">
          <CommandButton id="previous">Previous</CommandButton>
          <CommandButton id="next">Next</CommandButton>
        </span>
      </div>
      <p className="mt-1 text-sm">
        {suggestion(group)}{' '}
        <button type="button" className="link text-sm" aria-expanded={why} onClick={() => setWhy(!why)}>
          {why ? 'less' : 'why'}
        </button>
      </p>
      {group.differs.length > 0 && (
        <p className="mt-1 rounded border border-warning px-2 py-1 text-sm">
          Said otherwise: <b>{group.differs.join('; ')}</b>. Perhaps on purpose.
        </p>
      )}
      {why && <Scores group={group} />}
      <Lines group={group} />
      <ul className="mt-2 flex flex-col gap-1">
        {group.attempts.map((attempt, k) => (
          <AttemptHead key={attempt.start} group={group} k={k} />
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap gap-1">
        <CommandButton id="hear">Hear in place</CommandButton>
        <CommandButton id="hear-with">Play all in turn</CommandButton>
        {joins && <CommandButton id="take-joins">Hear the joins</CommandButton>}
        <CommandButton id="take-out">As suggested</CommandButton>
        <CommandButton id="put-back">Not a retake: all stay</CommandButton>
        <CommandButton id="take-add">Add selection</CommandButton>
        <button type="button" className="btn btn-xs" disabled={at + 1 >= groups.length} onClick={() => takes.joinNext()}>
          Join with the next take
        </button>
      </div>
    </section>
  );
}

const PART_WORDS: Readonly<Record<Part, string>> = {
  complete: 'complete',
  fluent: 'fluent',
  pace: 'steady pace',
  level: 'steady level',
  clear: 'clear',
  later: 'later',
};

/** What is suggested, and the two things that speak most for it. */
function suggestion({ attempts, best, chosen, kept }: TakeGroup): string {
  const [suggested, others] = [attempts[best], attempts.filter((_, k) => k !== best)];
  if (!suggested) return '';
  const ahead = PARTS.map((part) => {
    const most = Math.max(...others.map(({ parts }) => parts[part] ?? 0));
    return { part, by: (suggested.parts[part] ?? 0) - most };
  })
    .filter(({ by }) => by > 0.02)
    .sort((a, b) => b.by - a.by)
    .slice(0, 2)
    .map(({ part }) => `more ${PART_WORDS[part]}`.replace('more later', 'the later one').replace('more steady', 'of steadier'));
  const why = ahead.length > 0 ? ahead.join(', ') : 'none is better in anything';
  const witnesses = Object.assign({}, ...others.map(({ sameLine }) => sameLine.evidence)) as Readonly<Record<string, number>>;
  const heard =
    witnesses.matches && witnesses.heardAlike
      ? 'read and heard'
      : witnesses.heardAlike
        ? 'heard'
        : witnesses.matches
          ? 'read'
          : 'made by hand';
  const state = chosen ? ` ${choiceOf(attempts, kept)}` : '';
  return `Suggested: ${best + 1}, ${why} (${heard}).${state}`;
}

function choiceOf(attempts: TakeGroup['attempts'], kept: TakeGroup['kept']): string {
  const stay = attempts.flatMap((attempt, k) => (kept.some((range) => overlapOf(range, attempt) > 0) ? [k] : []));
  const whole = (k: number) =>
    kept.some((range) => overlapOf(range, attempts[k] as Range) > 0.95 * lengthOf(attempts[k] as Range));
  const numbers = stay.map((k) => k + 1);
  if (!stay.every(whole)) return `You begin with ${numbers.join(', then go on with ')}.`;
  return stay.length === attempts.length ? 'You keep all.' : `You keep ${numbers.join(' and ')}.`;
}

const lengthOf = ({ start, end }: Range): number => end - start;

/** The parts of each attempt's score, as bars and numbers. */
function Scores({ group: { attempts } }: { group: TakeGroup }) {
  return (
    <table className="mt-1 w-full text-xs" aria-label="Scores">
      <thead>
        <tr>
          <th scope="col" className="text-left font-normal">
            of 100
          </th>
          {attempts.map(({ start }, k) => (
            <th key={start} scope="col" className="text-right">
              {k + 1}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {PARTS.map((part) => (
          <tr key={part}>
            <th scope="row" className="text-left font-normal">
              {PART_WORDS[part]}
            </th>
            {attempts.map(({ start, parts }) => (
              <td key={start} className="tabular text-right">
                {parts[part] === undefined ? 'unknown' : Math.round(100 * parts[part])}
              </td>
            ))}
          </tr>
        ))}
        <tr className="border-base-300 border-t font-semibold">
          <th scope="row" className="text-left">
            together
          </th>
          {attempts.map(({ start, score }) => (
            <td key={start} className="tabular text-right">
              {Math.round(100 * score)}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}
