import { momentLabel } from '@/core/sources/recording.ts';
import { useEpisode } from '../session/useEpisode.ts';

/** A moment of the episode clock as people read it: in its recording's own time. */
export function Moment({ at, tenths = false }: { at: number; tenths?: boolean }) {
  return useEpisode((s) => momentLabel(s.recordings, at, tenths));
}
