import { copyFile, mkdir, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { RenderChoices } from '@/core/render/choices.ts';

const FONT = '@fontsource/source-sans-3';
/** All weights of the font are of this family. */
const FAMILY = 'Source Sans 3 ExtraLight';
const SCRIPTS = ['latin', 'latin-ext', 'vietnamese', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext'] as const;
const fileOf = (script: (typeof SCRIPTS)[number]): string => `source-sans-3-${script}-700-normal.woff2`;

/** Brings captions that are written into a picture, SubRip, and the font that ships with the program, into a work folder. */
export async function bringLetters(work: string, captions: string): Promise<void> {
  const folder = join(work, 'fonts');
  await mkdir(folder, { recursive: true });
  const files = join(dirname(createRequire(import.meta.url).resolve(`${FONT}/package.json`)), 'files');
  for (const script of SCRIPTS) await copyFile(join(files, fileOf(script)), join(folder, fileOf(script)));
  await writeFile(join(work, 'burnt.srt'), captions);
}

/** Lines that libass lays a picture out in. */
const LAYOUT_LINES = 288;
/** Places as the older of the two versions of the caption format counts them, which SubRip is laid out by. */
const PLACES = { bottom: 2, middle: 10, top: 6 } as const;

/** A filter that writes captions into a picture; undefined where there are none. It reads what `bringLetters` brought. */
export function burning({ captionPlace, captionSize }: RenderChoices, captions: string): string | undefined {
  if (captions === '') return undefined;
  const size = ((captionSize / 100) * LAYOUT_LINES).toFixed(1);
  const style = `FontName=${FAMILY},FontSize=${size},Alignment=${PLACES[captionPlace]},Outline=1.2,Shadow=0,MarginV=14,Bold=1`;
  return `subtitles=f=burnt.srt:fontsdir=fonts:force_style='${style}'`;
}

/** A line of text that stands in a picture of so many points from its start to its end. */
export interface StandingLine {
  readonly text: string;
  readonly width: number;
  readonly height: number;
  /** height of its letters, in points */
  readonly size: number;
  /** the middle of it, in points from the top */
  readonly middle: number;
  /** RRGGBB */
  readonly colour: string;
}

/** Letters are about so much higher with what reaches above and below them. */
const WITH_REACH = 1.25;

/** A filter that writes a line into a picture; too long for its width it is wrapped. It reads what is written into the work folder here. */
export async function standing({ text, width, height, size, middle, colour }: StandingLine, work: string): Promise<string> {
  const [red, green, blue] = [0, 2, 4].map((at) => colour.slice(at, at + 2));
  const margin = Math.round(width / 20);
  const style = {
    Name: 'Line',
    Fontname: FAMILY,
    Fontsize: Math.round(WITH_REACH * size),
    PrimaryColour: `&H00${blue}${green}${red}`,
    Bold: -1,
    Alignment: 5,
    BorderStyle: 1,
    Outline: 0,
    Shadow: 0,
    MarginL: margin,
    MarginR: margin,
  };
  const place = `{\\pos(${width / 2},${Math.round(middle)})}`;
  const lines = [
    ...['[Script Info]', 'ScriptType: v4.00+', `PlayResX: ${width}`, `PlayResY: ${height}`, 'WrapStyle: 0'],
    ...['[V4+ Styles]', `Format: ${Object.keys(style).join(', ')}`, `Style: ${Object.values(style).join(',')}`],
    ...['[Events]', 'Format: Start, End, Style, Text', `Dialogue: 0:00:00.00,99:00:00.00,Line,${place}${asWritten(text)}`],
  ];
  await writeFile(join(work, 'standing.ass'), `${lines.join('\n')}\n`);
  return 'subtitles=f=standing.ass:fontsdir=fonts';
}

/** Text in which nothing is taken for a direction. */
const asWritten = (text: string): string =>
  text
    .replaceAll(/\p{Cc}+/gu, ' ')
    .replaceAll('\\', '\\\u2060')
    .replaceAll(/[{}]/g, '\\$&');
