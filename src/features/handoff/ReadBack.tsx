import { Download, FileInput } from 'lucide-react';
import { type DragEvent, useEffect, useState } from 'react';
import type { NewStep } from '@/core/decisions/bounds.ts';
import type { ComparisonView } from '@/core/outputs/messages.ts';
import type { Change } from '@/core/outputs/readback/change.ts';
import { changeText, seamSentence } from '@/core/outputs/readback/sentences.ts';
import { momentLabel } from '@/core/sources/recording.ts';
import { formatClock } from '@/core/time/clock.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** What can be written on the timeline that came back. */
const ON_EDITED = [
  ['vtt', 'WebVTT'],
  ['srt', 'SubRip'],
  ['ttml', 'TTML'],
  ['chapters.vtt', 'Chapters'],
  ['chapters.txt', 'List of chapters'],
  ['txt', 'Text'],
] as const;

/** Brings back the timeline that an editor saved: what they changed, captions on their timeline, and their changes as decisions here. */
export function ReadBack() {
  const model = useModel();
  const [found, setFound] = useState<ComparisonView | null>();
  const [said, setSaid] = useState<Message>();
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    api
      .comparison(model.id)
      .then(({ comparison }) => setFound(comparison))
      .catch(() => setFound(null));
  }, [model]);

  const take = async (files: readonly File[]) => {
    setBusy(true);
    setSaid(undefined);
    try {
      const ordered = [...files].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
      const texts = await Promise.all(ordered.map((file) => file.text()));
      const { comparison } = await api.bringBackTimeline(model.id, { name: ordered[0]?.name ?? 'timeline', texts });
      setFound(comparison);
    } catch (error) {
      setSaid({ text: (error as Error).message, bad: true });
    } finally {
      setBusy(false);
    }
  };
  const forget = () =>
    api
      .forgetTimeline(model.id)
      .then(() => setFound(null))
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }));
  return (
    <section
      aria-label="Back from the editor"
      onDragOver={(event: DragEvent) => event.preventDefault()}
      onDrop={(event: DragEvent) => {
        event.preventDefault();
        event.stopPropagation();
        void take([...event.dataTransfer.files]);
      }}
    >
      <p className="text-xs leading-snug quiet">
        Bring the timeline that was saved after editing: what was changed is shown, captions can be written on it exactly, and the
        changes can become decisions here.
      </p>
      <FileButton
        label="Timeline that was edited"
        accept=".xml,.otio,.edl"
        className="btn btn-outline btn-sm mt-1"
        multiple
        onFiles={take}
      >
        <FileInput size={14} aria-hidden /> {busy ? 'Reading …' : 'Bring back an EDL, OTIO or XML'}
      </FileButton>
      <Said message={said} />
      {found && <Report found={found} onForget={forget} />}
    </section>
  );
}

function Report({ found, onForget }: { readonly found: ComparisonView; readonly onForget: () => void }) {
  const model = useModel();
  const recordings = useEpisode((s) => s.recordings);
  const settings = useEpisode((s) => s.decisions.settings);
  const title = useEpisode((s) => s.detail?.title);
  const hasWords = useEpisode((s) => s.words.length > 0);
  const [taken, setTaken] = useState<ReadonlySet<number>>(new Set());
  const at = (moment: number) => momentLabel(recordings, moment, true);
  const changes = found.changes as unknown as readonly Change[];
  const decidable = changes.flatMap(({ steps }, k) => (steps.length > 0 && !taken.has(k) ? [k] : []));
  const decide = (indexes: readonly number[]) => {
    for (const k of indexes) for (const step of changes[k]?.steps ?? []) model.decide(step as NewStep);
    setTaken(new Set([...taken, ...indexes]));
  };
  const offers = (['airAfter', 'airBefore'] as const).filter((name) => found.air[name] !== undefined);
  return (
    <div className="mt-2">
      <p>
        <bdi className="font-semibold">{found.name}</bdi>: {formatClock(found.lengthAfter, true)} after{' '}
        {formatClock(found.lengthBefore, true)} that are handed over now{found.of && found.of !== title ? ` (${found.of})` : ''}.
      </p>
      <p>{changes.length === 0 ? 'Nothing was changed.' : `${capital(seamSentence({ seams: found.seams, changes }))}.`}</p>
      {offers.map((name) => (
        <p key={name} className="mt-1 rounded border border-base-300 p-2">
          As much air {name === 'airAfter' ? 'after' : 'before'} words everywhere: {found.air[name]} s, now {settings[name]} s.{' '}
          <button
            type="button"
            className="btn btn-outline btn-xs"
            disabled={settings[name] === found.air[name]}
            onClick={() => model.decide({ type: 'setting', change: { name, value: found.air[name] as number } })}
          >
            Set it
          </button>
        </p>
      ))}
      {decidable.length > 1 && (
        <button type="button" className="btn btn-outline btn-sm mt-1" onClick={() => decide(decidable)}>
          Decide all {decidable.length} the same here
        </button>
      )}
      <ul className="mt-1 max-h-72 overflow-y-auto" aria-label="What the editor changed">
        {changes.map((change, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: changes have no other name
          <li key={k} className="flex items-start gap-1 border-base-300 border-t py-1">
            {change.kind === 'added' ? (
              <span className="grow">{changeText(change, (moment) => formatClock(moment, true))}</span>
            ) : (
              <button
                type="button"
                className="grow text-left hover:underline"
                title="Go there"
                onClick={() => model.reveal(change.about.start)}
              >
                {changeText(change, at)}
              </button>
            )}
            {change.steps.length > 0 && (
              <button
                type="button"
                className="btn btn-outline btn-xs shrink-0"
                disabled={taken.has(k)}
                onClick={() => decide([k])}
              >
                {taken.has(k) ? 'Decided' : 'Decide so'}
              </button>
            )}
          </li>
        ))}
      </ul>
      <p className="mt-2 font-semibold">On the edited timeline</p>
      <div className="mt-1 flex flex-wrap gap-1">
        {ON_EDITED.filter(([id]) => hasWords || id.startsWith('chapters')).map(([id, label]) => (
          <a key={id} className="btn btn-outline btn-xs" href={api.onEdited(model.id, id)} download>
            <Download size={12} aria-hidden /> {label}
          </a>
        ))}
      </div>
      <button type="button" className="btn btn-ghost btn-xs mt-2" onClick={onForget}>
        Forget this timeline
      </button>
    </div>
  );
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
