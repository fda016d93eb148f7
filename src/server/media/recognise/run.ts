import { mkdir, mkdtemp, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import pMap from 'p-map';
import { z } from 'zod';
import { partsOf } from '@/core/align/parts.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type PreparedMaterial, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import type { Range } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { BOUNDS_FOR_A_LOOK, beyondBounds, bounded } from '../bounds.ts';
import { inputArguments, MediaError } from '../ffmpeg.ts';
import type { MeasureOptions } from '../measure.ts';
import { type RecognisedWord, type Recogniser, RecogniserError, recognisedWord } from './recogniser.ts';

/** Silence of this length may part two parts: few words hold one, and parts of one length end together. */
const PARTING = 0.2;

export interface RecogniseOptions extends MeasureOptions {
  readonly language: string;
  /** name of the recording, for services that want one */
  readonly recording: string;
  /** where parts that are done are kept, so that a second run goes on where the first stopped */
  readonly folder: string;
}

interface Part extends Range {
  readonly track: number;
  readonly file: string;
}

/**
 * Recognises every track of a recording in parts, several at a time. Parts that are done are kept; when some fail, the
 * others are finished first, and running it again does the failed ones alone.
 * @returns words in order of time; where there are several tracks, each is a speaker of its own
 * @throws RecogniserError saying how many parts failed and why
 */
export async function recognise(
  recogniser: Recogniser,
  path: string,
  facts: MediaFacts,
  prepared: PreparedMaterial,
  options: RecogniseOptions,
): Promise<Word[]> {
  const why = await recogniser.unavailable();
  if (why) throw new RecogniserError(why, false);
  await mkdir(options.folder, { recursive: true });
  const parts = partsOfTracks(prepared, facts.audio.length, recogniser.parallel, options.folder);
  const total = parts.reduce((sum, { start, end }) => sum + end - start, 0);
  let done = 0;
  const failed: Error[] = [];
  const words: RecognisedWord[][] = [];
  const work = async (part: Part, k: number) => {
    options.signal?.throwIfAborted();
    try {
      words[k] = (await readPart(part.file)) ?? (await recognisePart(recogniser, path, facts, part, options));
    } catch (error) {
      if (options.signal?.aborted || !(error instanceof RecogniserError)) throw error;
      failed.push(error);
    }
    done += part.end - part.start;
    options.onProgress?.((done / total) * facts.duration);
  };
  await pMap(parts, work, { concurrency: recogniser.parallel });
  if (failed.length > 0)
    throw new RecogniserError(
      `${failed.length} of ${parts.length} parts failed: ${failed[0]?.message} Trying again does those alone.`,
      true,
    );
  const several = facts.audio.length > 1;
  return parts
    .flatMap(({ track, start }, k) =>
      (words[k] ?? []).map(
        (word): Word => ({
          text: word.text,
          start: Math.round((start + word.start) * 1000) / 1000,
          end: Math.round((start + Math.max(word.start, word.end)) * 1000) / 1000,
          confidence: Math.round(word.confidence * 100) / 100,
          speaker: several ? `Track ${track + 1}` : (word.speaker ?? ''),
          timing: 'measured',
        }),
      ),
    )
    .sort((a, b) => a.start - b.start || a.end - b.end);
}

function partsOfTracks(prepared: PreparedMaterial, tracks: number, parallel: number, folder: string): Part[] {
  return Array.from({ length: tracks }, (_, track) => {
    // What another microphone hears better is left to that one.
    const settings = { ...DEFAULT_SETTINGS, listen: String(track + 1) };
    const silences = silencesOf(preparedPauses(prepared), settings, PARTING);
    return partsOf(prepared.material.duration, silences, parallel).map(({ start, end }) => {
      const name = [track + 1, ...[start, end].map((at) => Math.round(at * 1000))].join('-');
      return { track, start, end, file: join(folder, `${name}.json`) };
    });
  }).flat();
}

async function readPart(file: string): Promise<RecognisedWord[] | undefined> {
  const text = await readFile(file, 'utf8').catch(() => undefined);
  return text === undefined ? undefined : z.array(recognisedWord).parse(JSON.parse(text));
}

async function recognisePart(
  recogniser: Recogniser,
  path: string,
  facts: MediaFacts,
  part: Part,
  { language, recording, signal }: RecogniseOptions,
): Promise<RecognisedWord[]> {
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-part-'));
  try {
    const wav = join(folder, 'part.wav');
    await cutSound(path, facts.audio[part.track]?.index ?? 0, part, wav, signal);
    const words = await recogniser.recognise({ path: wav, recording, offset: part.start }, language, signal);
    await writeFile(`${part.file}.part`, JSON.stringify(words));
    await rename(`${part.file}.part`, part.file);
    return words;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function cutSound(path: string, stream: number, { start, end }: Range, to: string, signal: AbortSignal | undefined) {
  const ended = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-ss', start.toFixed(3), '-t', (end - start).toFixed(3),
      ...inputArguments(path), '-map', `0:${stream}`, '-af', 'aresample=async=1:first_pts=0', '-ac', '1', '-ar', '16000',
      '-sample_fmt', 's16', '-bitexact', '-f', 'wav', to], BOUNDS_FOR_A_LOOK),
    { reject: false, timeout: 60_000, ...(signal && { cancelSignal: signal }) },
  );
  if (signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
  if (ended.failed) throw new MediaError(['The sound cannot be decoded.', beyondBounds(ended)].filter(Boolean).join(' '));
}
