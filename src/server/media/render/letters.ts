import { copyFile, mkdir, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { RenderChoices } from '@/core/render/choices.ts';

const FONT = '@fontsource/source-sans-3';
/** All weights of the font are of this family. */
const FAMILY = 'Source Sans 3 ExtraLight';
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'cyrillic'] as const;
const fileOf = (script: (typeof SCRIPTS)[number]): string => `source-sans-3-${script}-700-normal.woff2`;

/** The font of titles, as it is named in a work folder. */
export const TITLE_FONT = `fonts/${fileOf('latin')}`;

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
