import { findEpisode } from '../episodes/episode.ts';
import { stateOfFile } from '../episodes/files.ts';

/** What should be seen to before an episode is handed over: files that are not those that were measured. */
export async function warningsOf(episodeId: string): Promise<string[]> {
  const { recordings } = await findEpisode(episodeId);
  const states = await Promise.all(recordings.map(({ medium }) => stateOfFile(medium)));
  return recordings.flatMap(({ fileName }, k) => {
    if (states[k] === 'replaced')
      return [`${fileName} was exchanged for another file since it was measured: these cuts are made for the old one.`];
    return states[k] === 'missing' ? [`${fileName} is not where it was when it was measured.`] : [];
  });
}
