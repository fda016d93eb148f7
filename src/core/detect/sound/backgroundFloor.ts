import { LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';
import { SPEECH_RATE, type SpeechCurve } from '../../curves/speech.ts';
import { BLOCK, type TrackedLevels } from './levelTracking.ts';

/** The speech measure (of 255) stays under this where nobody speaks ... */
const HUSHED = 25;
/** ... and stayed so for this much before and after: it lets go late, and hears an onset late. In its own frames of 32 ms. */
const BEFORE_FRAMES = 5;
const AFTER_FRAMES = 5;
/** Blocks to each side whose hushed samples count together: fifteen seconds. */
const REACH = 30;
/** Fewer hushed samples than this say nothing about the room. */
const LEAST_SAMPLES = 1.5 * LEVEL_RATE;
/** Share of what sounds while nobody speaks that counts as the room. */
const BED_QUANTILE = 0.92;
/** In level codes of half a decibel: the spread of steady noise over its tracked floor, which needs no raising. */
const STEADY_SPREAD = 6;
/** The floor is raised up to this much under the voice: soft consonants lie there. */
const LEAST_UNDER_SPEECH = 61;

/**
 * The floor taken from where nobody speaks. A floor tracked by level follows the quiet end of what goes on behind the voice:
 * of music it is the rests between the notes, of a microphone with automatic gain the moment before the room is turned up. Where
 * the speech measure hears nobody, all of it is background.
 * @returns the same levels, the floor raised where the background reaches higher
 */
export function floorWhereHushed({ codes }: LevelCurve, speech: SpeechCurve, tracked: TrackedLevels): TrackedLevels {
  const blocks = tracked.floor.length;
  const counts = hushedCounts(codes, speech, blocks);
  const floor = tracked.floor.slice();
  const window = new Uint32Array(256);
  let samples = 0;
  const add = (block: number, sign: 1 | -1) => {
    if (block < 0 || block >= blocks) return;
    const at = block * 256;
    for (let code = 0; code < 256; code++) {
      const count = counts[at + code] as number;
      if (count === 0) continue;
      window[code] = (window[code] as number) + sign * count;
      samples += sign * count;
    }
  };
  for (let block = 0; block < REACH; block++) add(block, 1);
  for (let block = 0; block < blocks; block++) {
    add(block + REACH, 1);
    add(block - REACH - 1, -1);
    if (samples < LEAST_SAMPLES) continue;
    const bed = quantileOf(window, samples) - STEADY_SPREAD;
    const most = (tracked.speech[block] as number) - LEAST_UNDER_SPEECH;
    floor[block] = Math.max(tracked.floor[block] as number, Math.min(bed, most));
  }
  return { ...tracked, floor };
}

function quantileOf(window: Uint32Array, samples: number): number {
  let seen = 0;
  for (let code = 0; code < 256; code++) {
    seen += window[code] as number;
    if (seen >= BED_QUANTILE * samples) return code;
  }
  return 255;
}

/** Counts of each level code in each block, over the samples at which nobody speaks. */
function hushedCounts(codes: Uint8Array, speech: SpeechCurve, blocks: number): Uint16Array {
  const hushed = hushedFrames(speech);
  const counts = new Uint16Array(blocks * 256);
  for (let frame = 0; frame < hushed.length; frame++) {
    if (hushed[frame] === 0) continue;
    const until = Math.min(codes.length, Math.floor(((frame + 1) * LEVEL_RATE) / SPEECH_RATE));
    for (let k = Math.floor((frame * LEVEL_RATE) / SPEECH_RATE); k < until; k++) {
      const at = Math.floor(k / BLOCK) * 256 + (codes[k] as number);
      counts[at] = (counts[at] as number) + 1;
    }
  }
  return counts;
}

function hushedFrames({ codes }: SpeechCurve): Uint8Array {
  const hushed = new Uint8Array(codes.length);
  let since = BEFORE_FRAMES;
  for (let frame = 0; frame < codes.length; frame++) {
    since = (codes[frame] as number) < HUSHED ? since + 1 : 0;
    if (since > BEFORE_FRAMES) hushed[frame] = 1;
    else if (since === 0) hushed.fill(0, Math.max(0, frame - AFTER_FRAMES), frame);
  }
  return hushed;
}
