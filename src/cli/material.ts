import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { onSound } from '@/core/align/onSound.ts';
import { needsAnchors, timeTranscript } from '@/core/align/timeTranscript.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { HesitationCurve } from '@/core/curves/hesitation.ts';
import type { Echo } from '@/core/curves/repeatedPassages.ts';
import type { SpeechCurve } from '@/core/curves/speech.ts';
import type { HeldSounds } from '@/core/curves/voice.ts';
import type { Material } from '@/core/detect/detector.ts';
import { type PreparedMaterial, prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS, type Settings } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import type { RoughTranscript } from '@/core/transcript/roughTranscript.ts';
import type { Transcript, Word } from '@/core/transcript/word.ts';
import { measureEchoes } from '@/server/media/echoes.ts';
import { EmbeddingUnavailable } from '@/server/media/embedding/model.ts';
import { readMeasure } from '@/server/media/material.ts';
import { hasOpenWords, placedBy } from '@/server/media/recognise/placing.ts';
import type { RecogniserId } from '@/server/media/recognise/recogniser.ts';
import { bestOf, fromEnvironment, recogniserOf, recognisersWith } from '@/server/media/recognise/registry.ts';
import { recognise } from '@/server/media/recognise/run.ts';
import { measureSpeech, SpeechUnavailable } from '@/server/media/speech.ts';
import { measureVoice } from '@/server/media/voice.ts';
import { keptWords } from './keptWords.ts';
import type { Measures } from './measures.ts';

/** What is wanted of a recording beside its levels. */
export interface Wanted {
  readonly words: RoughTranscript | undefined;
  readonly speech: boolean;
  readonly takes: Settings['takes'];
  readonly heard: Settings['heard'];
}

/** All that detection looks at, measured where it is not yet. What a model cannot tell here is left out, and said. */
export async function materialOf(media: string, facts: MediaFacts, measures: Measures, wanted: Wanted): Promise<Material> {
  const { folder, duration } = measures;
  const levels = await readMeasure('levels', folder, facts.audio.length);
  const speech = wanted.speech ? await speechOrLevelAlone(media, facts, folder) : undefined;
  const transcript =
    wanted.words && (await settled(wanted.words, media, facts, prepare({ duration, levels, speech, words: [] }), folder));
  const words = transcript?.words ?? [];
  const voice = words.length > 0 && wanted.heard !== 'leave' ? await heldSounds(media, facts, folder) : undefined;
  const byEar = wanted.takes === 'sound' || wanted.takes === 'both';
  const echoes = byEar || words.length > 0 ? await echoesOrWordsAlone(media, facts, folder) : undefined;
  const hesitation = echoes && (await readMeasure('hesitation', folder, facts.audio.length));
  return { duration, levels, words, speech, voice, echoes, hesitation, language: transcript?.language };
}

/** The speech measure, or none, said on standard error, where the model cannot run. */
async function speechOrLevelAlone(media: string, facts: MediaFacts, folder: string): Promise<readonly SpeechCurve[] | undefined> {
  try {
    await measureSpeech(media, facts, folder);
    return await readMeasure('speech', folder, facts.audio.length);
  } catch (error) {
    if (!(error instanceof SpeechUnavailable)) throw error;
    process.stderr.write(`zetemis: ${error.message}\n`);
    return undefined;
  }
}

async function heldSounds(media: string, facts: MediaFacts, folder: string): Promise<readonly HeldSounds[]> {
  await measureVoice(media, facts, folder);
  return readMeasure('voice', folder, facts.audio.length);
}

/** How much each track sounds like hesitating, or nothing, said on standard error, where the model cannot run. */
export async function hesitationOf(
  media: string,
  facts: MediaFacts,
  folder: string,
): Promise<readonly HesitationCurve[] | undefined> {
  return (await echoesOrWordsAlone(media, facts, folder)) && readMeasure('hesitation', folder, facts.audio.length);
}

/** Lines said again by ear, or none, said on standard error, where the model cannot run. */
async function echoesOrWordsAlone(media: string, facts: MediaFacts, folder: string): Promise<readonly Echo[] | undefined> {
  try {
    await measureEchoes(media, facts, folder);
    return await readMeasure('echoes', folder);
  } catch (error) {
    if (!(error instanceof EmbeddingUnavailable)) throw error;
    process.stderr.write(`zetemis: ${error.message}\n`);
    return undefined;
  }
}

/**
 * Words with times: a file's own, or those of lines and of text put under the sound.
 * @param folder where what is found is kept
 */
export async function settled(
  brought: RoughTranscript,
  media: string,
  facts: MediaFacts,
  prepared: PreparedMaterial,
  folder?: string,
): Promise<Transcript> {
  const { duration } = prepared.material;
  const silences = silencesOf(preparedPauses(prepared), DEFAULT_SETTINGS, 0.1);
  const rough = onSound(brought, { duration, silences });
  for (const note of rough.notes) process.stderr.write(`zetemis: ${note}\n`);
  const language = rough.language ?? 'en';
  const all = recognisersWith(fromEnvironment(process.env));
  const isText = needsAnchors(rough);
  const guessed = timeTranscript(rough, { duration, silences });
  if (!isText && !hasOpenWords(guessed.words, facts)) return guessed;
  return keptWords(folder, guessed, all, async () => {
    const recognised = isText ? await heardIn(media, facts, prepared, undefined, language) : [];
    const transcript = isText ? timeTranscript(rough, { duration, silences, recognised }) : guessed;
    const options = { language, recording: basename(media), silences };
    return { ...transcript, words: [...(await placedBy(all, media, facts, transcript.words, options))] };
  });
}

/** Words of a recording. @param recogniser the best that is here when left out */
export async function heardIn(
  media: string,
  facts: MediaFacts,
  prepared: PreparedMaterial,
  recogniser: RecogniserId | undefined,
  language: string,
): Promise<Word[]> {
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-heard-'));
  try {
    const all = recognisersWith(fromEnvironment(process.env));
    const chosen = recogniserOf(all, recogniser ?? (await bestOf(all, language)));
    return await recognise(chosen, media, facts, prepared, { language, recording: basename(media), folder });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
