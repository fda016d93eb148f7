import { SOUND_RATE } from '../contract/sound.ts';
import type { RoomTone } from '../detect/sound/roomTone.ts';
import type { Piece } from '../programme/programme.ts';
import { indexAt } from '../sources/recording.ts';
import type { Seconds } from '../time/range.ts';
import { type SampleSource, samplesOf } from './sampleSource.ts';

/** How long the end of a loop goes over into its start, of its length at most a half. */
const OVERLAP: Seconds = 0.25;

/** The quiet room of the recording that a piece lies in, where there is one. */
export const toneFor = (tones: readonly RoomTone[], { start }: Piece): RoomTone | undefined =>
  tones[
    indexAt(
      tones.map(({ of }) => of),
      start,
    )
  ];

/**
 * The sound of the quiet room as a loop without a seam: its end goes over into its start, with as much power in the middle as at the ends,
 * since the two have nothing in common.
 * @returns interleaved stereo samples, to be heard over and over
 */
export function toneLoop({ tone }: RoomTone, source: SampleSource): Promise<Float32Array> {
  const [from, to] = [Math.round(tone.start * SOUND_RATE), Math.round(tone.end * SOUND_RATE)];
  return source.once(`room ${from} ${to}`, async () => {
    const samples = await samplesOf(source, from, to);
    const overlap = Math.min(Math.round(OVERLAP * SOUND_RATE), Math.floor((to - from) / 2));
    const length = to - from - overlap;
    const loop = samples.slice(0, 2 * length);
    for (let k = 0; k < overlap; k++) {
      const share = (k + 0.5) / overlap;
      const [up, down] = [Math.sin((share * Math.PI) / 2), Math.cos((share * Math.PI) / 2)];
      for (const channel of [0, 1]) {
        const [start, end] = [loop[2 * k + channel] ?? 0, samples[2 * (length + k) + channel] ?? 0];
        loop[2 * k + channel] = start * up + end * down;
      }
    }
    return loop;
  });
}
