import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fromColumns, toColumns, transcriptColumns } from '../contract/wordColumns.ts';
import { readTranscript } from '../interchange/transcripts/words-json.ts';
import { TranscriptError } from './word.ts';

const text = (words: unknown, language: unknown = 'en') => JSON.stringify({ language, words });

describe('our transcript JSON', () => {
  it('is put in order, rounded to milliseconds, with what is left out filled in', () => {
    const { words } = readTranscript(
      text([
        { text: ' clock ', start: 1.00049, end: 1.4 },
        { text: 'the', start: -0.02, end: 0.9, confidence: 0.5, speaker: 'Marit' },
        { text: '  ', start: 3, end: 4 },
      ]),
    );
    expect(words).toEqual([
      { text: 'the', start: 0, end: 0.9, confidence: 0.5, speaker: 'Marit', timing: 'measured' },
      { text: 'clock', start: 1, end: 1.4, confidence: 1, speaker: '', timing: 'measured' },
    ]);
  });

  it.each([
    ['nothing', ''],
    ['no JSON', '{words:'],
    ['no words', '{}'],
    ['words that are no list', '{"words": 3}'],
    ['NaN', '{"words":[{"text":"a","start":NaN,"end":1}]}'],
    ['a start as text', text([{ text: 'a', start: '0', end: 1 }])],
    ['an end before the start', text([{ text: 'a', start: 2, end: 1 }])],
    ['a moment beyond all recordings', text([{ text: 'a', start: 0, end: 1e12 }])],
    ['a far negative start', text([{ text: 'a', start: -20, end: 1 }])],
    ['a confidence of two', text([{ text: 'a', start: 0, end: 1, confidence: 2 }])],
  ])('is refused with a reason: %s', (_, json) => {
    expect(() => readTranscript(json)).toThrow(TranscriptError);
  });

  it('names the word that is wrong', () => {
    expect(() =>
      readTranscript(
        text([
          { text: 'a', start: 0, end: 1 },
          { text: 'b', start: 2, end: 'x' },
        ]),
      ),
    ).toThrow(/words\.1\.end/);
  });

  it('never fails in any other way, whatever it is given', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (json) => {
        try {
          readTranscript(json);
        } catch (error) {
          expect(error).toBeInstanceOf(TranscriptError);
        }
      }),
    );
  });

  it('travels by columns and comes out the same', () => {
    const word = fc.record({
      text: fc.stringMatching(/^[a-z’,.]{1,9}$/),
      start: fc.integer({ min: 0, max: 9_999_999 }).map((ms) => ms / 1000),
      length: fc.integer({ min: 0, max: 900 }),
      confidence: fc.integer({ min: 0, max: 100 }).map((percent) => percent / 100),
      speaker: fc.constantFrom('', 'Isolde', 'Tobit'),
      timing: fc.constantFrom('measured' as const, 'estimated' as const),
    });
    const looked = fc.integer({ min: 0, max: 900 }).map((ms) => (ms > 0 ? { error: ms / 1000 } : {}));
    fc.assert(
      fc.property(fc.array(fc.tuple(word, looked)), (list) => {
        const words = list.map(([{ length, ...rest }, found]) => ({
          ...rest,
          ...found,
          end: (Math.round(rest.start * 1000) + length) / 1000,
        }));
        const transcript = { language: 'en', words: readTranscript(text(words)).words };
        const travelled = transcriptColumns.parse(JSON.parse(JSON.stringify(toColumns(transcript))));
        expect(fromColumns(travelled)).toEqual(transcript);
      }),
    );
  });
});
