import { useMemo } from 'react';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { formatClock } from '@/core/time/clock.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { type Cell, linesOf } from './lineCells.ts';

/** The attempts under one another, the same words in one column, broken into as many lines as the tray needs. */
export function Lines({ group }: { group: TakeGroup }) {
  const words = useEpisode((s) => s.words);
  const { language } = useModel();
  const lexicon = useEpisode((s) => s.decisions.settings.lexicon);
  const lines = useMemo(() => linesOf(group, words, language, lexicon), [group, words, language, lexicon]);
  if (lines.length === 0)
    return <p className="mt-2 text-sm quiet">There are no words here: these tries were found by ear alone.</p>;
  return (
    <div className="mt-2 flex flex-col gap-2 rounded border border-base-300 bg-base-100 p-1 font-serif text-[13px]">
      {lines.map((line) => (
        <table key={line.from} className="w-fit border-separate border-spacing-x-[3px]" aria-label="Attempts, word under word">
          <tbody>
            {line.rows.map(({ attempt, cells, broken }) => (
              <tr key={attempt}>
                <th scope="row" className="tabular w-4 pr-1 text-left font-normal text-xs">
                  {attempt + 1}
                </th>
                {(broken ? cells.slice(0, lastWord(cells) + 1) : cells).map((cell) => (
                  <td key={cell.key} className="p-0 leading-5">
                    {cell.index >= 0 && <WordButton cell={cell} attempt={attempt} />}
                  </td>
                ))}
                {broken && (
                  <td colSpan={cells.length - lastWord(cells)} className="whitespace-nowrap p-0 pl-1 font-sans text-xs italic">
                    breaks off
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </div>
  );
}

const lastWord = (cells: readonly Cell[]): number => cells.findLastIndex(({ index }) => index >= 0);

/** A word of an attempt. Pressed in an attempt that is out, the line goes on with it from there, or begins with it up to there. */
function WordButton({ cell, attempt }: { cell: Cell; attempt: number }) {
  const { takes } = useModel();
  const { text, index, kept, differs, filler, start } = cell;
  return (
    <button
      type="button"
      className={[
        'cursor-pointer rounded-sm px-[1px] text-left hover:bg-base-300',
        kept ? '' : 'line-through decoration-1 quiet',
        differs ? 'font-bold underline decoration-2 underline-offset-2' : '',
        filler ? 'italic' : '',
      ].join(' ')}
      title={`${formatClock(start, true)}${kept ? '' : `: join attempt ${attempt + 1} here`}`}
      aria-label={`${text}${kept ? '' : `, out; join attempt ${attempt + 1} here`}`}
      onClick={() => void takes.splice(attempt, index)}
    >
      {text}
    </button>
  );
}
