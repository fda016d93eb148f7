import { existsSync } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { materialOf } from '@/cli/material.ts';
import { withMeasures } from '@/cli/measures.ts';
import { EMBEDDING_RATE, EMBEDDING_SIZE, normaliseEmbedding } from '@/core/curves/embedding.ts';
import type { HesitationCurve } from '@/core/curves/hesitation.ts';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import type { Calibration, Judged } from '@/core/detect/calibration/calibration.ts';
import type { Example } from '@/core/detect/calibration/logistic.ts';
import type { Material, Proposal } from '@/core/detect/detector.ts';
import { detect, prepare, preparedTakes } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { pairsLookedAt } from '@/core/detect/takes/takes.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { readAny } from '@/core/interchange/transcripts/registry.ts';
import { overlapOf, type Range } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { measureEmbedding, readEmbedding } from '@/server/media/embedding/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { MODELS } from './models.ts';
import { areTries, goesAnyway, labeller, type Truth, truthSchema } from './truth.ts';

const speechParts = await SpeechParts.loaded();

/** Something that was proposed, with what it was and whether it was right. */
export interface LabelledExample extends Example {
  readonly judged: Judged;
  readonly recording: string;
  /** kind of transcript, `none` for sound alone */
  readonly transcript: string;
  /** where it is, in seconds */
  readonly at: Range;
}

/** Frames of embedding of one recording, and which of them lie inside a hesitation. */
export interface LabelledFrames {
  readonly recording: string;
  readonly embedding: Float32Array;
  readonly frames: readonly { readonly at: number; readonly right: boolean }[];
}

/** A recording with truth and transcripts. */
export interface FitRecording {
  readonly name: string;
  readonly media: string;
  readonly truth: Truth;
  /** files of transcripts by kind */
  readonly transcripts: readonly (readonly [kind: string, path: string])[];
}

/** Everything that can be found is proposed, so that all of it can be told right from wrong. */
const PROPOSE_ALL: Calibration = Object.fromEntries(
  Object.keys(MODELS).map((judged) => [judged, { intercept: 5, weights: {} }]),
) as unknown as Calibration;

const ENDINGS = ['flac', 'wav', 'mp3', 'm4a', 'opus'];

/** The recordings with truth of a folder: `NAME.truth.json`, `NAME.flac`, and transcripts `NAME.words….json`. */
export async function recordingsIn(folder: string): Promise<FitRecording[]> {
  const files = await readdir(folder);
  const names = files.flatMap((file) => (file.endsWith('.truth.json') ? [file.slice(0, -'.truth.json'.length)] : []));
  const found = await Promise.all(
    names.sort().map(async (name): Promise<FitRecording[]> => {
      const media = ENDINGS.map((ending) => join(folder, `${name}.${ending}`)).find((path) => existsSync(path));
      const truth = truthSchema.safeParse(JSON.parse(await readFile(join(folder, `${name}.truth.json`), 'utf8')));
      if (!media || !truth.success) return [];
      const transcripts = files.flatMap((file) => {
        const kind = file.startsWith(`${name}.`) ? /^(words[\w-]*)\.json$/.exec(file.slice(name.length + 1))?.[1] : undefined;
        return kind ? [[kind, join(folder, file)] as const] : [];
      });
      return [{ name, media, truth: truth.data, transcripts }];
    }),
  );
  return found.flat();
}

/** Frames of speech of a recording, told whether they lie in a hesitation. */
export async function labelledFrames({ name, media, truth }: FitRecording, keep: string): Promise<LabelledFrames> {
  const facts = await probe(media);
  return withMeasures(media, facts, keep, async ({ folder }) => {
    await measureEmbedding(media, facts, folder);
    const [curve] = await readEmbedding(folder, facts.audio.length);
    return framesOf(curve as NonNullable<typeof curve>, truth, name);
  });
}

/** What is found in a recording with each of its transcripts and with none, told right from wrong. */
export async function labelledExamples(
  { name, media, truth, transcripts }: FitRecording,
  hesitation: HesitationCurve,
  keep: string,
): Promise<LabelledExample[]> {
  const facts = await probe(media);
  return withMeasures(media, facts, keep, async (measures) => {
    const examples: LabelledExample[] = [];
    for (const [kind, path] of [...transcripts, ['none', undefined] as const]) {
      const words = path === undefined ? undefined : await readAny(await readFile(path, 'utf8'));
      if (words?.passages.length === 0) continue;
      const measured = await materialOf(media, facts, measures, { words, speech: true, takes: 'both', heard: 'propose' });
      const material = { ...measured, hesitation: measured.voice && [hesitation] };
      const count = COUNTS[kind] ?? 1;
      examples.push(...examplesOf(material, truth, truth.family ?? name, kind).map((example) => ({ ...example, count })));
      // Without the measures that need a model there is less to go by: that is learned as well.
      const bare = { ...material, speech: undefined, echoes: undefined, hesitation: undefined };
      examples.push(
        ...examplesOf(bare, truth, truth.family ?? name, kind).map((example) => ({ ...example, count: BARE_COUNT * count })),
      );
    }
    return examples;
  });
}

const BARE_COUNT = 0.2;
/** How much examples of a kind of transcript count: made recordings have three that are in doubt, of which two are written by large recognisers. */
const COUNTS: Readonly<Record<string, number>> = { 'words-written': 0.5 };

function examplesOf(material: Material, truth: Truth, recording: string, transcript: string): LabelledExample[] {
  const prepared = prepare({ ...material, calibration: PROPOSE_ALL, speechParts });
  const isRight = truth.about === 'all' ? labeller(truth) : () => undefined;
  const found = detect(prepared, { ...DEFAULT_SETTINGS, asides: 'leave' }, NO_STEPS).flatMap((proposal) => {
    const judged = judgedBy(proposal);
    const right = isRight(proposal);
    return judged && right !== undefined
      ? [{ judged, evidence: proposal.evidence, right, recording, transcript, at: { start: proposal.start, end: proposal.end } }]
      : [];
  });
  const pairs = pairsLookedAt(preparedTakes(prepared), DEFAULT_SETTINGS).flatMap(({ left, right, evidence }) => {
    const judged: Judged = evidence.matches === undefined ? 'takesBySound' : 'takesByWords';
    const tries = areTries(truth, left, right, Boolean(evidence.goesOn || evidence.goneThrough));
    if (!tries && goesAnyway(truth, left)) return [];
    return [{ judged, evidence, right: tries, recording, transcript, at: { start: left.start, end: right.end } }];
  });
  return [...found, ...pairs];
}

function judgedBy({ kind, evidence }: Proposal): Judged | undefined {
  if (kind === 'pause') return 'pauses';
  if (kind === 'repeat') return 'repeats';
  if (kind !== 'filler') return undefined;
  if (evidence.underWord) return 'underWord';
  if (evidence.hesitation) return 'hesitations';
  return evidence.heldSeconds === undefined ? 'fillers' : 'heard';
}

/** A word with a tilde (`I~`) takes so much longer. */
const DRAWN_OUT = 3.5;

/** Words that may be fillers or repeats in sentences by hand, told right from wrong. */
export function sentenceExamples(sentences: readonly string[]): LabelledExample[] {
  const before = 'We were at the bench the other day.'.split(' ');
  return sentences.flatMap((sentence, n) => {
    let at = 1;
    const words: Word[] = [];
    const meant: Range[] = [];
    let filler = false;
    const tokens = [...before, '|', ...sentence.split(' '), '|'];
    for (const [k, token] of tokens.entries()) {
      if (token === '|') {
        at += 0.3;
        continue;
      }
      if (token.startsWith('[')) filler = true;
      const text = token.replace(/[[\]~]/g, '');
      // Words take about as long as their letters, and a comma is heard half of the time.
      const end = at + (token.includes('~') ? DRAWN_OUT : 1) * (0.09 + 0.045 * text.length);
      words.push({ text, start: at, end, confidence: 0.95, speaker: '', timing: 'measured' });
      if (!filler && !isFirstSaying(tokens, k)) meant.push({ start: at, end });
      if (/\][,.?]?$/.test(token)) filler = false;
      at = end + (/[,.?]$/.test(text) && n % 2 === 0 ? 0.14 : 0.01);
    }
    const duration = at + 1;
    const material = { duration, levels: [{ codes: new Uint8Array(Math.ceil(duration * 100)).fill(200) }], words };
    const found = detect(
      prepare({ ...material, calibration: PROPOSE_ALL, speechParts }),
      { ...DEFAULT_SETTINGS, takes: 'off' },
      NO_STEPS,
    );
    return found.flatMap(({ kind, start, end, found: said, evidence }): LabelledExample[] => {
      if ((kind !== 'filler' && kind !== 'repeat') || evidence.hesitation) return [];
      const right = !meant.some((word) => overlapOf(word, said) > 0.02);
      return [
        {
          judged: kind === 'filler' ? 'fillers' : 'repeats',
          evidence,
          right,
          recording: `sentence ${n % 10}`,
          transcript: 'words',
          at: { start, end },
        },
      ];
    });
  });
}

/** Whether words in brackets say a word again, hesitations and pauses between: either saying may go. */
function isFirstSaying(tokens: readonly string[], at: number): boolean {
  const opens = tokens.findIndex((token, k) => k > at && token.startsWith('['));
  if (opens < 0) return false;
  const closes = tokens.findIndex((token, k) => k >= opens && /\][,.?]?$/.test(token));
  const again = tokens.slice(opens, closes + 1).map(plainToken);
  let from = opens;
  while (from > 0 && (tokens[from - 1] === '|' || HESITATIONS.has(plainToken(tokens[from - 1] as string)))) from--;
  const first = tokens.slice(from - again.length, from).map(plainToken);
  return at >= from - again.length && at < from && first.join(' ') === again.join(' ');
}

const plainToken = (token: string): string => token.toLowerCase().replace(/[^a-z']/g, '');

const HESITATIONS = new Set(['um', 'umm', 'uh', 'er', 'erm', 'hmm', 'hm', 'mm']);
/** Frames this near to a hesitation sound of both and say nothing. */
const NEAR = 0.12;

/** Frames of speech: inside the middle of a hesitation, and well away from any. */
function framesOf(curve: Parameters<typeof normaliseEmbedding>[0], { words, speech }: Truth, recording: string): LabelledFrames {
  const inside = (at: number) => speech.some(([start, end]) => at >= start && at < end);
  const spoken = new Set<number>();
  for (const [start, end] of speech)
    for (let k = Math.round(start * EMBEDDING_RATE); k <= end * EMBEDDING_RATE; k++)
      if (inside(k / EMBEDDING_RATE)) spoken.add(k);
  const embedding = normaliseEmbedding(curve, (frame) => spoken.has(frame));
  const hesitations = words.filter(
    ({ tag, text }) => tag === 'filler' && HESITATIONS.has(text.toLowerCase().replace(/[^a-z]/g, '')),
  );
  const frames = [...spoken].flatMap((at) => {
    const seconds = at / EMBEDDING_RATE;
    const near = hesitations.find(({ start, end }) => seconds > start - NEAR && seconds < end + NEAR);
    if (!near) return [{ at, right: false }];
    const half = Math.max(0.04, 0.35 * (near.end - near.start));
    return Math.abs(seconds - (near.start + near.end) / 2) <= half ? [{ at, right: true }] : [];
  });
  return { recording, embedding, frames: frames.filter(({ at }) => (at + 1) * EMBEDDING_SIZE <= embedding.length) };
}
