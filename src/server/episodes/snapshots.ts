import { promisify } from 'node:util';
import { gunzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import { basisKey, type CutBasis } from '@/core/contract/cut.ts';
import { type CutSummary, type CutTrouble, cutSummary } from '@/core/contract/messages.ts';
import type { Layout } from '@/core/decisions/layout.ts';
import type { Section } from '@/core/detect/sections.ts';
import type { Cut } from '@/core/programme/cutlist.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import { db, type Transaction } from '../db/connection.ts';
import { lookUntil } from '../events.ts';
import { log } from '../log.ts';
import { Refusal } from '../refusal.ts';
import { type Episode, findEpisode, measuredOf } from './episode.ts';

// Cuts are computed by the queue worker and kept here. Whoever needs one reads it, and never computes it.

/** A cut with what else the hand-off of it needs. */
interface WholeCut {
  readonly cut: Cut;
  readonly layout: Pick<Layout, 'removed' | 'breaks'>;
  /** marked ranges; older cuts were kept without */
  readonly ranges?: readonly Section[];
}

/** A cut as it is kept: two lines of JSON, since the words of some hours take longer to be read than all the rest. */
export const keptWhole = (whole: WholeCut, transcript: Transcript): string =>
  `${JSON.stringify(whole)}\n${JSON.stringify(transcript)}`;

/** What a hand-off waits for at most. */
const PATIENCE_MS = 60_000;
/** A worker that was killed on the way has lost what it was asked. */
const ASK_AGAIN_MS = 3000;
/** Somebody who decides goes on deciding: the cut is computed when nothing has come for so long. */
const REST_SECONDS = 2;

export const basisOf = ({ lastSeq: seq, wordsVersion, recordings }: Episode): CutBasis => ({
  seq,
  wordsVersion,
  recordings: recordings.map(({ id, medium, across }) => ({ ...medium, id, across })),
});

/** Why the cut of an episode, as it now is, cannot be computed. */
export const currentTrouble = (episode: Episode): CutTrouble | undefined =>
  episode.trouble?.basis === basisKey(basisOf(episode)) ? episode.trouble : undefined;

/**
 * Asks the queue for the cut of an episode; asked again before it is computed, it is computed once. Who asks for it after a rest does not
 * put off who wants it at once.
 */
export const askCut = (episodeId: string, trx: Transaction | typeof db = db, afterRest = false): Promise<void> =>
  askCuts([episodeId], trx, afterRest);

async function askCuts(episodeIds: readonly string[], trx: Transaction | typeof db = db, afterRest = false): Promise<void> {
  if (episodeIds.length === 0) return;
  await trx.raw(
    `select graphile_worker.add_job('cut', json_build_object('episodeId', id), queue_name => 'cuts', job_key => 'cut ' || id || ?,
       run_at => now() + ? * interval '1 second', max_attempts => 3)
     from unnest(?::text[]) as id`,
    [afterRest ? ' after a rest' : '', afterRest ? REST_SECONDS : 0, [...episodeIds]],
  );
}

/** Asks for the cuts of all episodes that a medium is part of. */
export async function askCutsWith(mediaId: string, trx: Transaction | typeof db = db): Promise<void> {
  const rows = await trx('recordings').where({ media_id: mediaId }).distinct('episode_id');
  await askCuts(
    rows.map(({ episode_id }) => episode_id),
    trx,
  );
}

/** Cuts that were asked for a moment ago: a shelf that is looked at again has nothing to write. */
const justAsked = new LRUCache<string, true>({ max: 1000, ttl: ASK_AGAIN_MS });

function askOnce(episodes: readonly Episode[]): void {
  const keyed = episodes.map((episode) => [`${episode.id} ${basisKey(basisOf(episode))}`, episode.id] as const);
  const fresh = keyed.filter(([key]) => !justAsked.has(key));
  for (const [key] of fresh) justAsked.set(key, true);
  // Who looks at the shelf does not wait for what is written. What was not taken is asked for at a later look.
  askCuts(fresh.map(([, id]) => id)).catch((error) =>
    log.warn({ error: (error as Error).message }, 'cuts could not be asked for'),
  );
}

export interface KnownSummary {
  readonly summary: CutSummary;
  /** whether nothing has changed since */
  readonly isCurrent: boolean;
}

/** What the cuts of episodes came to when they were last computed. Those that are out of date are asked for. */
export async function summariesOf(episodes: readonly Episode[]): Promise<Map<string, KnownSummary>> {
  const rows = (await db('cut_snapshots').select('episode_id', 'basis', 'summary')) as SnapshotRow[];
  const byEpisode = new Map(rows.map((row) => [row.episode_id, row]));
  const known = new Map<string, KnownSummary>();
  const outOfDate: Episode[] = [];
  for (const episode of episodes) {
    if (measuredOf(episode).length === 0) continue;
    const row = byEpisode.get(episode.id);
    const isCurrent = row?.basis === basisKey(basisOf(episode));
    const summary = cutSummary.safeParse(row?.summary);
    if (summary.success) known.set(episode.id, { summary: summary.data, isCurrent });
    if (!isCurrent && !currentTrouble(episode)) outOfDate.push(episode);
  }
  askOnce(outOfDate);
  return known;
}

interface SnapshotRow {
  episode_id: string;
  basis: string;
  summary: unknown;
  shown: Buffer;
  whole: Buffer;
}

/** Whether the cut of an episode, as it now is, is there to be read. */
export const isKnown = async (episode: Episode): Promise<boolean> => (await current(episode, 'basis')) !== undefined;

/** The cut as pages show it, as gzip of JSON; undefined while it is not known. */
export const shownCut = async (episode: Episode): Promise<Buffer | undefined> => (await current(episode, 'shown'))?.shown;

/** What is called out when the cut of an episode was worked out. */
export const calledCut = (episodeId: string): string => `cut ${episodeId}`;

/**
 * Waits for the worker until the cut of an episode, as it now is, can be read.
 * @throws Refusal when there is nothing to cut, or it does not come
 */
export async function awaitCut(episodeId: string): Promise<Episode> {
  let asked = { seq: -1, at: 0 };
  const look = async () => {
    // Looked up each time: whoever decides meanwhile wants the cut after that.
    const episode = await findEpisode(episodeId);
    if (measuredOf(episode).length === 0) throw new Refusal(409, 'This recording is still being measured.');
    if (await isKnown(episode)) return episode;
    const trouble = currentTrouble(episode);
    if (trouble) throw new Refusal(409, `The cut cannot be worked out. ${trouble.why}`);
    if (asked.seq === episode.lastSeq && Date.now() - asked.at < ASK_AGAIN_MS) return undefined;
    asked = { seq: episode.lastSeq, at: Date.now() };
    await askCut(episodeId);
    return undefined;
  };
  const found = await lookUntil(calledCut(episodeId), look, PATIENCE_MS);
  if (found) return found;
  throw new Refusal(503, 'The cut is still being worked out: try again in a moment. Nothing is lost.');
}

/** The cut of an episode as it now is; waits for the worker where it is not there yet. @throws Refusal as `awaitCut` does */
export async function wholeCut(episodeId: string): Promise<FoundCut> {
  for (;;) {
    const found = await keptCut(await awaitCut(episodeId));
    // Whoever decided meanwhile has made it one of before.
    if (found) return found;
  }
}

/** The cut of an episode as it now is, if it was worked out. */
export async function keptCut(episode: Episode): Promise<FoundCut | undefined> {
  const row = await current(episode, 'whole');
  return row && { ...wholeOf(await unpack(row.whole)), episode };
}

export interface FoundCut extends WholeCut {
  readonly episode: Episode;
  /** the words that it was made from */
  readonly transcript: () => Transcript;
}

function wholeOf(kept: Buffer): Omit<FoundCut, 'episode'> {
  const end = kept.indexOf('\n');
  const whole: WholeCut = JSON.parse(kept.toString('utf8', 0, end));
  return { ...whole, transcript: () => JSON.parse(kept.toString('utf8', end + 1)) as Transcript };
}

const unpack = promisify(gunzip);

const current = async (episode: Episode, column: 'basis' | 'shown' | 'whole'): Promise<SnapshotRow | undefined> =>
  db('cut_snapshots')
    .where({ episode_id: episode.id, basis: basisKey(basisOf(episode)) })
    .first(column);
