import * as z from 'zod/mini';
import { cleaning, USUAL_CLEANING } from '../clean/cleaning.ts';
import { centrePoint } from '../programme/views.ts';
import { captionStyle } from './captions/style.ts';
import { FOLLOWERS_AS, MARKABLE, REMOVED_AS } from './plan/choices.ts';
import { CHANGE_KINDS } from './readback/change.ts';
import { RECEIVER_NAMES } from './receivers.ts';

const text = (most: number) => z.string().check(z.trim(), z.maxLength(most));

/** What is chosen about handing an episode over. It is kept with the episode. */
export const handoffOptions = z.object({
  receiver: z._default(z.enum(RECEIVER_NAMES), 'editing'),
  /** `num/den`; none for the footage's own */
  rate: z._default(z.nullable(text(20)), null),
  /** timecode of the programme's first frame; empty for one hour */
  recordStart: z._default(text(14), ''),
  reel: z._default(text(40), ''),
  /** the folder in which whoever reads the timeline has the media */
  folder: z._default(text(1000), ''),
  removed: z._default(z.enum(REMOVED_AS), 'gone'),
  followers: z._default(z.enum(FOLLOWERS_AS), 'along'),
  markers: z._default(z.array(z.enum(MARKABLE)).check(z.maxLength(MARKABLE.length)), []),
  captions: z._default(captionStyle, captionStyle.parse({})),
  mask: z._default(z.boolean(), false),
  /** what stays in view where the picture is cut to a shape, or comes closer */
  centre: centrePoint,
  /** whether cleaned sound is handed over as tracks of its own, from files beside those that were recorded */
  cleanedTracks: z._default(z.boolean(), false),
  /** what is cleaned of the sound, where it is */
  cleaning: z._default(cleaning, USUAL_CLEANING),
  /** of the files of several lists: `{episode}`, `{number}`, `{part}` */
  names: z._default(text(120), '{episode} {number} {part}'),
});
export type HandoffOptions = z.infer<typeof handoffOptions>;

/** What of an episode is handed over: all of it, a part by its number from 1, or a marked range. */
export const handoffScope = z.object({ part: z.optional(z.int().check(z.positive())), range: z.optional(z.uuid()) });
export type HandoffScope = z.infer<typeof handoffScope>;

export const handoffView = z.object({
  options: handoffOptions,
  rate: z.string(),
  ownRate: z.boolean(),
  variable: z.boolean(),
  /** files whose channels cancel each other */
  opposed: z.array(z.string()),
  /** sound alone, which may be counted in samples */
  soundOnly: z.boolean(),
  sampleRate: z.nullable(z.int()),
  dropFrame: z.boolean(),
  startTimecode: z.string(),
  recordStart: z.string(),
  /** files that the timeline refers to; those of another frame rate, which are conformed, with their own */
  clips: z.array(z.object({ name: z.string(), frameRate: z.nullable(z.string()), reel: z.string(), location: z.string() })),
  tracks: z.array(z.object({ stream: z.int(), channels: z.int(), muted: z.boolean() })),
  /** whether some tracks only follow */
  hasFollowers: z.boolean(),
  events: z.int(),
  markers: z.int(),
  chapters: z.int(),
  /** seconds on the timeline, in whole frames */
  length: z.number(),
  lengthTimecode: z.string(),
  open: z.int(),
  words: z.boolean(),
  /** marked ranges that may be handed over by themselves */
  ranges: z.array(z.object({ id: z.string(), start: z.number(), end: z.number() })),
  /** what should be seen to first, fit to show */
  warnings: z.array(z.string()),
  roundings: z.object({ vanished: z.int(), added: z.number(), largest: z.number() }),
  outputs: z.array(
    z.object({
      id: z.string(),
      label: z.string(),
      help: z.string(),
      receivers: z.array(z.enum(RECEIVER_NAMES)),
      /** why it cannot be written now; then `files` is empty */
      refused: z.nullable(z.string()),
      files: z.array(z.string()),
      cannotCarry: z.array(z.string()),
    }),
  ),
});
export type HandoffView = z.infer<typeof handoffView>;

/** A timeline that an editor saved, all parts of it. */
export const broughtBack = z.object({
  name: z.string().check(z.minLength(1), z.maxLength(300)),
  texts: z.array(z.string()).check(z.minLength(1), z.maxLength(40)),
});
export type BroughtBack = z.infer<typeof broughtBack>;
export const MAX_TIMELINE_BYTES = 30_000_000;

const range = z.object({ start: z.number(), end: z.number() });
const stepsAsSent = z.array(z.record(z.string(), z.unknown()));
export const comparisonView = z.object({
  name: z.string(),
  /** title of what it is compared with: the whole, a part, or a marked range */
  of: z._default(z.string(), ''),
  at: z.string(),
  format: z.string(),
  rate: z.string(),
  seams: z.int(),
  lengthBefore: z.number(),
  lengthAfter: z.number(),
  frameSeconds: z.number(),
  air: z.object({ airAfter: z.optional(z.number()), airBefore: z.optional(z.number()) }),
  changes: z.array(
    z.object({
      kind: z.enum(CHANGE_KINDS),
      about: range,
      after: z.int(),
      before: z.int(),
      frames: z.int(),
      name: z.optional(z.string()),
      to: z.optional(z.object({ at: z.number(), side: z.enum(['before', 'after']) })),
      steps: stepsAsSent,
    }),
  ),
});
export type ComparisonView = z.infer<typeof comparisonView>;
export const comparisonAnswer = z.object({ comparison: z.nullable(comparisonView) });
