import { z } from 'zod';
import { settingChange, settingValues } from '../detect/settings.ts';

const range = z
  .object({ start: z.number().min(0).max(1e6), end: z.number().min(0).max(1e6) })
  .refine((value) => value.end > value.start, 'a range must not be empty');

export const proposalKind = z.enum(['pause', 'filler', 'repeat', 'retake', 'cue', 'broken', 'head', 'tail', 'hand']);
export const treatmentName = z.enum(['remove', 'shorten', 'hurry', 'hole']);
export const verdict = z.enum(['out', 'stay', 'open']);
export type Verdict = z.infer<typeof verdict>;

const id = z.uuid();
const several = <T extends z.ZodType>(item: T) => z.array(item).min(1).max(5000);

/**
 * One entry of an episode's log. Entries are only ever added; `undo` and `redo` name the entry they take back or
 * bring back, so that two tabs that undo the same thing at once undo it once.
 */
export const decisionEvent = z.discriminatedUnion('type', [
  z.object({ id, type: z.literal('verdict'), kind: proposalKind, about: range, verdict }),
  /** another treatment for one proposal than the settings give it */
  z.object({ id, type: z.literal('treat'), kind: proposalKind, about: range, treatment: treatmentName }),
  /** another edge for one proposal: what is taken of it now */
  z.object({ id, type: z.literal('edge'), kind: proposalKind, about: range, taken: range }),
  /** one verdict about several proposals at once */
  z.object({ id, type: z.literal('verdicts'), kind: proposalKind, abouts: several(range), verdict }),
  z.object({ id, type: z.literal('cut'), about: range }),
  /** a seam at a moment, with nothing taken */
  z.object({ id, type: z.literal('split'), at: z.number().min(0).max(1e6) }),
  z.object({ id, type: z.literal('cuts'), abouts: several(range) }),
  /** other words where some are written, or none; their time stays */
  z.object({ id, type: z.literal('correct'), changes: several(z.object({ about: range, text: z.string().max(2000) })) }),
  /** another speaker for a stretch, for all words of one, or for both together */
  z.object({
    id,
    type: z.literal('speaker'),
    from: z.string().max(100).optional(),
    about: range.optional(),
    to: z.string().trim().max(100),
  }),
  /** attempts at lines as they are laid out from now on, and what is to stay of each group; `about` is what they replace */
  z.object({
    id,
    type: z.literal('takes'),
    about: several(range),
    groups: z.array(z.object({ attempts: z.array(range).min(1).max(99), keep: z.array(range).max(99).optional() })).max(99),
  }),
  z.object({ id, type: z.literal('setting'), change: settingChange }),
  /** several settings at once, as from a named set */
  z.object({ id, type: z.literal('settings'), values: settingValues, name: z.string().max(80).optional() }),
  /** a marked range and the settings of its own; the latest entry about a `section` counts */
  z.object({ id, type: z.literal('section'), section: id, about: range, values: settingValues }),
  z.object({ id, type: z.literal('unmark'), section: id }),
  z.object({ id, type: z.literal('undo'), target: id }),
  z.object({ id, type: z.literal('redo'), target: id }),
]);
export type DecisionEvent = z.infer<typeof decisionEvent>;
