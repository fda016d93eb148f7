import { Play, X } from 'lucide-react';
import { useDeferredValue, useMemo } from 'react';
import type { Part } from '@/core/programme/parts.ts';
import { toSource } from '@/core/programme/programme.ts';
import { formatClock } from '@/core/time/clock.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { partsOfEpisode, playPart, renamePart } from './arranging.ts';

/** The parts of the programme, from break to break: named, played, joined again. */
export function PartList() {
  const cut = useDeferredValue(useEpisode((s) => s.settled));
  const decisions = useEpisode((s) => s.decisions);
  const parts = useMemo(() => partsOfEpisode({ cut, decisions }), [cut, decisions]);
  return (
    <section className="mt-2 border-base-300 border-t pt-2" aria-label="Parts">
      <h2 className="mb-1 font-semibold text-sm">{parts.length < 2 ? 'Parts' : `${parts.length} parts`}</h2>
      {parts.length < 2 && (
        <p className="text-xs leading-snug quiet">
          The programme is one part. Begin another at the playhead: parts can be played and handed off one by one.
        </p>
      )}
      {(parts.length > 1 || decisions.breaks.length > 0) && (
        <ol>
          {parts.map((part) => (
            <PartRow key={`${part.part} ${part.title}`} part={part} />
          ))}
        </ol>
      )}
      <CommandButton id="break" className="btn btn-xs mt-1">
        Begin a part here
      </CommandButton>
    </section>
  );
}

function PartRow({ part }: { part: Part }) {
  const model = useModel();
  const isNew = useEpisode((s) => s.naming !== undefined && s.naming === part.part);
  const settle = (title: string) => title.trim() !== part.title && renamePart(model, part, title);
  return (
    <li className="flex items-center gap-1 py-0.5 text-sm">
      <button
        type="button"
        className="tabular w-12 shrink-0 cursor-pointer text-left text-xs hover:underline"
        aria-label={`Go to ${part.title}`}
        onClick={() => model.state.cut && model.reveal(toSource(model.state.cut.programme, part.start + 0.001), undefined, true)}
      >
        {formatClock(part.start)}
      </button>
      <input
        className="input input-xs min-w-0 grow font-serif"
        aria-label={`Title of part ${part.number}`}
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus={isNew}
        onFocus={(event) => event.target.select()}
        defaultValue={part.title}
        maxLength={200}
        onBlur={(event) => {
          if (isNew) model.show({ naming: undefined });
          settle(event.target.value);
        }}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <span className="tabular shrink-0 text-xs">{formatClock(part.end - part.start)}</span>
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square"
        aria-label={`Play ${part.title}`}
        onClick={() => playPart(model, part)}
      >
        <Play size={13} aria-hidden />
      </button>
      {part.part !== undefined && (
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Join ${part.title} to the part before`}
          title="Join to the part before"
          onClick={() => model.decide({ type: 'unbreak', part: part.part as string })}
        >
          <X size={13} aria-hidden />
        </button>
      )}
    </li>
  );
}
