import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { type ModelList, SPEAKER_KINDS } from '@/core/contract/models.ts';
import { overlapsOf } from '@/core/speakers/turns.ts';
import { totalLength } from '@/core/time/range.ts';
import { api } from '../api.ts';
import { hasShared } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { useAskedJob } from '../episode/workbench/useAskedJob.tsx';
import { speakerLook } from '../speakerLooks.ts';

/** Who speaks, as the transcript or the tracks have it; names can be written anew. */
export function Speakers() {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const selection = useEpisode((s) => s.selection);
  const speakers = useMemo(() => {
    const counts = new Map<string, number>();
    for (const { speaker } of words) counts.set(speaker, (counts.get(speaker) ?? 0) + 1);
    return [...counts];
  }, [words]);
  if (speakers.length === 0) return <p className="text-xs quiet">There are no words yet.</p>;
  return (
    <div className="text-sm">
      <ul>
        {speakers.map(([speaker, count], index) => (
          <li key={speaker} className="flex items-center gap-2 py-0.5">
            {speakers.length > 1 && <Line index={index} />}
            <form
              className="grow"
              onSubmit={(event) => {
                event.preventDefault();
                const to = String(new FormData(event.currentTarget).get('to') ?? '').trim();
                if (to !== speaker) model.decide({ type: 'speaker', from: speaker, to });
              }}
            >
              <input
                name="to"
                className="input input-xs w-full"
                defaultValue={speaker}
                placeholder="No name"
                maxLength={100}
                aria-label={`Name of ${speaker || 'the speaker without a name'}`}
                onBlur={(event) => event.currentTarget.form?.requestSubmit()}
              />
            </form>
            <span className="tabular w-20 text-right text-xs">{count} words</span>
            <button
              type="button"
              className="btn btn-xs"
              disabled={!selection}
              title="The selected words are said by this speaker"
              onClick={() => selection && model.decide({ type: 'speaker', about: selection, to: speaker })}
            >
              Selected
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex items-center gap-2 py-0.5"
        onSubmit={(event) => {
          event.preventDefault();
          const to = String(new FormData(event.currentTarget).get('to') ?? '').trim();
          if (to === '' || !selection) return;
          model.decide({ type: 'speaker', about: selection, to });
          event.currentTarget.reset();
        }}
      >
        <input
          name="to"
          className="input input-xs grow"
          placeholder="Somebody else"
          maxLength={100}
          aria-label="Name of somebody else who speaks"
        />
        <button
          type="submit"
          className="btn btn-xs"
          disabled={!selection}
          title="The selected words are said by somebody who is not in the list yet"
        >
          Selected
        </button>
      </form>
      <p className="text-xs leading-snug quiet">Two that get the same name are one.</p>
      <AtOnce />
      <TellApart />
    </div>
  );
}

/** The line that a speaker has on the score. */
function Line({ index }: { readonly index: number }) {
  const { thick, dash, ink } = speakerLook(index);
  return (
    <svg width="30" height="6" className="shrink-0" aria-hidden>
      <line x1="0" x2="30" y1="3" y2="3" stroke={`var(--ink-${ink})`} strokeWidth={thick} strokeDasharray={dash.join(' ')} />
    </svg>
  );
}

/** Where two or more speak at once, one after another. */
function AtOnce() {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const overlaps = useMemo(() => overlapsOf(words), [words]);
  if (overlaps.length === 0) return null;
  const next = () => {
    const at = model.player.sourceTime;
    const range = overlaps.find(({ start }) => start > at + AHEAD) ?? overlaps[0];
    if (range) model.reveal(range.start, range);
  };
  return (
    <div className="mt-1 flex items-center justify-between gap-2">
      <span>
        Two at once: {overlaps.length} {overlaps.length === 1 ? 'place' : 'places'}, {totalLength(overlaps).toFixed(1)} s
      </span>
      <button type="button" className="btn btn-xs" title="Selects the next place where two speak at once" onClick={next}>
        Next
      </button>
    </div>
  );
}

/** Seconds: what begins sooner after the playhead is where one is. */
const AHEAD = 0.01;

const COUNTS = [2, 3, 4, 5, 6, 7, 8] as const;

/** Tells apart people who share a microphone, by their voices. */
function TellApart() {
  const model = useModel();
  const { current, ask, trouble } = useAskedJob('speakers');
  const isShared = useEpisode((s) => hasShared(s.detail));
  const [count, setCount] = useState<number>();
  const { data } = useQuery({ queryKey: ['models'], queryFn: api.models, enabled: isShared });
  if (!isShared || current) return null;
  const tell = () => api.tellSpeakers(model.id, count === undefined ? {} : { count });
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2">
      <label className="text-xs">
        Voices on one microphone
        <select
          className="select select-xs flex w-36"
          value={count ?? ''}
          onChange={(event) => setCount(event.target.value === '' ? undefined : Number(event.target.value))}
        >
          <option value="">as many as are heard</option>
          {COUNTS.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
      </label>
      <button type="button" className="btn btn-xs" onClick={() => void ask(tell)}>
        Tell them apart
      </button>
      <p className="w-full text-xs leading-snug quiet">
        {(data && speakersBy(data.models)) ?? 'Voices are told by timbre and pitch, and two at once by their two pitches.'} Words
        are given to Voice 1, Voice 2 and so on, in place of the speakers there are.
      </p>
      {trouble}
    </div>
  );
}

/** By which models voices are told apart, where both that it takes are on the server. */
function speakersBy(models: ModelList['models']): string | undefined {
  const [segmentation, embedding] = SPEAKER_KINDS.map((kind) => models.find((one) => one.kind === kind)?.name);
  return segmentation && embedding && `Voices are told by ${segmentation} and ${embedding}, which also hear two at once.`;
}
