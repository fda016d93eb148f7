import * as z from 'zod/mini';
import { MEASURE_JOB_NAMES } from '../curves/measures.ts';
import { decisionEvent } from '../decisions/event.ts';
import { settingValues } from '../detect/settingsSchema.ts';
import { lesson } from '../lessons/lesson.ts';
import { centrePoint } from '../programme/views.ts';
import { MAX_TRANSCRIPT_BYTES } from '../transcript/word.ts';
import { mediaFacts } from './media.ts';

/** Every message between browser and server, defined once: the server parses with these, the client types by them. */

export const jobView = z.object({
  id: z.uuid(),
  kind: z.enum([
    ...MEASURE_JOB_NAMES,
    'across',
    'proxy',
    'recognise',
    'place',
    'corrections',
    'speakers',
    'render',
    'clean',
    'together',
  ]),
  mediaId: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  /** 0..1 */
  progress: z.number(),
  /** seconds left, once that can be told */
  remaining: z.nullable(z.number()),
  error: z.nullable(z.string()),
});
export type JobView = z.infer<typeof jobView>;

export const cutSummary = z.object({
  recorded: z.number(),
  programme: z.number(),
  seams: z.int(),
  open: z.int(),
});
export type CutSummary = z.infer<typeof cutSummary>;

/** Why the cut of an episode cannot be computed, and which entry of its log asks the most. */
export const cutTrouble = z.object({
  /** what it was to be computed from */
  basis: z.string(),
  why: z.string(),
  entry: z.nullable(z.object({ seq: z.int(), id: z.uuid(), type: z.string(), places: z.int(), words: z.int() })),
});
export type CutTrouble = z.infer<typeof cutTrouble>;

export const episodeSummary = z.object({
  id: z.uuid(),
  title: z.string(),
  createdAt: z.string(),
  /** of the first recording */
  fileName: z.string(),
  recordings: z.int(),
  mediaId: z.string(),
  duration: z.number(),
  hasVideo: z.boolean(),
  hasWords: z.boolean(),
  tracks: z.int(),
  measured: z.boolean(),
  /** null until it was worked out once */
  summary: z.nullable(cutSummary),
  /** nothing has changed since it was worked out */
  isCurrent: z.boolean(),
  /** why it cannot be worked out as it now is */
  trouble: z.nullable(cutTrouble),
  jobs: z.array(jobView),
});
export type EpisodeSummary = z.infer<typeof episodeSummary>;

/** How many days an upload is kept that nobody goes on with, and an episode that was removed. */
export const KEPT_DAYS = { upload: 7, removed: 14 } as const;

/** An episode that was removed, and can be brought back. */
export const removedEpisode = z.object({ id: z.uuid(), title: z.string(), daysLeft: z.int() });
export type RemovedEpisode = z.infer<typeof removedEpisode>;

/** An upload that stopped on its way; `idle` seconds ago something of it came. */
export const unfinishedUpload = z.object({
  id: z.string(),
  name: z.string(),
  bytes: z.number(),
  received: z.number(),
  idle: z.int(),
});
export type UnfinishedUpload = z.infer<typeof unfinishedUpload>;

export const shelf = z.object({
  episodes: z.array(episodeSummary),
  removed: z.array(removedEpisode),
  unfinished: z.array(unfinishedUpload),
  mediaFolder: z.boolean(),
  /** who is signed in; null where nobody needs to */
  signedIn: z.nullable(z.string()),
});

export const loggedEvent = z.object({ seq: z.int(), event: decisionEvent });
export type LoggedEvent = z.infer<typeof loggedEvent>;

/** A recording of an episode. */
const pictureState = z.enum(['none', 'original', 'proxy', 'pending', 'failed']);
export const recordingDetail = z.object({
  id: z.uuid(),
  /** where it begins on the episode clock, in seconds */
  place: z.number(),
  fileName: z.string(),
  mediaId: z.string(),
  facts: mediaFacts,
  duration: z.number(),
  measured: z.boolean(),
  /** whether the curves that refine detection are measured yet */
  speech: z.boolean(),
  motion: z.boolean(),
  voice: z.boolean(),
  /** whether it was listened for lines that are said again */
  echoes: z.boolean(),
  /** the recordings before it that it was compared with for the same */
  across: z.array(z.string()),
  /** whether something a browser can show exists: the original, or a proxy of it */
  picture: pictureState,
  /** further pictures that it may be seen by, of files that ran together with its own; those that are on this server */
  angles: z.array(z.object({ mediaId: z.string(), name: z.string(), picture: pictureState })),
  /** whether the file is still the one that was measured */
  file: z.enum(['there', 'replaced', 'missing']),
});
export type RecordingDetail = z.infer<typeof recordingDetail>;

export const episodeDetail = z.object({
  id: z.uuid(),
  title: z.string(),
  /** whether the server has a folder to take more of them from */
  mediaFolder: z.boolean(),
  /** the point that stays where it is in a picture that comes closer at seams */
  centre: centrePoint,
  /** in order of their places, those removed from the episode with them */
  recordings: z.array(recordingDetail).check(z.minLength(1)),
  jobs: z.array(jobView),
  wordsVersion: z.int(),
  log: z.array(loggedEvent),
});
export type EpisodeDetail = z.infer<typeof episodeDetail>;

/** Where a recording comes from. */
export const newRecording = z.discriminatedUnion('from', [
  z.object({ from: z.literal('upload'), upload: z.string().check(z.maxLength(100)) }),
  z.object({ from: z.literal('folder'), entry: z.string().check(z.maxLength(100)) }),
]);
export type NewRecording = z.infer<typeof newRecording>;
/** Changes which files that ran together a recording is made of. The first of them, number nought, stays. */
export const changeTogether = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('add'),
    recording: z.uuid(),
    source: newRecording,
    /** how its place is found; by sound falls back to the others */
    by: z.enum(['sound', 'clock', 'start']),
    /** whether its sound is heard with the others', instead of theirs, or not at all */
    sound: z.enum(['beside', 'instead', 'unused']),
  }),
  z.object({
    do: z.literal('place'),
    recording: z.uuid(),
    file: z.int().check(z.nonnegative()),
    place: z.number().check(z.gte(-86_400), z.lte(86_400)),
  }),
  z.object({ do: z.literal('remove'), recording: z.uuid(), file: z.int().check(z.nonnegative()) }),
]);
export type ChangeTogether = z.infer<typeof changeTogether>;
export const created = z.object({ id: z.uuid() });
export const takeReplacement = z.object({ recording: z.uuid() });

export const renameEpisode = z.object({ title: z.string().check(z.trim(), z.minLength(1), z.maxLength(200)) });

export const folderEntry = z.object({ entry: z.string(), path: z.string(), bytes: z.number() });
export const folderListing = z.object({ entries: z.array(folderEntry), truncated: z.boolean() });
export type FolderListing = z.infer<typeof folderListing>;

export const appendDecisions = z.object({ events: z.array(decisionEvent).check(z.minLength(1), z.maxLength(500)) });
export const decisionLog = z.object({ log: z.array(loggedEvent) });

export const importWords = z.object({
  text: z.string().check(z.maxLength(MAX_TRANSCRIPT_BYTES)),
  /** whose words they are; the first recording when left out */
  recording: z.optional(z.uuid()),
});
/** What language the words of an episode are in: a tag of BCP 47, such as `de`. */
export const namedLanguage = z.object({ language: z.string().check(z.regex(/^[A-Za-z]{2,3}(?:-[A-Za-z0-9]{2,8}){0,3}$/)) });
export const imported = z.object({
  words: z.int(),
  wordsVersion: z.int(),
  /** what they are taken for to be in; null while they wait */
  language: z.nullable(z.string()),
  /** what was left out, with line numbers */
  notes: z.array(z.string()),
  /** what they wait for: the recogniser, to tell where they are said, or their being read, which takes long */
  queued: z.nullable(z.enum(['recogniser', 'reading'])),
});
export type Imported = z.infer<typeof imported>;

export const recogniserId = z.enum(['model', 'local', 'remote', 'stand-in']);
export const recogniserList = z.object({
  recognisers: z.array(
    z.object({
      id: recogniserId,
      label: z.string(),
      help: z.string(),
      languages: z.array(z.string()),
      /** why it cannot be used now */
      unavailable: z.nullable(z.string()),
    }),
  ),
});
export type RecogniserList = z.infer<typeof recogniserList>;
export const askRecognition = z.object({
  recogniser: recogniserId,
  language: z.string().check(z.regex(/^[a-zA-Z]{2,3}(-[a-zA-Z0-9]{1,8})*$/)),
  /** the moment of the episode clock from which it begins: where somebody is at work */
  from: z.optional(z.number().check(z.minimum(0))),
  /** whether people on one microphone are told apart as well, once the words are there */
  speakers: z.optional(z.boolean()),
});
export type AskRecognition = z.infer<typeof askRecognition>;

/** `anew`: wherever words stand, they are looked for in all of the sound */
export const askPlacing = z.object({ anew: z.optional(z.boolean()) });
export type AskPlacing = z.infer<typeof askPlacing>;

/** How many people are to be told apart; found out where it is not said. */
export const askSpeakers = z.object({ count: z.optional(z.int().check(z.minimum(1), z.maximum(8))) });
export type AskSpeakers = z.infer<typeof askSpeakers>;

/** Words that are masked in what is exported, by language. */
export const maskList = z.object({
  language: z.string().check(z.regex(/^[a-z]{2,3}$/)),
  words: z.array(z.string().check(z.trim(), z.minLength(1), z.maxLength(60))).check(z.maxLength(2000)),
});
export const maskLists = z.object({ lists: z.array(maskList) });
export type MaskList = z.infer<typeof maskList>;

/** A named set of settings. */
export const settingsSet = z.object({
  id: z.uuid(),
  name: z.string().check(z.trim(), z.minLength(1), z.maxLength(80)),
  settings: settingValues,
  /** applied to new recordings */
  forNew: z.boolean(),
  /** what recordings under it taught, but for what is switched off */
  lessons: z.array(lesson),
});
export type SettingsSet = z.infer<typeof settingsSet>;
export const settingsSets = z.object({ sets: z.array(settingsSet) });
export const saveSettingsSet = z.omit(settingsSet, { id: true, lessons: true });
export type SaveSettingsSet = z.infer<typeof saveSettingsSet>;
/** What was taught under a set, with what is switched off for the next recordings. */
export const lessonBook = z.object({ lessons: z.array(z.extend(lesson, { off: z.boolean() })) });
export type LessonBook = z.infer<typeof lessonBook>;
export const switchLesson = z.object({
  /** null without a named set */
  set: z.nullable(z.uuid()),
  about: z.string().check(z.minLength(1), z.maxLength(200)),
  to: z.enum(['on', 'off', 'forgotten']),
});
export type SwitchLesson = z.infer<typeof switchLesson>;

export const importSettings = z.object({ text: z.string().check(z.maxLength(100_000)) });

/** How often the stream of events says that it lives. */
export const EVENT_BEAT_MS = 5000;

/** What the server tells open pages as it happens. */
export const serverEvent = z.discriminatedUnion('type', [
  z.object({ type: z.literal('job'), job: jobView }),
  z.object({ type: z.literal('decisions'), episodeId: z.uuid(), seq: z.int() }),
  z.object({ type: z.literal('episode'), episodeId: z.uuid() }),
  /** the cut of an episode was worked out */
  z.object({ type: z.literal('cut'), episodeId: z.uuid() }),
  z.object({ type: z.literal('sets') }),
  /** the stream was interrupted: what is shown may be out of date */
  z.object({ type: z.literal('missed') }),
]);
export type ServerEvent = z.infer<typeof serverEvent>;

export const errorAnswer = z.object({ error: z.string() });
