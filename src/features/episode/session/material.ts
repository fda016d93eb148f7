import type { EpisodeDetail } from '@/core/contract/messages.ts';
import type { MaterialAddresses } from '@/workers/cut.worker.ts';
import { api } from '../../api.ts';

/** Where all that lies which is detected in, as far as it is measured; undefined before anything is. */
export function materialOf(episode: EpisodeDetail): MaterialAddresses | undefined {
  const { id, mediaId, duration, facts, measured, speech, motion, voice, echoes, wordsVersion } = episode;
  if (!measured) return undefined;
  const curve = (name: string) => api.curveAddress(mediaId, name);
  const ofTracks = (name: string) => facts.audio.map((_, track) => curve(`${name}-${track}`));
  return {
    duration,
    levels: ofTracks('level'),
    speech: speech ? ofTracks('speech') : [],
    voice: voice ? ofTracks('voice') : [],
    motion: motion ? curve('motion') : undefined,
    echoes: echoes ? curve('repeated') : undefined,
    hesitation: echoes ? ofTracks('hesitation') : [],
    words: wordsVersion > 0 ? api.wordsAddress(id, wordsVersion) : undefined,
  };
}

/** All of them: the page asks for them ahead of its scripts. */
export const addressesIn = ({ levels, speech, voice, motion, echoes, hesitation, words }: MaterialAddresses): string[] =>
  [...levels, ...speech, ...voice, motion, echoes, ...hesitation, words].filter((address) => address !== undefined);
