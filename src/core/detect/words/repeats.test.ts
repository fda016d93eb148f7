import { describe, expect, it } from 'vitest';
import type { Word } from '../../transcript/word.ts';
import { find, quiet, said, word } from '../made.test-help.ts';
import { certaintyOf } from '../settings.ts';

const TWICE: readonly (readonly [sentence: string, repeat: string])[] = [
  ['Now the the spring goes in.', 'the'],
  ['We we should oil it.', 'we'],
  ['And then and then it struck one.', 'and then'],
  ['So the second thing so the second thing is the dial.', 'so the second thing'],
  ['It was in the in the tower.', 'in the'],
  ['I | I never saw her again.', 'i'],
  ['The boat um the boat went out.', 'the boat'],
  ['They would not would not burn that night.', 'would not'],
  ['Take the small screw the small screw out first.', 'the small screw'],
  ['When he | uh when he came back it was dark.', 'when he'],
  ['Wind the drum, the drum, and let it run.', 'the drum'],
  ['She had a lamp, a lamp, but no oil for it.', 'a lamp'],
  ['We took the pl- | plate off.', 'pl'],
  ['It hung from the s— | the spring.', 'the s'],
];

const MEANT = [
  'It was very very cold.',
  'No, no, not that one.',
  'He said that that wheel was older.',
  'They had had enough of the fog.',
  'One one eight is the number.',
  'Well, well, look at that.',
  'Long long ago there was a lamp.',
  'I went up. Up there it was quiet.',
  'The strap runs over you, you pull it down.',
  'Tick tick tick went the wall clock.',
  'It was so so quiet in the lamp room.',
  'He waited... he waited all night for the boat.',
  'We went with the tide... | tides are high here.',
];

/** Small words said again at once, as they are most often: they go by themselves. */
const PLAIN = [
  'The case has has to be dusted before noon.',
  'It passed us at two at two in the night.',
  'Not the stairs, it it was the lamp.',
  'We took the... | the plate off.',
  'We took the, | the plate off.',
  'I- I took the plate off.',
  'The gulls come to to the lamp.',
  'There are two marks at at the rim.',
  'We were we were late for the ferry.',
];

/** What belongs to the verb before it and what follows, goes on and on, or ends one clause and begins the next. */
const JOINED = [
  'He came in in a hurry.',
  'The engine ran on on one cylinder.',
  'They stayed out out of spite.',
  'The drum turned and turned and turned.',
  'Hour after hour after hour it rained.',
  'What they saw they saw by daylight.',
  'Whoever asks asks for the key.',
  'The rain, the rain, all night the rain.',
  'What it is is a very small pump.',
  'Row on, row on, we are nearly there.',
  'So long, so long, and write to us.',
];

const LIKELY = 0.6;
/** What goes by itself for the daring. */
const DARED = 0.75;
const repeatsIn = (text: string, least = LIKELY) =>
  find({ ...quiet, words: said(text) }, {}).filter(({ kind, confidence }) => kind === 'repeat' && confidence >= least);

describe('repeats', () => {
  it.each(TWICE)('are found: %s', (sentence, repeat) => {
    expect(repeatsIn(sentence).map(({ group }) => group)).toEqual([repeat]);
  });

  it.each(MEANT)('do not go by themselves when meant, even for the daring: %s', (sentence) => {
    expect(repeatsIn(sentence, DARED)).toEqual([]);
  });

  it.each(PLAIN)('go by themselves: %s', (sentence) => {
    expect(repeatsIn(sentence, certaintyOf({ boldness: 'usual' }))).toHaveLength(1);
  });

  it('a word that was drawn out goes where the transcript is free of doubt, and may be another word where it is not', () => {
    const drawn = said('I I never saw that boat again.').map((one, k) =>
      k === 0 ? one : { ...one, start: one.start + 0.5, end: one.end + 0.5 },
    );
    const [first, ...rest] = drawn as [Word, ...Word[]];
    const confidence = (sure: number) => {
      const words = [{ ...first, end: first.end + 0.45 }, ...rest].map((one, k) => ({ ...one, confidence: k % 2 ? 1 : sure }));
      return find({ ...quiet, words }).find(({ kind }) => kind === 'repeat')?.confidence ?? 0;
    };
    expect(confidence(1)).toBeGreaterThan(certaintyOf({ boldness: 'usual' }));
    expect(confidence(0.7)).toBeLessThan(certaintyOf({ boldness: 'daring' }));
  });

  it.each(JOINED)('do not go by themselves where grammar may want them: %s', (sentence) => {
    expect(repeatsIn(sentence, certaintyOf({ boldness: 'usual' }))).toEqual([]);
  });

  it('the saying that is chosen stays; of a word begun and then said whole, or after a pause, the last', () => {
    const goes = (text: string, repeatStays: 'first' | 'last') =>
      find({ ...quiet, words: said(text) }, { repeatStays })
        .filter(({ kind }) => kind === 'repeat')
        .map(({ found }) => found.start);
    expect(goes('Now the the spring goes in.', 'first')).toEqual([1.5]);
    expect(goes('Now the the spring goes in.', 'last')).toEqual([1.25]);
    expect(goes('Take the pen pendulum off.', 'first')).toEqual([1.5]);
    expect(goes('It was in the | | in the tower.', 'first')).toEqual([1.5]);
  });

  it('three sayings lose two', () => {
    expect(repeatsIn('I think we we we can.').map(({ found }) => found.start)).toEqual([1.75, 2]);
  });

  it('words that are written twice over the same sound are said once', () => {
    const twice = (text: string, apart: number) => {
      const once = said(text);
      const again = once.map((one) => ({ ...one, start: one.start + apart, end: one.end + apart }));
      const words = [...once, ...again, word('Then', 9, 9.3), word('rest.', 9.3, 9.6)].sort((a, b) => a.start - b.start);
      return find({ ...quiet, words }).filter(({ kind }) => kind === 'repeat' || kind === 'retake');
    };
    for (const apart of [0.02, 0.1]) expect(twice('and then we let the spring down', apart)).toEqual([]);
    expect(twice('in the tower', 0.08)).toEqual([]);
    expect(twice('and then we let the spring down', 2.2).length).toBeGreaterThan(0);
  });

  it('two people who say the same do not repeat themselves', () => {
    const words = said('we we').map((word, k) => ({ ...word, speaker: k === 0 ? 'Isolde' : 'Tobit' }));
    expect(find({ ...quiet, words }).filter(({ kind }) => kind === 'repeat')).toEqual([]);
  });
});
