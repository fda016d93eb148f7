import { Fold } from '@/ui/Fold.tsx';
import { isMeasured } from '../episode/session/recordings.ts';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { Collecting } from './Collecting.tsx';
import { MovedList } from './MovedList.tsx';
import { PartList } from './PartList.tsx';
import { RecordingList } from './RecordingList.tsx';

/** What comes in which order? */
export function OrderTray() {
  const measured = useEpisode((s) => isMeasured(s.detail, 'measure'));
  if (!measured) return <p className="p-4 text-sm">An order can be made once the recording is measured.</p>;
  return (
    <div className="px-3 pb-4">
      <RecordingList />
      <MovedList />
      <PartList />
      <Fold title="Collecting: only what is wanted" opened>
        <Collecting />
      </Fold>
    </div>
  );
}
