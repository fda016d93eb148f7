import type { Seconds } from '../time/range.ts';
import type { NoiseProfile } from './noiseProfile.ts';

/** Steps in which loudness is followed. */
export const LINE_STEP: Seconds = 0.05;
const NOTHING = -120;
/** Speech stands so far over the noise, and no further under what is loud, in dB. */
const OVER_NOISE = 10;
const UNDER_SPEECH = 25;
/** A pause this long ends a line; a line this long is as loud as it is, and not by chance. */
const LEAST_PAUSE: Seconds = 0.6;
const LEAST_LINE: Seconds = 0.8;
/** No line is made louder or softer than this, in dB, and none so loud that its peaks pass this. */
const MOST = 6;
const HIGHEST_PEAK = -1;

/** Follows how loud a channel is. */
export class LevelTrace {
  private readonly size: number;
  private readonly levels: number[] = [];
  private readonly peaks: number[] = [];
  private sum = 0;
  private peak = 0;
  private count = 0;

  constructor(rate: number) {
    this.size = Math.round(LINE_STEP * rate);
  }

  push(samples: Float32Array): void {
    for (const sample of samples) {
      this.sum += sample * sample;
      this.peak = Math.max(this.peak, Math.abs(sample));
      if (++this.count < this.size) continue;
      this.levels.push(decibels(this.sum / this.size));
      this.peaks.push(decibels(this.peak * this.peak));
      this.sum = 0;
      this.peak = 0;
      this.count = 0;
    }
  }

  get steps(): LevelSteps {
    return { levels: Float32Array.from(this.levels), peaks: Float32Array.from(this.peaks) };
  }
}

/** How loud each step is, and its highest sample, in dB under full scale. */
export interface LevelSteps {
  readonly levels: Float32Array;
  readonly peaks: Float32Array;
}

const decibels = (power: number): number => (power <= 0 ? NOTHING : Math.max(NOTHING, 10 * Math.log10(power)));

interface Line {
  readonly from: number;
  readonly to: number;
  readonly level: number;
  readonly peak: number;
}

/** What is said between two pauses, by steps, and how loud it is on the whole. */
function linesIn({ levels, peaks }: LevelSteps, { noise, speech }: Pick<NoiseProfile, 'noise' | 'speech'>): Line[] {
  const least = Math.max(noise + OVER_NOISE, speech - UNDER_SPEECH);
  const lines: Line[] = [];
  let from = -1;
  let last = -1;
  let sum = 0;
  let count = 0;
  const close = () => {
    const to = last + 1;
    if (from >= 0 && (to - from) * LINE_STEP >= LEAST_LINE)
      lines.push({ from, to, level: decibels(sum / count), peak: Math.max(...peaks.subarray(from, to)) });
    from = -1;
    sum = 0;
    count = 0;
  };
  for (const [k, level] of levels.entries()) {
    if (level < least) continue;
    if (from >= 0 && (k - last) * LINE_STEP > LEAST_PAUSE) close();
    if (from < 0) from = k;
    last = k;
    sum += 10 ** (level / 10);
    count++;
  }
  close();
  return lines;
}

/**
 * Gains that make lines as loud as one another, in dB for each step of a trace: each is brought to the middle of all, weighted by their
 * length, by so much at most and never so that it clips; from one to the next the gain moves in the pause between them.
 * @returns empty where fewer than two lines are said
 */
export function gainsOf(steps: LevelSteps, profile: Pick<NoiseProfile, 'noise' | 'speech'>): Float32Array {
  const lines = linesIn(steps, profile);
  if (lines.length < 2) return new Float32Array(0);
  const target = middleOf(lines);
  const gains = new Float32Array(steps.levels.length);
  const gainOf = ({ level, peak }: Line) => Math.max(-MOST, Math.min(MOST, target - level, Math.max(0, HIGHEST_PEAK - peak)));
  let before: Line | undefined;
  for (const line of lines) {
    const [from, low, high] = [before?.to ?? 0, gainOf(before ?? line), gainOf(line)];
    for (let k = from; k < line.from; k++) gains[k] = low + ((high - low) * (k - from + 0.5)) / (line.from - from);
    gains.fill(high, line.from, line.to);
    before = line;
  }
  if (before) gains.fill(gainOf(before), before.to);
  return gains;
}

/** The level that half of all that is said lies under. */
function middleOf(lines: readonly Line[]): number {
  const sorted = [...lines].sort((a, b) => a.level - b.level);
  const all = sorted.reduce((sum, { from, to }) => sum + to - from, 0);
  let seen = 0;
  for (const { from, to, level } of sorted) {
    seen += to - from;
    if (2 * seen >= all) return level;
  }
  return sorted.at(-1)?.level ?? 0;
}
