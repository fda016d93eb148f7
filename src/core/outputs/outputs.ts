import type { Break } from '../decisions/layout.ts';
import { transcriptFormatOf } from '../interchange/transcripts/registry.ts';
import type { Transcript } from '../transcript/word.ts';
import { type Caption, type CaptionLanguage, captionsOf } from './captions/captions.ts';
import { chapterCues, chapterList, chapterMetadata } from './captions/chapterFiles.ts';
import { type CaptionFile, subRip, ttml, webVtt } from './captions/files.ts';
import { masked } from './captions/masking.ts';
import type { CaptionStyle } from './captions/style.ts';
import { chaptersOf } from './plan/chapters.ts';
import type { FramePlan } from './plan/framePlan.ts';
import { wordsOnTimeline } from './plan/onTimeline.ts';
import type { Receiver } from './receivers.ts';
import type { TimelineFormat, WrittenFile } from './timelines/format.ts';
import { FORMATS } from './timelines/registry.ts';

/** All that outputs are written from. */
export interface OutputInput {
  readonly plan: FramePlan;
  /** all words, corrected, on the clock */
  readonly transcript: Transcript;
  /** words of which only the first letter is shown */
  readonly mask: readonly string[];
  readonly breaks: readonly Break[];
  readonly style: CaptionStyle;
  readonly partOf?: CaptionLanguage['partOf'];
}

/** Something that is written from a programme. */
export interface Output {
  readonly id: string;
  /** of its files, without the dot */
  readonly ending: string;
  readonly label: string;
  readonly help: string;
  readonly mime: string;
  readonly receivers: readonly Receiver[];
  /** what it needs: without words there are no captions */
  readonly needs: 'nothing' | 'words';
  /** Why this plan cannot be written, fit to show; undefined where it can. */
  refused(plan: FramePlan): string | undefined;
  /** What its files are told apart by. */
  parts(input: OutputInput): string[];
  write(input: OutputInput): WrittenFile[];
  cannotCarry(input: OutputInput): string[];
}

const RECEIVERS_OF_TIMELINES: Readonly<Record<string, readonly Receiver[]>> = {
  xml: ['editing'],
  otio: ['editing', 'sound'],
  edl: ['editing', 'sound'],
  csv: ['sound', 'text'],
  json: ['text'],
};

const ofTimeline = (format: TimelineFormat): Output => ({
  ...format,
  ending: format.id,
  receivers: RECEIVERS_OF_TIMELINES[format.id] ?? ['editing'],
  needs: 'nothing',
  parts: ({ plan }) => format.parts(plan),
  write: ({ plan }) => format.write(plan),
  cannotCarry: ({ plan }) => format.cannotCarry(plan),
});

/** The captions of what a plan plays. */
export function captionsFor({ plan, transcript, mask, style, partOf }: OutputInput): Caption[] {
  const words = mask.length > 0 ? masked(transcript.words, mask) : transcript.words;
  return captionsOf(wordsOnTimeline(plan, words), plan, style, { language: transcript.language, partOf });
}

const captionFile = (input: OutputInput): CaptionFile => ({
  captions: captionsFor(input),
  rate: input.plan.rate,
  language: input.transcript.language,
  title: input.plan.title,
});

const one = (text: string): WrittenFile[] => [{ part: '', text }];
const carriesAll = (): string[] => [];
/** Of an output that is always one file. */
const ALWAYS_ONE = { refused: () => undefined, parts: () => [''] };

const CAPTIONS: readonly Output[] = [
  {
    id: 'srt',
    ending: 'srt',
    label: 'SubRip captions',
    help: 'Captions that nearly everything reads.',
    mime: 'application/x-subrip; charset=utf-8',
    receivers: ['player', 'editing'],
    needs: 'words',
    ...ALWAYS_ONE,
    write: (input) => one(subRip(captionFile(input))),
    cannotCarry: () => ['the time of each word'],
  },
  {
    id: 'vtt',
    ending: 'vtt',
    label: 'WebVTT captions',
    help: 'Captions for the web, with who speaks and the time of each word.',
    mime: 'text/vtt; charset=utf-8',
    receivers: ['player'],
    needs: 'words',
    ...ALWAYS_ONE,
    write: (input) => one(webVtt(captionFile(input))),
    cannotCarry: carriesAll,
  },
  {
    id: 'ttml',
    ending: 'ttml',
    label: 'TTML captions',
    help: 'Captions as broadcasters exchange them, in frames of the timeline.',
    mime: 'application/ttml+xml; charset=utf-8',
    receivers: ['player', 'editing'],
    needs: 'words',
    ...ALWAYS_ONE,
    write: (input) => one(ttml(captionFile(input))),
    cannotCarry: () => ['the time of each word'],
  },
];

const chapters = ({ plan, breaks }: OutputInput) => chaptersOf(plan, breaks);

const CHAPTERS: readonly Output[] = [
  {
    id: 'chapters.vtt',
    ending: 'chapters.vtt',
    label: 'WebVTT chapters',
    help: 'Chapters for players on the web.',
    mime: 'text/vtt; charset=utf-8',
    receivers: ['player'],
    needs: 'nothing',
    ...ALWAYS_ONE,
    write: (input) => one(chapterCues(chapters(input), input.plan.rate)),
    cannotCarry: carriesAll,
  },
  {
    id: 'ffmetadata',
    ending: 'ffmetadata',
    label: 'Chapters for ffmpeg',
    help: 'Metadata that ffmpeg puts into a finished file.',
    mime: 'text/plain; charset=utf-8',
    receivers: ['player'],
    needs: 'nothing',
    ...ALWAYS_ONE,
    write: (input) => one(chapterMetadata(chapters(input), input.plan.rate, input.plan.title)),
    cannotCarry: carriesAll,
  },
  {
    id: 'chapters.txt',
    ending: 'chapters.txt',
    label: 'List of chapters',
    help: 'Lines such as “0:00 Title” for a description.',
    mime: 'text/plain; charset=utf-8',
    receivers: ['text', 'player'],
    needs: 'nothing',
    ...ALWAYS_ONE,
    write: (input) => one(chapterList(chapters(input), input.plan.rate)),
    cannotCarry: carriesAll,
  },
];

/** The words of what is left, each at its own time on the timeline. */
const ofWords = (id: string, format: string, about: Pick<Output, 'label' | 'help' | 'ending'>): Output => ({
  id,
  ...about,
  mime: transcriptFormatOf(format)?.mime ?? 'text/plain',
  receivers: ['text'],
  needs: 'words',
  ...ALWAYS_ONE,
  write: ({ plan, transcript, mask }) => {
    const left = wordsOnTimeline(plan, transcript.words).map(({ word }) => word);
    const words = mask.length > 0 ? masked(left, mask) : left;
    return one(transcriptFormatOf(format)?.write({ ...transcript, words }) ?? '');
  },
  cannotCarry: carriesAll,
});

const TEXTS: readonly Output[] = [
  ofWords('txt', 'txt', { ending: 'txt', label: 'Text', help: 'What is left, to be read.' }),
  ofWords('words.json', 'json', {
    ending: 'words.json',
    label: 'Words as JSON',
    help: 'Each word that is left with its time, for scripts.',
  }),
  ofWords('ctm', 'ctm', {
    ending: 'ctm',
    label: 'Words, a line each (CTM)',
    help: 'Each word that is left with its time, for speech tools.',
  }),
];

/** Everything that is written from a programme. A new one is a line here. */
export const OUTPUTS: readonly Output[] = [...FORMATS.map(ofTimeline), ...CAPTIONS, ...CHAPTERS, ...TEXTS];

export const outputOf = (id: string): Output | undefined => OUTPUTS.find((output) => output.id === id);

/** The output that a file name asks for by its ending; the longest ending counts. */
export const outputFor = (fileName: string): Output | undefined =>
  [...OUTPUTS]
    .sort((a, b) => b.ending.length - a.ending.length)
    .find(({ ending }) => fileName.toLowerCase().endsWith(`.${ending}`));

/** Name of a written file: the plan's stem, the part, and the output's ending. */
export const fileNameFor = ({ stem }: Pick<FramePlan, 'stem'>, part: string, { ending }: Pick<Output, 'ending'>): string =>
  `${stem}${part}.${ending}`;
