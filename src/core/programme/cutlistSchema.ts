import { z } from 'zod';
import { proposalKind, treatmentName, verdict } from '../decisions/event.ts';

const seconds = z.number().nonnegative();

/** The cut list as JSON, `zetemis.cutlist/1`. */
export const cutListSchema = z.object({
  schema: z.literal('zetemis.cutlist/1'),
  media: z.object({
    name: z.string(),
    duration: seconds,
    frameRate: z.string().optional(),
    tracks: z.int().nonnegative(),
  }),
  /** only where there are several: all files, and where each stands on the clock that all times of the list are times of */
  recordings: z
    .array(
      z.object({
        name: z.string(),
        start: seconds,
        end: seconds,
        frameRate: z.string().optional(),
        tracks: z.int().nonnegative(),
      }),
    )
    .optional(),
  settings: z.record(z.string(), z.union([z.number(), z.string()])),
  proposals: z.array(
    z.object({
      id: z.string(),
      kind: proposalKind,
      start: seconds,
      end: seconds,
      treatment: treatmentName,
      /** seconds kept when shortened, times the speed when hurried */
      amount: z.number().optional(),
      confidence: z.number().min(0).max(1),
      verdict,
      group: z.string().optional(),
      evidence: z.record(z.string(), z.number()),
    }),
  ),
  pieces: z.array(
    z.object({
      start: seconds,
      end: seconds,
      rate: z.number().positive(),
      /** only where there are several: index of the recording it lies in */
      recording: z.int().nonnegative().optional(),
      /** nothing is shown or heard, but the time is kept */
      hole: z.literal(true).optional(),
      /** sound of a hurried piece */
      sound: z.enum(['mute', 'along', 'pitch']).optional(),
    }),
  ),
  /** the pieces on a timeline, in whole frames: of the file, and of the programme */
  timeline: z
    .object({
      rate: z.string(),
      counting: z.enum(['drop', 'non-drop']),
      recordStart: z.string(),
      files: z.array(
        z.object({
          name: z.string(),
          start: z.string(),
          reel: z.string(),
          ownRate: z.string().optional(),
          /** files that ran together with it, see `SyncedFile`: their tracks follow its own, or stand in their place */
          beside: z
            .array(
              z.object({
                name: z.string(),
                start: z.string(),
                reel: z.string(),
                place: z.number(),
                drift: z.number(),
                tracks: z.int().nonnegative(),
                /** what events name its picture by, if it has one */
                picture: z.int().positive().optional(),
              }),
            )
            .optional(),
        }),
      ),
      events: z.array(
        z.object({
          source: z.int().nonnegative().optional(),
          sourceIn: z.int(),
          sourceOut: z.int(),
          recordIn: z.int(),
          recordOut: z.int(),
          hole: z.literal(true).optional(),
          sound: z.enum(['mute', 'along', 'pitch']).optional(),
          blind: z.literal(true).optional(),
          off: z.literal(true).optional(),
          /** which picture of its recording is seen; its own when left out */
          angle: z.int().positive().optional(),
          /** by how much the picture is larger than recorded, as a share */
          closer: z.number().positive().optional(),
          /** frames on either side of its start in which the picture before goes over into it */
          dissolve: z.int().positive().optional(),
        }),
      ),
      markers: z.array(z.record(z.string(), z.union([z.string(), z.number()]))).optional(),
    })
    .optional(),
  summary: z.object({ recorded: seconds, programme: seconds, seams: z.int(), open: z.int() }),
});
export type CutList = z.infer<typeof cutListSchema>;
