import { ArrowLeft, CloudOff, Redo2, Undo2 } from 'lucide-react';
import { memo } from 'react';
import { formatClock } from '@/core/time/clock.ts';
import { ThemeSwitch } from '@/ui/ThemeSwitch.tsx';
import { recordedLength } from '../session/recordings.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { CommandButton } from './CommandButton.tsx';

/** What the episode is called, what it comes to, and whether that is saved. */
export function Masthead() {
  const title = useEpisode((s) => s.detail?.title ?? '');
  return (
    <header className="flex h-14 shrink-0 items-center gap-3 border-base-300 border-b px-3 max-sm:h-auto max-sm:flex-wrap max-sm:gap-x-2 max-sm:gap-y-0 max-sm:px-2 max-sm:py-1">
      <a href="/" className="btn btn-ghost btn-sm btn-square" aria-label="Back to the shelf" title="Back to the shelf">
        <ArrowLeft size={18} aria-hidden />
      </a>
      <h1 className="min-w-0 grow truncate font-serif text-xl max-sm:basis-48 max-sm:text-base">{title}</h1>
      <Figures />
      <div className="ml-2 flex items-center max-sm:ml-auto">
        <CommandButton id="undo" iconOnly className="btn btn-ghost btn-sm btn-square">
          <Undo2 size={17} aria-hidden />
        </CommandButton>
        <CommandButton id="redo" iconOnly className="btn btn-ghost btn-sm btn-square">
          <Redo2 size={17} aria-hidden />
        </CommandButton>
        <RefusedMark />
        <SavedMark />
        <ThemeSwitch />
      </div>
    </header>
  );
}

/** The figures people compare. They never move place. */
function Figures() {
  const duration = useEpisode((s) => recordedLength(s));
  const cut = useEpisode((s) => s.cut);
  const isWhole = useEpisode((s) => s.isWhole);
  return (
    <div
      className="relative flex items-center gap-3"
      aria-live="off"
      aria-busy={!isWhole}
      title={isWhole ? undefined : 'Not everything has been worked out yet'}
    >
      {cut && !isWhole && (
        <span aria-hidden className="absolute inset-x-0 -bottom-1 h-[2px] bg-primary motion-safe:animate-pulse" />
      )}
      <Figure value={formatClock(duration, true)} name="recorded" id="recorded" wide />
      <span aria-hidden className="quiet">
        ›
      </span>
      <Figure value={cut ? formatClock(cut.length, true) : '–'} name="programme" id="programme" wide />
      <Figure value={cut ? String(cut.seams) : '–'} name="seams" id="seams" />
      <Figure value={cut ? String(cut.open) : '–'} name="still open" id="open" />
    </div>
  );
}

interface FigureProps {
  readonly value: string;
  readonly name: string;
  readonly id: string;
  readonly wide?: boolean;
}

const Figure = memo(function Figure({ value, name, id, wide = false }: FigureProps) {
  return (
    <div className={`${wide ? 'w-24' : 'w-16'} text-right max-[54rem]:w-auto`}>
      <div className="tabular text-lg leading-tight max-sm:text-sm" data-figure={id}>
        {value}
      </div>
      <div className="whitespace-nowrap text-xs leading-tight quiet">{name}</div>
    </div>
  );
});

/** Only there when there is something to see. */
function RefusedMark() {
  const model = useModel();
  const count = useEpisode((s) => s.refused.length);
  if (count === 0) return null;
  return (
    <button
      type="button"
      className="btn btn-warning btn-xs ml-2"
      title="Decisions that the server will not take. All others are saved."
      onClick={() => model.show({ dialog: 'refused' })}
    >
      {count} refused
    </button>
  );
}

function SavedMark() {
  const save = useEpisode((s) => s.save);
  const text =
    save === 'saved' ? 'saved' : save === 'saving' ? 'saving' : 'queued' in save ? `offline, ${save.queued} queued` : 'not saved';
  const help =
    typeof save === 'string'
      ? 'Decisions are on disk when this says saved.'
      : 'queued' in save
        ? 'The server does not answer. Decisions are kept in this browser and sent as soon as it does.'
        : `The server refused: ${save.refused}`;
  return (
    <output
      className="mx-2 flex w-32 items-center justify-end gap-1 text-sm max-sm:mx-0 max-[54rem]:w-auto"
      title={help}
      data-save={text}
    >
      {typeof save !== 'string' && <CloudOff size={15} aria-hidden />}
      {text}
    </output>
  );
}
