import { describe, expect, it } from 'vitest';
import { MOTION_RATE, motionCode } from '../../curves/motion.ts';
import { probabilityToCode, SPEECH_RATE, type SpeechCurve } from '../../curves/speech.ts';
import { curve, find, ROOM, VOICE, word } from '../made.test-help.ts';
import { stillAndMoving } from './stillness.ts';

/** A speech curve from stretches of `[seconds, probability]`. */
const speech = (...stretches: readonly (readonly [seconds: number, probability: number])[]): SpeechCurve => ({
  codes: Uint8Array.from(
    stretches.flatMap(([seconds, probability]) =>
      Array.from({ length: Math.round(seconds * SPEECH_RATE) }, () => probabilityToCode(probability)),
    ),
  ),
});

describe('the measured probability of speech', () => {
  const gust = [curve([3, VOICE], [1, ROOM], [1.6, -28], [1, ROOM], [3, VOICE])];

  it('lets a loud gust be part of the pause round it, and says so', () => {
    expect(find({ levels: gust })).toHaveLength(2);
    const [pause, ...more] = find({ levels: gust, speech: [speech([3, 1], [3.6, 0.01], [3, 1])] });
    expect(more).toHaveLength(0);
    expect(pause?.start).toBeLessThan(3.1);
    expect(pause?.end).toBeGreaterThan(6.5);
    expect(pause?.evidence.noise).toBeGreaterThan(1.3);
    // It may be the clock that strikes: it is proposed, and stays until somebody has heard it.
    expect(pause?.confidence).toBeLessThanOrEqual(0.6);
  });

  it('is not asked when it is told to keep out', () => {
    expect(find({ levels: gust, speech: [speech([3, 1], [3.6, 0.01], [3, 1])] }, { voice: 'ignore' })).toHaveLength(2);
  });

  it('saves a soft word that stays under the threshold', () => {
    const soft = [curve([3, VOICE], [1, ROOM], [0.5, -56], [1, ROOM], [3, VOICE])];
    expect(find({ levels: soft })).toHaveLength(1);
    const found = find({ levels: soft, speech: [speech([3, 1], [1, 0], [0.5, 0.95], [1, 0], [3, 1])] });
    expect(found).toHaveLength(2);
    for (const { start, end } of found) expect(end <= 4.01 || start >= 4.49).toBe(true);
  });

  it('does not count where it hears no speech in anything: it does not know that voice', () => {
    const levels = [curve([3, VOICE], [1, ROOM], [3, VOICE])];
    const found = find({ levels, speech: [speech([7, 0.02])] });
    expect(found).toEqual(find({ levels }));
  });

  it('makes a knock that it calls no speech less doubtful', () => {
    const levels = [curve([2, VOICE], [1, ROOM], [0.05, -25], [1, ROOM], [2, VOICE])];
    const [alone] = find({ levels });
    const [both] = find({ levels, speech: [speech([2, 1], [2.05, 0], [2, 1])] });
    expect(both?.confidence).toBeGreaterThanOrEqual(alone?.confidence as number);
    expect(both?.evidence.doubt).toBeLessThan(alone?.evidence.doubt as number);
  });
});

describe('breaths', () => {
  const levels = [curve([3, VOICE], [1, ROOM], [0.4, -46], [1, ROOM], [3, VOICE])];
  it('count as pause or as speech, as one likes', () => {
    expect(find({ levels }, { breaths: 'pause' })).toHaveLength(1);
    expect(find({ levels }, { breaths: 'pause' })[0]?.evidence).toMatchObject({ breaths: 1, specks: 0 });
    expect(find({ levels }, { breaths: 'speech' })).toHaveLength(2);
  });
});

describe('tracks', () => {
  // She speaks, he answers; each microphone hears the other 22 decibels softer.
  const hers = curve([3, VOICE], [1, ROOM], [3, VOICE - 22], [1, ROOM], [3, VOICE]);
  const his = curve([3, VOICE - 22], [1, ROOM], [3, VOICE], [1, ROOM], [3, VOICE - 22]);

  it('that follow keep no pause alive, and their bleed does not either', () => {
    const found = find({ levels: [hers, his] }, { listen: '1' });
    expect(found).toHaveLength(1);
    expect(found[0]?.end).toBeGreaterThan(7.8);
    // However loud the bleed is, it leaves no doubt.
    expect(found[0]?.confidence).toBeGreaterThan(0.6);
  });

  it('that listen all count', () => {
    expect(find({ levels: [hers, his] })).toHaveLength(2);
  });

  it('named but not there leave all listening', () => {
    expect(find({ levels: [hers, his] }, { listen: '7' })).toEqual(find({ levels: [hers, his] }));
  });
});

describe('a moving picture', () => {
  const levels = [curve([2, VOICE], [12, ROOM], [2, VOICE])];
  // Hands move from 6 to 10 seconds.
  const motion = {
    codes: Uint8Array.from({ length: 16 * MOTION_RATE }, (_, k) => (k > 6 * MOTION_RATE && k <= 10 * MOTION_RATE ? 60 : 2)),
  };

  it('keeps its part of a silence, or hurries it, while the still parts go', () => {
    expect(find({ levels, motion }, { moving: 'same' })).toHaveLength(1);
    const left = find({ levels, motion }, { moving: 'leave' });
    expect(left).toHaveLength(2);
    expect(left[0]?.end).toBeCloseTo(6, 0);
    expect(left[1]?.start).toBeCloseTo(10, 0);
    const hurried = find({ levels, motion }, { moving: 'hurry', hurryRate: 3 });
    expect(hurried.map(({ treatment, amount }) => [treatment, amount])).toEqual([
      ['remove', undefined],
      ['hurry', 3],
      ['remove', undefined],
    ]);
  });

  it('is told from a twitch and from a moment of rest', () => {
    const codes = new Uint8Array(40);
    codes[8] = 90;
    for (let k = 20; k < 32; k++) codes[k] = k === 25 ? 0 : 50;
    const parts = stillAndMoving({ codes }, { start: 0, end: 10 }, 0.01);
    expect(parts.filter(({ moving }) => moving)).toHaveLength(1);
    expect(parts.at(0)?.start).toBe(0);
    expect(parts.at(-1)?.end).toBe(10);
    for (const [k, part] of parts.entries()) if (k > 0) expect(part.start).toBe(parts[k - 1]?.end);
  });

  it('is measured by the share of points that change, not by how bright they are', () => {
    const before = new Uint8Array(1000).fill(100);
    const after = before.map((value, k) => (k < 40 ? 200 : value + 3));
    expect(motionCode(before, after)).toBe(40);
  });
});

describe('the times of words', () => {
  it('draw the edge of a pause over what little sound is left after an exact one', () => {
    // The room still rings for a tenth of a second after each word.
    const ringing = Array.from(
      { length: 10 },
      () =>
        [
          [2, VOICE],
          [0.1, -45],
          [0.9, ROOM],
        ] as const,
    ).flat();
    const said = Array.from({ length: 10 }, (_, k) => word('ring', k * 3, k * 3 + 2));
    const found = find({ levels: [curve(...ringing)], words: said }, { takes: 'off' });
    expect(found).toHaveLength(10);
    for (const [k, { start }] of found.entries()) expect(Math.abs(start - (k * 3 + 2))).toBeLessThan(0.04);
  });
});
