import * as z from 'zod/mini';
import { centrePoint } from '../programme/views.ts';
import { MASKED_BY } from './masked.ts';

interface RenderFormat {
  readonly label: string;
  readonly of: 'sound' | 'picture';
  readonly help: string;
  readonly mime: string;
  /** of its file, where that is not its name */
  readonly ending?: string;
  /** whether a file may hold several tracks of sound */
  readonly holdsTracks?: true;
}

/** What can be rendered. A new one is a line here, and one where it is encoded. */
export const RENDER_FORMATS = {
  mp4: { label: 'Video, H.264', of: 'picture', help: 'Plays everywhere.', mime: 'video/mp4', holdsTracks: true },
  webm: {
    label: 'Video, VP9',
    of: 'picture',
    help: 'For the web; takes several times as long.',
    mime: 'video/webm',
    holdsTracks: true,
  },
  mkv: {
    label: 'Video, H.264 in Matroska',
    of: 'picture',
    help: 'For archives and players that like it.',
    mime: 'video/x-matroska',
    holdsTracks: true,
  },
  av1: {
    label: 'Video, AV1',
    of: 'picture',
    help: 'Half the size of H.264; not for every player.',
    mime: 'video/x-matroska',
    ending: 'mkv',
    holdsTracks: true,
  },
  m4a: {
    label: 'AAC sound',
    of: 'sound',
    help: 'Small, plays everywhere, holds chapters.',
    mime: 'audio/mp4',
    holdsTracks: true,
  },
  mp3: { label: 'MP3 sound', of: 'sound', help: 'What podcast hosts ask for.', mime: 'audio/mpeg' },
  opus: { label: 'Opus sound', of: 'sound', help: 'The smallest for speech.', mime: 'audio/ogg' },
  flac: { label: 'FLAC sound', of: 'sound', help: 'Nothing is lost, half the size of a wave file.', mime: 'audio/flac' },
  wav: { label: 'Wave sound', of: 'sound', help: 'Nothing is lost; every editor reads it.', mime: 'audio/wav' },
} as const satisfies Record<string, RenderFormat>;

export type RenderFormatId = keyof typeof RENDER_FORMATS;
export const RENDER_FORMAT_IDS = Object.keys(RENDER_FORMATS) as [RenderFormatId, ...RenderFormatId[]];

/** The ending of a file, without its dot. */
export const endingOf = (format: RenderFormatId): string => {
  const about: RenderFormat = RENDER_FORMATS[format];
  return about.ending ?? format;
};

export const isOfPicture = (format: RenderFormatId): boolean => RENDER_FORMATS[format].of === 'picture';

/** Whether a picture that is chosen so can be copied in part: it is not made smaller, cut to a shape, or written into. */
export const isCopied = ({ format, size, copies, captions, megabytes }: RenderChoices): boolean =>
  copies && (format === 'mp4' || format === 'mkv') && size === 'source' && captions !== 'burnt in' && megabytes === null;

/** How many tracks of sound a file gets, of so many that were recorded. */
export const tracksIn = ({ format, tracks }: Pick<RenderChoices, 'format' | 'tracks'>, recorded: number): number => {
  const about: RenderFormat = RENDER_FORMATS[format];
  return tracks === 'apart' && about.holdsTracks ? recorded : 1;
};

/** Sizes of a picture: its own, or so many lines; or cut to a shape around a point. */
export const PICTURE_SIZES = {
  source: 'as recorded',
  '1080': '1080 lines',
  '720': '720 lines',
  upright: 'upright, 1080 by 1920',
  square: 'square, 1080 by 1080',
} as const;

export const QUALITIES = { fine: 'fine', usual: 'usual', small: 'small' } as const;
export type Quality = keyof typeof QUALITIES;

/** How captions are in a rendered file. */
export const CAPTIONED = ['none', 'track', 'burnt in'] as const;

/** Loudness by use: integrated, in LUFS (EBU R 128). */
export const LOUDNESS = { podcast: -16, stereo: -14, broadcast: -23 } as const;

const keysOf = <T extends object>(table: T) => Object.keys(table) as [keyof T & string, ...(keyof T & string)[]];

/** What is chosen about a render. */
export const renderChoices = z.object({
  format: z._default(z.enum(RENDER_FORMAT_IDS), 'mp4'),
  size: z._default(z.enum(keysOf(PICTURE_SIZES)), 'source'),
  /** what stays in view where the picture is cut to a shape, or comes closer: shares of its width and height */
  centre: centrePoint,
  quality: z._default(z.enum(keysOf(QUALITIES)), 'usual'),
  /** what is untouched is copied as it is coded, and only what lies beside cuts is encoded */
  copies: z._default(z.boolean(), false),
  /** size that the file should have, in MB; null where the quality decides */
  megabytes: z._default(z.nullable(z.number().check(z.minimum(1), z.maximum(100_000))), null),
  captions: z._default(z.enum(CAPTIONED), 'none'),
  captionPlace: z._default(z.enum(['bottom', 'middle', 'top']), 'bottom'),
  /** height of the letters, in hundredths of the picture's */
  captionSize: z._default(z.number().check(z.minimum(2), z.maximum(15)), 6),
  /** whether tracks are mixed, or each is a track of the file, where it holds several */
  tracks: z._default(z.enum(['mixed', 'apart']), 'mixed'),
  /** whether the sound is that which was cleaned */
  cleaned: z._default(z.boolean(), false),
  /** what is heard in place of the words that are masked */
  masks: z._default(z.enum(MASKED_BY), 'nothing'),
  /** integrated loudness in LUFS; null leaves it as it is */
  loudness: z._default(z.nullable(z.number().check(z.minimum(-40), z.maximum(-5))), null),
});
export type RenderChoices = z.infer<typeof renderChoices>;
