import { z } from 'zod';
import { settingChange } from '../detect/settings.ts';

const range = z
  .object({ start: z.number().min(0).max(1e6), end: z.number().min(0).max(1e6) })
  .refine((value) => value.end > value.start, 'a range must not be empty');

export const proposalKind = z.enum(['pause', 'filler', 'repeat', 'retake', 'cue', 'hand']);
export const verdict = z.enum(['out', 'stay', 'open']);
export type Verdict = z.infer<typeof verdict>;

const id = z.uuid();

/**
 * One entry of an episode's log. Entries are only ever added; `undo` and `redo` name the entry they take back or
 * bring back, so that two tabs that undo the same thing at once undo it once.
 */
export const decisionEvent = z.discriminatedUnion('type', [
  z.object({ id, type: z.literal('verdict'), kind: proposalKind, about: range, verdict }),
  z.object({ id, type: z.literal('cut'), about: range }),
  z.object({ id, type: z.literal('setting'), change: settingChange }),
  z.object({ id, type: z.literal('undo'), target: id }),
  z.object({ id, type: z.literal('redo'), target: id }),
]);
export type DecisionEvent = z.infer<typeof decisionEvent>;
