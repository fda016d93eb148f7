import { z } from 'zod';
import { type CutTrouble, cutTrouble } from '@/core/contract/messages.ts';
import { FURTHEST_TRY } from '@/core/curves/passageMatching.ts';
import { type Recording, shortlyBefore } from '@/core/sources/recording.ts';
import { db } from '../db/connection.ts';
import { log } from '../log.ts';
import { type Medium, type MediumRow, mediumOf } from '../media/media.ts';
import { notFound } from '../refusal.ts';

/** A recording of an episode: a medium with its place on the episode clock. */
export interface EpisodeRecording {
  readonly id: string;
  /** whole seconds */
  readonly place: number;
  readonly fileName: string;
  readonly medium: Medium;
  /** the recordings before it that it was compared with for lines that are said again */
  readonly across: readonly string[];
}

/** An episode with its recordings, as the other parts of the server need it. */
export interface Episode {
  readonly id: string;
  readonly title: string;
  readonly createdAt: Date;
  readonly lastSeq: number;
  readonly wordsVersion: number;
  readonly trouble: CutTrouble | null;
  /** in order of their places, one at least */
  readonly recordings: readonly EpisodeRecording[];
}

/** The one that an episode began with. */
export const firstOf = ({ recordings }: Episode): EpisodeRecording => recordings[0] as EpisodeRecording;

/** Where a recording stands on the clock. */
export const onClock = ({ id, place, medium }: Pick<EpisodeRecording, 'id' | 'place' | 'medium'>): Recording => ({
  id,
  start: place,
  end: place + medium.duration,
});

const spanOf = (recording: EpisodeRecording) => ({ ...onClock(recording), mediaId: recording.medium.id });

/** Those that a cut can be computed of. */
export const measuredOf = ({ recordings }: Episode): EpisodeRecording[] => recordings.filter(({ medium }) => medium.measured);

interface EpisodeRow {
  id: string;
  title: string;
  created_at: Date;
  last_seq: string;
  words_version: number;
  cut_trouble: unknown;
}

type RecordingRow = MediumRow & { recording_id: string; episode_id: string; file_name: string; place: number };

async function withRecordings(rows: readonly EpisodeRow[]): Promise<Episode[]> {
  const recordings = (await db('recordings as r')
    .join('media as m', 'm.id', 'r.media_id')
    .whereIn(
      'r.episode_id',
      rows.map(({ id }) => id),
    )
    .orderBy('r.place')
    .select('m.*', 'r.id as recording_id', 'r.episode_id', 'r.file_name', 'r.place')) as RecordingRow[];
  const byEpisode = new Map<string, EpisodeRecording[]>();
  const broken = new Set<string>();
  for (const row of recordings) {
    const medium = readable(row);
    if (!medium) broken.add(row.episode_id);
    if (!medium) continue;
    const before = byEpisode.get(row.episode_id) ?? [];
    const bare = { id: row.recording_id, place: row.place, fileName: row.file_name, medium };
    const within = shortlyBefore(before.map(spanOf), onClock(bare), FURTHEST_TRY);
    const across = within.filter(({ mediaId }) => medium.comparedWith.includes(mediaId)).map(({ id }) => id);
    byEpisode.set(row.episode_id, [...before, { ...bare, across }]);
  }
  return rows.flatMap((row): Episode[] => {
    const own = byEpisode.get(row.id);
    if (!own || broken.has(row.id)) return [];
    const { id, title, created_at: createdAt, words_version: wordsVersion } = row;
    return [
      {
        id,
        title,
        createdAt,
        lastSeq: Number(row.last_seq),
        wordsVersion,
        trouble: cutTrouble.safeParse(row.cut_trouble).data ?? null,
        recordings: own,
      },
    ];
  });
}

/** A medium, unless what the database holds of it makes no sense: the other episodes have nothing to do with that. */
function readable(row: RecordingRow): Medium | undefined {
  try {
    return mediumOf(row);
  } catch (error) {
    log.error({ episode: row.episode_id, error: (error as Error).message }, 'this episode cannot be read');
    return undefined;
  }
}

/** All episodes, the newest first. */
export const allEpisodes = async (): Promise<Episode[]> =>
  withRecordings((await db('episodes').where({ removed_at: null }).orderBy('created_at', 'desc')) as EpisodeRow[]);

/** @throws Refusal when there is none of that name */
export async function findEpisode(id: string): Promise<Episode> {
  if (!z.uuid().safeParse(id).success) throw notFound('That episode');
  const [episode] = await withRecordings((await db('episodes').where({ id, removed_at: null })) as EpisodeRow[]);
  if (!episode) throw notFound('That episode');
  return episode;
}

/** A recording of an episode by its name, or its first. @throws Refusal when there is none of that name */
export function recordingIn(episode: Episode, id: string | undefined): EpisodeRecording {
  const found = id === undefined ? firstOf(episode) : episode.recordings.find((recording) => recording.id === id);
  if (!found) throw notFound('That recording');
  return found;
}
