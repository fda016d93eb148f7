import type { EpisodeDetail } from '@/core/contract/messages.ts';
import { filesOf, MEASURE_NAMES, MEASURES } from '@/core/curves/measures.ts';
import type { MaterialAddresses } from '@/workers/cut.worker.ts';
import { api } from '../../api.ts';

/** Where the inputs to detection are, as far as they are measured; undefined before anything is. */
export function materialOf(episode: EpisodeDetail): MaterialAddresses | undefined {
  const { id, mediaId, duration, facts, measured, wordsVersion } = episode;
  if (!measured) return undefined;
  const isThere = MEASURE_NAMES.filter((name) => {
    const { job } = MEASURES[name];
    return job === 'measure' || episode[job];
  });
  const addressesOf = (name: (typeof isThere)[number]) =>
    filesOf(name, facts.audio.length).map((file) => api.curveAddress(mediaId, file));
  return {
    duration,
    measures: Object.fromEntries(isThere.map((name) => [name, addressesOf(name)])),
    words: wordsVersion > 0 ? api.wordsAddress(id, wordsVersion) : undefined,
  };
}

/** All of them: the page asks for them ahead of its scripts. */
export const addressesIn = ({ measures, words }: MaterialAddresses): string[] =>
  [...Object.values(measures).flat(), words].filter((address) => address !== undefined);
