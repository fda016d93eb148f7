import { describe, expect, it } from 'vitest';
import { HoldingMeter } from '../../curves/sustainedSounds.ts';
import { packHeld, pitchToCode, semitones, unpackHeld } from '../../curves/voice.ts';
import { VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE } from '../../curves/voiceFrames.ts';
import { curve, find, ROOM, VOICE, word } from '../made.test-help.ts';
import { certaintyOf } from '../settings.ts';
import { HEARD_GROUP } from './unwrittenHesitations.ts';

/** Held sounds of stretches `[start, length, pitch in hertz]`. */
const held = (...sounds: readonly (readonly [start: number, length: number, hertz: number])[]) =>
  unpackHeld(packHeld(sounds.map(([start, length, hertz]) => ({ start, length, pitch: pitchToCode(hertz), change: 1.5 }))));

// A sentence with a hummed half second in the middle: speech to 2 s, pause, hum at 2.4 to 2.8, pause, speech from 3.1 s.
const levels = [curve([1, ROOM], [1, VOICE], [0.4, ROOM], [0.4, VOICE], [0.3, ROOM], [1.9, VOICE], [1, ROOM])];
const sentence = [
  ...['so', 'we', 'let', 'it'].map((text, k) => word(text, 1 + k * 0.25, 1.25 + k * 0.25)),
  ...['down', 'a', 'quarter', 'turn', 'and', 'wait'].map((text, k) => word(text, 3.1 + k * 0.3, 3.4 + k * 0.3)),
];
const hummed = [held([1.1, 0.15, 120], [2.42, 0.36, 118], [3.2, 0.15, 125])];
const heardIn = (material: Partial<Parameters<typeof find>[0]> = {}) =>
  find({ levels, words: sentence, voice: hummed, ...material }).filter(({ group }) => group === HEARD_GROUP);

describe('hesitations that are heard, not written', () => {
  it('are voiced sounds that no word covers, from where they rise to where they sink', () => {
    const [only, ...more] = heardIn();
    expect(more).toEqual([]);
    expect(only?.kind).toBe('filler');
    expect(only?.confidence).toBeGreaterThan(0.8);
    expect(Math.abs((only?.found.start ?? 0) - 2.4)).toBeLessThan(0.04);
    expect(Math.abs((only?.found.end ?? 0) - 2.8)).toBeLessThan(0.04);
  });

  it('are none where a word is written, nothing is voiced, nothing is measured, or nobody asks', () => {
    expect(heardIn({ words: [...sentence, word('um', 2.4, 2.8)].sort((a, b) => a.start - b.start) })).toEqual([]);
    expect(heardIn({ voice: [held([1.1, 0.15, 120])] })).toEqual([]);
    expect(heardIn({ voice: undefined })).toEqual([]);
    expect(heardIn({ words: [] })).toEqual([]);
    expect(find({ levels, words: sentence, voice: hummed }, { heard: 'leave' }).some(({ group }) => group === HEARD_GROUP)).toBe(
      false,
    );
  });

  it('prove little in a transcript that leaves out much else', () => {
    const words = sentence.filter((_, k) => k % 2 === 0);
    const voice = [held(...Array.from({ length: 15 }, (_, k) => [1.02 + k * 0.25, 0.2, 120] as const))];
    // However long they are held, none goes by itself.
    const certainty = certaintyOf({ boldness: 'usual' });
    expect(heardIn({ words, voice }).every(({ confidence }) => confidence < certainty)).toBe(true);
  });

  it('are none where whole sentences are not written: vowels are held in those as well', () => {
    const gap = (spoken: number) => {
      const from = 1 + spoken;
      const levels = [curve([1, ROOM], [1 + spoken, VOICE], [0.4, ROOM], [0.4, VOICE], [0.3, ROOM], [1.9, VOICE], [1, ROOM])];
      const words = [
        ...['so', 'we', 'let', 'it'].map((text, k) => word(text, 1 + k * 0.25, 1.25 + k * 0.25)),
        ...['down', 'a', 'quarter', 'turn'].map((text, k) => word(text, from + 2.1 + k * 0.3, from + 2.4 + k * 0.3)),
      ];
      return heardIn({ levels, words, voice: [held([from + 1.42, 0.36, 118])] });
    };
    expect(gap(0)).toHaveLength(1);
    expect(gap(0.4)).toHaveLength(1);
    expect(gap(6)).toEqual([]);
  });

  it('are under a written word only where something is heard under it', () => {
    // All of it sounds like hesitating to a recogniser that was not sure of a word, and from 3 s on the recorder did not run.
    const hesitation = [{ codes: new Uint8Array(25 * 8).fill(127) }];
    const line = (from: number, texts = ['that', 'turn', 'them', 'once']) =>
      texts.map((text, k) => ({
        ...word(text, from + k * 0.5, from + k * 0.5 + 0.5),
        confidence: 0.6,
      }));
    const found = heardIn({
      levels: [curve([1, ROOM], [2, VOICE], [5, -127])],
      words: [...line(1), ...line(4)],
      voice: [held()],
      hesitation,
    });
    expect(found.filter(({ evidence }) => evidence.underWord === 1).length).toBeGreaterThan(1);
    for (const { found: range } of found) expect(range.end).toBeLessThanOrEqual(3);
    // Nor under a note of what else is heard.
    const noted = heardIn({
      levels: [curve([1, ROOM], [2, VOICE], [5, -127])],
      words: line(1, ['(laughs)', '[Applause]', '(upbeat music)', '♪']),
      voice: [held()],
      hesitation,
    });
    expect(noted).toEqual([]);
  });
});

/** Frames of a sound, as they are measured. */
function measured(sampleAt: (seconds: number) => number, seconds: number) {
  const meter = new HoldingMeter();
  for (let at = 0; at < seconds * VOICE_SAMPLE_RATE; at += VOICE_HOP_SAMPLES)
    meter.push(Float64Array.from({ length: 1024 }, (_, k) => sampleAt((at + k - 512) / VOICE_SAMPLE_RATE)));
  return meter.end();
}
/** A buzz with falling overtones, as a throat makes it. */
const buzz = (hertz: number) => (t: number) =>
  Array.from({ length: 12 }, (_, n) => Math.sin(2 * Math.PI * hertz * (n + 1) * t) / (n + 1)).reduce((a, b) => a + b, 0) * 0.1;

describe('held sounds', () => {
  it.each([80, 118, 205, 330])('of %i hertz are told by their pitch', (hertz) => {
    const [sound] = measured((t) => (t > 0.3 && t < 0.9 ? buzz(hertz)(t) : 0), 1.2);
    expect(Math.abs(semitones(pitchToCode(hertz), sound?.pitch ?? 0))).toBeLessThanOrEqual(0.5);
    expect(Math.abs((sound?.start ?? 0) - 0.3)).toBeLessThan(0.05);
    expect(Math.abs((sound?.length ?? 0) - 0.6)).toBeLessThan(0.08);
  });

  it('end where the pitch jumps, and noise or silence holds nothing', () => {
    const two = measured((t) => buzz(t < 0.5 ? 110 : 165)(t), 1);
    expect(two.length).toBeGreaterThanOrEqual(2);
    let seed = 1;
    const noise = () => {
      seed = (Math.imul(seed, 1_103_515_245) + 12_345) & 0x7fffffff;
      return (seed / 0x7fffffff - 0.5) * 0.2;
    };
    expect(measured(noise, 1).length).toBeLessThanOrEqual(1);
    expect(measured(() => 0, 1)).toEqual([]);
  });

  it('travel in eight bytes each', () => {
    const sounds = [{ start: 3600.123, length: 0.25, pitch: 77, change: 1.5 }];
    const back = unpackHeld(packHeld(sounds));
    expect([back.starts[0], back.lengths[0], back.pitches[0], back.changes[0]]).toEqual([3_600_123, 250, 77, 15]);
  });
});
