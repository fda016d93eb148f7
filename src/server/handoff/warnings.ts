import { findEpisode, measuredOf } from '../episodes/episode.ts';
import { stateOfFile } from '../episodes/files.ts';
import { cleanedReport, cleaningKey } from '../media/clean/cleaned.ts';
import { optionsOf } from './options.ts';

/** What should be seen to before an episode is handed over: files that are not those that were measured, cleaned sound that is not there. */
export async function warningsOf(episodeId: string): Promise<string[]> {
  const episode = await findEpisode(episodeId);
  const states = await Promise.all(episode.recordings.map(({ medium }) => stateOfFile(medium)));
  const files = episode.recordings.flatMap(({ fileName }, k) => {
    if (states[k] === 'replaced')
      return [`${fileName} was exchanged for another file since it was measured: these cuts are made for the old one.`];
    return states[k] === 'missing' ? [`${fileName} is not where it was when it was measured.`] : [];
  });
  const { cleanedTracks, cleaning } = await optionsOf(episodeId);
  if (!cleanedTracks) return files;
  const key = cleaningKey(cleaning);
  const reports = await Promise.all(measuredOf(episode).map(({ medium }) => cleanedReport(medium.id, key)));
  if (reports.every((report) => report !== undefined)) return files;
  return [...files, 'Timelines name the cleaned sound, which is not made yet as it is chosen: see “Cleaning up the sound”.'];
}
