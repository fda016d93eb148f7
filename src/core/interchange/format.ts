import type { Handoff, TimelineEvent } from '../programme/handoff.ts';
import type { FrameRate } from '../time/rate.ts';

/** A file to hand over. Most formats write one; an edit decision list may take several. */
export interface WrittenFile {
  /** put between the name and the ending: empty, or `-2` for a second part */
  readonly part: string;
  readonly text: string;
}

/** What a reader gets back from a timeline file: the same frames that were written. */
export interface ReadTimeline {
  readonly title: string;
  readonly clipName: string;
  readonly events: readonly TimelineEvent[];
}

/** A timeline format: one file of code each, with the same three parts. */
export interface TimelineFormat {
  /** name in addresses, and the file ending without its dot */
  readonly id: string;
  readonly label: string;
  /** what it is for, in a line */
  readonly help: string;
  readonly mime: string;
  write(handoff: Handoff): WrittenFile[];
  /**
   * Reads what `write` wrote, all parts of it in order.
   * @param rate frame rate, which not every format states itself
   * @throws InterchangeError for text that is not of this format
   */
  read(texts: readonly string[], rate: FrameRate): ReadTimeline;
}

/** A timeline file that cannot be read; `message` says where and why. */
export class InterchangeError extends Error {}
