import { describe, expect, it } from 'vitest';
import { readLexiconFile } from '../../interchange/lexiconFile.ts';
import { find, quiet, said } from '../made.test-help.ts';
import { parseSetting, SettingsError } from '../settings.ts';
import { changesOf, lexiconOf, normalPhrase, phrasesOf, SHIPPED_LANGUAGES, withChange, writeLexiconFile } from './lexicon.ts';

const strengthOf = (phrase: string, setting: string, language = 'en') =>
  lexiconOf(language, setting).find((entry) => entry.phrase === phrase)?.strength;

describe('the lexicon', () => {
  it('ships for some languages, whatever their region, and for no other', () => {
    expect(strengthOf('um', 'shipped', 'en-GB')).toBe('always');
    expect(strengthOf('äh', 'shipped', 'de-AT')).toBe('always');
    expect(lexiconOf('fi', 'shipped')).toEqual([]);
  });

  it('holds each word of a language once, as it is compared, and judges by context in English alone', () => {
    for (const language of SHIPPED_LANGUAGES) {
      const lexicon = lexiconOf(language, 'shipped');
      for (const { phrase } of lexicon) expect(phrase).toBe(normalPhrase(phrase));
      expect(phrasesOf(lexicon, 'always').every(Boolean)).toBe(true);
      expect(language === 'en' || lexicon.every(({ strength }) => strength !== 'often')).toBe(true);
      const setting = withChange('shipped', { language, phrase: 'tick tock', strength: 'asked' });
      expect(readLexiconFile(writeLexiconFile(language, lexiconOf(language, setting)))).toEqual({ language, setting });
    }
    const counts = SHIPPED_LANGUAGES.map((language) => lexiconOf(language, 'shipped').length);
    expect(counts.every((count) => count > 20)).toBe(true);
  });

  it('takes changes by language, and forgets those that say what ships anyway', () => {
    let setting = withChange('shipped', { language: 'en', phrase: 'Like', strength: 'off' });
    setting = withChange(setting, { language: 'de', phrase: 'Tja', strength: 'always' });
    expect(strengthOf('like', setting)).toBe('off');
    expect(strengthOf('tja', setting, 'de')).toBe('always');
    expect(parseSetting('lexicon', setting)).toEqual({ lexicon: setting });
    setting = withChange(setting, { language: 'en', phrase: 'like', strength: 'often' });
    expect(changesOf(setting)).toEqual([{ language: 'de', phrase: 'tja', strength: 'always' }]);
    expect(withChange(setting, { language: 'de', phrase: 'tja', strength: 'off' })).toBe('shipped');
  });

  it('is written to a file and read back, entry by entry', () => {
    const setting = withChange('shipped', { language: 'en', phrase: 'tick tock', strength: 'asked' });
    const back = readLexiconFile(writeLexiconFile('en', lexiconOf('en', setting)));
    expect(back).toEqual({ language: 'en', setting });
    const few = readLexiconFile('{"schema":"zetemis.lexicon/1","language":"en","entries":[{"phrase":"um","strength":"always"}]}');
    expect(lexiconOf('en', few.setting).filter(({ strength }) => strength !== 'off')).toEqual([
      { phrase: 'um', strength: 'always' },
    ]);
  });

  it.each(['', '[]', '{"schema":"zetemis.lexicon/1","language":"en","entries":[{"phrase":"um","strength":"maybe"}]}'])(
    'refuses what is none: %s',
    (text) => {
      expect(() => readLexiconFile(text)).toThrow(SettingsError);
    },
  );

  it('refuses a setting that is no list of changes', () => {
    for (const wrong of ['like', 'en/like', 'en/like:perhaps', 'en/a:off;', 'x'.repeat(60_000)])
      expect(() => parseSetting('lexicon', wrong)).toThrow(SettingsError);
  });
});

describe('what settings do to fillers', () => {
  const words = said('um we | um | went to the um lamp and literally um sat there');
  const counted = (settings: Parameters<typeof find>[1]) =>
    find({ ...quiet, words }, settings)
      .filter(({ kind }) => kind === 'filler')
      .map(({ group }) => group);

  it('they go, all or none, or some stay', () => {
    expect(counted({})).toEqual(['um', 'um', 'um', 'um']);
    expect(counted({ fillers: 'leave' })).toEqual([]);
    expect(counted({ spare: 'some', spareEvery: 2 })).toEqual(['um', 'um']);
    expect(counted({ spare: 'paused' })).toEqual(['um', 'um', 'um']);
  });

  it('words for those who ask come when asked for, to be listened to', () => {
    const asked = find({ ...quiet, words }, { asked: 'propose' }).filter(({ group }) => group === 'literally');
    expect(asked.map(({ confidence }) => confidence)).toEqual([0.5]);
  });

  it('a word switched off is none, and an entry of one’s own is one', () => {
    expect(counted({ lexicon: 'en/um:off' })).toEqual([]);
    expect(counted({ lexicon: 'en/um:off;en/went to:always' })).toEqual(['went to']);
  });

  it('another language has its own', () => {
    const german = said('ähm die Uhr um zwölf hat er tja repariert');
    expect(find({ ...quiet, words: german, language: 'de' }, { lexicon: 'de/tja:always' }).map(({ group }) => group)).toEqual([
      'ähm',
      'tja',
    ]);
    expect(find({ ...quiet, words: german, language: 'fi' })).toEqual([]);
    const wonder = said('Ah ja oh wie schön, äh, und öh die Feder');
    expect(find({ ...quiet, words: wonder, language: 'de' }).map(({ group }) => group)).toEqual(['äh', 'öh']);
  });

  it('a hole keeps the time of the words alone', () => {
    const [first] = find({ ...quiet, words }, { fillerTreatment: 'hole' });
    expect(first).toMatchObject({ treatment: 'hole', start: 1, end: 1.25 });
  });
});
