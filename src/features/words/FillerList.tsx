import { useVirtualizer } from '@tanstack/react-virtual';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { memo, useDeferredValue, useMemo, useRef, useState } from 'react';
import { isOf, type ProposalKind } from '@/core/detect/kinds.ts';
import { HEARD_GROUP } from '@/core/detect/words/unwrittenHesitations.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import { inContext } from '../episode/review/inContext.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

const ROW = 30;
const REPEATS = 'repeats';

/** All proposals of one entry. */
interface Entry {
  readonly name: string;
  readonly kind: ProposalKind;
  readonly indexes: readonly number[];
  readonly out: number;
  readonly open: number;
}

/** Whoever takes out a whole entry wants what is probably one; what is more doubtful stays open. */
const LIKELY = 0.6;

/** Fillers by entry, with repeats and what is heard but not written as groups of their own. */
export function FillerList() {
  // The score paints first while something moves; the list may follow.
  return <List cut={useDeferredValue(useEpisode((s) => s.cut))} />;
}

const List = memo(function List({ cut }: { cut: CutView | undefined }) {
  const entries = useMemo(() => (cut ? entriesOf(cut) : []), [cut]);
  const [opened, setOpened] = useState<string>();
  const most = Math.max(1, ...entries.map(({ indexes }) => indexes.length));
  if (!cut) return null;
  return (
    <section className="mt-2" aria-label="Fillers and repeats">
      <h2 className="mb-1 font-semibold text-sm">Fillers and repeats</h2>
      {entries.length === 0 && <p className="text-sm">Nothing here looks like a filler or a repeat.</p>}
      <ul>
        {entries.map((entry) => (
          <EntryRow
            key={entry.name}
            {...{ entry, cut, most }}
            opened={opened === entry.name}
            onToggle={() => setOpened(opened === entry.name ? undefined : entry.name)}
          />
        ))}
      </ul>
    </section>
  );
});

function entriesOf(cut: CutView): Entry[] {
  const entries = new Map<string, { name: string; kind: ProposalKind; indexes: number[]; out: number; open: number }>();
  for (let k = 0; k < cut.count; k++) {
    const kind = cut.kind(k);
    if (!isOf('words', kind)) continue;
    const name = kind === 'repeat' ? REPEATS : (cut.at(k).group ?? '');
    const entry = entries.get(name) ?? { name, kind, indexes: [], out: 0, open: 0 };
    entries.set(name, entry);
    entry.indexes.push(k);
    if (cut.verdict(k) === 'out') entry.out++;
    if (cut.verdict(k) === 'open') entry.open++;
  }
  const last = (name: string) => (name === REPEATS ? 1 : name === HEARD_GROUP ? 2 : 0);
  return [...entries.values()].sort((a, b) => last(a.name) - last(b.name) || b.indexes.length - a.indexes.length);
}

interface RowProps {
  readonly entry: Entry;
  readonly cut: CutView;
  readonly most: number;
  readonly opened: boolean;
  readonly onToggle: () => void;
}

function EntryRow({ entry, cut, most, opened, onToggle }: RowProps) {
  const model = useModel();
  const { name, kind, indexes, out, open } = entry;
  const all = () => indexes.map((index) => cut.at(index));
  const decide = (about: readonly SeenProposal[], verdict: 'out' | 'stay') => {
    if (about.length > 0) model.decide({ type: 'verdicts', kind, abouts: about.map(({ found }) => found), verdict });
  };
  const Chevron = opened ? ChevronDown : ChevronRight;
  return (
    <li className="border-base-300 border-b py-1" data-entry={name}>
      <div className="flex items-center gap-1 text-sm">
        <button
          type="button"
          className="flex w-32 shrink-0 cursor-pointer items-center gap-1 text-left"
          aria-expanded={opened}
          onClick={onToggle}
        >
          <Chevron size={14} aria-hidden className="shrink-0" />
          <span className="min-w-0 break-words font-serif leading-tight">{name}</span>
        </button>
        <Bar {...{ out, open }} count={indexes.length} most={most} />
        <span className="tabular w-14 text-right text-xs" title={`${out} out, ${open} open, ${indexes.length} in all`}>
          {out} of {indexes.length}
        </span>
        <button
          type="button"
          className="btn btn-xs px-1"
          aria-label={`Take out all of ${name} that are sure`}
          title="Take all out; doubtful ones stay open"
          onClick={() =>
            decide(
              all().filter(({ confidence }) => confidence >= LIKELY),
              'out',
            )
          }
        >
          Out
        </button>
        <button
          type="button"
          className="btn btn-xs px-1"
          aria-label={`Leave in all of ${name}`}
          onClick={() => decide(all(), 'stay')}
        >
          Stay
        </button>
      </div>
      {opened && <Occurrences {...{ entry, cut }} />}
    </li>
  );
}

/** How many of an entry there are beside the most of any: solid for out, hatched for open, empty for those that stay. */
function Bar({ out, open, count, most }: { out: number; open: number; count: number; most: number }) {
  const width = (part: number) => `${(100 * part) / most}%`;
  return (
    <span aria-hidden className="flex h-2.5 grow">
      <span style={{ width: width(out), background: 'var(--ink-filler)' }} />
      <span
        style={{
          width: width(open),
          background: 'repeating-linear-gradient(135deg, var(--ink-filler) 0 2px, transparent 2px 5px)',
        }}
      />
      <span
        className="box-border border border-base-content/40"
        style={{ width: width(count - out - open), borderWidth: count > out + open ? 1 : 0 }}
      />
    </span>
  );
}

function Occurrences({ entry, cut }: { entry: Entry; cut: CutView }) {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const focus = useEpisode((s) => s.focus);
  const box = useRef<HTMLDivElement>(null);
  const { indexes } = entry;
  const list = useVirtualizer({
    count: indexes.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 4,
  });
  const focused = focus && cut.same(focus)?.index;
  return (
    <div ref={box} className="mt-1 max-h-52 overflow-y-auto rounded border border-base-300 bg-base-100">
      <ul style={{ height: list.getTotalSize(), position: 'relative' }} aria-label={`Places of ${entry.name}`}>
        {list.getVirtualItems().map((item) => {
          const proposal = cut.at(indexes[item.index] as number);
          const { before, inside, after } = inContext(words, proposal.found);
          const said = inside || (proposal.group === HEARD_GROUP ? '( )' : '');
          return (
            <li
              key={item.key}
              className={`absolute inset-x-0 flex items-center gap-1 px-1 text-sm ${focused === proposal.index ? 'bg-base-300' : ''}`}
              style={{ height: ROW, transform: `translateY(${item.start}px)` }}
            >
              <button
                type="button"
                className="flex min-w-0 grow cursor-pointer items-baseline gap-1 text-left"
                aria-current={focused === proposal.index}
                onClick={() => {
                  model.review.visit(proposal);
                  if (model.state.hearsSteps) model.review.hear(false);
                }}
              >
                <span className="tabular w-12 shrink-0 text-xs">
                  <Moment at={proposal.start} />
                </span>
                <span className="flex min-w-0 grow whitespace-nowrap font-serif text-[13px]">
                  <span className="flex w-[42%] shrink-0 justify-end overflow-hidden">{before}</span>
                  <b
                    className={`mx-1 shrink-0 ${proposal.verdict === 'out' ? 'line-through' : proposal.verdict === 'open' ? 'underline decoration-dashed' : 'underline'}`}
                  >
                    {said}
                  </b>
                  <span className="overflow-hidden">{after}</span>
                </span>
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-xs shrink-0"
                onClick={() => model.review.judge(proposal, proposal.verdict === 'out' ? 'stay' : 'out')}
              >
                {proposal.verdict === 'out' ? 'put back' : 'take out'}
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
