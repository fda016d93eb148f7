import { createHash } from 'node:crypto';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import { basisKey, sentCut } from '@/core/contract/cut.ts';
import type { CutSummary } from '@/core/contract/messages.ts';
import { replay } from '@/core/decisions/replay.ts';
import { packCut } from '@/core/programme/packing.ts';
import { seamCount } from '@/core/programme/programme.ts';
import { EpisodeSession } from '@/core/session.ts';
import type { Across, PlacedSound } from '@/core/sources/placedSound.ts';
import { presentOf } from '@/core/sources/recording.ts';
import { totalLength } from '@/core/time/range.ts';
import { db } from '../db/connection.ts';
import { announce, callOut } from '../events.ts';
import { discardComparison, discardMeasure, noticeLost } from '../jobs/missing.ts';
import { readAcross, readMeasures, UnreadableMeasure } from '../media/material.ts';
import { isMeasured } from '../media/media.ts';
import { curvesFolder } from '../media/store.ts';
import { Refusal } from '../refusal.ts';
import { ROOT } from '../root.ts';
import { speechParts } from '../speechParts.ts';
import { type Episode, type EpisodeRecording, findEpisode, measuredOf, onClock } from './episode.ts';
import { keepLessons } from './lessons.ts';
import { readLog } from './log.ts';
import { basisOf, calledCut, type FoundCut, keptCut, keptWhole } from './snapshots.ts';
import { readEpisodeWords } from './words.ts';

const pack = promisify(gzip);

/** The last two episodes under analysis: whoever hands off decides, looks, and decides again. */
const sessions = new LRUCache<string, EpisodeSession>({ max: 2 });

/**
 * Computes the cut of an episode and keeps it, unless the one that is kept was computed from the same. One that is decided on meanwhile
 * is asked for again by that decision.
 */
export async function makeSnapshot(episodeId: string): Promise<void> {
  const episode = await findEpisode(episodeId).catch((error) => {
    if (error instanceof Refusal) return undefined;
    throw error;
  });
  if (!episode || measuredOf(episode).length === 0) return;
  // It is asked for again when what is missing has been measured.
  if ((await Promise.all(measuredOf(episode).map(({ medium }) => noticeLost(medium)))).some(Boolean)) return;
  const basis = basisOf(episode);
  const key = basisKey(basis);
  if (await db('cut_snapshots').where({ episode_id: episodeId, basis: key }).first('basis')) return;
  await speechParts.load();
  const session = await sessionOf(episode);
  const state = replay((await readLog(episodeId, 0, episode.lastSeq)).map(({ event }) => event));
  const cut = session.cut(state);
  const summary: CutSummary = {
    recorded: totalLength(presentOf(measuredOf(episode), state.removed).map(onClock)),
    programme: cut.programme.length,
    seams: seamCount(cut.programme),
    open: cut.proposals.filter(({ verdict }) => verdict === 'open').length,
  };
  const { removed, breaks, sections: ranges } = state;
  const row = {
    basis: key,
    made_by: await programDigest(),
    summary: JSON.stringify(summary),
    shown: await pack(JSON.stringify(sentCut(basis, packCut(session.end, cut))), { level: 1 }),
    whole: await pack(keptWhole({ cut, layout: { removed, breaks }, ranges }, session.words(state)), { level: 1 }),
    made_at: new Date(),
  };
  await db('cut_snapshots')
    .insert({ episode_id: episodeId, ...row })
    .onConflict('episode_id')
    .merge();
  await callOut(calledCut(episodeId));
  await keepLessons(episodeId, state.set, session.lessons());
  await announce({ type: 'cut', episodeId });
}

/**
 * The cut of an episode as it now is, worked out right here where it is not there yet: whoever works out cuts must not wait for one,
 * since nobody else makes it.
 * @throws Refusal when there is nothing to cut
 */
export async function cutHere(episodeId: string): Promise<FoundCut> {
  for (;;) {
    const episode = await findEpisode(episodeId);
    if (measuredOf(episode).length === 0) throw new Refusal(409, 'This recording is still being measured.');
    const found = await keptCut(episode);
    if (found) return found;
    await makeSnapshot(episodeId);
  }
}

/** All that is measured of an episode's recordings, ready to be asked. Recordings that are not measured yet are left out. */
async function sessionOf(episode: Episode): Promise<EpisodeSession> {
  // Decisions change the question, not what is asked.
  const key = `${episode.id} ${basisKey({ ...basisOf(episode), seq: 0 })}`;
  const known = sessions.get(key);
  if (known) return known;
  const [recordings, transcript] = await Promise.all([
    Promise.all(measuredOf(episode).map((recording) => soundOf(recording, episode))),
    readEpisodeWords(episode.id),
  ]);
  const session = new EpisodeSession({ recordings, ...transcript, speechParts });
  sessions.set(key, session);
  return session;
}

async function soundOf({ id, place, medium, across }: EpisodeRecording, { recordings }: Episode): Promise<PlacedSound> {
  const [folder, tracks] = [curvesFolder(medium.id), medium.facts.audio.length];
  const measured = await readMeasures((job) => isMeasured(medium, job), folder, tracks).catch(async (error) => {
    if (error instanceof UnreadableMeasure) await discardMeasure(medium, error.job);
    throw error;
  });
  const compared = recordings
    .filter((earlier) => across.includes(earlier.id))
    .map(async (earlier): Promise<Across> => {
      const echoes = await readAcross(folder, earlier.medium.id).catch(async (error) => {
        await discardComparison(medium, earlier.medium.id);
        throw error;
      });
      return { from: earlier.id, echoes };
    });
  return { id, place, sound: { duration: medium.duration, levels: [], ...measured }, across: await Promise.all(compared) };
}

/** Forgets cuts that another version of the program computed: this one may cut otherwise. */
export async function forgetOtherCuts(): Promise<void> {
  await db('cut_snapshots')
    .whereNot({ made_by: await programDigest() })
    .delete();
}

let digest: Promise<string> | undefined;

/** Names what computes cuts by its sources. */
function programDigest(): Promise<string> {
  digest ??= digestOf(join(ROOT, 'src/core'));
  return digest;
}

async function digestOf(folder: string): Promise<string> {
  const hash = createHash('sha256');
  const names = (await readdir(folder, { recursive: true })).filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'));
  for (const name of names.sort()) hash.update(name).update(await readFile(join(folder, name)));
  return hash.digest('hex');
}
