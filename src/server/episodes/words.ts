import { onSound } from '@/core/align/onSound.ts';
import { strayNote } from '@/core/align/strayWords.ts';
import { needsAnchors, timeTranscript } from '@/core/align/timeTranscript.ts';
import type { Imported } from '@/core/contract/messages.ts';
import { fromColumns, type TranscriptColumns, toColumns, transcriptColumns } from '@/core/contract/wordColumns.ts';
import { type PreparedMaterial, prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { strayAmong } from '@/core/detect/words/wordTiming.ts';
import { readAny } from '@/core/interchange/transcripts/registry.ts';
import { text as asText } from '@/core/interchange/transcripts/text.ts';
import { replaceWords, wordsOf } from '@/core/sources/shift.ts';
import { overlapOf, type Range } from '@/core/time/range.ts';
import type { RoughTranscript } from '@/core/transcript/roughTranscript.ts';
import { type Transcript, TranscriptError, type Word } from '@/core/transcript/word.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { enqueue } from '../jobs/jobs.ts';
import { readMeasure } from '../media/material.ts';
import type { Medium } from '../media/media.ts';
import { hasOpenWords, placersOf } from '../media/recognise/placing.ts';
import { bestOf, recogniserOf } from '../media/recognise/registry.ts';
import { curvesFolder } from '../media/store.ts';
import { notFound, Refusal } from '../refusal.ts';
import { type Episode, type EpisodeRecording, findEpisode, onClock, recordingIn } from './episode.ts';
import { RECOGNISERS } from './recognition.ts';
import { askCut } from './snapshots.ts';

/** Silences shorter than this are closures inside words. */
const BETWEEN_WORDS = 0.1;

/** The words as they travel. @throws Refusal when they are of another version by now */
export async function wordsOfVersion(episodeId: string, version: number): Promise<TranscriptColumns | null> {
  const row = await db('episodes as e')
    .leftJoin('transcripts as t', 't.episode_id', 'e.id')
    .where({ 'e.id': episodeId, 'e.words_version': version })
    .first('t.columns');
  if (!row) throw new Refusal(409, 'The words have changed meanwhile.');
  return row.columns ? transcriptColumns.parse(row.columns) : null;
}

/** The words of an episode; none is a transcript without any. */
export async function readEpisodeWords(episodeId: string): Promise<Transcript> {
  const row = await db('transcripts').where({ episode_id: episodeId }).first('columns');
  return row ? fromColumns(transcriptColumns.parse(row.columns)) : { language: 'en', words: [] };
}

/** Levels and speech of a medium, prepared for asking where it is silent. */
export async function soundOf({ id, facts, duration, speech }: Medium): Promise<PreparedMaterial> {
  const [folder, tracks] = [curvesFolder(id), facts.audio.length];
  const [levels, spoken] = await Promise.all([
    readMeasure('levels', folder, tracks),
    speech ? readMeasure('speech', folder, tracks) : undefined,
  ]);
  return prepare({ duration, levels, speech: spoken, words: [] });
}

export const silencesIn = (prepared: PreparedMaterial): Range[] =>
  silencesOf(preparedPauses(prepared), DEFAULT_SETTINGS, BETWEEN_WORDS);

/**
 * Takes a transcript of any format in place of the present one. Lines get word times from the sound; text without times
 * is anchored on the words there are, or waits for the recogniser in a job of its own.
 * @throws Refusal saying what does not fit
 */
export async function takeTranscript(episodeId: string, text: string, recordingId?: string): Promise<Imported> {
  const episode = await findEpisode(episodeId);
  const recording = recordingIn(episode, recordingId);
  const { medium } = recording;
  const known = await readEpisodeWords(episodeId);
  const brought = { language: known.language, ...(await readOrRefuse(text)) };
  const timed = brought.passages.every(({ tokens }) =>
    tokens.every(({ start, end }) => start !== undefined && end !== undefined),
  );
  if (!medium.measured) {
    if (timed)
      return take(episode, recording, timeTranscript(brought, { duration: medium.duration, silences: [] }), brought.notes);
    throw new Refusal(409, 'These words have no times of their own: bring them again once the recording is measured.');
  }
  const silences = silencesIn(await soundOf(medium));
  const rough = onSound(brought, { duration: medium.duration, silences });
  const taken = (transcript: Transcript) => {
    const stray = strayAmong(transcript.words, silences, medium.duration).size;
    return take(episode, recording, transcript, [...rough.notes, ...strayNote(stray, transcript.words.length)]);
  };
  if (timed) return taken(timeTranscript(rough, { duration: medium.duration, silences }));
  const recognised = wordsOf(known.words, onClock(recording));
  const { language } = rough;
  // Text that is brought where there are words already is anchored on those.
  if (!needsAnchors(rough) || recognised.length > 0)
    return taken(timeTranscript(rough, { duration: medium.duration, silences, recognised }));
  const recogniser = await bestOf(RECOGNISERS, language);
  const asked = { recogniser, language: recogniser === 'local' ? 'en' : language };
  await db.transaction((trx) =>
    enqueue(trx, 'recognise', medium.id, { episodeId, recording: recording.id, ...asked, align: text }),
  );
  return { words: 0, wordsVersion: 0, language: null, notes: [...rough.notes], queued: 'recogniser' };
}

async function readOrRefuse(text: string): Promise<RoughTranscript> {
  try {
    return await readAny(text);
  } catch (error) {
    if (error instanceof TranscriptError) throw new Refusal(422, error.message);
    throw error;
  }
}

async function take(
  episode: Episode,
  recording: EpisodeRecording,
  transcript: Transcript,
  notes: readonly string[],
): Promise<Imported> {
  const wordsVersion = await db.transaction(async (trx) => {
    const version = await storeTranscript(trx, episode, recording, transcript);
    await askPlacing(trx, episode.id, recording, transcript);
    return version;
  });
  const { language, words } = transcript;
  return { words: words.length, wordsVersion, language, notes: [...notes], queued: null };
}

/**
 * Puts the words of a recording in place of those it has, in the caller's transaction. Those of other recordings stay.
 * @param transcript in the recording's own time
 * @returns the version they are now
 */
export async function storeTranscript(
  trx: Transaction,
  { id, recordings }: Episode,
  recording: EpisodeRecording,
  transcript: Transcript,
): Promise<number> {
  if (transcript.words.length === 0) throw new Refusal(422, 'There are no words in this transcript.');
  const version = await nextVersion(trx, id);
  const row = recordings.length > 1 ? await trx('transcripts').where({ episode_id: id }).first('columns') : undefined;
  const others = row ? fromColumns(transcriptColumns.parse(row.columns)).words : [];
  const words = recordings.length > 1 ? replaceWords(others, onClock(recording), transcript.words) : transcript.words;
  await trx('transcripts')
    .insert({ episode_id: id, columns: JSON.stringify(toColumns({ ...transcript, words })) })
    .onConflict('episode_id')
    .merge();
  await announce({ type: 'episode', episodeId: id }, trx);
  await askCut(id, trx);
  return version;
}

/** The version that the words of an episode are of from now on; whoever else would change them waits for the end of the transaction. */
async function nextVersion(trx: Transaction, id: string): Promise<number> {
  const [episode] = await trx('episodes').where({ id }).increment('words_version', 1).returning('words_version');
  if (!episode) throw notFound('That episode');
  return episode.words_version;
}

/** The words of a recording in its own time; where there is no other, those that stand outside of it are its own as well. */
export const ownWords = (words: readonly Word[], { recordings }: Pick<Episode, 'recordings'>, recording: EpisodeRecording) =>
  recordings.length > 1 ? wordsOf(words, onClock(recording)) : words;

/** Queues finding where the words of a recording are said whose times are only estimated, if anybody here can tell. */
export async function askPlacing(
  trx: Transaction,
  episodeId: string,
  { id, medium }: EpisodeRecording,
  { words, language }: Transcript,
): Promise<void> {
  if (hasOpenWords(words, medium.facts) && (await placersOf(RECOGNISERS, language)).length > 0)
    await enqueue(trx, 'place', medium.id, { episodeId, recording: id });
}

/**
 * Recordings in which words of corrections are to be looked for, as somebody here can tell where words are said.
 * @param abouts what was corrected, on the clock
 */
export async function correctedIn(episodeId: string, abouts: readonly Range[]): Promise<readonly EpisodeRecording[]> {
  if (abouts.length === 0) return [];
  const row = await db('transcripts')
    .where({ episode_id: episodeId })
    .first({ language: db.raw(`columns->>'language'`) });
  if (!row || (await placersOf(RECOGNISERS, row.language)).length === 0) return [];
  const { recordings } = await findEpisode(episodeId);
  return recordings.filter(
    (one) => one.medium.facts.audio.length > 0 && abouts.some((about) => overlapOf(about, onClock(one)) > 0),
  );
}

/**
 * Has the words of an episode put under the sound again, where their times are only estimated.
 * @throws Refusal where there is nothing to be put, or nobody here can tell
 */
export async function askPlacingOfAll(episodeId: string): Promise<void> {
  const { recordings } = await findEpisode(episodeId);
  const { words, language } = await readEpisodeWords(episodeId);
  const open = recordings.filter((one) => hasOpenWords(wordsOf(words, onClock(one)), one.medium.facts));
  if (open.length === 0) throw new Refusal(409, 'Where each word is said is known already.');
  if ((await placersOf(RECOGNISERS, language)).length === 0)
    throw new Refusal(409, 'Nobody here can tell where words of this language are said. Bring a CTC model that knows it.');
  await db.transaction(async (trx) => {
    for (const one of open) await askPlacing(trx, episodeId, one, { language, words: wordsOf(words, onClock(one)) });
  });
}

/**
 * Has the words of an episode looked for in all of the sound, wherever they stand: as a text without times, which is anchored on what is heard.
 * @throws Refusal where there are no words, or nobody here hears their language
 */
export async function seekAnew(episodeId: string): Promise<void> {
  const { recordings } = await findEpisode(episodeId);
  const { words, language } = await readEpisodeWords(episodeId);
  if (words.length === 0) throw new Refusal(409, 'There are no words yet that could be looked for.');
  const recogniser = await bestOf(RECOGNISERS, language);
  const { unavailable, languages } = await recogniserOf(RECOGNISERS, recogniser).state();
  if (unavailable) throw new Refusal(409, unavailable);
  if (!languages.includes(baseLanguage(language)))
    throw new Refusal(409, 'Nobody here hears the language of these words: bring a model that does.');
  await db.transaction(async (trx) => {
    for (const recording of recordings) {
      const { id, medium } = recording;
      const own = ownWords(words, { recordings }, recording);
      if (own.length === 0) continue;
      const align = asText.write({ language, words: own });
      await enqueue(trx, 'recognise', medium.id, { episodeId, recording: id, recogniser, language, align });
    }
  });
}

/**
 * Says what language the words of an episode are in: fillers go by it.
 * @throws Refusal when there are no words
 */
export async function nameLanguage(episodeId: string, language: string): Promise<void> {
  await db.transaction(async (trx) => {
    await nextVersion(trx, episodeId);
    const row = await trx('transcripts').where({ episode_id: episodeId }).first('columns');
    if (!row) throw new Refusal(409, 'There are no words yet that could be in a language.');
    const columns = { ...transcriptColumns.parse(row.columns), language };
    await trx('transcripts')
      .where({ episode_id: episodeId })
      .update({ columns: JSON.stringify(columns) });
    const { words } = fromColumns(columns);
    for (const one of (await findEpisode(episodeId)).recordings)
      await askPlacing(trx, episodeId, one, { language, words: wordsOf(words, onClock(one)) });
    await announce({ type: 'episode', episodeId }, trx);
    await askCut(episodeId, trx);
  });
}

/** Words that a recogniser heard, or text without times put under them. */
export async function wordsFrom(
  heard: readonly Word[],
  align: string | undefined,
  medium: Medium,
  language: string,
): Promise<Transcript> {
  if (align === undefined) return { language, words: heard };
  const silences = silencesIn(await soundOf(medium));
  const rough = onSound(await readAny(align), { duration: medium.duration, silences });
  return timeTranscript({ language, ...rough }, { duration: medium.duration, silences, recognised: heard });
}
