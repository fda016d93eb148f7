import { describe, expect, it } from 'vitest';
import { readLexiconFile } from '../../interchange/lexiconFile.ts';
import { find, quiet, said } from '../made.test-help.ts';
import { parseSetting, SettingsError } from '../settings.ts';
import { changesOf, lexiconOf, withChange, writeLexiconFile } from './lexicon.ts';

const strengthOf = (phrase: string, setting: string, language = 'en') =>
  lexiconOf(language, setting).find((entry) => entry.phrase === phrase)?.strength;

describe('the lexicon', () => {
  it('ships for English, whatever its region, and for no other language', () => {
    expect(strengthOf('um', 'shipped', 'en-GB')).toBe('always');
    expect(lexiconOf('de', 'shipped')).toEqual([]);
  });

  it('takes changes by language, and forgets those that say what ships anyway', () => {
    let setting = withChange('shipped', { language: 'en', phrase: 'Like', strength: 'off' });
    setting = withChange(setting, { language: 'de', phrase: 'ähm', strength: 'always' });
    expect(strengthOf('like', setting)).toBe('off');
    expect(strengthOf('ähm', setting, 'de')).toBe('always');
    expect(parseSetting('lexicon', setting)).toEqual({ lexicon: setting });
    setting = withChange(setting, { language: 'en', phrase: 'like', strength: 'often' });
    expect(changesOf(setting)).toEqual([{ language: 'de', phrase: 'ähm', strength: 'always' }]);
    expect(withChange(setting, { language: 'de', phrase: 'ähm', strength: 'off' })).toBe('shipped');
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
    const german = find({ ...quiet, words: said('ähm die Uhr um zwölf'), language: 'de' }, { lexicon: 'de/ähm:always' });
    expect(german.map(({ group }) => group)).toEqual(['ähm']);
  });

  it('a hole keeps the time of the words alone', () => {
    const [first] = find({ ...quiet, words }, { fillerTreatment: 'hole' });
    expect(first).toMatchObject({ treatment: 'hole', start: 1, end: 1.25 });
  });
});
