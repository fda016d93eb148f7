import { Ellipsis, Play } from 'lucide-react';
import { useState } from 'react';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { formatLength } from '@/core/time/clock.ts';
import { overlapOf } from '@/core/time/range.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { useModel } from '../episode/session/useEpisode.ts';

/** What can be done with one attempt: keep it, hear it, and, on demand, lay it out otherwise. */
export function AttemptHead({ group, k }: { group: TakeGroup; k: number }) {
  const { takes } = useModel();
  const [more, setMore] = useState(false);
  const attempt = group.attempts[k] as TakeGroup['attempts'][number];
  const { start, end, broken, score } = attempt;
  const share = keptShare(group, k);
  return (
    <li className="rounded border border-base-300 bg-base-100 px-1 py-0.5 text-sm" data-attempt={k + 1}>
      <div className="flex items-center gap-1">
        <button
          type="button"
          aria-pressed={share === 1}
          aria-label={`Keep attempt ${k + 1}`}
          title={`Keep attempt ${k + 1}, the others go (${k + 1})`}
          className={`btn btn-xs tabular w-7 ${share === 1 ? 'btn-primary' : share > 0 ? 'btn-outline' : ''}`}
          onClick={() => takes.choose(k)}
        >
          {k + 1}
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-xs px-1"
          aria-label={`Play attempt ${k + 1}`}
          onClick={() => takes.play(k)}
        >
          <Play size={13} aria-hidden />
        </button>
        <span className="tabular whitespace-nowrap text-xs">
          <Moment at={start} />, {formatLength(end - start)}
        </span>
        <span className="grow truncate text-xs">
          {k === group.best && <b>suggested</b>}
          {k === group.best && broken && ', '}
          {broken && 'breaks off'}
          {share > 0 && share < 1 && ' a part stays'}
        </span>
        <span className="tabular text-xs" title="Score of 100">
          {Math.round(100 * score)}
        </span>
        <button
          type="button"
          className="btn btn-ghost btn-xs px-1"
          aria-label={`More about attempt ${k + 1}`}
          aria-expanded={more}
          onClick={() => setMore(!more)}
        >
          <Ellipsis size={14} aria-hidden />
        </button>
      </div>
      {more && (
        <div className="flex flex-wrap gap-1 py-1">
          <button type="button" className="btn btn-xs" onClick={() => void takes.hearInPlace(k)}>
            Hear in place
          </button>
          <button type="button" className="btn btn-xs" onClick={() => takes.toggle(k)}>
            {share > 0 ? 'Let it go' : 'Keep it as well'}
          </button>
          {k > 0 && (
            <button type="button" className="btn btn-xs" onClick={() => takes.split(k)}>
              Split: another line from here
            </button>
          )}
          <button type="button" className="btn btn-xs" onClick={() => takes.remove(k)}>
            No attempt: it stays
          </button>
          <Edge k={k} edge="start" label="Begins" />
          <Edge k={k} edge="end" label="Ends" />
        </div>
      )}
    </li>
  );
}

function Edge({ k, edge, label }: { k: number; edge: 'start' | 'end'; label: string }) {
  const { takes } = useModel();
  return (
    <span className="join">
      <button type="button" className="btn btn-xs join-item" onClick={() => takes.moveEdge(k, edge, -1)}>
        {label} earlier
      </button>
      <button type="button" className="btn btn-xs join-item" onClick={() => takes.moveEdge(k, edge, 1)}>
        later
      </button>
    </span>
  );
}

/** How much of an attempt stays: 1 for nearly all. */
function keptShare({ attempts, kept }: TakeGroup, k: number): number {
  const attempt = attempts[k];
  if (!attempt) return 0;
  const share = kept.reduce((sum, range) => sum + overlapOf(range, attempt), 0) / (attempt.end - attempt.start);
  return share > 0.97 ? 1 : share < 0.03 ? 0 : share;
}
