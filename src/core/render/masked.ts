import { SOUND_RATE } from '../contract/sound.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import { plainWord } from '../transcript/plainWord.ts';
import type { Word } from '../transcript/word.ts';
import type { SampleSource } from './sampleSource.ts';

/** What is heard in place of a masked word. */
export const MASKED_BY = ['nothing', 'tone', 'silence'] as const;
export type MaskedBy = (typeof MASKED_BY)[number];

/** Word times are some hundredths off: what is masked reaches a little further. */
const REACH: Seconds = 0.04;

/** Where words of a list are spoken, in order and apart. */
export function maskedRanges(words: readonly Word[], list: readonly string[]): Range[] {
  const hidden = new Set(list.map(plainWord).filter((word) => word !== ''));
  const ranges: Range[] = [];
  for (const { text, start, end } of words) {
    if (!hidden.has(plainWord(text))) continue;
    const last = ranges.at(-1);
    if (last && start - REACH <= last.end)
      ranges[ranges.length - 1] = { start: last.start, end: Math.max(last.end, end + REACH) };
    else ranges.push({ start: start - REACH, end: end + REACH });
  }
  return ranges;
}

const TONE_HERTZ = 1000;
/** Of full scale: as loud as speech, no louder. */
const TONE_LEVEL = 0.1;
/** Samples in which the sound goes over into what masks it. */
const RAMP = Math.round(0.005 * SOUND_RATE);

/** Sound in which ranges of the clock are a tone, or silent. */
export class MaskedSamples implements SampleSource {
  private readonly ranges: readonly Range[];

  /** @param ranges in order and apart */
  constructor(
    private readonly source: SampleSource,
    ranges: readonly Range[],
    private readonly by: MaskedBy,
  ) {
    this.ranges = by === 'nothing' ? [] : ranges;
  }

  async copy(from: number, to: number, out: Float32Array, at: number): Promise<void> {
    await this.source.copy(from, to, out, at);
    const { ranges } = this;
    let k = firstAfter(ranges.length, (n) => (ranges[n] as Range).end, from / SOUND_RATE);
    for (; k < ranges.length && (ranges[k] as Range).start * SOUND_RATE < to; k++) {
      const { start, end } = ranges[k] as Range;
      const [first, last] = [Math.round(start * SOUND_RATE), Math.round(end * SOUND_RATE)];
      for (let sample = Math.max(from, first); sample < Math.min(to, last); sample++) {
        const share = Math.min(1, (sample - first + 1) / RAMP, (last - sample) / RAMP);
        const tone = this.by === 'tone' ? TONE_LEVEL * Math.sin((2 * Math.PI * TONE_HERTZ * (sample - first)) / SOUND_RATE) : 0;
        for (const channel of [0, 1]) {
          const place = 2 * (at + sample - from) + channel;
          out[place] = (out[place] as number) * (1 - share) + tone * share;
        }
      }
    }
  }

  once(name: string, work: () => Promise<Float32Array>): Promise<Float32Array> {
    return this.source.once(name, work);
  }
}
