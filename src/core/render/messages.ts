import * as z from 'zod/mini';
import { loudness } from '../clean/loudness.ts';
import { jobView } from '../contract/messages.ts';
import { handoffScope } from '../outputs/messages.ts';
import { renderChoices } from './choices.ts';

export const askRender = z.object({ choices: renderChoices, scope: z._default(handoffScope, {}) });
export type AskRender = z.infer<typeof askRender>;

/** A file that was rendered, or is on its way. */
export const renderView = z.object({
  id: z.uuid(),
  /** of the file */
  name: z.string(),
  choices: renderChoices,
  scope: handoffScope,
  job: z.nullable(jobView),
  /** null until it is there */
  made: z.nullable(
    z.object({
      bytes: z.number(),
      /** seconds */
      length: z.number(),
      /** something was decided, or a word changed, since */
      isOld: z.boolean(),
      before: z.nullable(loudness),
      after: z.nullable(loudness),
    }),
  ),
});
export type RenderView = z.infer<typeof renderView>;
export const renderList = z.object({
  renders: z.array(renderView),
  /** formats whose encoder this server lacks */
  missing: z.array(z.string()),
  /** whether a picture is there that may be copied in part */
  copies: z.boolean(),
});
export type RenderList = z.infer<typeof renderList>;
