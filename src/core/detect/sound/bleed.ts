import type { LevelCurve } from '../../curves/level.ts';
import { BLOCK, type TrackedLevels } from './levelTracking.ts';

/** Codes are half decibels: another track, measured against its own voice, must be this much louder. */
const LOUDER = 2 * 9;
/** Sound of which this share is louder elsewhere is somebody else, heard from afar. */
export const BLED_SHARE = 0.8;

/**
 * Bleed: where another microphone hears the same moment much better, what this one hears is not its own speaker.
 * Each track is measured against its own tracked voice, so that gains need not match.
 * @returns for each sample, how many samples before it are bleed: the share over any stretch is two look-ups
 */
export function countBled(track: number, curves: readonly LevelCurve[], tracked: readonly TrackedLevels[]): Int32Array {
  const codes = curves[track]?.codes ?? new Uint8Array(0);
  const counts = new Int32Array(codes.length + 1);
  for (let k = 0; k < codes.length; k++) {
    const block = Math.floor(k / BLOCK);
    const own = (codes[k] as number) - voiceAt(tracked[track], block);
    let bled = 0;
    for (let other = 0; other < curves.length && bled === 0; other++) {
      if (other === track) continue;
      const code = curves[other]?.codes[k] ?? 0;
      if (code - voiceAt(tracked[other], block) - own >= LOUDER) bled = 1;
    }
    counts[k + 1] = (counts[k] as number) + bled;
  }
  return counts;
}

const voiceAt = (tracked: TrackedLevels | undefined, block: number): number =>
  tracked?.speech[Math.min(tracked.speech.length - 1, block)] ?? 255;
