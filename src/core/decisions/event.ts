import * as z from 'zod/mini';
import { KIND_NAMES } from '../detect/kinds.ts';
import { SEAM_LOOKS } from '../detect/settings.ts';
import { settingChange, settingValues } from '../detect/settingsSchema.ts';
import { MOST_LESSONS } from '../lessons/book.ts';
import { lesson } from '../lessons/lesson.ts';

const moment = z.number().check(z.minimum(0), z.maximum(1e6));
const range = z
  .object({ start: moment, end: moment })
  .check(z.refine((value) => value.end > value.start, 'a range must not be empty'));

export const proposalKind = z.enum(KIND_NAMES);
export const treatmentName = z.enum(['remove', 'shorten', 'hurry', 'hole']);
export const verdict = z.enum(['out', 'stay', 'open']);
export type Verdict = z.infer<typeof verdict>;

const id = z.uuid();
const several = <T extends z.ZodMiniType>(item: T) => z.array(item).check(z.minLength(1), z.maxLength(5000));
/** Parts of one decision that was too large for one entry: the same name in all, and undone together. */
const of = z.optional(id);
/** said of many at once without listening to them: what is told of them still counts */
const unheard = z.optional(z.literal(true));
const lessons = z.array(lesson).check(z.maxLength(MOST_LESSONS));
const upTo = (length: number) => z.string().check(z.maxLength(length));

/**
 * One entry of an episode's log. Entries are only ever added; `undo` and `redo` name the entry they take back or
 * bring back, so that two tabs that undo the same thing at once undo it once.
 */
export const decisionEvent = z.discriminatedUnion('type', [
  z.object({ id, of, type: z.literal('verdict'), kind: proposalKind, about: range, verdict, unheard }),
  /** another treatment for one proposal than the settings give it */
  z.object({ id, type: z.literal('treat'), kind: proposalKind, about: range, treatment: treatmentName }),
  /** another edge for one proposal: what is taken of it now */
  z.object({ id, type: z.literal('edge'), kind: proposalKind, about: range, taken: range }),
  /** one verdict about several proposals at once */
  z.object({ id, of, type: z.literal('verdicts'), kind: proposalKind, abouts: several(range), verdict, unheard }),
  z.object({ id, type: z.literal('cut'), about: range }),
  /** how the picture looks at the seam where this is taken out */
  z.object({ id, type: z.literal('seam'), about: range, look: z.enum([...SEAM_LOOKS, 'as set']) }),
  /** a seam at a moment, with nothing taken */
  z.object({ id, type: z.literal('split'), at: moment }),
  /** the picture that is seen in a stretch: that of a file that ran together with its recording's own, or with an empty name its own */
  z.object({ id, type: z.literal('angle'), about: range, angle: upTo(100) }),
  z.object({ id, of, type: z.literal('cuts'), abouts: several(range) }),
  /** other words where some are written, or none; their time stays */
  z.object({ id, of, type: z.literal('correct'), changes: several(z.object({ about: range, text: upTo(2000) })) }),
  /**
   * where the words that a correction wrote in a stretch are said, as they were found in the sound; empty where that could not be told. No
   * decision, and never undone: it holds as long as the correction does
   */
  z.object({
    id,
    type: z.literal('found'),
    correction: id,
    about: range,
    places: z.array(z.object({ start: moment, end: moment, error: moment, isLike: z.boolean() })).check(z.maxLength(2000)),
  }),
  /** another speaker for a stretch, for all words of one, or for both together */
  z.object({
    id,
    type: z.literal('speaker'),
    from: z.optional(upTo(100)),
    about: z.optional(range),
    to: z.string().check(z.trim(), z.maxLength(100)),
  }),
  /** attempts at lines as they are laid out from now on, and what is to stay of each group; `about` is what they replace */
  z.object({
    id,
    type: z.literal('takes'),
    about: several(range),
    groups: z
      .array(
        z.object({
          attempts: z.array(range).check(z.minLength(1), z.maxLength(99)),
          keep: z.optional(z.array(range).check(z.maxLength(99))),
        }),
      )
      .check(z.maxLength(99)),
  }),
  z.object({ id, type: z.literal('setting'), change: settingChange }),
  /** several settings at once, as from a named set, with what earlier recordings under that set have taught */
  z.object({ id, type: z.literal('settings'), values: settingValues, name: z.optional(upTo(80)), lessons: z.optional(lessons) }),
  /** the lessons that probabilities are told with from now on, instead of those before */
  z.object({ id, type: z.literal('lessons'), lessons }),
  /** stretches that were listened to, as they were played: cuts left out. No decision, and never undone */
  z.object({ id, of, type: z.literal('heard'), about: several(range) }),
  /** the air of one side stays as it is, whatever was opened so far */
  z.object({ id, type: z.literal('airKept'), side: z.enum(['after', 'before']) }),
  /** a marked range and the settings of its own; the latest entry about a `section` counts */
  z.object({ id, type: z.literal('section'), section: id, about: range, values: settingValues }),
  z.object({ id, type: z.literal('unmark'), section: id }),
  /** a recording that is part of the episode, or no longer is; all decided about it is kept */
  z.object({ id, type: z.literal('recording'), recording: id, present: z.boolean() }),
  /** a passage set before what stands at a moment of the clock, or after what ends there */
  z.object({ id, type: z.literal('move'), about: range, to: moment, side: z.enum(['before', 'after']) }),
  z.object({ id, type: z.literal('sendBack'), move: id }),
  /** a passage that is wanted, or is no longer, for when only what is wanted makes the programme */
  z.object({ id, type: z.literal('collect'), about: range, wanted: z.boolean() }),
  z.object({ id, type: z.literal('collecting'), on: z.boolean(), order: z.enum(['marking', 'recording']) }),
  /** a part begins at a moment; the latest entry about a `part` counts */
  z.object({ id, type: z.literal('break'), part: id, at: moment, title: z.string().check(z.trim(), z.maxLength(200)) }),
  z.object({ id, type: z.literal('unbreak'), part: id }),
  z.object({ id, type: z.literal('undo'), target: id }),
  z.object({ id, type: z.literal('redo'), target: id }),
]);
export type DecisionEvent = z.infer<typeof decisionEvent>;
