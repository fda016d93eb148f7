import type { Seconds } from '../time/range.ts';

/** Where a file lies that ran together with a recording: the recording's time at which it begins, and by how much its clock is faster. */
export interface BesidePlace {
  readonly place: Seconds;
  readonly drift: number;
}

/** A moment of the recording in the time of a file beside it. In frames where `place` is in frames. */
export const ownTime = ({ place, drift }: BesidePlace, at: number): number => (at - place) * (1 + drift);

/** A moment of a file in the time of the recording that it lies beside. */
export const recordingTime = ({ place, drift }: BesidePlace, own: number): number => place + own / (1 + drift);
