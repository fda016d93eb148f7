import type { EpisodeDetail, RecordingDetail } from '@/core/contract/messages.ts';
import { acrossFile, filesOf, MEASURE_NAMES, MEASURES } from '@/core/curves/measures.ts';
import type { MaterialAddresses, RecordingAddresses } from '@/workers/cut.worker.ts';
import { api } from '../../api.ts';

/** Where the inputs to detection are, as far as they are measured; undefined before anything is. */
export function materialOf({ id, recordings, wordsVersion }: EpisodeDetail): MaterialAddresses | undefined {
  const measured = recordings.filter((recording) => recording.measured);
  if (measured.length === 0) return undefined;
  return {
    recordings: measured.map((recording) => addressesOf(recording, measured)),
    words: wordsVersion > 0 ? api.wordsAddress(id, wordsVersion) : undefined,
  };
}

function addressesOf(recording: RecordingDetail, all: readonly RecordingDetail[]): RecordingAddresses {
  const { id, place, mediaId, duration, facts } = recording;
  const isThere = MEASURE_NAMES.filter((name) => {
    const { job } = MEASURES[name];
    return job === 'measure' || recording[job];
  });
  const files = (name: (typeof isThere)[number]) =>
    filesOf(name, facts.audio.length).map((file) => api.curveAddress(mediaId, file));
  const across = all
    .filter((earlier) => recording.across.includes(earlier.id))
    .map((earlier) => ({ from: earlier.id, address: api.curveAddress(mediaId, acrossFile(earlier.mediaId)) }));
  return { id, place, duration, measures: Object.fromEntries(isThere.map((name) => [name, files(name)])), across };
}

/** All of them: the page asks for them ahead of its scripts. */
export const addressesIn = ({ recordings, words }: MaterialAddresses): string[] =>
  [
    ...recordings.flatMap(({ measures, across }) => [...Object.values(measures).flat(), ...across.map(({ address }) => address)]),
    words,
  ].filter((address) => address !== undefined);
