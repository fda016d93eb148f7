import { memo, useDeferredValue, useMemo } from 'react';
import { isOf } from '@/core/detect/kinds.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import { Moment } from '../episode/review/Moment.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { KIND_LOOKS } from '../kindLooks.ts';

const SHOWN = 60;

/** Cues, dropped sentences and chatter: doubtful unless somebody decides. */
export function AsideList() {
  // The score paints first while something moves; the list may follow.
  return <List cut={useDeferredValue(useEpisode((s) => s.cut))} />;
}

const List = memo(function List({ cut }: { cut: CutView | undefined }) {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const focus = useEpisode((s) => s.focus);
  const asides = useMemo(() => (cut ? asidesOf(cut) : []), [cut]);
  if (asides.length === 0) return null;
  return (
    <section className="mt-3 [contain-intrinsic-size:auto_12rem] [content-visibility:auto]" aria-label="Asides">
      <h2 className="mb-1 font-semibold text-sm">Not said to the listener?</h2>
      <ul className="rounded border border-base-300 bg-base-100">
        {asides.slice(0, SHOWN).map((aside) => (
          <li
            key={aside.index}
            className={`flex items-center gap-1 px-2 py-0.5 text-sm ${focus && cut?.same(focus)?.index === aside.index ? 'bg-base-300' : ''}`}
          >
            <button
              type="button"
              className="flex min-w-0 grow cursor-pointer flex-col text-left"
              onClick={() => {
                model.review.visit(aside);
                model.review.hearAcross(aside, true);
              }}
            >
              <span className="w-full truncate font-serif text-[13px]">{textOf(words, aside)}</span>
              <span className="text-xs quiet">
                <span className="tabular">
                  <Moment at={aside.found.start} />
                </span>{' '}
                {KIND_LOOKS[aside.kind].phrase}, {wordedVerdict(aside)}
              </span>
            </button>
            <button
              type="button"
              className="btn btn-xs shrink-0"
              onClick={() => model.review.judge(aside, aside.verdict === 'out' ? 'stay' : 'out')}
            >
              {aside.verdict === 'out' ? 'put back' : 'take out'}
            </button>
            {aside.verdict === 'open' && (
              <button type="button" className="btn btn-xs shrink-0" onClick={() => model.review.judge(aside, 'stay')}>
                leave in
              </button>
            )}
          </li>
        ))}
      </ul>
      {asides.length > SHOWN && <p className="text-xs">and {asides.length - SHOWN} more on the score</p>}
    </section>
  );
});

/** Those that are still somebody's question come first. */
function asidesOf(cut: CutView): SeenProposal[] {
  const found: SeenProposal[] = [];
  for (let k = 0; k < cut.count; k++) if (isOf('asides', cut.kind(k))) found.push(cut.at(k));
  // What goes with an attempt or a pause anyway was never asked about.
  return found.filter(({ verdict, decided }) => verdict !== 'out' || decided);
}

function textOf(words: readonly Word[], { found, group }: SeenProposal): string {
  const [first, last] = wordsIn(words, found);
  const said = words.slice(first, Math.min(last, first + 16)).map(({ text }) => text);
  return said.length > 0 ? said.join(' ') : group === 'clap' ? 'a clap' : 'no words';
}

const wordedVerdict = ({ verdict }: SeenProposal): string => ({ out: 'out', stay: 'stays', open: 'open' })[verdict];
