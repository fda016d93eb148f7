import type { HurrySound } from '../../detect/settings.ts';
import type { FrameRate, Frames } from '../../time/rate.ts';
import type { FramePlan, TimelineEvent } from '../plan/framePlan.ts';

/** A file to hand over. Most formats write one; an edit decision list may take several. */
export interface WrittenFile {
  /** put between the name and the ending: empty, or `-2` for a second part */
  readonly part: string;
  readonly text: string;
}

/** A media file that a timeline refers to. */
export interface ReadFile {
  readonly name: string;
  readonly location?: string | undefined;
  readonly reel?: string | undefined;
  /** timecode of its first frame; where the timeline does not say it, source frames count from midnight */
  readonly start?: Frames | undefined;
}

/** A clip on a track as it was read. */
export interface ReadClip {
  /** index of the file; undefined for what shows nothing of any */
  readonly file: number | undefined;
  /** from the file's first frame, or from midnight where the start is not known */
  readonly sourceIn: number;
  readonly sourceOut: number;
  /** from the start of the timeline */
  readonly recordIn: number;
  readonly recordOut: number;
  readonly kind: 'picture' | 'sound' | 'both' | 'neither';
  readonly enabled: boolean;
  readonly sound?: HurrySound | undefined;
  /** emptied: it stands for what is not shown */
  readonly hole?: boolean | undefined;
}

/** What a reader gets back from a timeline file. */
export interface ReadTimeline {
  readonly title: string;
  readonly clipName: string;
  /** frames a second, where the file says so */
  readonly rate: FrameRate | undefined;
  readonly files: readonly ReadFile[];
  readonly clips: readonly ReadClip[];
  /** the same frames that were written */
  readonly events: readonly TimelineEvent[];
}

/** A timeline format: one file of code each, with the same parts. */
export interface TimelineFormat {
  /** name in addresses, and the file ending without its dot */
  readonly id: string;
  readonly label: string;
  /** what it is for, in a line */
  readonly help: string;
  readonly mime: string;
  /** @throws InterchangeError where `refused` says why */
  write(plan: FramePlan): WrittenFile[];
  /** Why this plan cannot be written, fit to show; undefined where it can. */
  refused(plan: FramePlan): string | undefined;
  /** What the files that `write` gives are told apart by. */
  parts(plan: FramePlan): string[];
  /** What of this plan the format has no way to say, fit to show. */
  cannotCarry(plan: FramePlan): string[];
  /**
   * Reads what `write` wrote, all parts of it in order, and what editing programs make of it.
   * @param rate frame rate, which not every format states itself
   * @throws InterchangeError for text that is not of this format
   */
  read(texts: readonly string[], rate: FrameRate): ReadTimeline;
}

/** A timeline file that cannot be read, or a plan that a format cannot say; `message` says where and why. */
export class InterchangeError extends Error {}

/** The picture that comes closer or dissolves at seams. */
export const LOOKS = 'how the picture looks at seams';

/** Further pictures, each on a track of its own in formats that have tracks. */
export const PICTURES = 'the pictures of further files where they are not seen';

/** What the formats that cannot say a thing say of it in the same words. */
export const lossesOf = (
  { markers, removed, events, tracks, cutList }: FramePlan,
  carried: { markers?: boolean; disabled?: boolean; muting?: boolean; looks?: boolean; cleaned?: boolean },
): string[] => [
  ...(markers.length > 0 && !carried.markers ? ['marks'] : []),
  ...(removed === 'disabled' && !carried.disabled ? ['switched-off clips'] : []),
  ...(events.some(({ closer, dissolve }) => closer || dissolve) && !carried.looks ? [LOOKS] : []),
  ...(cutList.settings.roomTone === 'room' && events.some(({ hole, sound }) => hole || sound === 'mute')
    ? ['the quiet room under holes (it is in what is rendered)']
    : []),
  ...(tracks.some(({ cleaned }) => cleaned) && !carried.cleaned ? ['the cleaned sound as a track of its own'] : []),
  ...(tracks.some(({ muted }) => muted) && !tracks.some(({ cleaned }) => cleaned) && !carried.muting
    ? ['tracks that are muted but there']
    : []),
  ...(events.some(({ sound }) => sound === 'pitch')
    ? ['that the sound of what is hurried keeps its pitch (said in a remark)']
    : []),
];
