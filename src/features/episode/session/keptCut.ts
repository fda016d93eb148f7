import * as z from 'zod/mini';
import { type KnownCut, knownCut } from '@/core/contract/cut.ts';

const KEY = 'zetemis.cut';
/** Another build may cut otherwise. */
const BUILD: string = import.meta.env.THREAD_ADDRESS;

const kept = z.object({ build: z.literal(BUILD), episode: z.string(), cut: knownCut });

/** Keeps the cut that this tab shows, so that loading its page again shows it at once. */
export function keepCut(episode: string, cut: KnownCut): void {
  try {
    sessionStorage.setItem(KEY, JSON.stringify({ build: BUILD, episode, cut }));
  } catch {
    // No room: then it is worked out again.
    sessionStorage.removeItem(KEY);
  }
}

/** What was kept of an episode, if that is the last one that this tab showed. */
export function keptCut(episode: string): KnownCut | undefined {
  const text = sessionStorage.getItem(KEY);
  // Half a megabyte is read only where it can be of use.
  if (!text?.includes(episode)) return undefined;
  try {
    const found = kept.parse(JSON.parse(text));
    return found.episode === episode ? found.cut : undefined;
  } catch {
    // Anything may stand there.
    return undefined;
  }
}
