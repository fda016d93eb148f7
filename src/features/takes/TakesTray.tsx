import type { EpisodeDetail, JobView } from '@/core/contract/messages.ts';
import { Fold } from '@/ui/Fold.tsx';
import { SettingChoice, SettingNumber } from '../episode/review/SettingControl.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { isMeasured } from '../episode/session/recordings.ts';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { AsideList } from './AsideList.tsx';
import { GroupList } from './GroupList.tsx';
import { GroupPanel } from './GroupPanel.tsx';
import { useTakes } from './useTakes.ts';

const WEIGHTS = ['weighComplete', 'weighFluent', 'weighPace', 'weighLevel', 'weighClear', 'weighLater'] as const;

/** Whether lines said again may still be found by ear, in one recording or in two. */
const isListening = (detail: EpisodeDetail): boolean =>
  !isMeasured(detail, 'echoes') || detail.jobs.some(({ kind, state }) => kind === 'across' && UNDER_WAY.includes(state));

const UNDER_WAY: readonly JobView['state'][] = ['queued', 'running'];

/** Which try? */
export function TakesTray() {
  const measured = useEpisode((s) => isMeasured(s.detail, 'measure'));
  const listening = useEpisode((s) => s.detail !== undefined && isListening(s.detail));
  const off = useEpisode((s) => settingsShown(s).takes === 'off');
  const groups = useTakes((s) => s.groups);
  const note = useTakes((s) => s.note);
  if (!measured) return <p className="p-4 text-sm">Lines said again are looked for once the recording is measured.</p>;
  return (
    <div className="px-3 pb-4">
      {note !== undefined && (
        <p role="status" className="mt-2 rounded border border-warning p-2 text-sm">
          {note}
        </p>
      )}
      {groups.length > 0 ? (
        <GroupPanel />
      ) : (
        <p className="py-3 text-sm">
          {off
            ? 'Nobody looks for lines said again: see How they are found, below.'
            : 'No line seems to be said twice. If one is, select a saying of it on the score and press Shift F: what is like it will be found.'}
        </p>
      )}
      {listening && <p className="mt-1 text-sm quiet">Still listening for lines that sound alike; more may be found.</p>}
      {groups.length > 0 && <GroupList />}
      <AsideList />
      <Fold title="How they are found">
        <SettingChoice
          name="takes"
          labels={{ both: 'words and sound', words: 'words alone', sound: 'sound alone', off: 'nothing' }}
        />
        <SettingChoice name="asides" labels={{ propose: 'propose', leave: 'leave in' }} />
        <p className="text-sm quiet">Words that are said to whoever cuts stand in the lexicon, in the Words tray.</p>
      </Fold>
      <Fold title="What counts">
        <p className="pb-1 text-sm quiet">How the suggested attempt is chosen. Nought leaves a thing out.</p>
        {WEIGHTS.map((name) => (
          <SettingNumber key={name} name={name} />
        ))}
      </Fold>
    </div>
  );
}
