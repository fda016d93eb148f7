import { stretchesOf, type Voices } from '@/core/speakers/ofWords.ts';
import { overlapsHeard } from '@/core/speakers/overlap.ts';
import { tellVoicesApart } from '@/core/speakers/voices.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { Medium } from './media.ts';
import { speakerModels, whoSpeaks } from './models/voices.ts';
import { soundPart } from './recognise/soundPart.ts';
import { measureTimbre } from './voice.ts';

interface ListenOptions {
  /** of people, where it is known */
  readonly count?: number | undefined;
  readonly signal: AbortSignal;
  /** told a share of the whole */
  readonly onProgress: (share: number) => void;
}

/**
 * Listens to who speaks when on the one track of a medium: by the engine where its two models are here, and by timbre and pitch otherwise.
 * @returns the voices of the words that there are when it is asked
 * @throws MediaError when the sound cannot be decoded or a model cannot be used, AbortError when it was cancelled
 */
export async function listenToVoices(
  path: string,
  { facts, duration }: Medium,
  { count, signal, onProgress }: ListenOptions,
): Promise<(words: readonly Word[]) => Voices> {
  const models = await speakerModels();
  if (models) {
    const whole = { start: 0, end: duration };
    const voices = await soundPart(path, [facts.audio[0] ?? { index: 0 }], whole, signal, (wav) =>
      whoSpeaks(wav, duration, models, { count, signal, onProgress }),
    );
    return () => ({ voices, overlaps: [] });
  }
  const timbre = await measureTimbre(path, facts, {
    signal,
    onProgress: (seconds) => onProgress(duration > 0 ? seconds / duration : 0),
  });
  return (words) => {
    const voices = tellVoicesApart(timbre, stretchesOf(words), count);
    // One voice talks over nobody, whatever echoes.
    const several = voices.some(({ voice }) => voice !== voices[0]?.voice);
    return { voices, overlaps: several ? overlapsHeard(timbre) : [] };
  };
}
