import { useEffect, useMemo, useRef, useState } from 'react';
import type { HandoffScope } from '@/core/outputs/messages.ts';
import type { CentrePoint } from '@/core/programme/views.ts';
import { isOfPicture, type RenderChoices, renderChoices } from '@/core/render/choices.ts';
import { bytesExpected } from '@/core/render/size.ts';
import { spokenBytes } from '@/ui/bytes.ts';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { partsOfEpisode } from '../order/arranging.ts';
import { RenderForm } from './RenderForm.tsx';
import { RenderRows } from './RenderRows.tsx';
import { type GrownOldBy, useRenders } from './useRenders.ts';

interface Props {
  readonly scope: HandoffScope;
  readonly hasWords: boolean;
  readonly hasPicture: boolean;
  readonly options: GrownOldBy;
  readonly onCentre: (centre: CentrePoint) => void;
  /** when the server has all that was chosen */
  readonly kept: () => Promise<void>;
}

/** A file that can be published as it is: what it shall be, what is being made, and what is there. */
export function Finish({ scope, hasWords, hasPicture, options, onCentre, kept }: Props) {
  const model = useModel();
  const { list, error, refresh } = useRenders(options);
  const { centre } = options;
  const length = useEpisode((s) => s.cut?.programme.length ?? 0);
  const cut = useEpisode((s) => s.cut);
  const decisions = useEpisode((s) => s.decisions);
  const parts = useMemo(() => partsOfEpisode({ cut, decisions }), [cut, decisions]);
  const [choices, setChoices] = useState<RenderChoices>();
  const rows = useRef<HTMLDivElement>(null);
  const isAsked = useRef(false);
  const [said, setSaid] = useState<Message>();
  const points = useEpisode((s) => {
    const video = s.detail?.recordings.find(({ facts }) => facts.video)?.facts.video;
    return video && video.width * video.height;
  });
  const { id: newest, choices: latest } = list?.renders[0] ?? {};
  // What was chosen last is offered first.
  useEffect(() => {
    if (list && !choices) setChoices(latest ?? renderChoices.parse({ format: hasPicture ? 'mp4' : 'm4a' }));
  }, [list, latest, choices, hasPicture]);
  // What was asked for is seen as it is made: it stands above what was pressed.
  useEffect(() => {
    if (newest !== undefined && isAsked.current) rows.current?.scrollIntoView({ block: 'nearest' });
    isAsked.current = false;
  }, [newest]);

  if (error !== undefined && !list)
    return (
      <p role="alert" className="mt-2 text-error">
        {error}
      </p>
    );
  if (!list || !choices) return <p className="mt-2 quiet">Looking for what is there …</p>;
  const ask = (scopes: readonly HandoffScope[]) =>
    scopes
      .reduce<Promise<unknown>>(
        (before, one) => before.then(() => api.render(model.id, { choices: { ...choices, centre }, scope: one })),
        kept(),
      )
      .then(() => {
        setSaid(undefined);
        isAsked.current = true;
        refresh();
      })
      .catch((problem) => setSaid({ text: `${(problem as Error).message} Nothing was changed.`, bad: true }));
  const isWhole = scope.part === undefined && scope.range === undefined;
  return (
    <section aria-label="The finished file">
      <div ref={rows}>
        <RenderRows renders={list.renders} onChange={refresh} />
      </div>
      <RenderForm
        choices={choices}
        missing={list.missing}
        copies={list.copies}
        {...{ hasWords, hasPicture, centre, onCentre }}
        onChange={(changed) => setChoices({ ...choices, ...changed })}
      />
      <div className="sticky bottom-0 z-10 -mx-3 border-base-300 border-t bg-base-200 px-3 py-2">
        <button type="button" className="btn btn-primary btn-sm" onClick={() => void ask([scope])}>
          Render {isOfPicture(choices.format) ? 'the video' : 'the sound'}
        </button>
        {isWhole && parts.length > 1 && (
          <button
            type="button"
            className="btn btn-outline btn-sm ml-1"
            onClick={() => void ask(parts.map(({ number }) => ({ part: number })))}
          >
            Each of {parts.length} parts
          </button>
        )}
        {isWhole && (
          <span className="ml-2 text-xs quiet">at most about {spokenBytes(bytesExpected(choices, length, points))}</span>
        )}
        <Said message={said} />
      </div>
    </section>
  );
}
