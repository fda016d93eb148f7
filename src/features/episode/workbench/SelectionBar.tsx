import { useEffect, useRef } from 'react';
import { formatLength } from '@/core/time/clock.ts';
import { correctSelection, selectedWords } from '../review/wordActions.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { CommandButton } from './CommandButton.tsx';

/** Of a long selection the first words say enough. */
const MOST_LOOKED_AT = 500;

/** What can be done with the selected words, under them; here they are written anew. */
export function SelectionBar() {
  const model = useModel();
  const selection = useEpisode((s) => s.selection);
  const words = useEpisode((s) => s.words);
  const correcting = useEpisode((s) => s.correcting);
  const chosen = selection && selectedWords(model);
  if (!selection || !chosen) return null;
  const [first, last] = chosen;
  const text = words
    .slice(first, last)
    .map((word) => word.text)
    .join(' ');
  const looked = words.slice(first, Math.min(last, first + MOST_LOOKED_AT));
  const sure = Math.min(...looked.map((word) => word.confidence));
  const off = looked.every(({ error }) => error !== undefined) && Math.max(...looked.map(({ error = 0 }) => error));
  return (
    <section
      className="flex min-h-11 shrink-0 flex-wrap items-center gap-2 border-base-300 border-t bg-base-200 px-3 py-1"
      aria-label="Selected words"
    >
      {correcting ? (
        <Correction key={selection.start} text={text} />
      ) : (
        <>
          <p className="min-w-40 max-w-full grow basis-40 truncate font-serif" title={text}>
            {text}
          </p>
          <span className="tabular shrink-0 text-xs">
            {last - first === 1 ? '1 word' : `${last - first} words`}, {formatLength(selection.end - selection.start)}
            {sure < 1 && `, ${Math.round(sure * 100)} % sure`}
            {off !== false && `, edges within ${Math.round(1000 * off)} ms`}
          </span>
          <span className="flex shrink-0 gap-1">
            <CommandButton id="take-out">Take out</CommandButton>
            <CommandButton id="put-back">Put back</CommandButton>
            <CommandButton id="correct">Correct</CommandButton>
            <CommandButton id="out-of-text">Out of the text</CommandButton>
            <CommandButton id="lift">Cut</CommandButton>
            <CommandButton id="collect">Wanted</CommandButton>
            <CommandButton id="play-selection">Play</CommandButton>
          </span>
        </>
      )}
    </section>
  );
}

function Correction({ text }: { text: string }) {
  const model = useModel();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.select(), []);
  return (
    <form
      className="flex grow gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        correctSelection(model, field.current?.value ?? text);
      }}
    >
      <input
        ref={field}
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        className="input input-sm grow font-serif"
        aria-label="Write these words anew"
        defaultValue={text}
        maxLength={2000}
        onKeyDown={(event) => {
          if (event.key === 'Escape') model.show({ correcting: false });
        }}
      />
      <button type="submit" className="btn btn-sm">
        Write <kbd className="tabular text-[0.65rem]">Enter</kbd>
      </button>
      <button type="button" className="btn btn-sm" onClick={() => model.show({ correcting: false })}>
        Leave <kbd className="tabular text-[0.65rem]">Esc</kbd>
      </button>
    </form>
  );
}
