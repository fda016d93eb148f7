import { randomUUID } from 'node:crypto';
import {
  appendFileSync,
  cpSync,
  createWriteStream,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import Knex from 'knex';
import pg from 'pg';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { config } from '@/server/config.ts';
import { db } from '@/server/db/connection.ts';
import { isCurrent, MIGRATION_NAMES, migrate, migrateTo } from '@/server/db/migrations.ts';
import { findEpisode, firstOf } from '@/server/episodes/episode.ts';
import { describeEpisode, listEpisodes } from '@/server/episodes/episodes.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { purgeEpisode } from '@/server/episodes/removal.ts';
import { readEpisodeWords, takeTranscript } from '@/server/episodes/words.ts';
import { archiveOf, episodeFromArchive } from '@/server/keeping/archive.ts';
import { backUp, snapshotsIn } from '@/server/keeping/backup.ts';
import { check } from '@/server/keeping/check.ts';
import { restore } from '@/server/keeping/restore.ts';
import { mediumFolder } from '@/server/media/store.ts';
import { startCluster } from '../../scripts/postgres.ts';
import { bring, bringTalk, runJobs } from '../episodes.ts';
import { folderFor, makeTalk } from '../media.ts';

const folder = folderFor('keeping');
const cut = (start: number): DecisionEvent => ({ id: randomUUID(), type: 'cut', about: { start, end: start + 0.25 } });
const WORDS = JSON.stringify({ words: [{ text: 'tick', start: 0.1, end: 0.5 }] });

const forgetAll = async () => {
  await db('episodes').update({ removed_at: new Date() });
  for (const id of await db('episodes').pluck('id')) await purgeEpisode(id);
  await db('settings_sets').delete();
};
beforeEach(forgetAll);
afterAll(() => db.destroy());

/** An episode with words and decisions, as it is compared. */
async function episodeWithWork(): Promise<string> {
  const id = await bringTalk(folder);
  await takeTranscript(id, WORDS);
  await append(id, [cut(1), cut(2)], 'Marn');
  await append(id, [{ id: randomUUID(), type: 'break', part: randomUUID(), at: 3, title: 'Ⅱ — the “verge”' }]);
  await runJobs();
  return id;
}
const stateOf = async (id: string) => ({
  title: (await findEpisode(id)).title,
  log: await readLog(id),
  words: await readEpisodeWords(id),
  kept: await db('decisions').where({ episode_id: id }).orderBy('seq').select('by', 'at'),
  recordings: (await describeEpisode(id)).recordings,
});

describe('a backup', () => {
  it('gives back all that was there, copies only what is new, and is restored into nothing but an empty server', async () => {
    const id = await episodeWithWork();
    const before = await stateOf(id);
    const to = join(folder, 'backup');
    const first = await backUp(to);
    expect(first).toMatchObject({ media: 1, missing: [] });
    expect(first.copied).toBeGreaterThan(5);
    expect(await backUp(to)).toMatchObject({ media: 1, copied: 0, rows: first.rows });
    await append(id, [cut(4)]);
    await expect(restore(to)).rejects.toThrow(/are 1 episodes here already/);

    await forgetAll();
    expect(
      readdirSync(join(config.dataDir, 'media'), { recursive: true }).some((name) => String(name).endsWith('original')),
    ).toBe(false);
    expect(await restore(to)).toMatchObject({ media: 1, damaged: [], rows: first.rows });
    expect(await stateOf(id)).toEqual(before);
    expect(await isCurrent(db)).toBe(true);
    await runJobs();
    expect((await listEpisodes())[0]).toMatchObject({ id, isCurrent: true });
    expect(await check({ mend: false, reads: true })).toEqual([]);
  });

  it('that is damaged says so, and changes nothing', async () => {
    await episodeWithWork();
    const to = join(folder, 'damaged');
    const { name } = await backUp(to);
    const table = join(to, 'snapshots', name, 'decisions.ndjson.gz');
    const bytes = readFileSync(join(to, 'snapshots', name, 'transcripts.ndjson.gz'));
    await forgetAll();
    writeFileSync(table, bytes);
    await expect(restore(to)).rejects.toThrow(/damaged: the table decisions/);
    expect(await listEpisodes()).toEqual([]);
    await expect(restore(join(folder, 'nowhere'))).rejects.toThrow(/no backup/);
    expect(await snapshotsIn(to)).toEqual([name]);
  });

  it('tells a recording whose copy is not what it was', async () => {
    const id = await episodeWithWork();
    const media = firstOf(await findEpisode(id)).medium.id;
    const to = join(folder, 'rotten');
    await backUp(to);
    appendFileSync(join(to, 'media', media.slice(0, 2), media, 'original'), 'x');
    await forgetAll();
    expect(await restore(to)).toMatchObject({ damaged: [media] });
  });
});

describe('a check', () => {
  it('finds what is missing, damaged or belongs to nothing, and mends what can be mended', async () => {
    const one = await episodeWithWork();
    const two = await bring(makeTalk(join(folder, 'second.wav'), [1, 1.4, 2]));
    await runJobs();
    expect(await check({ mend: false, reads: true })).toEqual([]);
    const [first, second] = await Promise.all([one, two].map(async (id) => firstOf(await findEpisode(id)).medium.id));
    appendFileSync(join(mediumFolder(first as string), 'original'), 'x');
    rmSync(join(mediumFolder(second as string), 'curves', 'speech-0.ztcv'));
    const stray = 'ab'.repeat(32);
    mkdirSync(mediumFolder(stray), { recursive: true });
    const long = new Date(Date.now() - 7_200_000);
    utimesSync(mediumFolder(stray), long, long);

    const found = (faults: Awaited<ReturnType<typeof check>>) =>
      faults.map(({ media, what, isMended }) => [media, what, isMended]);
    const expected = (isMended: boolean) => [
      [first, 'file damaged', false],
      [second, 'measures missing', isMended],
      [stray, 'belongs to nothing', isMended],
    ];
    expect(found(await check({ mend: false, reads: true }))).toEqual(expected(false));
    expect(found(await check({ mend: true, reads: true }))).toEqual(expected(true));
    await runJobs();
    expect(found(await check({ mend: false, reads: true }))).toEqual([[first, 'file damaged', false]]);
    expect(existsSync(mediumFolder(stray))).toBe(false);
    rmSync(join(mediumFolder(first as string), 'original'));
    expect(found(await check({ mend: false, reads: false }))).toEqual([[first, 'file missing', false]]);
  });
});

describe('an episode as one file', () => {
  const write = async (id: string, name: string, withMedia = true) => {
    const path = join(folder, name);
    const { stream } = await archiveOf(id, withMedia);
    await pipeline(stream, createWriteStream(path));
    return path;
  };
  const withoutNames = ({ recordings, ...rest }: Awaited<ReturnType<typeof stateOf>>) => ({
    ...rest,
    recordings: recordings.map(({ id: _, ...recording }) => recording),
  });

  it('comes back as it was, beside the one it was made of and on a server that has neither', async () => {
    const id = await episodeWithWork();
    const [recording] = (await describeEpisode(id)).recordings;
    const removal: DecisionEvent = { id: randomUUID(), type: 'recording', recording: recording?.id as string, present: false };
    await append(id, [removal]);
    const before = withoutNames(await stateOf(id));
    const path = await write(id, 'whole.zetemis.tar');
    const beside = await episodeFromArchive(path);
    expect(beside).not.toBe(id);
    const copy = await stateOf(beside);
    const named = { ...removal, recording: copy.recordings[0]?.id };
    const log = before.log.map((entry) => (entry.event.id === removal.id ? { ...entry, event: named } : entry));
    expect(withoutNames(copy)).toEqual({ ...before, log });

    await forgetAll();
    const elsewhere = await bring(path);
    await runJobs();
    expect(withoutNames(await stateOf(elsewhere)).recordings).toEqual(before.recordings);
    expect((await readEpisodeWords(elsewhere)).words.map(({ text }) => text)).toEqual(['tick']);
  });

  it('without its recordings needs them to be there', async () => {
    const id = await episodeWithWork();
    const path = await write(id, 'names.zetemis.tar', false);
    expect((await describeEpisode(await episodeFromArchive(path))).recordings[0]?.fileName).toBe('talk.wav');
    await forgetAll();
    await expect(episodeFromArchive(path)).rejects.toThrow(/talk.wav is not in the archive, and not on this server/);
    expect(await listEpisodes()).toEqual([]);
  });

  it('that is cut short, changed or something else is refused, and nothing is left of it', async () => {
    const id = await episodeWithWork();
    const bytes = readFileSync(await write(id, 'good.zetemis.tar'));
    await forgetAll();
    const bad = join(folder, 'bad.zetemis.tar');
    const changed = Buffer.from(bytes);
    changed.write('zetemis.episode/9', changed.indexOf('zetemis.episode/1'));
    for (const content of [bytes.subarray(0, 20_000), bytes.subarray(0, 700), changed]) {
      writeFileSync(bad, content);
      await expect(episodeFromArchive(bad)).rejects.toThrow(/damaged|no archive/);
    }
    expect(await listEpisodes()).toEqual([]);
    expect(readdirSync(config.dataDir).filter((name) => name.startsWith('archive-'))).toEqual([]);
  });
});

describe('the database of a folder', () => {
  it('starts beside what a killed one left, moves with its folder, and is not shared with a copy or a folder that comes after', async () => {
    const [first, moved, copied] = ['first', 'moved', 'copied'].map((name) => join(folder, name)) as [string, string, string];
    const cluster = await startCluster(first);
    await cluster.stop();
    // A number that another program has by now: this one.
    writeFileSync(join(cluster.base, 'data', 'postmaster.pid'), `${process.pid}\n${cluster.base}\n0\n1\n`);
    const again = await startCluster(first);
    expect(again).toMatchObject({ isNew: true, base: cluster.base });
    expect(await startCluster(first)).toMatchObject({ isNew: false, pid: again.pid, port: again.port });
    await again.stop();
    if (process.getuid?.() === 0) {
      cpSync(first, copied, { recursive: true });
      await expect(startCluster(copied)).rejects.toThrow(/is a copy of/);
      renameSync(first, moved);
      const elsewhere = await startCluster(moved);
      expect(elsewhere.base).toBe(cluster.base);
      await elsewhere.stop();
      // Where the folder was, another begins with a database of its own.
      const anew = await startCluster(first);
      expect(anew.base).not.toBe(cluster.base);
      await anew.stop();
      rmSync(anew.base, { recursive: true });
      rmSync(cluster.base, { recursive: true });
      await expect(startCluster(moved)).rejects.toThrow(/is not there. Bring it back/);
    }
    rmSync(cluster.base, { recursive: true, force: true });
  });
});

describe('a database of an earlier version', () => {
  it.each(MIGRATION_NAMES.map((_, k) => k + 1).slice(0, -1))(
    'is brought up from schema %i with all that is in it',
    async (count) => {
      const name = `older_${count}_${Date.now()}`;
      const admin = new pg.Client({ connectionString: config.DATABASE_URL });
      await admin.connect();
      await admin.query(`create database ${name}`);
      await admin.end();
      const url = new URL(config.DATABASE_URL);
      url.pathname = `/${name}`;
      const older = Knex({ client: 'pg', connection: url.href });
      try {
        await migrateTo(older, MIGRATION_NAMES.slice(0, count));
        const media = 'cd'.repeat(32);
        const facts = { format: 'wav', duration: 9, audio: [{ index: 0, codec: 'pcm_s16le', sampleRate: 48000, channels: 1 }] };
        await older('media').insert({
          id: media,
          bytes: 9,
          facts: JSON.stringify(facts),
          duration: 9,
          proxy: 'none',
          measured_at: new Date(),
        });
        const [{ id }] = await older('episodes').insert({ title: 'The lamp', last_seq: 2 }).returning('id');
        await older('recordings').insert({ episode_id: id, media_id: media, file_name: 'lamp.wav' });
        await older('transcripts').insert({ episode_id: id, columns: JSON.stringify({ language: 'en' }) });
        for (const seq of [1, 2])
          await older('decisions').insert({ episode_id: id, seq, event_id: randomUUID(), event: JSON.stringify(cut(seq)) });
        // Two of a kind at once, as a race once left them; since schema 9 there are none.
        for (const _ of count < 9 ? [1, 2] : [1]) await older('jobs').insert({ kind: 'measure', media_id: media });
        await migrate(older);
        expect(await isCurrent(older)).toBe(true);
        expect(await older('decisions').orderBy('seq').pluck('seq')).toEqual(['1', '2']);
        expect(await older('episodes').first('title', 'removed_at', 'cut_trouble')).toEqual({
          title: 'The lamp',
          removed_at: null,
          cut_trouble: null,
        });
        expect(await older('recordings').first('file_name', 'place')).toEqual({ file_name: 'lamp.wav', place: 0 });
        expect(await older('jobs').whereIn('state', ['queued', 'running'])).toHaveLength(1);
      } finally {
        await older.destroy();
      }
    },
  );
});
