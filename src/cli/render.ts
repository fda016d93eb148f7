import { rm } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { type Command, Option } from 'commander';
import { z } from 'zod';
import { type Cleaning, NOISE_STEPS, USUAL_CLEANING } from '@/core/clean/cleaning.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { DEFAULT_STYLE } from '@/core/outputs/captions/style.ts';
import {
  CAPTIONED,
  endingOf,
  isOfPicture,
  LOUDNESS,
  PICTURE_SIZES,
  QUALITIES,
  RENDER_FORMAT_IDS,
  type RenderChoices,
  renderChoices,
} from '@/core/render/choices.ts';
import { joinsOf, renderedBeside } from '@/core/render/rendering.ts';
import { cleanedFacts, cleanSound } from '@/server/media/clean/cleanSound.ts';
import { MediaError } from '@/server/media/ffmpeg.ts';
import { probe } from '@/server/media/probe.ts';
import type { SoundFile } from '@/server/media/render/clockSamples.ts';
import { renderFile } from '@/server/media/render/renderFile.ts';
import { analyse, type Options } from './analyse.ts';
import { checkTargets, collect } from './options.ts';

const ENDINGS = [...new Set(RENDER_FORMAT_IDS.map((id) => `.${endingOf(id)}`))].join(', ');

interface RenderOptions extends Options {
  to: string;
  size?: string;
  quality?: string;
  megabytes?: number;
  centre?: string;
  captions?: string;
  loudness?: string;
  apart?: true;
  av1?: true;
  quick?: true;
  clean?: string | true;
  mask?: readonly string[];
  maskBy?: string;
}

/** What each part that can be named changes; the first three are how much of the noise goes. */
const CLEANED_BY_NAME: Readonly<Record<string, Partial<Cleaning>>> = {
  ...Object.fromEntries(NOISE_STEPS.map((noise) => [noise, { noise }])),
  breaths: { breaths: 'some' },
  clicks: { clicks: true },
  sibilance: { sibilance: true },
  lines: { lines: true },
};
const CLEANED_PARTS = Object.keys(CLEANED_BY_NAME);

/** The command that makes finished sound and picture. */
export function addRenderCommand(program: Command, common: (command: Command) => Command): void {
  common(program.command('render <media...>'))
    .description('render what is left as finished sound or video; several recordings are one episode')
    .requiredOption('--to <file>', `where to write: ${ENDINGS}`)
    .addOption(new Option('--size <size>', 'of the picture').choices(Object.keys(PICTURE_SIZES)))
    .option('--centre <x,y>', 'what stays in view where the picture is cut to a shape, as shares of its width and height')
    .addOption(new Option('--quality <quality>', 'of the picture').choices(Object.keys(QUALITIES)))
    .option('--quick', 'copy what is untouched of a picture in H.264, and encode beside cuts alone: to .mp4 or .mkv')
    .option('--megabytes <size>', 'size that the file should have, in place of a quality', Number)
    .addOption(new Option('--captions <how>', 'they need words').choices(CAPTIONED))
    .option(
      '--clean [parts]',
      `clean the sound: rumble, hum, noise, tracks evened; parts beside commas: ${CLEANED_PARTS.join(', ')}`,
    )
    .option('--av1', 'encode the picture of an .mkv by AV1, in place of H.264')
    .option('--apart', 'keep tracks apart, in a file that holds several: .mp4, .m4a, .mkv, .webm')
    .option('--loudness <target>', `LUFS, or by use: ${Object.keys(LOUDNESS).join(', ')}`)
    .option('--mask <word>', 'a word that is not to be heard; may be given several times', collect)
    .addOption(new Option('--mask-by <how>', 'what is heard in its place').choices(['tone', 'silence']).default('tone'))
    .action(render);
}

/** What was asked for. @throws MediaError that says what can be chosen */
function choicesFrom({
  to,
  size,
  quality,
  megabytes,
  centre,
  captions,
  loudness,
  apart,
  av1,
  quick,
  mask,
  maskBy,
}: RenderOptions): RenderChoices {
  const [x, y] = centre?.split(',').map(Number) ?? [];
  const target =
    loudness !== undefined && Object.hasOwn(LOUDNESS, loudness) ? LOUDNESS[loudness as keyof typeof LOUDNESS] : loudness;
  const ending = extname(to).slice(1).toLowerCase();
  if (av1 && ending !== endingOf('av1')) throw new MediaError('AV1 is written into an .mkv.');
  const chosen = {
    format: av1 ? 'av1' : ending,
    size,
    quality,
    copies: quick,
    megabytes,
    centre: centre === undefined ? undefined : { x, y },
    captions,
    tracks: apart && 'apart',
    masks: mask && maskBy,
    loudness: target === undefined ? undefined : Number(target),
  };
  if (!ENDINGS.split(', ').includes(`.${ending}`)) throw new MediaError(`A rendered file ends in ${ENDINGS}.`);
  const parsed = renderChoices.safeParse(Object.fromEntries(Object.entries(chosen).filter(([, value]) => value !== undefined)));
  if (!parsed.success) throw new MediaError(z.prettifyError(parsed.error));
  return parsed.data;
}

/** What is cleaned by an option that may name parts of it. @throws MediaError that says what can be chosen */
function cleaningFrom(named: RenderOptions['clean']): Cleaning | undefined {
  if (named === undefined) return undefined;
  if (named === true) return USUAL_CLEANING;
  const changes = named.split(',').map((name) => {
    const change = Object.hasOwn(CLEANED_BY_NAME, name.trim()) && CLEANED_BY_NAME[name.trim()];
    if (!change) throw new MediaError(`Sound is not cleaned by "${name}". What can be named: ${CLEANED_PARTS.join(', ')}.`);
    return change;
  });
  return Object.assign({ ...USUAL_CLEANING }, ...changes);
}

async function withCleaned(source: SoundFile, cleaning: Cleaning, path: string, signal: AbortSignal): Promise<SoundFile> {
  await cleanSound(source.path, source.facts, cleaning, path, { signal });
  return { ...source, sound: { path, facts: cleanedFacts(source.facts) } };
}

async function render(media: string[], options: RenderOptions): Promise<void> {
  // Said before minutes of measuring.
  const choices = choicesFrom(options);
  checkTargets(options.to);
  if (choices.captions !== 'none' && !options.words?.length)
    throw new MediaError('There are no words to write captions from: give a transcript with --words.');
  const cleaning = cleaningFrom(options.clean);
  const { title, files, paths, cut, transcript, partOf } = await analyse(media, options);
  const sources = await Promise.all(
    files.map(async ({ start, end }, k) => {
      const path = paths[k] as string;
      return { start, end, path, facts: await probe(path) };
    }),
  );
  const isEnglish = baseLanguage(transcript.language) === 'en';
  const words = {
    transcript,
    mask: [],
    unheard: options.mask ?? [],
    style: DEFAULT_STYLE,
    ...(isEnglish && { partOf }),
  };
  const beside = renderedBeside(title, files, cut, [], words, choices);
  const ending = new AbortController();
  process.once('SIGINT', () => ending.abort());
  let told = 0;
  const onProgress = (share: number) => {
    const percent = Math.floor(100 * share);
    if (!process.stderr.isTTY || percent === told) return;
    told = percent;
    process.stderr.write(`\rrendering ${percent} %`);
  };
  const [work, cleaned] = [`${options.to}.rendering`, `${options.to}.cleaning`];
  const { programme } = cut;
  try {
    const heard = cleaning
      ? await Promise.all(sources.map((source, k) => withCleaned(source, cleaning, join(cleaned, `${k}.mka`), ending.signal)))
      : sources;
    const { before, after } = await renderFile(
      { title, files: heard, programme, joins: joinsOf(cut), choices, ...beside },
      options.to,
      work,
      { onProgress, signal: ending.signal },
    );
    if (process.stderr.isTTY) process.stderr.write('\r');
    const what = isOfPicture(choices.format) ? 'sound and picture' : 'sound';
    const loud = before && after ? `, ${after.integrated.toFixed(1)} LUFS (${before.integrated.toFixed(1)} before)` : '';
    process.stdout.write(`${options.to}: ${programme.length.toFixed(2)} s of ${what}${loud}\n`);
  } finally {
    for (const folder of [work, cleaned]) await rm(folder, { recursive: true, force: true });
  }
}
