import { describe, expect, it } from 'vitest';
import { SPEECH_RATE } from '../../curves/speech.ts';
import { curve, find, ROOM, VOICE } from '../made.test-help.ts';
import { floorWhereHushed } from './backgroundFloor.ts';
import { trackLevels } from './levelTracking.ts';

/** Two seconds of voice, then two in which a plucked note sounds and dies away twice: the bed that a voice is laid on. */
const phrase = [
  [2, VOICE],
  [0.2, ROOM],
  [0.1, -46],
  [0.6, -50],
  [0.2, ROOM],
  [0.1, -46],
  [0.6, -50],
  [0.2, ROOM],
] as const;
const levels = curve(...Array.from({ length: 12 }, () => phrase).flat());
/** The speech measure hears the voice alone, and lets go a tenth of a second late. */
const speech = {
  codes: Uint8Array.from({ length: Math.ceil(48 * SPEECH_RATE) }, (_, k) => ((k / SPEECH_RATE) % 4 < 2.1 ? 250 : 4)),
};

describe('the floor where nobody speaks', () => {
  it('reaches up to the notes of music, and no further than well under the voice', () => {
    const tracked = trackLevels(levels);
    const raised = floorWhereHushed(levels, speech, tracked);
    for (const [block, floor] of raised.floor.entries()) {
      expect(floor).toBeGreaterThan((tracked.floor[block] as number) + 8);
      expect(floor).toBeLessThanOrEqual((raised.speech[block] as number) - 50);
    }
  });

  it('stays as it is in a steady room', () => {
    const steady = curve(
      ...Array.from(
        { length: 12 },
        () =>
          [
            [2, VOICE],
            [2, ROOM],
          ] as const,
      ).flat(),
    );
    const tracked = trackLevels(steady);
    expect(floorWhereHushed(steady, speech, tracked).floor).toEqual(tracked.floor);
  });

  it('stays as it is where somebody speaks all the time', () => {
    const tracked = trackLevels(levels);
    const always = { codes: new Uint8Array(speech.codes.length).fill(250) };
    expect(floorWhereHushed(levels, always, tracked).floor).toEqual(tracked.floor);
  });

  it('lets a pause with music in it be one pause', () => {
    const found = (measure?: typeof speech) =>
      find({ levels: [levels], ...(measure && { speech: [measure] }) }, { minPause: 0.5, takes: 'off' });
    expect(found(speech).filter(({ start, end }) => end - start > 1.85)).toHaveLength(12);
    expect(found().filter(({ start, end }) => end - start > 1.85).length).toBeLessThan(6);
  });
});
