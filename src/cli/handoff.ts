import { readFile, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join, relative, resolve, sep } from 'node:path';
import { type Command, InvalidArgumentError, Option } from 'commander';
import type { Break } from '@/core/decisions/layout.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { captionStyle } from '@/core/outputs/captions/style.ts';
import { OUTPUTS, type Output, type OutputInput, outputFor, outputOf } from '@/core/outputs/outputs.ts';
import { FOLLOWERS_AS, type FollowersAs, MARKABLE, type Markable, type RemovedAs } from '@/core/outputs/plan/choices.ts';
import type { FramePlan } from '@/core/outputs/plan/framePlan.ts';
import { locationIn } from '@/core/outputs/plan/location.ts';
import { withMarkers } from '@/core/outputs/plan/markers.ts';
import { locatedMedia } from '@/core/outputs/plan/media.ts';
import { compare } from '@/core/outputs/readback/compare.ts';
import { planOfEdited, readEdited } from '@/core/outputs/readback/edited.ts';
import { summaryOfComparison } from '@/core/outputs/readback/sentences.ts';
import { InterchangeError } from '@/core/outputs/timelines/format.ts';
import { partsOf, within } from '@/core/programme/parts.ts';
import { formatClock } from '@/core/time/clock.ts';
import { framesToSeconds, spokenRate, spokenRatio } from '@/core/time/rate.ts';
import { analyse, type Episode, type Options, planOf } from './analyse.ts';
import { checkTargets, collect } from './options.ts';

/** How `--removed` is written on the command line. */
const REMOVED: Readonly<Record<string, RemovedAs>> = { gone: 'gone', 'as-disabled': 'disabled', marked: 'marked' };

interface OutOptions extends Options {
  captionStyle?: string[];
  mask?: string;
  break?: Break[];
}

interface ExportOptions extends OutOptions {
  to: string[];
  captions?: true | string;
  chapters?: true;
  markers?: true | string;
  removed?: string;
  followers?: FollowersAs;
  parts?: true;
  recordStart?: string;
  reel?: string;
  prefix?: string;
}

/** The commands that hand over, and read back what came of it. */
export function addHandoffCommands(program: Command, common: (command: Command) => Command): void {
  out(common(program.command('export <media...>')))
    .description('hand off straight to a file, the format by its ending; several recordings are one episode')
    .requiredOption(
      '--to <file>',
      `where to write, once or more: ${OUTPUTS.map(({ ending }) => `.${ending}`).join(', ')}`,
      collect,
    )
    .option('--captions [formats]', 'captions beside it: srt, vtt, ttml (srt and vtt unless told otherwise)')
    .option('--chapters', 'chapters beside it, in all their formats')
    .option('--markers [about]', `marks on the timeline: ${MARKABLE.join(', ')} (all but the last unless told otherwise)`)
    .addOption(new Option('--removed <as>', 'what becomes of what goes').choices(Object.keys(REMOVED)).default('gone'))
    .addOption(new Option('--followers <as>', 'what becomes of tracks that only follow').choices(FOLLOWERS_AS).default('along'))
    .option('--parts', 'a file for each part, from break to break')
    .option('--record-start <timecode>', 'timecode at which the programme starts (01:00:00:00)')
    .option('--reel <name>', 'reel name in edit decision lists')
    .option('--prefix <folder>', 'the folder in which whoever reads the timeline has the media')
    .action(exportAll);
  out(common(program.command('compare <files...>')))
    .description('MEDIA … EDITED: read a timeline back that an editor saved (all parts of it), and say what they changed')
    .option('--json <file>', 'write what was found as JSON; - for standard output')
    .option('--to <file>', 'captions, chapters or text on the edited timeline, the format by the ending', collect)
    .action(compareWithEdited);
}

const out = (command: Command): Command =>
  command
    .option('--caption-style <name=value>', 'letters, lines, words, letterCase, least, most, speed, closeGap, speakers', collect)
    .option('--mask <words>', 'words of which captions show the first letter only, with commas between')
    .option(
      '--break <seconds=title>',
      'a moment of the recording at which a part begins; may be given several times',
      collectBreak,
    );

function collectBreak(text: string, before: Break[] = []): Break[] {
  const [, at, title = ''] = /^([\d.]+)(?:=(.*))?$/.exec(text) ?? [];
  if (at === undefined || !Number.isFinite(Number(at)))
    throw new InvalidArgumentError('write seconds=title, such as 61.5=The mainspring');
  return [...before, { part: String(before.length), at: Number(at), title }].sort((a, b) => a.at - b.at);
}

async function exportAll(media: string[], options: ExportOptions): Promise<void> {
  const outputs = options.to.map((path) => ({ path, output: outputOrRefuse(path) }));
  checkTargets(...options.to);
  const beside = [
    ...(options.captions ? captionFormats(options.captions) : []),
    ...(options.chapters ? OUTPUTS.filter(({ id }) => /chapters|ffmetadata/.test(id)) : []),
  ];
  const markers = options.markers === undefined ? [] : markersOf(options.markers);
  const episode = await analyse(media, options);
  const breaks = options.break ?? [];
  const first = options.to[0] as string;
  const targets = [
    ...outputs,
    ...beside.map((output) => ({ path: join(dirname(first), `${stemOf(first)}.${output.ending}`), output })),
  ];
  const parts = options.parts ? partsOf(episode.cut.programme, breaks) : [undefined];
  let summary = '';
  for (const part of parts) {
    const own: Episode = part
      ? {
          ...episode,
          title: `${episode.title}: ${part.title}`,
          cut: { ...episode.cut, programme: within(episode.cut.programme, part) },
        }
      : episode;
    for (const { path, output } of targets) {
      const plan = planOf(located(own, path, options.prefix), {
        rate: options.rate,
        recordStart: options.recordStart,
        reel: options.reel,
        removed: REMOVED[options.removed ?? 'gone'],
        followers: options.followers,
        whole: part && episode.cut.programme.pieces,
      });
      const marked = withMarkers(plan, own.cut.proposals, part ? [] : breaks, markers);
      const name = part ? `-part${part.number}` : '';
      await write({ path, output, name }, inputOf(own, marked, part ? [] : breaks, options));
      summary = summaryOf(plan);
    }
  }
  process.stdout.write(summary);
}

/** Media are referred to by where they lie seen from the timeline's file, or by where somebody else has them. */
function located(episode: Episode, target: string, prefix: string | undefined): Episode {
  const locate = (path: string): string => {
    const seen = relative(dirname(resolve(target)), resolve(path))
      .split(sep)
      .join('/');
    return prefix === undefined ? locationIn('', seen) : locationIn(prefix, basename(path));
  };
  const files = episode.files.map((file, k) => ({
    ...file,
    media: locatedMedia(file.media, episode.originals[k] ?? [], locate),
  }));
  return { ...episode, files };
}

function inputOf({ transcript, partOf }: Episode, plan: FramePlan, breaks: readonly Break[], options: OutOptions): OutputInput {
  return {
    plan,
    transcript,
    breaks,
    mask: options.mask?.split(/[\s,]+/).filter(Boolean) ?? [],
    style: styleOf(options.captionStyle ?? []),
    ...(baseLanguage(transcript.language) === 'en' && { partOf }),
  };
}

async function write({ path, output, name }: { path: string; output: Output; name: string }, input: OutputInput): Promise<void> {
  if (output.needs === 'words' && input.transcript.words.length === 0)
    throw new InterchangeError(`There are no words to write ${basename(path)} from: give a transcript with --words.`);
  const stem = path.slice(0, path.length - output.ending.length - 1);
  for (const { part, text } of output.write(input)) {
    const written = `${stem}${name}${part}${path.slice(stem.length)}`;
    await writeFile(written, text);
    process.stdout.write(`wrote ${written}\n`);
  }
  const lost = output.cannotCarry(input);
  if (lost.length > 0) process.stderr.write(`zetemis: ${output.label} cannot carry ${lost.join('; ')}\n`);
}

/** @throws InterchangeError where nothing that is written has the file's ending */
function outputOrRefuse(path: string): Output {
  const output = outputFor(path);
  if (output) return output;
  throw new InterchangeError(
    `No format has the ending “${extname(path)}”. Known: ${OUTPUTS.map(({ ending }) => `.${ending}`).join(', ')}.`,
  );
}

function stemOf(path: string): string {
  const ending = outputFor(path)?.ending ?? extname(path).slice(1);
  return basename(path).slice(0, -ending.length - 1);
}

function captionFormats(wanted: true | string): Output[] {
  const ids = wanted === true ? ['srt', 'vtt'] : wanted.split(',').map((id) => id.trim());
  return ids.map((id) => {
    const output = ['srt', 'vtt', 'ttml'].includes(id) ? outputOf(id) : undefined;
    if (!output) throw new InterchangeError(`There is no caption format “${id}”. Known: srt, vtt, ttml.`);
    return output;
  });
}

function markersOf(wanted: true | string): Markable[] {
  const names = wanted === true ? ['open', 'chapters', 'reasons'] : wanted.split(',').map((name) => name.trim());
  return names.map((name) => {
    const known = MARKABLE.find((one) => one === name);
    if (!known) throw new InterchangeError(`There are no marks “${name}”. Known: ${MARKABLE.join(', ')}.`);
    return known;
  });
}

function styleOf(values: readonly string[]) {
  const given = values.map((text): [string, unknown] => {
    const [name = '', ...rest] = text.split('=');
    const value = rest.join('=').trim();
    return [
      name.trim(),
      value === 'true' ? true : value === 'false' ? false : Number.isNaN(Number(value)) ? value : Number(value),
    ];
  });
  const names = Object.keys(captionStyle.shape);
  const wrong = given.find(([name]) => !names.includes(name));
  if (wrong) throw new InterchangeError(`There is no “${wrong[0]}” of captions. Known: ${names.join(', ')}.`);
  const parsed = captionStyle.safeParse(Object.fromEntries(given));
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new InterchangeError(`--caption-style ${issue?.path.join('.')}: ${issue?.message}`);
  }
  return parsed.data;
}

/** Endings of timelines that are read back. */
const TIMELINE = /\.(edl|otio|xml)$/i;

async function compareWithEdited(files: string[], options: OutOptions & { json?: string; to?: string[] }): Promise<void> {
  const outputs = (options.to ?? []).map((path) => ({ path, output: outputOrRefuse(path) }));
  checkTargets(...(options.to ?? []), options.json ?? '-');
  const isAnyTimeline = files.some((file) => TIMELINE.test(file));
  const edited = isAnyTimeline ? files.filter((file) => TIMELINE.test(file)) : files.slice(-1);
  const media = files.filter((file) => !edited.includes(file));
  if (media.length === 0) throw new InterchangeError('Give the recordings, and behind them the timeline that was edited.');
  const texts = await Promise.all(edited.map((path) => readFile(path, 'utf8')));
  const episode = await analyse(media, options);
  const plan = planOf(episode, { rate: options.rate });
  const timeline = readEdited(texts, basename(edited[0] ?? ''), plan);
  const found = compare(plan, timeline, episode.cut.proposals);
  if (options.json === '-') process.stdout.write(`${JSON.stringify(found, null, 1)}\n`);
  else {
    if (options.json) await writeFile(options.json, `${JSON.stringify(found, null, 1)}\n`);
    process.stdout.write(summaryOfComparison(found, episode.cut.settings));
  }
  const breaks = options.break ?? [];
  const input = inputOf(episode, planOfEdited(plan, timeline), breaks, options);
  for (const { path, output } of outputs) await write({ path, output, name: '' }, input);
}

/** What was found, and what the timeline holds, in a few lines. */
export function summaryOf({ cutList, rate, length, events, sources }: FramePlan): string {
  const { recorded, programme, seams, open } = cutList.summary;
  const counts = new Map<string, number>();
  for (const { kind } of cutList.proposals) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  const carriers = sources.flatMap((source) => source.carriers);
  const found = [...counts].map(([kind, count]) => `${count} ${kind}${count === 1 ? '' : 's'}`).join(', ') || 'nothing';
  return [
    `${sources.map(({ media }) => media.name).join(', ')}: ${formatClock(recorded, true)} recorded, ${formatClock(programme, true)} programme`,
    `found ${found}; ${seams} seams, ${open} open`,
    ...carriers.flatMap(({ media, conformed }) =>
      conformed && media.frameRate
        ? [
            `${media.name} is conformed: ${media.variable ? 'at uneven steps, on average ' : ''}${spokenRatio(media.conformedFrom ?? media.frameRate)} frames a second of its own`,
          ]
        : [],
    ),
    ...carriers.flatMap(({ media: { name, opposed } }) =>
      opposed ? [`the two channels of ${name} cancel each other: the second is turned over here, do so on the timeline too`] : [],
    ),
    `timeline: ${events.length} events, ${formatClock(framesToSeconds(length, rate), true)} at ${spokenRate(rate)} frames a second`,
    '',
  ].join('\n');
}
