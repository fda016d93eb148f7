import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { curve, find, ROOM, VOICE, word } from '../made.test-help.ts';
import { parseSetting, SettingsError } from '../settings.ts';
import { trackLevels } from './levelTracking.ts';

const spans = (found: readonly { start: number; end: number }[]) => found.map(({ start, end }) => [start, end]);

describe('pauses', () => {
  it('are found between stretches of speech, their edges within 60 ms and never inside the speech', () => {
    const found = find({
      levels: [curve([2, VOICE], [1.5, ROOM], [3, VOICE], [0.3, ROOM], [2, VOICE], [0.8, ROOM], [1, VOICE])],
    });
    expect(found).toHaveLength(2);
    for (const [k, truth] of [
      [2, 3.5],
      [8.8, 9.6],
    ].entries()) {
      expect(found[k]?.start).toBeGreaterThanOrEqual((truth[0] as number) - 0.001);
      expect(found[k]?.start).toBeLessThan((truth[0] as number) + 0.06);
      expect(found[k]?.end).toBeLessThanOrEqual((truth[1] as number) + 0.001);
      expect(found[k]?.end).toBeGreaterThan((truth[1] as number) - 0.06);
    }
  });

  it('reach to the very start and end of a recording', () => {
    const [head, tail] = find({ levels: [curve([1, ROOM], [3, VOICE], [1.2, ROOM])] }, { airBefore: 0.2, airAfter: 0.3 });
    expect(head?.start).toBe(0);
    expect(head?.end).toBeLessThanOrEqual(0.8);
    expect(tail?.start).toBeGreaterThanOrEqual(4.3);
    expect(tail?.end).toBe(5.2);
  });

  it('a knock inside a silence does not split it, and makes it a little less sure', () => {
    const found = find({ levels: [curve([2, VOICE], [1, ROOM], [0.05, -25], [1, ROOM], [2, VOICE])] });
    expect(found).toHaveLength(1);
    expect(found[0]?.evidence.specks).toBe(1);
    const [still] = find({ levels: [curve([2, VOICE], [2.05, ROOM], [2, VOICE])] });
    expect(found[0]?.confidence).toBeLessThanOrEqual(still?.confidence ?? 0);
  });

  it('a row of keys, each near the next, splits nothing either', () => {
    const keys = Array.from(
      { length: 6 },
      () =>
        [
          [0.03, -30],
          [0.12, ROOM],
        ] as const,
    ).flat();
    const found = find({ levels: [curve([2, VOICE], [0.5, ROOM], ...keys, [0.5, ROOM], [2, VOICE])] });
    expect(found).toHaveLength(1);
    expect(found[0]?.evidence.specks).toBe(6);
  });

  it('a note of what is heard besides holds no silence, and a word does', () => {
    const levels = [curve([2, VOICE], [3, ROOM], [2, VOICE])];
    const words = (text: string) => [word('one', 0.1, 1.9), word(text, 2.2, 4.8), word('two', 5.1, 6.9)];
    for (const note of ['[BLANK_AUDIO]', '(upbeat music)', '[Applause].', '♪', '*coughs*', '(Laughs)', '...'])
      expect(find({ levels, words: words(note) }), note).toHaveLength(1);
    for (const said of ['music', '(really)', '42', "'tis", 'Фонарь', '[sic'])
      expect(find({ levels, words: words(said) }), said).not.toHaveLength(1);
  });

  it('a knock in which a word is said splits it', () => {
    const found = find({
      levels: [curve([2, VOICE], [1, ROOM], [0.05, -25], [1, ROOM], [2, VOICE])],
      words: [word('no', 2.98, 3.08)],
    });
    expect(found).toHaveLength(2);
  });

  it('a breath, soft and alone, does not split it; a short word at speaking level does', () => {
    const around = (middle: readonly [number, number]) =>
      find({ levels: [curve([3, VOICE], [1, ROOM], middle, [1, ROOM], [3, VOICE])] });
    expect(around([0.4, -46])).toHaveLength(1);
    expect(around([0.4, -26])).toHaveLength(2);
  });

  it('the release of a final plosive is not taken for a knock', () => {
    const [pause] = find({ levels: [curve([2, VOICE], [0.08, ROOM], [0.03, -50], [1.5, ROOM], [2, VOICE])] });
    expect(pause?.start).toBeGreaterThanOrEqual(2.1);
  });

  it('no pause enters a word that is too soft to be heard', () => {
    const found = find({ levels: [curve([2, VOICE], [3, ROOM], [2, VOICE])], words: [word('whispered', 3, 3.6)] });
    for (const { start, end } of found) expect(end <= 3 || start >= 3.6).toBe(true);
    expect(found).toHaveLength(2);
  });

  it('an estimated word guards its middle alone', () => {
    const [first] = find({ levels: [curve([2, VOICE], [3, ROOM], [2, VOICE])], words: [word('about', 3, 4, 'estimated')] });
    expect(first?.end).toBeGreaterThan(3);
    expect(first?.end).toBeLessThanOrEqual(3.25);
  });

  it('a change of microphone gain half-way leaves neither half clipped or uncut', () => {
    const talk = (gain: number) =>
      Array.from(
        { length: 8 },
        () =>
          [
            [2.5, VOICE + gain],
            [1, ROOM + gain],
          ] as const,
      ).flat();
    for (const gain of [-14, 14]) {
      const found = find({ levels: [curve(...talk(0), ...talk(gain))] });
      expect(found).toHaveLength(16);
      const inside = found.filter(({ start, end }) => Math.abs(end - start - 1) > 0.12);
      // The pause in which the gain changes may be off by the half second that the floor is tracked in.
      expect(inside.length).toBeLessThanOrEqual(1);
    }
  });

  it('on two tracks are where nobody speaks', () => {
    const hers = curve([3, VOICE], [5, ROOM], [3, VOICE]);
    const his = curve([4, -62], [3, VOICE], [4, -62]);
    const found = find({ levels: [hers, his] });
    expect(found).toHaveLength(2);
    expect(found[0]?.start).toBeGreaterThanOrEqual(3);
    expect(found[0]?.end).toBeLessThanOrEqual(4);
    expect(found[1]?.start).toBeGreaterThanOrEqual(7);
  });

  it('none are found in silence alone or speech alone', () => {
    expect(find({ levels: [curve([10, VOICE])] })).toHaveLength(0);
    expect(find({ levels: [] }, {})).toHaveLength(0);
  });

  it('follow a threshold set by hand', () => {
    const levels = [curve([2, -20], [1, -45], [2, -20], [1, -60], [2, -20])];
    expect(find({ levels }, { threshold: -40 })).toHaveLength(2);
    expect(spans(find({ levels }, { threshold: -52 })).map(([start]) => Math.round(start as number))).toEqual([5]);
  });
});

const talk = fc
  .array(fc.tuple(fc.integer({ min: 20, max: 300 }), fc.integer({ min: 5, max: 250 }), fc.integer({ min: -32, max: -14 })), {
    minLength: 1,
    maxLength: 15,
  })
  .map((parts) =>
    curve(...parts.flatMap(([speech, silence, level]) => [[speech / 100, level] as const, [silence / 100, ROOM] as const])),
  );

const settings = fc.record({
  minPause: fc.double({ min: 0.1, max: 2, noNaN: true }),
  airBefore: fc.double({ min: 0, max: 0.6, noNaN: true }),
  airAfter: fc.double({ min: 0, max: 0.6, noNaN: true }),
  threshold: fc.oneof(fc.constant('auto' as const), fc.integer({ min: -70, max: -20 })),
});

describe('properties of pauses', () => {
  it('they never overlap, never leave the recording, and leave at least the air asked for', () => {
    fc.assert(
      fc.property(talk, settings, (level, chosen) => {
        const duration = level.codes.length / 100;
        let last = 0;
        for (const { start, end, found } of find({ levels: [level] }, chosen)) {
          expect(start).toBeGreaterThanOrEqual(last);
          expect(end).toBeGreaterThan(start);
          expect(end).toBeLessThanOrEqual(duration);
          if (found.start > 0) expect(start - found.start).toBeGreaterThanOrEqual(chosen.airAfter - 0.001);
          if (found.end < duration) expect(found.end - end).toBeGreaterThanOrEqual(chosen.airBefore - 0.001);
          last = end;
        }
      }),
    );
  });

  it('a larger shortest pause never gives more of them', () => {
    fc.assert(
      fc.property(talk, settings, fc.double({ min: 0, max: 1, noNaN: true }), (level, chosen, more) => {
        const some = find({ levels: [level] }, chosen);
        const fewer = find({ levels: [level] }, { ...chosen, minPause: chosen.minPause + more });
        expect(fewer.length).toBeLessThanOrEqual(some.length);
      }),
    );
  });

  it('the same material and settings give the same answer', () => {
    fc.assert(
      fc.property(talk, settings, (level, chosen) => {
        expect(find({ levels: [level] }, chosen)).toEqual(find({ levels: [level] }, chosen));
      }),
    );
  });
});

describe('tracked levels', () => {
  it('follow the room and the voice', () => {
    const { floor, speech } = trackLevels(
      curve(
        ...Array.from(
          { length: 10 },
          () =>
            [
              [2, VOICE],
              [1, ROOM],
            ] as const,
        ).flat(),
      ),
    );
    for (const code of floor) expect(Math.abs(code / 2 - 127.5 - ROOM)).toBeLessThan(2);
    for (const code of speech) expect(Math.abs(code / 2 - 127.5 - VOICE)).toBeLessThan(5);
  });

  it('do not take the dips inside half a minute of unbroken speech for the room', () => {
    const chatter = Array.from(
      { length: 60 },
      () =>
        [
          [0.4, VOICE],
          [0.1, -42],
        ] as const,
    ).flat();
    const { floor } = trackLevels(curve([2, VOICE], [2, ROOM], ...chatter, [2, ROOM]));
    expect(Math.max(...floor) / 2 - 127.5).toBeLessThan(ROOM + 7);
  });

  it('stand on digital silence without falling through it', () => {
    const { floor, speech } = trackLevels({ codes: Uint8Array.from({ length: 3000 }, (_, k) => (k % 300 < 200 ? 200 : 0)) });
    expect(Math.min(...floor)).toBeGreaterThanOrEqual((speech[0] as number) - 120);
  });
});

describe('settings', () => {
  it('are read from text, with units and ranges checked', () => {
    expect(parseSetting('minPause', '0.4')).toEqual({ minPause: 0.4 });
    expect(parseSetting('threshold', 'auto')).toEqual({ threshold: 'auto' });
    expect(() => parseSetting('minPause', '99')).toThrow(/0\.1 to 10 s/);
    expect(() => parseSetting('minPause', 'auto')).toThrow(SettingsError);
    expect(() => parseSetting('airBefore', 'NaN')).toThrow(SettingsError);
    expect(() => parseSetting('airBefore', '')).toThrow(SettingsError);
    expect(() => parseSetting('minpause', '1')).toThrow(/Known: threshold, minPause/);
  });
});
