import fc from 'fast-check';
import { expect, it } from 'vitest';
import { packHeld, pitchToCode, unpackHeld } from '../curves/voice.ts';
import { NO_STEPS } from '../decisions/replay.ts';
import { curve, ROOM, SPEECH_PARTS, said, VOICE, word } from './made.test-help.ts';
import { DETECTORS, prepare } from './registry.ts';
import { DEFAULT_SETTINGS, SETTINGS, type Settings } from './settings.ts';

const WORDS = said(
  [
    'We start with um the plate and its screws. | | | | We start with the plate and its screws. | | So, you know, it um it is',
    'like a clock. | | | Just | | take the the spring | | | | | off, right, and then uh it runs. | | | Sorry, again. | | |',
  ].join(' '),
);
const silence = (seconds: number): (readonly [number, number])[] =>
  seconds < 0.7
    ? [[seconds, ROOM]]
    : [
        [(seconds - 0.15) / 2, ROOM],
        [0.15, VOICE - 20],
        [(seconds - 0.15) / 2, ROOM],
      ];
const level = curve(
  ...WORDS.flatMap((word, k) => [...silence(word.start - (WORDS[k - 1]?.end ?? 0)), [word.end - word.start, VOICE] as const]),
  [3, ROOM],
);
const duration = level.codes.length / 100;
const motion = { codes: Uint8Array.from({ length: Math.floor(duration * 4) }, (_, k) => (k % 12 < 4 ? 90 : 0)) };

// A hummed half second in the middle of a sentence.
const hummed = {
  duration: 7,
  levels: [curve([1, ROOM], [1, VOICE], [0.4, ROOM], [0.4, VOICE], [0.3, ROOM], [1.9, VOICE], [1, ROOM])],
  words: [
    ...['so', 'we', 'let', 'it'].map((text, k) => word(text, 1 + k * 0.25, 1.25 + k * 0.25)),
    ...['down', 'a', 'quarter', 'turn', 'and', 'wait'].map((text, k) => word(text, 3.1 + k * 0.3, 3.4 + k * 0.3)),
  ],
  voice: [
    unpackHeld(
      packHeld([
        { start: 1.1, length: 0.15, pitch: pitchToCode(120), change: 1.5 },
        { start: 2.42, length: 0.36, pitch: pitchToCode(118), change: 1.5 },
        { start: 3.2, length: 0.15, pitch: pitchToCode(125), change: 1.5 },
      ]),
    ),
  ],
};
const materials = () => [
  prepare({ duration, levels: [level, level], motion, speechParts: SPEECH_PARTS, words: WORDS.map((word) => ({ ...word })) }),
  prepare({ ...hummed, speechParts: SPEECH_PARTS }),
];

/** Any settings at all: each at its usual value, or another. */
const anySettings: fc.Arbitrary<Settings> = fc
  .tuple(
    ...SETTINGS.map(({ name, choices = [], min, max }) => {
      const usual = DEFAULT_SETTINGS[name];
      const others = typeof usual === 'number' ? [min ?? usual, max ?? usual] : choices;
      return fc.constantFrom<unknown>(usual, usual, ...others);
    }),
  )
  .map(
    (values) => ({ ...DEFAULT_SETTINGS, ...Object.fromEntries(SETTINGS.map(({ name }, k) => [name, values[k]])) }) as Settings,
  );

it('each detector reads the settings that it says it reads, and no others', () => {
  const read = DETECTORS.map(() => new Set<string>());
  fc.assert(
    fc.property(anySettings, (settings) => {
      for (const { parts } of materials())
        for (const [k, detector] of DETECTORS.entries()) {
          const watched = new Proxy(settings, {
            get(target, name: keyof Settings) {
              read[k]?.add(name);
              return target[name];
            },
          });
          const decided = detector.readsDecided ? NO_STEPS : (undefined as never);
          detector.detect(parts[k]?.(), watched, decided);
        }
    }),
    { numRuns: 150 },
  );
  for (const [k, { reads }] of DETECTORS.entries()) expect([...(read[k] ?? [])].sort()).toEqual([...reads].sort());
});
