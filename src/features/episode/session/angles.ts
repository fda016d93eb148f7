import type { RecordingDetail } from '@/core/contract/messages.ts';
import type { AngleStretch } from '@/core/decisions/angles.ts';
import { shownAngles } from '@/core/outputs/plan/carriers.ts';
import { handoffMedia, type PlacedMedia } from '@/core/outputs/plan/media.ts';
import { recordingAt } from '@/core/sources/recording.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import { onClock } from './recordings.ts';
import type { EpisodeState } from './state.ts';

// Which of the pictures of a recording is seen, where several cameras, or a camera and a screen, ran together.

/** A picture that a recording can be seen by. */
export interface Picture {
  /** empty for the recording's own */
  readonly angle: string;
  readonly name: string;
  /** whether a browser can show it now */
  readonly state: RecordingDetail['picture'];
}

/** The files of recordings as outputs know them. */
export const mediaOf = (recordings: readonly RecordingDetail[]): PlacedMedia[] =>
  recordings.map((recording) => {
    const { start, end } = onClock(recording);
    return { start, end, media: handoffMedia(recording.fileName, recording.facts, recording.duration) };
  });

/** What tells which picture is seen. */
export interface Seen extends Pick<EpisodeState, 'detail'> {
  readonly decisions: Pick<EpisodeState['decisions'], 'angles'>;
}

const measuredIn = ({ detail }: Pick<Seen, 'detail'>): readonly RecordingDetail[] =>
  detail?.recordings.filter(({ measured }) => measured) ?? [];

export const recordingOf = (state: Pick<Seen, 'detail'>, at: Seconds): RecordingDetail | undefined => {
  const recordings = measuredIn(state);
  return recordingAt(
    recordings.map((one) => ({ ...onClock(one), one })),
    at,
  )?.one;
};

/** Where other pictures are seen than the recordings' own, as far as they reach. */
export const anglesOf = (state: Seen): AngleStretch[] =>
  state.decisions.angles.length === 0 ? [] : shownAngles(state.decisions.angles, mediaOf(measuredIn(state)));

/** The pictures of the recording that a moment lies in, its own first; none where there is no choice. */
export function picturesAt(state: Pick<Seen, 'detail'>, at: Seconds): readonly Picture[] {
  const recording = recordingOf(state, at);
  if (!recording?.facts.video || recording.angles.length === 0) return [];
  const own = recording.facts.together?.[0]?.name ?? recording.fileName;
  const others = recording.angles.map(({ mediaId, name, picture }) => ({ angle: mediaId, name, state: picture }));
  return [{ angle: '', name: own, state: recording.picture }, ...others];
}

const holds = ({ start, end }: Range, at: Seconds): boolean => at >= start && at < end;

/** The picture that was chosen for a moment. */
export const angleAt = ({ decisions }: Pick<Seen, 'decisions'>, at: Seconds): string =>
  decisions.angles.find((stretch) => holds(stretch, at))?.angle ?? '';

/** Moments at which another picture is seen, with its name. */
export function angleChanges(state: Seen): readonly { readonly at: Seconds; readonly name: string }[] {
  const stretches = anglesOf(state);
  const nameOf = (at: Seconds, angle: string) => picturesAt(state, at).find((one) => one.angle === angle)?.name ?? '';
  return stretches.flatMap(({ start, end, angle }, k) => {
    const next = stretches[k + 1];
    const recording = recordingOf(state, start);
    const goesBack = next?.start !== end && recording !== undefined && end < onClock(recording).end;
    return [{ at: start, name: nameOf(start, angle) }, ...(goesBack ? [{ at: end, name: nameOf(start, '') }] : [])];
  });
}
