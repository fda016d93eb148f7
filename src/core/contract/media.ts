import * as z from 'zod/mini';

/** What ffprobe says of a file, as far as this program needs it. */
export const mediaFacts = z.object({
  /** container family, such as `mov,mp4,m4a,3gp,3g2,mj2` */
  format: z.string(),
  /** seconds; 0 when the file does not say, until it is measured */
  duration: z.number().check(z.nonnegative()),
  /** start timecode of the file itself, such as `10:00:00:00` */
  timecode: z.optional(z.string()),
  /** samples since midnight at which a broadcast wave begins */
  timeReference: z.optional(z.int()),
  video: z.optional(
    z.object({
      index: z.int(),
      codec: z.string(),
      width: z.int(),
      height: z.int(),
      /** exact, as `num/den` */
      rate: z.string(),
      /** frames do not come at even steps */
      variable: z.boolean(),
      /** seconds until its last frame has been shown; left out where the file does not say */
      end: z.optional(z.number().check(z.nonnegative())),
      /** a browser plays it as it is */
      playable: z.boolean(),
    }),
  ),
  audio: z
    .array(
      z.object({
        index: z.int(),
        codec: z.string(),
        sampleRate: z.int(),
        channels: z.int(),
        title: z.optional(z.string()),
      }),
    )
    .check(z.minLength(1)),
});
export type MediaFacts = z.infer<typeof mediaFacts>;

/** Whether all who speak share one microphone. */
export const hasOneTrack = ({ audio }: Pick<MediaFacts, 'audio'>): boolean => audio.length === 1;
