import { Fragment, memo } from 'react';
import type { CutView } from '@/core/programme/packing.ts';
import { isHeard, pieceBefore } from '@/core/programme/programme.ts';
import { formatLength } from '@/core/time/clock.ts';
import type { Word } from '@/core/transcript/word.ts';
import { UNSURE } from '../episode/review/wordActions.ts';

interface Props {
  readonly words: readonly Word[];
  /** index of the first among all words */
  readonly first: number;
  readonly cut: CutView | undefined;
  readonly spoken: number;
  /** first and last selected word as text, empty for none here: text, so that other paragraphs stay as they are */
  readonly selected: string;
  readonly found: ReadonlySet<number>;
  readonly here: number | undefined;
  /** the word before which a dragged selection is held */
  readonly place: number | undefined;
}

/** Pauses from this length on are space, and from the second on they say how long they are. */
const SPACE_FROM = 0.3;
const LENGTH_FROM = 0.6;
const PIXELS_A_SECOND = 16;
const WIDEST = 90;

export const Paragraph = memo(function Paragraph({ words, first, cut, spoken, selected, found, here, place }: Props) {
  const [from = -1, to = -1] = selected === '' ? [] : selected.split(' ').map(Number);
  return (
    <p className="min-w-0 grow font-serif text-lg leading-[1.75]">
      {words.map((word, n) => {
        const index = first + n;
        const before = words[n - 1];
        const pause = before ? word.start - before.end : 0;
        return (
          <Fragment key={index}>
            {pause >= SPACE_FROM ? <Pause length={pause} /> : ' '}
            <span
              data-word={index}
              className={[
                'cursor-text rounded-sm px-px',
                cut && !isKept(cut, word) ? 'line-through' : '',
                word.confidence < UNSURE ? 'underline decoration-1 decoration-base-content/40 underline-offset-4' : '',
                found.has(index) ? 'outline outline-1' : '',
              ].join(' ')}
              style={{
                ...(cut && !isKept(cut, word) && { color: 'var(--ink-out)' }),
                ...(found.has(index) && { outlineColor: 'var(--ink-filler)', outlineWidth: index === here ? 2 : 1 }),
                ...(index >= from && index < to && { background: 'var(--ink-select)' }),
                ...(index === place && { boxShadow: '-3px 0 0 var(--ink-hand)' }),
                ...(index === spoken && { background: 'var(--ink-spoken)' }),
              }}
            >
              {word.text}
            </span>
          </Fragment>
        );
      })}
    </p>
  );
});

/** A pause as the space that it is, with its length where that is telling. */
function Pause({ length }: { length: number }) {
  return (
    <span
      className="tabular inline-block whitespace-nowrap text-center text-[0.65rem] opacity-70"
      style={{ width: Math.min(WIDEST, Math.max(12, length * PIXELS_A_SECOND + (length >= LENGTH_FROM ? 34 : 0))) }}
    >
      {length >= LENGTH_FROM ? formatLength(length) : ' '}
    </span>
  );
}

/** Whether the programme holds the middle of a word. */
function isKept({ programme }: CutView, { start, end }: Word): boolean {
  const middle = (start + end) / 2;
  return isHeard(programme, middle) && !programme.pieces[pieceBefore(programme, middle)]?.hole;
}
