import { EMBEDDING_RATE, EMBEDDING_SIZE, type EmbeddingCurve } from '@/core/curves/embedding.ts';
import { LEVEL_RATE, type LevelCurve } from '@/core/curves/level.ts';
import { SPEECH_RATE, type SpeechCurve } from '@/core/curves/speech.ts';
import { prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { type Range, subtract } from '@/core/time/range.ts';
import { readEmbedding } from './embedding/measure.ts';
import { readMeasure } from './material.ts';

/** Silences of this length part one stretch of speech from the next. */
const SILENCE = 0.2;
const LEAST_STRETCH = 0.1;
/** Mean probability of speech from which on a stretch is one. */
const LEAST_SPEECH = 0.3;

/** What a recording is listened through by: its speech, and how that sounds. */
export interface Listened {
  /** speech between silences, in order */
  readonly stretches: readonly Range[];
  /** the embedding of each track */
  readonly embedding: readonly EmbeddingCurve[];
  /** for each frame of it the track that is the loudest around it, or none where nobody speaks */
  readonly spoken: Uint8Array;
}

/** Reads what is measured of a recording: levels and embedding are there, and the probability of speech if it can be measured at all. */
export async function listenedIn(folder: string, tracks: number): Promise<Listened> {
  const levels = await readMeasure('levels', folder, tracks);
  const speech = await readMeasure('speech', folder, tracks).catch(() => undefined);
  const duration = Math.max(0, ...levels.map(({ codes }) => codes.length / LEVEL_RATE));
  const silences = silencesOf(preparedPauses(prepare({ duration, levels, speech, words: [] })), DEFAULT_SETTINGS, SILENCE);
  const stretches = subtract([{ start: 0, end: duration }], silences).filter(
    (stretch) => stretch.end - stretch.start >= LEAST_STRETCH && isSpeech(stretch, speech),
  );
  return { stretches, embedding: await readEmbedding(folder, tracks), spoken: loudestTracks(levels, stretches) };
}

/**
 * Frame by frame the embedding of the track that is spoken on.
 * @param embedding of each track, normalised
 * @param from the frame of the recording that it begins with
 */
export function ofLoudest(embedding: readonly Float32Array[], spoken: Uint8Array, from = 0): Float32Array {
  const [first = new Float32Array(0), ...more] = embedding;
  const chosen = first.slice();
  const frames = Math.min(spoken.length - from, first.length / EMBEDDING_SIZE);
  for (const [k, values] of more.entries())
    for (let frame = 0; frame < frames; frame++)
      if (spoken[from + frame] === k + 1)
        chosen.set(values.subarray(frame * EMBEDDING_SIZE, (frame + 1) * EMBEDDING_SIZE), frame * EMBEDDING_SIZE);
  return chosen;
}

/** Whether somebody is heard in a stretch: what no voice says is no line, however often it comes. */
function isSpeech({ start, end }: Range, speech: readonly SpeechCurve[] | undefined): boolean {
  if (!speech) return true;
  return speech.some(({ codes }) => {
    const heard = codes.subarray(Math.floor(start * SPEECH_RATE), Math.ceil(end * SPEECH_RATE));
    return heard.reduce((sum, code) => sum + code, 0) >= LEAST_SPEECH * 255 * heard.length;
  });
}

function loudestTracks(levels: readonly LevelCurve[], stretches: readonly Range[]): Uint8Array {
  const frames = Math.ceil(Math.max(0, ...levels.map(({ codes }) => codes.length)) / (LEVEL_RATE / EMBEDDING_RATE)) + 1;
  const loudest = new Uint8Array(frames).fill(NOBODY);
  for (const { start, end } of stretches) {
    const until = Math.min(frames, Math.round(end * EMBEDDING_RATE));
    for (let frame = Math.round(start * EMBEDDING_RATE); frame < until; frame++) {
      let most = -1;
      for (const [track, { codes }] of levels.entries()) {
        const level = meanAround(codes, frame / EMBEDDING_RATE);
        if (level > most) [most, loudest[frame]] = [level, track];
      }
    }
  }
  return loudest;
}

const NOBODY = 255;
const REACH = 0.2;

function meanAround(codes: Uint8Array, at: number): number {
  const from = Math.max(0, Math.round((at - REACH) * LEVEL_RATE));
  const until = Math.min(codes.length, Math.round((at + REACH) * LEVEL_RATE));
  let sum = 0;
  for (let k = from; k < until; k++) sum += codes[k] as number;
  return sum / Math.max(1, until - from);
}
