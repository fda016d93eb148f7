import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { certaintyOf } from '@/core/detect/settings.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { useGroup, useTakes } from './useTakes.ts';

const ROW = 28;

/** All groups, to see at once what is chosen and what is not. */
export function GroupList() {
  const { takes } = useModel();
  const groups = useTakes((s) => s.groups);
  const words = useEpisode((s) => s.words);
  const certainty = useEpisode((s) => certaintyOf(settingsShown(s)));
  const shown = useGroup();
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: groups.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 4,
  });
  return (
    <section className="mt-3" aria-label="All takes">
      <h2 className="mb-1 font-semibold text-sm">All takes</h2>
      <div ref={box} className="max-h-40 overflow-y-auto rounded border border-base-300 bg-base-100">
        <ul style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const group = groups[item.index] as TakeGroup;
            const [first, last] = wordsIn(words, group.attempts[group.best] ?? { start: 0, end: 0 });
            const line = words.slice(first, Math.min(last, first + 8)).map(({ text }) => text);
            return (
              <li key={item.key} className="absolute inset-x-0" style={{ height: ROW, transform: `translateY(${item.start}px)` }}>
                <button
                  type="button"
                  aria-current={group === shown}
                  className={`flex h-full w-full cursor-pointer items-center gap-2 px-2 text-left text-sm ${group === shown ? 'bg-base-300' : ''}`}
                  onClick={() => takes.visit(group)}
                >
                  <span className="tabular shrink-0 text-xs">
                    <Moment at={group.attempts[0]?.start ?? 0} />
                  </span>
                  <span className="min-w-0 grow truncate font-serif text-[13px]">{line.join(' ') || 'no words here'}</span>
                  <span className="tabular shrink-0 text-xs">{stateOf(group, certainty)}</span>
                </button>
              </li>
            );
          })}
        </ul>
      </div>
    </section>
  );
}

const stateOf = ({ attempts, chosen, kept, confidence, best }: TakeGroup, certainty: number): string => {
  const count = `${attempts.length} tries`;
  if (!chosen) return confidence >= certainty ? `${count}, no. ${best + 1} stays` : `${count}, open`;
  return kept.length >= attempts.length ? `${count}, all stay` : `${count}, chosen`;
};
