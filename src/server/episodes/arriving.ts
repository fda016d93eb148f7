import type { Range } from '@/core/time/range.ts';
import type { Transcript, Word } from '@/core/transcript/word.ts';
import { db } from '../db/connection.ts';
import { log } from '../log.ts';
import type { HeardSoFar } from '../media/recognise/run.ts';
import { findEpisode, recordingIn } from './episode.ts';
import { storeTranscript } from './words.ts';

/** Each time pages fetch the words and find anew: no more often than this. */
const LEAST_MS = 4000;

/** The words of a recording with those of some stretches put in place of what was there. */
export function withHeard(before: readonly Word[], words: readonly Word[], stretches: readonly Range[]): Word[] {
  const isHeard = ({ start, end }: Word) => {
    const middle = (start + end) / 2;
    return stretches.some((stretch) => middle >= stretch.start && middle < stretch.end);
  };
  return [...before.filter((word) => !isHeard(word)), ...words].sort((a, b) => a.start - b.start || a.end - b.end);
}

/** Keeps words of a recording while they are still being recognised: where nothing is heard yet, those that were there stay. */
export class ArrivingWords {
  private last = 0;
  private storing: Promise<void> | undefined;

  /** @param before the words as they are, in the recording's own time */
  constructor(
    private readonly episodeId: string,
    private readonly recording: string,
    private readonly before: Transcript,
    private readonly language: string,
  ) {}

  /** Takes what has been heard so far, now and then. */
  offer(soFar: () => HeardSoFar): void {
    if (this.storing || Date.now() - this.last < LEAST_MS) return;
    const { words, stretches } = soFar();
    if (words.length === 0) return;
    this.storing = this.store(withHeard(this.before.words, words, stretches))
      .catch((error) => log.warn({ error: (error as Error).message }, 'words that arrive were not kept yet'))
      .finally(() => {
        this.storing = undefined;
        this.last = Date.now();
      });
  }

  /** Waits for what is being kept. */
  async settle(): Promise<void> {
    await this.storing;
  }

  private store(words: readonly Word[]): Promise<void> {
    return db.transaction(async (trx) => {
      const episode = await findEpisode(this.episodeId);
      await storeTranscript(trx, episode, recordingIn(episode, this.recording), { language: this.language, words });
    });
  }
}
