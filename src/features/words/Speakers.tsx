import { useMemo } from 'react';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

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
  if (speakers.length === 0) return null;
  return (
    <div className="text-sm">
      <ul>
        {speakers.map(([speaker, count]) => (
          <li key={speaker} className="flex items-center gap-2 py-0.5">
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
    </div>
  );
}
