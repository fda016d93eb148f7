import { randomUUID } from 'node:crypto';
import { EventEmitter, once } from 'node:events';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { gunzipSync } from 'node:zlib';
import { Logger, runOnce, type TaskList } from 'graphile-worker';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { basisKey, knownCut, receivedCut } from '@/core/contract/cut.ts';
import { acrossFile } from '@/core/curves/measures.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { outputOf } from '@/core/outputs/outputs.ts';
import { edl } from '@/core/outputs/timelines/edl.ts';
import { json } from '@/core/outputs/timelines/json.ts';
import { CutView } from '@/core/programme/packing.ts';
import { computeHere } from '@/server/compute/computations.ts';
import { computeTasks } from '@/server/compute/computeTasks.ts';
import { config } from '@/server/config.ts';
import { db } from '@/server/db/connection.ts';
import { findEpisode, firstOf } from '@/server/episodes/episode.ts';
import { describeEpisode, listEpisodes, retryEpisode } from '@/server/episodes/episodes.ts';
import { episodeFromFolder, episodeFromUpload, recordingFromUpload } from '@/server/episodes/intake.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { makeSnapshot } from '@/server/episodes/makeSnapshot.ts';
import { bringBack, purgeEpisode, removedEpisodes, removeEpisode } from '@/server/episodes/removal.ts';
import { isKnown, keptCut, shownCut, wholeCut } from '@/server/episodes/snapshots.ts';
import { readEpisodeWords, takeTranscript } from '@/server/episodes/words.ts';
import { describeHandoff } from '@/server/handoff/files.ts';
import { handoffOf, inputOf } from '@/server/handoff/input.ts';
import { cancel } from '@/server/jobs/jobs.ts';
import { failGivenUp, LivingWorkers } from '@/server/jobs/liveness.ts';
import { enqueueMissing } from '@/server/jobs/missing.ts';
import { keepSlot } from '@/server/jobs/runner.ts';
import { tasksUntil } from '@/server/jobs/tasks.ts';
import { cleanName } from '@/server/media/cleanName.ts';
import { listFolder } from '@/server/media/folder.ts';
import { insideMediaFolder, mediumFolder } from '@/server/media/store.ts';
import { tus } from '@/server/media/uploads.ts';
import { Refusal } from '@/server/refusal.ts';
import { sweep } from '@/server/sweep.ts';
import { bring, upload } from '../episodes.ts';
import { folderFor, makeTalk, makeVideo, makeWrongFiles, recordLines } from '../media.ts';

const folder = folderFor('files');
const talk = makeTalk(join(folder, 'talk.wav'), [2, 1.5, 3, 1, 2]);

const runJobs = (
  signal = new AbortController().signal,
  taskList: TaskList = { ...tasksUntil(signal), ...computeTasks(computeHere) },
) =>
  runOnce({
    connectionString: config.DATABASE_URL,
    taskList,
    noHandleSignals: true,
    logger: new Logger(() => () => {}),
  });

const leftovers = () => [
  ...readdirSync(join(config.dataDir, 'uploads')),
  ...readdirSync(join(config.dataDir, 'media'), { recursive: true }).filter((p) => String(p).endsWith('original')),
];

const cut = (start: number, end: number): DecisionEvent => ({ id: randomUUID(), type: 'cut', about: { start, end } });

const forgetEpisode = async (id: string) => {
  await removeEpisode(id);
  await purgeEpisode(id);
};

beforeEach(async () => {
  await db('episodes').update({ removed_at: new Date() });
  for (const { id } of await db('episodes').select('id')) await purgeEpisode(id);
  rmSync(join(config.dataDir, 'uploads'), { recursive: true, force: true });
  mkdirSync(join(config.dataDir, 'uploads'), { recursive: true });
  mkdirSync(join(config.dataDir, 'media'), { recursive: true });
});
afterAll(() => db.destroy());

describe('bringing in', () => {
  it('makes one episode of an upload, measured by the queue, however often it is asked', async () => {
    const id = await upload(talk);
    const [first, again] = [await episodeFromUpload(id), await episodeFromUpload(id)];
    expect(again).toBe(first);
    expect((await describeEpisode(first)).recordings[0]?.measured).toBe(false);
    await runJobs();
    const [episode] = await listEpisodes();
    expect(episode).toMatchObject({ title: 'talk', measured: true, duration: 9.5, tracks: 1, hasVideo: false });
    expect(episode?.summary?.seams).toBe(2);
    expect(episode?.jobs).toMatchObject([
      { kind: 'echoes', state: 'done', progress: 1 },
      { kind: 'measure', state: 'done', progress: 1 },
      { kind: 'speech', state: 'done', progress: 1 },
      { kind: 'voice', state: 'done', progress: 1 },
    ]);
  });

  it('keeps the same content once, and lets it go with the last episode that uses it', async () => {
    const [one, two] = [await bring(talk), await bring(talk, 'other name.wav')];
    expect(firstOf(await findEpisode(two)).medium.id).toBe(firstOf(await findEpisode(one)).medium.id);
    await forgetEpisode(one);
    expect(leftovers()).toHaveLength(1);
    await removeEpisode(two);
    expect(await listEpisodes()).toEqual([]);
    expect(await removedEpisodes()).toMatchObject([{ id: two, title: 'other name', daysLeft: 14 }]);
    await bringBack(two);
    expect((await listEpisodes()).map(({ id }) => id)).toEqual([two]);
    await expect(purgeEpisode(two)).rejects.toThrow(/not here any more/);
    await forgetEpisode(two);
    expect(leftovers()).toHaveLength(0);
  });

  it('lets content go into whose folder something is still written', async () => {
    const id = await bring(talk);
    const curves = join(mediumFolder(firstOf(await findEpisode(id)).medium.id), 'curves');
    mkdirSync(curves, { recursive: true });
    let isWriting = true;
    const writing = (async () => {
      for (let k = 0; isWriting && k < 200; k++) await writeFile(join(curves, `${k}.part`), 'x').catch(() => {});
    })();
    await forgetEpisode(id);
    isWriting = false;
    await writing;
    expect(leftovers()).toHaveLength(0);
  });

  it('makes one episode of an upload that four ask for at once, and loses no content that comes in while it is forgotten', async () => {
    const id = await upload(talk);
    const made = await Promise.all([1, 2, 3, 4].map(() => episodeFromUpload(id)));
    expect(new Set(made).size).toBe(1);
    let last = made[0] as string;
    for (let k = 0; k < 6; k++) {
      const next = await upload(talk);
      await removeEpisode(last);
      const [, came] = await Promise.all([purgeEpisode(last), episodeFromUpload(next)]);
      expect((await describeEpisode(came)).recordings[0]?.file).toBe('there');
      last = came;
    }
    expect(leftovers()).toHaveLength(1);
  });

  it('clears away what belongs to nothing, when it is old', async () => {
    const id = await bring(talk);
    const { medium } = firstOf(await findEpisode(id));
    const stray = mediumFolder('ef'.repeat(32));
    mkdirSync(stray, { recursive: true });
    await sweep();
    expect(existsSync(stray)).toBe(true);
    const long = new Date(Date.now() - 2 * 86_400_000);
    for (const folder of [stray, mediumFolder(medium.id)]) utimesSync(folder, long, long);
    await removeEpisode(id);
    await sweep();
    expect(existsSync(stray)).toBe(false);
    expect((await removedEpisodes()).map((one) => one.id)).toEqual([id]);
    await db('episodes')
      .where({ id })
      .update({ removed_at: new Date(Date.now() - 15 * 86_400_000) });
    await sweep();
    expect(await removedEpisodes()).toEqual([]);
    expect(leftovers()).toEqual([]);
  });

  it('refuses what is no whole recording with a reason, and leaves nothing behind', async () => {
    for (const { path, says } of makeWrongFiles(folderFor('wrong'))) {
      const problem = await bring(path).catch((error) => error);
      expect(problem, path).toBeInstanceOf(Refusal);
      expect(problem.message, path).toMatch(says);
      expect(problem.message).not.toContain(config.dataDir);
    }
    expect(await listEpisodes()).toEqual([]);
    expect(leftovers()).toEqual([]);
  });

  it('does not take an upload for complete before it is', async () => {
    const opened = await tus().handleWeb(
      new Request('http://127.0.0.1:4620/api/uploads', {
        method: 'POST',
        headers: { 'tus-resumable': '1.0.0', 'upload-length': '10' },
      }),
    );
    await expect(episodeFromUpload(basename(opened.headers.get('location') ?? ''))).rejects.toThrow(/not complete/);
    await expect(episodeFromUpload('../../etc/passwd')).rejects.toThrow(/no upload/);
  });

  it.each([
    ['../../../etc/passwd', 'passwd'],
    ['C:\\films\\clock.mov', 'clock.mov'],
    ['two\nlines "quoted".wav', 'twolines "quoted".wav'],
    ['\u202egnp.exe', 'gnp.exe'],
    ['..', 'recording'],
    ['', 'recording'],
  ])('takes the harm out of the name %j', (name, clean) => {
    expect(cleanName(name)).toBe(clean);
  });

  it('knows pictures, rates, start timecodes and variable rates, and makes a proxy only of what browsers do not play', async () => {
    const playable = await bring(
      makeVideo(join(folder, 'plays.mp4'), 4, '-c:v', 'libx264', '-c:a', 'aac', '-timecode', '01:00:00;00'),
    );
    const foreign = await bring(makeVideo(join(folder, 'foreign.mov'), 4, '-c:v', 'mjpeg', '-c:a', 'pcm_s16le'));
    const odd = await bring(
      makeVideo(
        join(folder, 'odd.mkv'),
        4,
        '-c:v',
        'libx264',
        '-vf',
        'select=not(mod(n\\,3)*mod(n\\,5))',
        '-fps_mode',
        'vfr',
        '-c:a',
        'flac',
      ),
    );
    await runJobs();
    const [seen] = (await describeEpisode(playable)).recordings;
    expect(seen?.facts.video).toMatchObject({ rate: '30000/1001', variable: false, playable: true });
    expect(seen?.facts.timecode).toBe('01:00:00;00');
    expect(seen?.picture).toBe('original');
    expect((await describeEpisode(foreign)).recordings[0]?.picture).toBe('proxy');
    const [uneven] = (await describeEpisode(odd)).recordings;
    expect(uneven?.facts.video?.variable).toBe(true);
    expect(uneven?.picture).toBe('proxy');
    const view = await describeHandoff(await handoffOf(await wholeCut(odd)), {}, []);
    expect(view).toMatchObject({ variable: true, rate: '24000/1001', dropFrame: false });
    expect(view.clips[0]?.frameRate).not.toBeNull();
  });

  it('uses files of the media folder where they lie, and nothing outside it', async () => {
    const root = config.mediaDir as string;
    copyFileSync(talk, join(root, 'linked.wav'));
    symlinkSync('/etc/hostname', join(root, 'escape.wav'));
    const { entries } = await listFolder();
    const id = await episodeFromFolder(entries.find((entry) => entry.path === 'linked.wav')?.entry ?? '');
    await runJobs();
    expect((await listEpisodes())[0]?.measured).toBe(true);
    expect(leftovers()).toEqual([]);
    expect(entries.map((entry) => entry.path)).not.toContain('escape.wav');
    await expect(insideMediaFolder('escape.wav')).rejects.toThrow(Refusal);
    await expect(insideMediaFolder('../data')).rejects.toThrow(Refusal);
    await expect(episodeFromFolder('linked.wav')).rejects.toThrow(Refusal);
    await forgetEpisode(id);
    expect(readdirSync(root)).toContain('linked.wav');
  });
});

describe('jobs', () => {
  it('can be cancelled and started again', async () => {
    const id = await bring(talk);
    const job = (await describeEpisode(id)).jobs[0];
    await cancel(job?.id ?? '');
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(false);
    await expect(cancel(job?.id ?? '')).rejects.toThrow(/ended already/);
    await retryEpisode(id);
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(true);
  });

  it('are queued once, however often and from wherever they are asked for', async () => {
    const id = await bring(talk);
    await Promise.all(Array.from({ length: 8 }, () => retryEpisode(id)));
    expect(await db('jobs').whereIn('state', ['queued', 'running'])).toHaveLength(1);
    await cancel((await describeEpisode(id)).jobs[0]?.id ?? '');
    await Promise.all(Array.from({ length: 8 }, () => retryEpisode(id)));
    expect(await db('jobs').where({ state: 'queued' })).toHaveLength(1);
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(true);
  });

  it('that were begun too often are given up, and say so', async () => {
    const id = await bring(talk);
    await db.raw("update graphile_worker._private_jobs set attempts = max_attempts where payload->>'jobId' is not null");
    await db('jobs').update({ queued_at: new Date(Date.now() - 60_000) });
    await failGivenUp();
    expect((await describeEpisode(id)).jobs[0]).toMatchObject({ state: 'failed', error: expect.stringContaining('never ended') });
    await retryEpisode(id);
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(true);
  });

  it('are done by workers that are seen while they live, and leave nothing behind when they end on purpose', async () => {
    const living = new LivingWorkers();
    living.start();
    const shutdown = new AbortController();
    const slot = keepSlot(tasksUntil(shutdown.signal), living, shutdown.signal);
    const seen = async () => (await db('queue_workers')).length;
    await expect.poll(seen, { timeout: 10_000 }).toBe(1);
    shutdown.abort();
    await slot;
    await living.stop();
    expect(await seen()).toBe(0);
  });

  it('wait for one of their kind that was cancelled and has not ended yet', async () => {
    const id = await bring(talk);
    const cancelled = (await describeEpisode(id)).jobs[0]?.id ?? '';
    const turns = new EventEmitter();
    const [begun, letGo] = [once(turns, 'begun'), once(turns, 'let go')];
    const slow = runJobs(undefined, {
      measure: async (payload) => {
        turns.emit('begun');
        await letGo;
        await tasksUntil(new AbortController().signal).measure(payload);
      },
    });
    await begun;
    await cancel(cancelled);
    await retryEpisode(id);
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(false);
    turns.emit('let go');
    await slow;
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(true);
  });

  it('go back to the queue when the worker is stopped', async () => {
    const id = await bring(talk);
    const stopped = new AbortController();
    setTimeout(() => stopped.abort(), 5);
    await runJobs(stopped.signal);
    const { state } = (await describeEpisode(id)).jobs[0] ?? {};
    expect(['queued', 'done']).toContain(state);
    await db.raw('update graphile_worker._private_jobs set run_at = now(), attempts = 0');
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]?.measured).toBe(true);
  });

  it('measure again what has gone or cannot be read, without touching anything else', async () => {
    const [id, other] = [await bring(talk), await bring(makeTalk(join(folder, 'untouched.wav'), [1, 1.4, 2]))];
    await runJobs();
    const { medium } = firstOf(await findEpisode(id));
    const curves = join(config.dataDir, 'media', medium.id.slice(0, 2), medium.id, 'curves');
    const whole = readFileSync(join(curves, 'speech-0.ztcv'));
    const { summary } = (await listEpisodes()).find((episode) => episode.id === id) ?? {};
    rmSync(join(curves, 'level-0.ztcv'));
    writeFileSync(join(curves, 'speech-0.ztcv'), whole.subarray(0, whole.length - 1));
    writeFileSync(join(curves, 'repeated.ztcv'), 'no curve at all');
    expect((await listEpisodes()).map((episode) => episode.measured)).toEqual([true, true]);
    expect((await describeEpisode(other)).recordings[0]).toMatchObject({ measured: true, speech: true });
    expect((await describeEpisode(id)).recordings[0]).toMatchObject({
      measured: false,
      speech: false,
      voice: true,
      echoes: false,
    });
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]).toMatchObject({ measured: true, speech: true, voice: true, echoes: true });
    expect(readFileSync(join(curves, 'speech-0.ztcv'))).toEqual(whole);
    expect((await listEpisodes()).find((episode) => episode.id === id)).toMatchObject({ summary, isCurrent: true });

    // What has the form of a curve and no meaning is noticed by whoever reads it.
    const echoes = readFileSync(join(curves, 'repeated.ztcv'));
    echoes[6] = 1;
    echoes.fill(255, 32);
    writeFileSync(
      join(curves, 'repeated.ztcv'),
      Buffer.concat([echoes.subarray(0, 16), Buffer.from([7, 0, 0, 0]), Buffer.alloc(23, 255)]),
    );
    await append(id, [cut(0.5, 1)]);
    await makeSnapshot(id).catch(() => {});
    await runJobs();
    await makeSnapshot(id);
    expect((await listEpisodes()).every((episode) => episode.isCurrent)).toBe(true);

    // All of it gone: bringing the file again, or trying again, is enough.
    rmSync(join(curves, '..'), { recursive: true });
    await retryEpisode(id);
    await runJobs();
    expect((await describeEpisode(id)).jobs.find(({ kind }) => kind === 'measure')?.error).toMatch(
      /missing from the media store/,
    );
    await bring(talk, 'the same.wav');
    await runJobs();
    expect((await describeEpisode(id)).recordings[0]).toMatchObject({ measured: true, echoes: true });
    expect((await readLog(id)).length).toBe(1);
  });

  it('say why when the sound cannot be decoded', async () => {
    const id = await bring(talk);
    const { medium } = firstOf(await findEpisode(id));
    writeFileSync(join(config.dataDir, 'media', medium.id.slice(0, 2), medium.id, 'original'), 'overwritten');
    await runJobs();
    const job = (await describeEpisode(id)).jobs[0];
    expect(job?.state).toBe('failed');
    expect(job?.error).toMatch(/cannot be decoded/);
  });
});

describe('the log of decisions', () => {
  it('adds what it does not have, in one order, however many write at once and repeat themselves', async () => {
    const id = await bring(talk);
    const batches = Array.from({ length: 8 }, (_, n) => Array.from({ length: 5 }, (_, k) => cut(n, n + 0.1 * (k + 1))));
    await Promise.all([...batches, ...batches].map((batch) => append(id, batch)));
    const log = await readLog(id);
    expect(log.map(({ seq }) => seq)).toEqual(Array.from({ length: 40 }, (_, k) => k + 1));
    for (const batch of batches) {
      const places = batch.map((event) => log.findIndex((entry) => entry.event.id === event.id));
      expect(places).toEqual([...places].sort((a, b) => a - b));
    }
    expect(await readLog(id, 38)).toHaveLength(2);
  });

  it('belongs to an episode that exists', async () => {
    await expect(append(randomUUID(), [cut(0, 1)])).rejects.toThrow(/not here any more/);
  });

  it('changes the summary on the shelf', async () => {
    const id = await bring(talk);
    await runJobs();
    const before = (await listEpisodes())[0]?.summary?.programme ?? 0;
    await append(id, [cut(0.5, 1.5)]);
    // What it came to before is there until the new cut is.
    expect((await listEpisodes())[0]).toMatchObject({ isCurrent: false, summary: { programme: before } });
    await makeSnapshot(id);
    const [after] = await listEpisodes();
    expect(after?.summary?.programme).toBeCloseTo(before - 1, 6);
    expect(after?.isCurrent).toBe(true);
  });
});

describe('the cut that an episode opens with', () => {
  it('is kept once it was worked out, and until something is decided or other words come', async () => {
    const id = await bring(talk);
    const known = async () => isKnown(await findEpisode(id));
    expect(await known()).toBe(false);
    await runJobs();
    expect(await known()).toBe(true);
    const sentNow = async () =>
      knownCut.parse(JSON.parse(gunzipSync((await shownCut(await findEpisode(id))) as Buffer).toString('utf8')));
    const { summary } = (await listEpisodes()).find((episode) => episode.id === id) ?? {};
    const sent = await sentNow();
    const view = new CutView(receivedCut(sent));
    expect(view.length).toBeCloseTo(summary?.programme as number, 3);
    expect(view).toMatchObject({ count: 2, seams: summary?.seams, open: summary?.open });
    const basis = async () => basisKey({ ...(await describeEpisode(id)), seq: (await readLog(id)).at(-1)?.seq ?? 0 });
    expect(sent.basis).toBe(await basis());

    await append(id, [cut(0.5, 1.5)]);
    expect(await known()).toBe(false);
    await makeSnapshot(id);
    expect((await sentNow()).basis).toBe(await basis());
    expect(await basis()).not.toBe(sent.basis);
    await takeTranscript(id, '{"words":[{"text":"tick","start":0.1,"end":0.5}]}');
    expect(await known()).toBe(false);
  });

  it('is waited for by who hands off, also while somebody goes on deciding', async () => {
    const id = await bring(talk);
    await expect(wholeCut(id)).rejects.toThrow(/still being measured/);
    await runJobs();
    await append(id, [cut(0.5, 1.5)]);
    const waiting = wholeCut(id);
    await append(id, [cut(2.5, 3)]);
    await makeSnapshot(id);
    const { cut: made, episode } = await waiting;
    expect(made.proposals.filter(({ kind }) => kind === 'hand')).toHaveLength(2);
    expect(episode.lastSeq).toBe(2);
  });
});

describe('what somebody waits for', () => {
  it('is answered of the cut as it is by then, which nobody else would work out meanwhile', async () => {
    const id = await bring(talk);
    await runJobs();
    const [{ id: questionId }] = await db('questions')
      .insert({ episode_id: id, what: 'describe', about: JSON.stringify({ scope: {} }) })
      .returning('id');
    await append(id, [cut(0.2, 0.7)]);
    await computeHere('question', questionId);
    const { answer, refused } = await db('questions').where({ id: questionId }).first();
    expect(refused).toBeNull();
    const kept = await keptCut(await findEpisode(id));
    expect(JSON.parse(answer).events).toBe(kept?.cut.programme.pieces.length);
    expect(kept?.cut.proposals.some(({ kind }) => kind === 'hand')).toBe(true);
    expect(kept?.episode.lastSeq).toBe(1);
  });
});

describe('words', () => {
  it('replace the ones before, and are refused whole', async () => {
    const id = await bring(talk);
    const words = (text: string) => JSON.stringify({ words: [{ text, start: 0.1, end: 0.5 }] });
    await takeTranscript(id, words('tick'));
    await takeTranscript(id, words('tock'));
    await expect(takeTranscript(id, '{"words":[{"text":"x","start":3,"end":1}]}')).rejects.toThrow(/ends before it starts/);
    await expect(takeTranscript(id, '{"words":[]}')).rejects.toThrow(/no words/);
    expect((await readEpisodeWords(id)).words.map((word) => word.text)).toEqual(['tock']);
    expect((await describeEpisode(id)).wordsVersion).toBe(2);
  });
});

describe('several recordings in one episode', () => {
  const other = makeTalk(join(folder, 'second talk.wav'), [1, 1.4, 2]);
  const words = (text: string, start: number) => JSON.stringify({ words: [{ text, start, end: start + 0.4 }] });

  it('stand one after another on its clock, and asking again adds none', async () => {
    const id = await bring(talk);
    const uploaded = await upload(other);
    const [added, again] = [await recordingFromUpload(id, uploaded), await recordingFromUpload(id, uploaded)];
    expect(again).toBe(added);
    const third = await recordingFromUpload(id, await upload(talk, 'once more.wav'));
    const { recordings } = await describeEpisode(id);
    expect(recordings.map(({ place, fileName }) => [place, fileName])).toEqual([
      [0, 'talk.wav'],
      [11, 'second talk.wav'],
      [17, 'once more.wav'],
    ]);
    expect(recordings.map(({ id }) => id).slice(1)).toEqual([added, third]);
    await expect(recordingFromUpload(randomUUID(), await upload(other))).rejects.toThrow(/not here any more/);
    await forgetEpisode(id);
    expect(leftovers().filter((name) => String(name).endsWith('original'))).toHaveLength(0);
  });

  it('are compared by ear with those shortly before them, once both were listened to', async () => {
    const line = 'The mainspring barrel sits behind the lower plate, and it is held by two brass screws.';
    const first = recordLines(join(folder, 'first try.wav'), [{ text: line }]).path;
    const next = recordLines(join(folder, 'next try.wav'), [{ text: line, tempo: 0.95 }]).path;
    const id = await bring(first);
    const added = await recordingFromUpload(id, await upload(next));
    await runJobs();
    const { recordings, jobs } = await describeEpisode(id);
    expect(recordings.map(({ across }) => across)).toEqual([[], [recordings[0]?.id]]);
    expect(jobs.filter(({ kind }) => kind === 'across')).toMatchObject([{ state: 'done', mediaId: recordings[1]?.mediaId }]);
    await makeSnapshot(id);
    const retakes = async () => (await wholeCut(id)).cut.proposals.filter(({ kind }) => kind === 'retake');
    expect(await retakes()).toMatchObject([{ evidence: { heardAlike: 1, attempt: 1, attempts: 2 } }]);

    // What was found has gone: it is looked for again, and counts as not looked for meanwhile.
    const file = join(mediumFolder(recordings[1]?.mediaId ?? ''), 'curves', `${acrossFile(recordings[0]?.mediaId ?? '')}.ztcv`);
    writeFileSync(file, readFileSync(file).subarray(0, 40));
    expect((await describeEpisode(id)).recordings[1]).toMatchObject({ id: added, echoes: true, across: [] });
    await runJobs();
    expect((await describeEpisode(id)).recordings[1]?.across).toEqual([recordings[0]?.id]);
    await makeSnapshot(id);
    expect(await retakes()).toHaveLength(1);

    // Both were listened to at the same moment, each before the other was known to be.
    const both = recordings.map(({ mediaId }) => mediaId);
    await db('jobs').where({ kind: 'across' }).delete();
    await db('media').whereIn('id', both).update({ echoes_at: null, compared_with: [] });
    const isListened = (medium: string) =>
      db.transaction(async (trx) => {
        await trx('media').where({ id: medium }).update({ echoes_at: new Date() });
        await enqueueMissing(trx, medium);
        await sleep(200);
      });
    await Promise.all(both.map(isListened));
    expect(await db('jobs').where({ kind: 'across' }).pluck('state')).toEqual(['queued']);
    await runJobs();
    expect((await describeEpisode(id)).recordings[1]?.across).toEqual([recordings[0]?.id]);

    // Measured long ago, and put into another episode the other way round.
    const turned = await bring(next);
    await recordingFromUpload(turned, await upload(first));
    expect((await describeEpisode(turned)).recordings[1]?.across).toEqual([]);
    await runJobs();
    const [one, two] = (await describeEpisode(turned)).recordings;
    expect([one?.across, two?.across]).toEqual([[], [one?.id]]);
    expect((await describeEpisode(id)).recordings.map(({ across }) => across)).toEqual([[], [recordings[0]?.id]]);
  });

  it('have words, cuts and events of their own, and can be removed and put back', async () => {
    const id = await bring(talk);
    const second = await recordingFromUpload(id, await upload(other));
    await takeTranscript(id, words('tick', 0.5));
    await takeTranscript(id, words('tock', 0.5), second);
    await takeTranscript(id, words('tack', 0.6));
    expect((await readEpisodeWords(id)).words.map(({ text, start }) => [text, start])).toEqual([
      ['tack', 0.6],
      ['tock', 11.5],
    ]);
    await runJobs();
    await makeSnapshot(id);
    const planOf = async (part?: number) =>
      (await inputOf(await handoffOf(await wholeCut(id)), part === undefined ? {} : { part })).plan;
    const whole = await planOf();
    expect(whole.events.map(({ source = 0 }) => source)).toEqual([0, 0, 0, 1, 1]);
    expect(whole.cutList.summary.recorded).toBeCloseTo(13.9, 2);
    const [file] = edl.write(whole);
    expect(edl.read([file?.text ?? ''], whole.rate).events).toEqual(whole.events);
    const text = outputOf('txt')?.write(await inputOf(await handoffOf(await wholeCut(id))))[0]?.text ?? '';
    expect(text.match(/tack|tock|tick/g)).toEqual(['tack', 'tock']);

    const [first] = (await describeEpisode(id)).recordings;
    await append(id, [
      { id: randomUUID(), type: 'move', about: { start: 11, end: 15.4 }, to: 0, side: 'before' },
      { id: randomUUID(), type: 'break', part: randomUUID(), at: 0, title: 'The talk' },
    ]);
    await makeSnapshot(id);
    expect((await planOf()).events.map(({ source = 0 }) => source)).toEqual([1, 1, 0, 0, 0]);
    const part = await planOf(2);
    expect(part.title).toBe('talk: The talk');
    expect(part.events.every(({ source = 0 }) => source === 0)).toBe(true);
    await expect(planOf(3)).rejects.toThrow(/no such part/);

    await append(id, [{ id: randomUUID(), type: 'recording', recording: first?.id as string, present: false }]);
    await makeSnapshot(id);
    expect((await listEpisodes())[0]?.summary?.recorded).toBeCloseTo(4.4, 2);
    // What was removed is no part of the timeline; where the other stands is told, since its times are of the clock.
    const left = await planOf();
    expect(left.sources.map(({ media }) => media.name)).toEqual(['second talk.wav']);
    expect(left.cutList).toMatchObject({
      media: { name: 'second talk.wav' },
      recordings: [{ start: 11 }],
      summary: { recorded: 4.4 },
    });
    const [list] = json.write(left);
    expect(json.read([list?.text ?? ''], left.rate).events).toEqual(left.events);
    await append(id, [{ id: randomUUID(), type: 'recording', recording: second, present: false }]);
    await makeSnapshot(id);
    await expect(planOf()).rejects.toThrow(/put one back/);
  });
});
