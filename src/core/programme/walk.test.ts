import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { DecisionEvent } from '../decisions/event.ts';
import { replay } from '../decisions/replay.ts';
import type { Material } from '../detect/detector.ts';
import { curve, ROOM, SPEECH_PARTS, said, VOICE } from '../detect/made.test-help.ts';
import { type Pace, prepareEpisode } from '../detect/registry.ts';
import { DEFAULT_SETTINGS, SETTINGS, type SettingSpec, type Settings } from '../detect/settings.ts';
import type { Range } from '../time/range.ts';
import { type Cut, computeCut, toCutList } from './cutlist.ts';

// Whatever is remembered on the way, the cut is that of the decisions in force: any walk equals computing afresh.

const WORDS = said(
  [
    'We start with um the plate and its screws. | | | | We start with the plate and its screws. | | So, you know, it um it is',
    'like a clock. | | | Just | | take the the spring | | | | | off, right, and then uh it runs. | | | Sorry, again. | | |',
    'The lamp is lit so | | | the lamp is, I mean, really lit. | | | | | | Okay. | | Nobody saw it. | | | |',
  ].join(' '),
);

/** A silence with something in it where it is long enough: a click, a knock, or a gust in which nobody speaks. */
function silence(seconds: number, k: number): (readonly [seconds: number, dbfs: number])[] {
  if (seconds < 0.7) return [[seconds, ROOM]];
  const sound = k % 3 === 0 ? 0.05 : k % 3 === 1 ? 0.15 : 0.4;
  return [
    [(seconds - sound) / 2, ROOM],
    [sound, k % 3 === 2 ? VOICE - 6 : VOICE - 20],
    [(seconds - sound) / 2, ROOM],
  ];
}

/** Both microphones hear the words, the second one less; clicks and gusts in the pauses; the picture moves for a third of the time. */
function material(): Material {
  const stretches = WORDS.flatMap((word, k) => [
    ...silence(word.start - (WORDS[k - 1]?.end ?? 0), k),
    [word.end - word.start, VOICE] as const,
  ]);
  const first = curve(...stretches, [3, ROOM]);
  const second = curve(...stretches.map(([seconds, level]) => [seconds, level === VOICE ? VOICE - 8 : ROOM] as const), [3, ROOM]);
  const duration = first.codes.length / 100;
  const heard = Uint8Array.from({ length: Math.floor(duration * 31.25) }, (_, k) =>
    WORDS.some(({ start, end }) => k / 31.25 >= start && k / 31.25 < end) ? 240 : 5,
  );
  const moved = Uint8Array.from({ length: Math.floor(duration * 4) }, (_, k) => (k % 12 < 4 ? 90 : 0));
  return {
    duration,
    levels: [first, second],
    speech: [{ codes: heard }, { codes: heard.slice() }],
    motion: { codes: moved },
    words: WORDS.map((word) => ({ ...word })),
  };
}
const { duration } = material();

/** One recording, or two of them on one clock: the second begins where the first has been over for a while. */
const PLACES = [0, Math.ceil(duration) + 2] as const;
const ENDS = PLACES.map((place) => place + duration) as [number, number];
const idOfRecording = (k: number) => idOf(7000 + k);

function episode(recordings: 1 | 2) {
  const { words, ...sound } = material();
  const [, second] = PLACES;
  const again = words.map((word) => ({ ...word, start: word.start + second, end: word.end + second }));
  return prepareEpisode({
    speechParts: SPEECH_PARTS,
    recordings: PLACES.slice(0, recordings).map((place, k) => ({ id: idOfRecording(k), place, sound })),
    words: recordings === 1 ? words : [...words, ...again],
  });
}

const FORMS: Partial<Record<SettingSpec['name'], readonly string[]>> = {
  lexicon: ['shipped', 'en/like:off', 'en/just:often', 'en/spring:always;en/um:off'],
  listen: ['all', '1', '2'],
};
const valuesOf = ({ name, choices = [], min, max }: SettingSpec) => {
  const usual = DEFAULT_SETTINGS[name];
  const between = typeof usual === 'number' ? [usual / 2, usual, 1.5 * usual] : [];
  const numbers = min === undefined || max === undefined ? [] : [min, ...between.filter((one) => one >= min && one <= max), max];
  return [...(FORMS[name] ?? choices), ...numbers];
};
/** Any setting, those more often that most of what is remembered depends on. */
const LIVELY = [
  'minPause',
  'airAfter',
  'airSentence',
  'airTurn',
  'shortenTo',
  'hurryFrom',
  'speck',
  'voice',
  'listen',
  'lexicon',
  'treatment',
];
const aSetting = fc
  .oneof(
    { arbitrary: fc.constantFrom(...SETTINGS), weight: 1 },
    { arbitrary: fc.constantFrom(...SETTINGS.filter(({ name }) => LIVELY.includes(name))), weight: 3 },
  )
  .chain((spec) =>
    fc.constantFrom(...valuesOf(spec)).map((value): Move => ({ type: 'setting', change: { name: spec.name, value } })),
  );
const aRange = fc
  .tuple(fc.double({ min: 0, max: ENDS[1] - 1, noNaN: true }), fc.double({ min: 0.05, max: 4, noNaN: true }))
  .map(([start, length]) => ({ start, end: start + length }));
/** Something that was proposed, by its place among all that was. */
const aProposal = fc.nat(200);

/** Settings that others depend on, to start a walk from. */
const STARTS: readonly Partial<Settings>[] = [
  {},
  { treatment: 'shorten', speck: 0.2 },
  { treatment: 'hurry', hurryFrom: 0.2 },
  { moving: 'hurry', breaths: 'speech' },
  { airSentence: 0.6, minPause: 0.2 },
  { spare: 'some', asked: 'propose', boldness: 'daring' },
];

type Unnamed<T> = T extends { id: string } ? Omit<T, 'id'> : never;
type Move =
  | Unnamed<Exclude<DecisionEvent, { type: 'undo' | 'redo' }>>
  | { readonly type: 'about'; readonly at: number; readonly what: 'out' | 'stay' | 'hole' | 'edge' }
  | { readonly type: 'undo' | 'redo'; readonly back: number };

const aMove: fc.Arbitrary<Move> = fc.oneof(
  { arbitrary: aSetting, weight: 6 },
  {
    arbitrary: fc
      .tuple(aProposal, fc.constantFrom('out', 'stay', 'hole', 'edge'))
      .map(([at, what]): Move => ({ type: 'about', at, what: what as 'out' })),
    weight: 4,
  },
  {
    arbitrary: fc
      .tuple(
        fc.nat(WORDS.length - 3),
        fc.nat(2),
        fc.constantFrom(...PLACES),
        fc.constantFrom('', 'um', 'the the lamp', 'you know', 'screws.', 'screws', 'so'),
      )
      .map(([first, more, place, text]): Move => {
        const about = { start: place + (WORDS[first]?.start ?? 0), end: place + (WORDS[first + more]?.end ?? duration) };
        return { type: 'correct', changes: [{ about, text }] };
      }),
    weight: 5,
  },
  aRange.map((about): Move => ({ type: 'speaker', about, to: 'Tobit' })),
  aRange.map((about): Move => ({ type: 'cut', about })),
  fc.double({ min: 0, max: duration, noNaN: true }).map((at): Move => ({ type: 'split', at })),
  fc
    .tuple(aRange, fc.double({ min: 0, max: ENDS[1], noNaN: true }))
    .map(([about, to]): Move => ({ type: 'move', about, to, side: 'before' })),
  fc.boolean().map((present): Move => ({ type: 'recording', recording: idOfRecording(1), present })),
  fc.tuple(fc.nat(WORDS.length - 14), fc.boolean()).map(([first, keeps]): Move => {
    const [one, two] = [0, 7].map((n) => ({
      start: WORDS[first + n]?.start ?? 0,
      end: WORDS[first + n + 5]?.end ?? duration,
    })) as [Range, Range];
    return { type: 'takes', about: [one, two], groups: [{ attempts: [one, two], ...(keeps && { keep: [two] }) }] };
  }),
  aRange.map((about): Move => ({ type: 'collect', about, wanted: true })),
  fc.boolean().map((on): Move => ({ type: 'collecting', on, order: 'marking' })),
  fc
    .tuple(aRange, fc.constantFrom(0.2, 3), fc.constantFrom('shorten', 'hurry'))
    .map(
      ([about, minPause, treatment]): Move => ({ type: 'section', section: idOf(9000), about, values: { minPause, treatment } }),
    ),
  { arbitrary: fc.nat(2).map((back): Move => ({ type: 'undo', back })), weight: 3 },
  fc.nat(2).map((back): Move => ({ type: 'redo', back })),
);

function idOf(n: number): string {
  return `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
}

/** A move as an entry of the log; one about a proposal finds it in the last cut. */
function eventOf(move: Move, n: number, last: Cut, log: readonly DecisionEvent[]): DecisionEvent | undefined {
  const id = idOf(n);
  if (move.type === 'undo' || move.type === 'redo') {
    const target = log.filter(({ type }) => type !== 'undo' && type !== 'redo').at(-1 - move.back)?.id;
    return target === undefined ? undefined : { id, type: move.type, target };
  }
  if (move.type !== 'about') return { ...move, id } as DecisionEvent;
  const proposal = last.proposals[move.at % Math.max(1, last.proposals.length)];
  if (!proposal) return undefined;
  const { kind, found, start, end } = proposal;
  if (move.what === 'hole') return { id, type: 'treat', kind, about: found, treatment: 'hole' };
  if (move.what === 'edge') return { id, type: 'edge', kind, about: found, taken: { start, end: (start + 3 * end) / 4 } };
  return { id, type: 'verdict', kind, about: found, verdict: move.what };
}

const told = (cut: Cut) => ({
  list: toCutList(
    PLACES.map((start, k) => ({ start, end: ENDS[k] as number, media: { name: 'walk', duration, tracks: 2 } })),
    cut,
  ),
  unmatched: cut.unmatched,
  taken: cut.proposals.map(({ taken, found, decided }) => [taken, found, decided]),
});

it('any walk of settings, corrections and verdicts gives the cut that is computed afresh', () => {
  let [cuts, changed] = [0, 0];
  fc.assert(
    fc.property(
      fc.constantFrom(1 as const, 1 as const, 2 as const),
      fc.constantFrom(...STARTS),
      fc.array(fc.tuple(aMove, fc.constantFrom<Pace | 'none'>('none', 'glance', 'hurry')), { minLength: 4, maxLength: 18 }),
      (recordings, start, walk) => {
        const kept = episode(recordings);
        const log: DecisionEvent[] = [{ id: idOf(8000), type: 'settings', values: { ...start } }];
        let last = computeCut(kept, replay(log));
        for (const [n, [move, pace]] of walk.entries()) {
          const event = eventOf(move, n, last, log);
          if (!event) continue;
          log.push(event);
          const state = replay(log);
          // A first look on the way leaves nothing behind that the whole answer would trip over.
          if (pace !== 'none') computeCut(kept, state, pace);
          const before = told(last);
          last = computeCut(kept, state);
          const afresh = told(computeCut(episode(recordings), replay(log)));
          expect(told(last)).toEqual(afresh);
          cuts++;
          if (JSON.stringify(before) !== JSON.stringify(afresh)) changed++;
        }
      },
    ),
    { numRuns: 70 },
  );
  // Moves that change nothing would prove nothing.
  expect(changed).toBeGreaterThan(cuts / 3);
}, 120_000);
