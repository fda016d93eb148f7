import * as z from 'zod/mini';

const fileFacts = z.object({
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
  /** one at least of a file that is a recording by itself */
  audio: z.array(
    z.object({
      index: z.int(),
      codec: z.string(),
      sampleRate: z.int(),
      channels: z.int(),
      /** its two channels cancel each other; whatever is heard of it has the second turned over */
      opposed: z.optional(z.literal(true)),
      title: z.optional(z.string()),
    }),
  ),
});

/** How it was found where a file lies against the first: by their sound, by the time of day in both, at one start, or by hand. */
export const syncedBy = z.enum(['sound', 'clock', 'start', 'hand']);
export type SyncedBy = z.infer<typeof syncedBy>;

/** One of several files that ran together, which a recording was made of; see `BesidePlace`. */
export const syncedFile = z.object({
  /** the medium that it was kept as */
  id: z.string(),
  name: z.string(),
  /** in the media folder; null for one that was sent */
  linkedPath: z.nullable(z.string()),
  facts: fileFacts,
  /** seconds */
  place: z.number(),
  drift: z.number(),
  by: syncedBy,
  /** whether its sound is in the recording */
  sound: z.boolean(),
});
export type SyncedFile = z.infer<typeof syncedFile>;

/** What ffprobe says of a file, as far as this program needs it. */
export const mediaFacts = z.extend(fileFacts, {
  /** of a recording of several files: these, the first of which has the picture, if any has; their sounds are its tracks, in order */
  together: z.optional(z.array(syncedFile)),
});
export type MediaFacts = z.infer<typeof mediaFacts>;
/** Files that ran together with the first one of a recording, and have a picture. */
export const picturesBeside = ({ together = [] }: MediaFacts): readonly SyncedFile[] =>
  together.slice(1).filter(({ facts }) => facts.video);

/** The same of a single file. */
export type FileFacts = z.infer<typeof fileFacts>;

/** Whether all who speak share one microphone. */
export const hasOneTrack = ({ audio }: Pick<MediaFacts, 'audio'>): boolean => audio.length === 1;
