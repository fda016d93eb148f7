import fc from 'fast-check';
import { parseText } from 'media-captions';
import { describe, expect, it } from 'vitest';
import { SPEECH_PARTS, said, word } from '../../detect/made.test-help.ts';
import type { PartOf } from '../../detect/words/partsOfSpeech.ts';
import { frames, parseRate } from '../../time/rate.ts';
import type { Word } from '../../transcript/word.ts';
import type { PlacedWord } from '../plan/onTimeline.ts';
import { type Caption, captionsOf } from './captions.ts';
import { chapterCues, chapterList, chapterMetadata } from './chapterFiles.ts';
import { subRip, ttml, webVtt } from './files.ts';
import { type CaptionStyle, DEFAULT_STYLE } from './style.ts';

const rate = parseRate('25');
const placed = (words: readonly Word[]): PlacedWord[] =>
  words.map((one) => ({
    word: one,
    from: frames(Math.floor(one.start * 25 + 1e-6)),
    to: frames(Math.max(Math.floor(one.start * 25 + 1e-6) + 1, Math.ceil(one.end * 25 - 1e-6))),
  }));
const shaped = (words: readonly Word[], style: Partial<CaptionStyle> = {}, language = 'en', partOf?: PartOf): Caption[] => {
  const list = placed(words);
  const length = frames((list.at(-1)?.to ?? 0) + 100);
  return captionsOf(list, { rate, length }, { ...DEFAULT_STYLE, ...style }, { language, partOf });
};
const linesOf = ({ lines }: Caption): string[] => lines.map((line) => line.map((one) => one.word.text).join(' '));

const WORDS = ['the', 'clock', 'stops,', 'a', 'wheel', 'turns.', 'of', 'brass', 'mainspring', 'and', 'it', 'hums', 'my', 'lamp!'];
const speech = fc
  .array(
    fc.record({
      text: fc.constantFrom(...WORDS),
      gap: fc.integer({ min: 0, max: 1800 }),
      length: fc.integer({ min: 60, max: 700 }),
    }),
    {
      minLength: 1,
      maxLength: 120,
    },
  )
  .map((list) => {
    let at = 0;
    return list.map(({ text, gap, length }) => {
      const start = at + gap / 1000;
      at = start + length / 1000;
      return word(text, start, at);
    });
  });
const styles = fc.record({
  letters: fc.integer({ min: 16, max: 60 }),
  lines: fc.integer({ min: 1, max: 3 }),
  words: fc.constantFrom(0, 0, 1, 3, 8),
  least: fc.constantFrom(0, 0.8, 2),
  most: fc.constantFrom(1.5, 4, 7),
  closeGap: fc.constantFrom(0, 0.5),
});

describe('captions', () => {
  it('hold every word once and in order, within their lines, and never one over another', () => {
    fc.assert(
      fc.property(speech, styles, (words, style) => {
        const captions = shaped(words, style);
        expect(captions.flatMap((caption) => linesOf(caption).join(' ').split(' '))).toEqual(words.map(({ text }) => text));
        for (const [k, caption] of captions.entries()) {
          const count = caption.lines.flat().length;
          for (const line of linesOf(caption)) if (line.includes(' ')) expect(line.length).toBeLessThanOrEqual(style.letters);
          if (style.words > 0) expect(count).toBeLessThanOrEqual(style.words);
          else expect(caption.lines.length).toBeLessThanOrEqual(style.lines);
          expect(caption.to).toBeGreaterThan(caption.from);
          const next = captions[k + 1];
          if (next) expect(next.from).toBeGreaterThanOrEqual(caption.to);
          // Longer than the most only where one word is.
          if (count > 1) expect(caption.to - caption.from).toBeLessThanOrEqual(Math.max(style.most, 0) * 25 + 2);
          expect(caption.from).toBe(caption.lines[0]?.[0]?.from);
        }
      }),
      { numRuns: 150 },
    );
  });

  it('never part an article from its noun, adjectives between them or not', async () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('the old heavy lamp', 'a clock', 'we turn', 'my small lamp', 'it hums'), {
          minLength: 2,
          maxLength: 25,
        }),
        fc.integer({ min: 22, max: 45 }),
        (phrases, letters) => {
          const captions = shaped(said(phrases.join(' ')), { letters }, 'en', SPEECH_PARTS.of);
          for (const line of captions.flatMap(linesOf)) {
            expect(line).not.toMatch(/\b(the|a|my|old|heavy|small)$/);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('break at the ends of sentences and phrases where they can', () => {
    const captions = shaped(said('We open the case. Then the wheel turns, and the hammer falls on the bell.'), { letters: 34 });
    expect(captions.map((caption) => linesOf(caption).join(' / '))).toEqual([
      'We open the case.',
      'Then the wheel turns, / and the hammer falls on the bell.',
    ]);
  });

  it('are on screen for as long as it takes to read them, and close small gaps', () => {
    const words = [
      word('Slowly', 1, 1.2),
      word('now.', 1.2, 1.4),
      word('Next', 4, 4.5),
      word('one.', 4.5, 5),
      word('Then.', 5.2, 5.5),
    ];
    const captions = shaped(words, { speed: 8, least: 0.5, closeGap: 0.4, lines: 1, letters: 11 });
    expect(captions.map(linesOf)).toEqual([['Slowly now.'], ['Next one.'], ['Then.']]);
    expect(captions[0]?.to).toBe(25 + Math.round((11 / 8) * 25));
    expect(captions[1]?.to).toBe(captions[2]?.from);
  });

  it('are set in the letters that are wanted', () => {
    const words = said('WELL, i THINK the LAMP is lit. it IS i’m sure');
    const text = (letterCase: CaptionStyle['letterCase']) => shaped(words, { letterCase }).flatMap(linesOf).join(' ');
    expect(text('sentence')).toBe('Well, I think the lamp is lit. It is I’m sure');
    expect(text('upper')).toBe('WELL, I THINK THE LAMP IS LIT. IT IS I’M SURE');
    expect(text('lower')).toBe('well, i think the lamp is lit. it is i’m sure');
  });

  it('name the speaker where it is another', () => {
    const words = said('Good evening. Is the lamp lit? It is.').map((one, k) => ({ ...one, speaker: k < 6 ? 'Isolde' : 'Bran' }));
    const file = { captions: shaped(words, { letters: 20 }), rate, language: 'en', title: 't' };
    expect(subRip(file).match(/\[\w+\]/g)).toEqual(['[Isolde]', '[Bran]']);
    expect(webVtt(file)).toContain('<v Bran>It');
    expect(ttml(file)).toContain('<ttm:name type="full">Isolde</ttm:name>');
    expect(subRip({ ...file, captions: shaped(words, { speakers: false }) })).not.toContain('[');
  });
});

describe('caption files', () => {
  it('are read strictly by a parser of others, with the same times and words', async () => {
    await fc.assert(
      fc.asyncProperty(speech, fc.constantFrom('24000/1001', '25/1', '60000/1001'), async (words, text) => {
        const own = parseRate(text);
        const file = { captions: shaped(words), rate: own, language: 'en', title: 't' };
        for (const [type, content] of [
          ['vtt', webVtt(file)],
          ['srt', subRip(file)],
        ] as const) {
          const { cues, errors } = await parseText(content, { type, strict: true, errors: true });
          expect(errors).toEqual([]);
          expect(cues).toHaveLength(file.captions.length);
          for (const [k, cue] of cues.entries()) {
            const { from, to } = file.captions[k] as Caption;
            expect(Math.round((cue.startTime * own.num) / own.den)).toBe(from);
            expect(Math.round((cue.endTime * own.num) / own.den)).toBe(to);
            for (const [, hours, minutes, seconds] of cue.text.matchAll(/<(\d\d):(\d\d):([\d.]+)>/g)) {
              const at = Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds);
              expect(at > cue.startTime && at < cue.endTime).toBe(true);
            }
          }
        }
      }),
      { numRuns: 25 },
    );
  });

  it('cannot be broken by a word or a name', async () => {
    const words = ['a-->b', '<i>x', '&amp;', ']]>', '"q"'].map((text, k) => ({
      ...word(text, k, k + 0.5),
      speaker: k > 2 ? '<v> -->\n' : 'B',
    }));
    const file = { captions: shaped(words), rate, language: 'en', title: '<t>' };
    for (const [type, content] of [
      ['vtt', webVtt(file)],
      ['srt', subRip(file)],
    ] as const) {
      const { cues, errors } = await parseText(content, { type, strict: true, errors: true });
      expect(errors).toEqual([]);
      expect(cues).toHaveLength(file.captions.length);
    }
    expect(ttml(file)).not.toMatch(/<i>|<v>|<t>/);
  });
});

describe('chapter files', () => {
  const chapters = [
    { title: 'The bench', from: frames(0), to: frames(1600) },
    { title: 'Wheels; #2 = brass\\steel\nand more', from: frames(1600), to: frames(95_000) },
  ];
  it('are cues, metadata for ffmpeg, and lines for a description', async () => {
    const { cues, errors } = await parseText(chapterCues(chapters, rate), { type: 'vtt', strict: true, errors: true });
    expect(errors).toEqual([]);
    expect(cues.map(({ startTime, endTime }) => [startTime, endTime])).toEqual([
      [0, 64],
      [64, 3800],
    ]);
    expect(chapterMetadata(chapters, rate, 'A = b')).toContain('title=Wheels\\; \\#2 \\= brass\\\\steel and more');
    expect(chapterMetadata(chapters, rate, 'A = b')).toContain('TIMEBASE=1/25\nSTART=1600\nEND=95000\n');
    expect(chapterList(chapters, rate).split('\n')[1]).toBe('1:04 Wheels; #2 = brass\\steel and more');
  });
});
