import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useDeferredValue, useRef } from 'react';
import type { CutView } from '@/core/programme/packing.ts';
import { formatLength } from '@/core/time/clock.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { UnmetList } from '../episode/review/UnmetList.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

const ROW = 28;
const MARKS = { out: '[ ]', stay: '—', open: '[?]' } as const;
const NEXT = { out: 'put back', stay: 'take out', open: 'take out' } as const;

/** All proposals with their lengths. */
export function PauseList() {
  // The score paints first while a slider moves; the list may follow.
  return <List cut={useDeferredValue(useEpisode((s) => s.cut))} />;
}

const List = memo(function List({ cut }: { cut: CutView | undefined }) {
  const model = useModel();
  const focus = useEpisode((s) => s.focus);
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: cut?.count ?? 0,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  if (!cut) return null;
  const focused = focus && cut.same(focus);
  return (
    <section className="mt-3" aria-label="All proposals">
      <h2 className="mb-1 font-semibold text-sm">All proposals</h2>
      {cut.count === 0 && <p className="text-sm">No pause is this long. Lower the shortest pause, or raise the threshold.</p>}
      <div ref={box} className="max-h-56 overflow-y-auto rounded border border-base-300 bg-base-100">
        <ul style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const proposal = cut.at(item.index);
            const here = focused?.index === item.index;
            return (
              <li
                key={item.key}
                className={`absolute inset-x-0 flex items-center gap-2 px-2 text-sm ${here ? 'bg-base-300' : ''}`}
                style={{ height: ROW, transform: `translateY(${item.start}px)` }}
              >
                <button
                  type="button"
                  className="tabular flex grow cursor-pointer gap-2 text-left"
                  aria-current={here}
                  onClick={() => model.review.visit(proposal)}
                >
                  <span aria-hidden className="w-8">
                    {MARKS[proposal.verdict]}
                  </span>
                  <span className="w-16">
                    <Moment at={proposal.start} tenths />
                  </span>
                  <span>{formatLength(proposal.end - proposal.start)}</span>
                  {proposal.group && <span className="truncate font-serif">{proposal.group}</span>}
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  onClick={() => model.review.judge(proposal, proposal.verdict === 'out' ? 'stay' : 'out')}
                >
                  {NEXT[proposal.verdict]}
                </button>
              </li>
            );
          })}
        </ul>
      </div>
      <UnmetList />
    </section>
  );
});
