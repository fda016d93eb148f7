import { readFile, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { Command, InvalidArgumentError, Option } from 'commander';
import { needsAnchors, timeTranscript } from '@/core/align/timeTranscript.ts';
import { prepare } from '@/core/detect/registry.ts';
import { parseSetting, type Settings, SettingsError } from '@/core/detect/settings.ts';
import { TEMPI } from '@/core/detect/sound/tempo.ts';
import { checkedHesitations } from '@/core/detect/words/writtenHesitations.ts';
import { readAnyFile, TRANSCRIPT_FORMATS, transcriptFormatOf } from '@/core/interchange/transcripts/registry.ts';
import { NoTextError } from '@/core/interchange/transcripts/transcriptFile.ts';
import { InterchangeError } from '@/core/outputs/timelines/format.ts';
import { json as jsonFormat } from '@/core/outputs/timelines/json.ts';
import { type FrameRate, parseRate } from '@/core/time/rate.ts';
import { withoutTimes } from '@/core/transcript/roughTranscript.ts';
import { type Transcript, TranscriptError } from '@/core/transcript/word.ts';
import { KeepingError } from '@/server/keeping/copy.ts';
import { MediaError } from '@/server/media/ffmpeg.ts';
import { readMeasure } from '@/server/media/material.ts';
import { probe } from '@/server/media/probe.ts';
import { RECOGNISER_IDS, RecogniserError, type RecogniserId } from '@/server/media/recognise/recogniser.ts';
import { Refusal } from '@/server/refusal.ts';
import { analyse, type Options, planOf } from './analyse.ts';
import { detectEach } from './batch.ts';
import { addHandoffCommands, summaryOf } from './handoff.ts';
import { addKeepingCommands } from './keep.ts';
import { heardIn, hesitationOf, settled } from './material.ts';
import { withMeasures } from './measures.ts';
import { addModelCommands } from './models.ts';
import { checkTargets, collect } from './options.ts';
import { addRenderCommand } from './render.ts';

const program = new Command('zetemis')
  .description('Finds what should go in a spoken recording and writes a cut list; looks after a server and its data.')
  .showHelpAfterError('(--help lists what there is)');

common(program.command('detect <media...>'))
  .description('measure and detect, print a summary, write the cut list; several recordings are one episode')
  .option('--json <file>', 'write the cut list as JSON; - for standard output; with --each a folder')
  .option('--each', 'each recording by itself: a table, and an exit code of 1 when any failed')
  .action(async (media: string[], options: Options & { json?: string; each?: true }) => {
    if (options.each) await detectAll(media, options);
    else await detectOne(media, options);
  });

async function detectOne(media: readonly string[], options: Options & { json?: string }): Promise<void> {
  if (options.json) checkTargets(options.json);
  const plan = planOf(await analyse(media, options), { rate: options.rate });
  const text = jsonFormat.write(plan)[0]?.text ?? '';
  if (options.json === '-') process.stdout.write(text);
  else {
    if (options.json) await writeFile(options.json, text);
    process.stdout.write(summaryOf(plan));
  }
}

async function detectAll(files: readonly string[], options: Options & { json?: string }): Promise<void> {
  if (options.together) throw new SettingsError('--together makes one of all recordings, --each one of each.');
  if (options.words?.length) throw new SettingsError('A transcript is of one recording: --words and --each do not go together.');
  if (options.json === '-') throw new SettingsError('With --each name a folder for the cut lists: --json FOLDER.');
  const { table, failed } = await detectEach(
    files,
    async (file) => planOf(await analyse([file], options), { rate: options.rate }),
    {
      folder: options.json,
      wordsOf: wordsOfError,
    },
  );
  process.stdout.write(table);
  if (failed === 0) return;
  process.stderr.write(`zetemis: ${failed} of ${files.length} failed\n`);
  process.exitCode = 1;
}

addHandoffCommands(program, common);
addRenderCommand(program, common);
addModelCommands(program);

interface WordsOptions {
  to: string;
  recognise?: RecogniserId;
  align?: string;
  anew?: boolean;
  language?: string;
}

program
  .command('words <source>')
  .description('turn a transcript into another format, recognise a recording, or put a text under one')
  .requiredOption('--to <file>', `where to write: ${TRANSCRIPT_FORMATS.map((format) => `.${format.id}`).join(', ')}`)
  .addOption(new Option('--recognise <recogniser>', 'who listens to the recording').choices(RECOGNISER_IDS))
  .option('--align <text>', 'a text that is said in the recording: its words get their times')
  .option('--anew', 'with --align: whatever times the text has do not count; it is looked for in all of the recording')
  .option('--language <tag>', 'language that is spoken (told by the text, or en)', languageOption)
  .action(async (source: string, options: WordsOptions) => {
    const ending = extname(options.to).slice(1).toLowerCase();
    const format = transcriptFormatOf(ending);
    if (!format)
      throw new TranscriptError(
        `No transcript format has the ending “.${ending}”. Known: ${TRANSCRIPT_FORMATS.map((f) => `.${f.id}`).join(', ')}.`,
      );
    checkTargets(options.to);
    const transcript = await wordsOf(source, options);
    await writeFile(options.to, format.write(transcript));
    process.stdout.write(`wrote ${options.to}: ${transcript.words.length} words\n`);
  });

function common(command: Command): Command {
  return command
    .option(
      '--words <file>',
      `transcript (${TRANSCRIPT_FORMATS.map((format) => format.label).join(', ')}); for several recordings one each, in their order`,
      collect,
    )
    .option('--language <tag>', 'language of the transcript (told by its words)', languageOption)
    .option('--fillers <lexicon.json>', 'words that count as fillers, instead of those that ship')
    .addOption(new Option('--takes <by>', 'find lines that are said again').choices(['words', 'sound', 'both', 'off']))
    .option('--set <name=value>', 'a setting; may be given several times', collectSetting, {})
    .option('--preset <name>', `settings to start from: a tempo (${TEMPI.join(', ')}), or a file exported from the program`)
    .option('--speech', 'measure the probability of speech too (on unless told otherwise)')
    .option('--no-speech', 'go by level alone: quicker, and less sure where there is noise')
    .option('--keep <folder>', 'keep what is measured there, and use it the next time')
    .option('--tracks <numbers>', 'tracks that listen, such as 1,2; the others are cut along', tracksOption)
    .option('--together', 'the recordings ran together: one recording, each laid on the first by its sound')
    .option('--rate <rate>', 'frame rate of the timeline, for sound alone (25, 30000/1001, 29.97)', rateOption)
    .option('--title <text>', 'title of the timeline');
}

function collectSetting(text: string, before: Partial<Settings>): Partial<Settings> {
  const at = text.indexOf('=');
  if (at < 1) throw new InvalidArgumentError('write name=value');
  try {
    return { ...before, ...parseSetting(text.slice(0, at).trim(), text.slice(at + 1).trim()) };
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message);
  }
}

function languageOption(text: string): string {
  try {
    return Intl.getCanonicalLocales(text)[0] as string;
  } catch {
    throw new InvalidArgumentError('write a tag such as en, de or pt-BR');
  }
}

function tracksOption(text: string): Partial<Settings> {
  try {
    return parseSetting('listen', text.replaceAll(' ', ''));
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message);
  }
}

function rateOption(text: string): FrameRate {
  try {
    return parseRate(text);
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message);
  }
}

/** The words of a transcript file, or of a recording: heard by a recogniser, or a text put under it. */
async function wordsOf(source: string, options: WordsOptions): Promise<Transcript> {
  const file = await readFile(source).catch(() => undefined);
  const isText = options.recognise === undefined && options.align === undefined;
  if (file && isText) {
    const rough = await readAnyFile(file).catch((error) => {
      if (!(error instanceof NoTextError)) throw error;
      throw new TranscriptError('This is a recording, not a transcript: say --recognise local, or --align with a text.');
    });
    if (needsAnchors(rough)) throw new TranscriptError('This text has no times: give the recording, and the text with --align.');
    for (const note of rough.notes) process.stderr.write(`zetemis: ${note}\n`);
    return timeTranscript(rough, { duration: Number.POSITIVE_INFINITY, silences: [] });
  }
  const facts = await probe(source);
  return withMeasures(source, facts, undefined, async ({ folder: curves, duration }) => {
    const prepared = prepare({ duration, levels: await readMeasure('levels', curves, facts.audio.length), words: [] });
    if (options.align === undefined) {
      const language = options.language ?? 'en';
      const heard = await heardIn(source, facts, prepared, options.recognise, language);
      const hesitation = await hesitationOf(source, facts, curves);
      return { language, words: hesitation ? checkedHesitations(heard, language, hesitation) : heard };
    }
    const read = await readAnyFile(await readFile(options.align));
    const rough = options.anew ? withoutTimes(read) : read;
    return settled({ ...rough, ...(options.language && { language: options.language }) }, source, facts, prepared);
  });
}

/** What a person is told of an error that comes of what was asked; of any other, where it came from. */
function wordsOfError(error: unknown): string {
  const known =
    error instanceof MediaError ||
    error instanceof TranscriptError ||
    error instanceof SettingsError ||
    error instanceof InterchangeError ||
    error instanceof RecogniserError ||
    error instanceof Refusal ||
    error instanceof RangeError ||
    error instanceof KeepingError ||
    (error as NodeJS.ErrnoException).code === 'ENOENT';
  return known ? (error as Error).message : ((error as Error).stack ?? String(error));
}

addKeepingCommands(program);

try {
  await program.parseAsync();
} catch (error) {
  process.stderr.write(`zetemis: ${wordsOfError(error)}\n`);
  process.exitCode = 1;
}
