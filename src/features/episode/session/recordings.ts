import { hasOneTrack } from '@/core/contract/media.ts';
import type { EpisodeDetail, JobView, RecordingDetail } from '@/core/contract/messages.ts';
import type { MeasureJob } from '@/core/curves/measures.ts';
import { presentOf, type Recording } from '@/core/sources/recording.ts';
import { type Seconds, totalLength } from '@/core/time/range.ts';
import { api } from '../../api.ts';
import type { AnglePicture } from '../../playback/pictures.ts';
import type { EpisodeState } from './state.ts';

/** Where a recording stands on the episode clock. */
export const onClock = ({ id, place, duration }: RecordingDetail): Recording => ({ id, start: place, end: place + duration });

/** The recordings that can be shown: those that are measured, on the episode clock. */
export const recordingsOf = (detail: EpisodeDetail | undefined): Recording[] =>
  detail?.recordings.filter(({ measured }) => measured).map(onClock) ?? [];

/** End of the last recording on the episode clock. */
export const clockEnd = (recordings: readonly Recording[]): Seconds => Math.max(0, ...recordings.map(({ end }) => end));

/** Whether a job has measured every recording that can be shown, and one at least. */
export function isMeasured(detail: EpisodeDetail | undefined, job: MeasureJob): boolean {
  const shown = detail?.recordings.filter(({ measured }) => measured) ?? [];
  return shown.length > 0 && shown.every((recording) => (job === 'measure' ? recording.measured : recording[job]));
}

/** How much was recorded, without what was removed. */
export const recordedLength = ({ recordings, decisions }: Pick<EpisodeState, 'recordings' | 'decisions'>): Seconds =>
  totalLength(presentOf(recordings, decisions.removed));

/** Whether a browser can show the picture of a recording now. */
export const hasPicture = ({ picture }: Pick<RecordingDetail, 'picture'>): boolean =>
  picture === 'original' || picture === 'proxy';

/** The further pictures of a recording that a browser can show now. */
export const anglePictures = ({ angles, facts }: RecordingDetail): Readonly<Record<string, AnglePicture>> =>
  Object.fromEntries(
    angles.flatMap((angle) => {
      const file = facts.together?.find(({ id }) => id === angle.mediaId);
      if (!file || !hasPicture(angle)) return [];
      return [[angle.mediaId, { address: api.picture(angle.mediaId), place: file.place, drift: file.drift }] as const];
    }),
  );

/** Whether a medium is a recording's own, or one that a further picture of it comes from. */
export const isMadeOf = ({ mediaId, angles }: RecordingDetail, medium: string): boolean =>
  mediaId === medium || angles.some((angle) => angle.mediaId === medium);

/** The sound tracks of the recording that has most of them. */
export const mostTracks = (detail: EpisodeDetail | undefined): RecordingDetail['facts']['audio'] | undefined =>
  detail?.recordings.map(({ facts }) => facts.audio).reduce((most, audio) => (audio.length > most.length ? audio : most));

/** Whether people share a microphone in a recording of an episode. */
export const hasShared = (detail: EpisodeDetail | undefined): boolean =>
  detail?.recordings.some(({ facts }) => hasOneTrack(facts)) ?? false;

/** The job of a kind that there is something to say of: one under way, or else one that ended otherwise than well. */
export function jobOf(jobs: readonly JobView[] | undefined, kind: JobView['kind']): JobView | undefined {
  const own = jobs?.filter((job) => job.kind === kind) ?? [];
  const inState = (...states: JobView['state'][]) => own.find(({ state }) => states.includes(state));
  return inState('running') ?? inState('queued') ?? inState('failed', 'cancelled') ?? own[0];
}
