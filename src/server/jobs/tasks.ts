import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { z } from 'zod';
import { cleaning } from '@/core/clean/cleaning.ts';
import { hasOneTrack } from '@/core/contract/media.ts';
import { recogniserId } from '@/core/contract/messages.ts';
import { checkedHesitations } from '@/core/detect/words/writtenHesitations.ts';
import { wordsOf } from '@/core/sources/shift.ts';
import { spokenBy } from '@/core/speakers/ofWords.ts';
import { db, type Transaction } from '../db/connection.ts';
import { isOutage, outlast } from '../db/outage.ts';
import { ArrivingWords } from '../episodes/arriving.ts';
import { findEpisode, onClock, recordingIn } from '../episodes/episode.ts';
import { placeCorrections, placeWords } from '../episodes/placing.ts';
import { RECOGNISERS } from '../episodes/recognition.ts';
import { askCutsWith } from '../episodes/snapshots.ts';
import { makeTogether, togetherOf } from '../episodes/together.ts';
import { askPlacing, readEpisodeWords, soundOf, storeTranscript, wordsFrom } from '../episodes/words.ts';
import { log } from '../log.ts';
import { asPassing } from '../media/bounds.ts';
import { makeCleaned } from '../media/clean/cleaned.ts';
import { measureAcross, measureEchoes } from '../media/echoes.ts';
import { EmbeddingUnavailable } from '../media/embedding/model.ts';
import { MediaError } from '../media/ffmpeg.ts';
import { readMeasure } from '../media/material.ts';
import { measure } from '../media/measure.ts';
import { findMedium, type Medium } from '../media/media.ts';
import { measureMotion } from '../media/motion.ts';
import { makeProxy } from '../media/proxy.ts';
import { RecogniserError } from '../media/recognise/recogniser.ts';
import { recogniserOf } from '../media/recognise/registry.ts';
import { recognise } from '../media/recognise/run.ts';
import { listenToVoices } from '../media/speakers.ts';
import { measureSpeech, SpeechUnavailable } from '../media/speech.ts';
import { curvesFolder, linkedId, mediumFolder, originalPath, proxyPath } from '../media/store.ts';
import { measureVoice } from '../media/voice.ts';
import { Refusal } from '../refusal.ts';
import { makeRender } from '../render/makeRender.ts';
import * as jobs from './jobs.ts';
import { enqueueMissing, tellEpisodes } from './missing.ts';

const payload = z.object({ jobId: z.uuid() });
/** What a `recognise` job is to do; with `align`, text that is put under what is heard. */
const recognition = z.object({
  episodeId: z.uuid(),
  recording: z.uuid().optional(),
  recogniser: recogniserId,
  language: z.string(),
  align: z.string().optional(),
  /** seconds of the recording from which it begins */
  from: z.number().optional(),
  speakers: z.boolean().optional(),
});
/** Which medium an `across` job compares another one with. */
const comparison = z.object({ earlier: z.string() });
/** Whose voices a `speakers` job is to tell apart, and how many they are. */
const telling = z.object({ episodeId: z.uuid(), recording: z.uuid(), count: z.number().optional() });
/** Whose words a `place` or `corrections` job is to put under the sound. */
const placingOf = z.object({ episodeId: z.uuid(), recording: z.uuid() });
/** What a `clean` job is to clean. */
const cleaningOf = z.object({ cleaning });
/** Which render a `render` job is to make. */
const renderOf = z.object({ render: z.uuid() });
const TELL_MS = 200;
/** When something is begun again that the machine, and not the file, has stopped. */
const AGAIN_SECONDS = 5;
const FULL_AGAIN_SECONDS = 20;
const MOST_TRIES = 5;

const TOO_LONG = 'too long';
/** Seconds that a job may take: the slowest takes some times the length of the recording on a small machine. */
const limitOf = ({ duration }: Medium): number => 1800 + 12 * Math.max(duration, 0);
const tooLong = (seconds: number): string =>
  `This took longer than ${Math.round(seconds / 60)} minutes, which is more than a recording of this length may, and was ended.`;
const EXCHANGED = 'The file was exchanged for another one. Open the episode, and have the new file measured.';
const GONE = 'The file itself is missing from the media store. Bring it in again: what was decided about it is still here.';

interface Work {
  readonly medium: Medium;
  readonly path: string;
  readonly signal: AbortSignal;
  /** tells a share of the whole, 0..1, as often as one likes */
  readonly tell: (share: number) => void;
}

/** What the queue worker can do to media, by job kind. Jobs under way go back to the queue when `shutdown` fires. */
export const tasksUntil = (shutdown: AbortSignal) => ({
  measure: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const length = medium.facts.duration;
    const measured = await measure(path, medium.facts, curvesFolder(medium.id), {
      signal,
      onProgress: (seconds) => tell(length > 0 ? seconds / length : 0),
    });
    await commit(async (trx) => {
      await trx('media')
        .where({ id: medium.id })
        .update({ measured_at: new Date(), ...(length === 0 && { duration: measured }) });
      await enqueueMissing(trx, medium.id);
      await askCutsWith(medium.id, trx);
      await jobs.finish(trx, jobId);
    });
  }),

  speech: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    await measureSpeech(path, medium.facts, curvesFolder(medium.id), {
      signal,
      onProgress: (seconds) => tell(medium.duration > 0 ? seconds / medium.duration : 0),
    });
    await done(jobId, medium.id, { speech_at: new Date() });
  }),

  voice: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    await measureVoice(path, medium.facts, curvesFolder(medium.id), {
      signal,
      onProgress: (seconds) => tell(medium.duration > 0 ? seconds / medium.duration : 0),
    });
    await done(jobId, medium.id, { voice_at: new Date() });
  }),

  echoes: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    await measureEchoes(path, medium.facts, curvesFolder(medium.id), {
      signal,
      onProgress: (seconds) => tell(medium.duration > 0 ? seconds / medium.duration : 0),
    });
    await done(jobId, medium.id, { echoes_at: new Date() });
  }),

  across: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const { earlier: from } = comparison.parse(await jobs.optionsOf(jobId));
    const earlier = await findMedium(from).catch(() => undefined);
    // It was exchanged, or forgotten with its episode, before its turn came: nobody waits for this.
    if (!earlier) return commit((trx) => jobs.finish(trx, jobId));
    const before = { path: await originalPath(from, earlier.linkedPath), facts: earlier.facts, folder: curvesFolder(from) };
    const later = { path, facts: medium.facts, folder: curvesFolder(medium.id) };
    await measureAcross(before, later, from, { signal, onProgress: tell });
    const compared_with = db.raw('array_append(array_remove(compared_with, ?), ?)', [from, from]);
    await done(jobId, medium.id, { compared_with });
  }),

  recognise: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const { episodeId, recording: wanted, speakers, ...asked } = recognition.parse(await jobs.optionsOf(jobId));
    const { recogniser, language, align, from } = asked;
    const recording = recordingIn(await findEpisode(episodeId), wanted);
    const { words: before } = await readEpisodeWords(episodeId);
    const own = { language, words: wordsOf(before, onClock(recording)) };
    const arriving = align === undefined ? new ArrivingWords(episodeId, recording.id, own, language) : undefined;
    const listener = recogniserOf(RECOGNISERS, recogniser);
    const variant = await listener.variant?.(language);
    const listen = async () => {
      const heard = await recognise(listener, path, medium.facts, await soundOf(medium), {
        language,
        recording: recording.fileName,
        folder: join(mediumFolder(medium.id), ['heard', recogniser, language, ...(variant ? [variant] : [])].join('-')),
        from,
        onHeard: (soFar) => arriving?.offer(soFar),
        signal,
        onProgress: (seconds) => tell(medium.duration > 0 ? seconds / medium.duration : 0),
      });
      await arriving?.settle();
      if (!medium.echoes) return heard;
      return checkedHesitations(
        heard,
        language,
        await readMeasure('hesitation', curvesFolder(medium.id), medium.facts.audio.length),
      );
    };
    const transcript = await wordsFrom(await listen(), align, medium, language);
    if (transcript.words.length === 0) throw new RecogniserError('No words were heard in this recording.', false);
    await commit(async (trx) => {
      // Others may have been added meanwhile.
      const episode = await findEpisode(episodeId);
      await storeTranscript(trx, episode, recordingIn(episode, recording.id), transcript);
      await askPlacing(trx, episodeId, recording, transcript);
      if (speakers && hasOneTrack(medium.facts))
        await jobs.enqueue(trx, 'speakers', medium.id, { episodeId, recording: recording.id });
      await jobs.finish(trx, jobId);
    });
  }),

  place: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const { episodeId, recording: recordingId } = placingOf.parse(await jobs.optionsOf(jobId));
    await placeWords({ episodeId, recordingId, medium, path, signal, tell }, commit);
    await commit((trx) => jobs.finish(trx, jobId));
  }),

  corrections: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const { episodeId, recording: recordingId } = placingOf.parse(await jobs.optionsOf(jobId));
    await placeCorrections({ episodeId, recordingId, medium, path, signal, tell }, commit, (trx) => jobs.finish(trx, jobId));
  }),

  speakers: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    const { episodeId, recording: wanted, count } = telling.parse(await jobs.optionsOf(jobId));
    const recording = recordingIn(await findEpisode(episodeId), wanted);
    const voicesOf = await listenToVoices(path, medium, { count, signal, onProgress: tell });
    // Words may have come meanwhile.
    const { words: all, language } = await readEpisodeWords(episodeId);
    const words = wordsOf(all, onClock(recording));
    const told = spokenBy(words, voicesOf(words), (voice) => `Voice ${voice + 1}`);
    await commit(async (trx) => {
      const episode = await findEpisode(episodeId);
      await storeTranscript(trx, episode, recordingIn(episode, recording.id), { language, words: told });
      await jobs.finish(trx, jobId);
    });
  }),

  motion: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    await measureMotion(path, medium.facts, curvesFolder(medium.id), {
      signal,
      onProgress: (seconds) => tell(medium.duration > 0 ? seconds / medium.duration : 0),
    });
    await done(jobId, medium.id, { motion_at: new Date() });
  }),

  clean: task(shutdown, async ({ medium, signal, tell }, jobId) => {
    const { cleaning: choices } = cleaningOf.parse(await jobs.optionsOf(jobId));
    await makeCleaned(medium, choices, { signal, onProgress: tell });
    await commit((trx) => jobs.finish(trx, jobId));
  }),

  render: task(shutdown, async ({ signal, tell }, jobId) => {
    const { render } = renderOf.parse(await jobs.optionsOf(jobId));
    await makeRender(render, { signal, onProgress: tell });
    await commit((trx) => jobs.finish(trx, jobId));
  }),

  together: task(shutdown, async ({ signal, tell }, jobId) => {
    const wanted = togetherOf.parse(await jobs.optionsOf(jobId));
    const keep = (work: (trx: Transaction) => Promise<void>) =>
      commit(async (trx) => {
        await work(trx);
        await jobs.finish(trx, jobId);
      });
    await makeTogether(wanted, keep, { signal, onProgress: tell });
  }),

  proxy: task(shutdown, async ({ medium, path, signal, tell }, jobId) => {
    await makeProxy(path, medium.facts, proxyPath(medium.id), { signal, onProgress: tell });
    await done(jobId, medium.id, { proxy: 'ready' });
  }),
});

/** Keeps what a job made, as soon as the database answers: what took an hour is not thrown away for a restart of a second. */
const commit = (work: (trx: Transaction) => Promise<void>): Promise<void> => outlast(() => db.transaction(work));

/** Ends a job and says what it made, both or neither. */
const done = (jobId: string, mediaId: string, made: object): Promise<void> =>
  commit(async (trx) => {
    await trx('media').where({ id: mediaId }).update(made);
    if ('speech_at' in made || 'echoes_at' in made) await enqueueMissing(trx, mediaId);
    await askCutsWith(mediaId, trx);
    await jobs.finish(trx, jobId);
  });

/** Wraps the doing of a job: finds what it is about, tells progress, stops when cancelled, says what went wrong. */
function task(shutdown: AbortSignal, work: (work: Work, jobId: string) => Promise<void>) {
  return async (data: unknown): Promise<void> => {
    const { jobId } = payload.parse(data);
    const job = await outlast(() => jobs.start(jobId), shutdown);
    if (!job) return;
    const stop = new AbortController();
    const onShutdown = () => stop.abort('shutdown');
    shutdown.addEventListener('abort', onShutdown);
    let share = 0;
    let limit = 0;
    let deadline: NodeJS.Timeout | undefined;
    const teller = tellUntil(stop, jobId, () => share);
    try {
      const medium = await outlast(() => findMedium(job.mediaId), shutdown);
      const path = await originalPath(medium.id, medium.linkedPath);
      if (!(await stat(path).catch(() => undefined))) throw new MediaError(GONE);
      if (medium.linkedPath !== null && (await linkedId(path)) !== medium.id) throw new MediaError(EXCHANGED);
      limit = limitOf(medium);
      deadline = setTimeout(() => stop.abort(TOO_LONG), limit * 1000);
      await work(
        {
          medium,
          path,
          signal: stop.signal,
          tell: (next) => {
            share = next;
          },
        },
        jobId,
      );
    } catch (error) {
      if (stop.signal.reason === 'shutdown') {
        await jobs.putBack(jobId);
        throw error;
      }
      if (stop.signal.aborted && stop.signal.reason !== TOO_LONG) return;
      const passing = asPassing(error);
      if (passing) {
        log.warn({ jobId, kind: job.kind, error: passing.message }, 'job put off');
        const [after, most] = passing.isFull ? [FULL_AGAIN_SECONDS, Number.POSITIVE_INFINITY] : [AGAIN_SECONDS, MOST_TRIES];
        if (await outlast(() => jobs.putOff(jobId, `${passing.message} This goes on by itself.`, after, most), shutdown)) return;
      }
      if (isOutage(error)) {
        await outlast(() => jobs.putBack(jobId), shutdown);
        throw error;
      }
      const message =
        stop.signal.reason === TOO_LONG
          ? tooLong(limit)
          : error instanceof MediaError ||
              error instanceof Refusal ||
              error instanceof SpeechUnavailable ||
              error instanceof EmbeddingUnavailable ||
              error instanceof RecogniserError
            ? error.message
            : 'Something went wrong on the server; try again.';
      log.error({ jobId, kind: job.kind, error: (error as Error).stack }, 'job failed');
      await outlast(() => jobs.fail(jobId, message), shutdown);
    } finally {
      clearTimeout(deadline);
      shutdown.removeEventListener('abort', onShutdown);
      stop.abort('ended');
      await teller;
      await outlast(() => tellEpisodes(job.mediaId), shutdown);
    }
  };
}

/** Tells progress at a steady pace; finds out in the same breath whether the job was cancelled. */
async function tellUntil(stop: AbortController, jobId: string, share: () => number): Promise<void> {
  let told = -1;
  for (let beat = 0; !stop.signal.aborted; beat++) {
    await sleep(TELL_MS, undefined, { signal: stop.signal }).catch(() => {});
    if (stop.signal.aborted || (share() === told && beat % 5 !== 0)) continue;
    told = share();
    const wanted = await jobs.progress(jobId, told).catch(() => true);
    if (!wanted && !stop.signal.aborted) stop.abort('cancelled');
  }
}
