import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { DEFAULT_STYLE } from '../outputs/captions/style.ts';
import type { PlacedMedia } from '../outputs/plan/media.ts';
import { wordsOnTimeline } from '../outputs/plan/onTimeline.ts';
import { programmeOf, toProgramme } from '../programme/programme.ts';
import { renderChoices } from './choices.ts';
import { renderedBeside } from './rendering.ts';
import { renderTimeline } from './renderTimeline.ts';
import { bytesExpected } from './size.ts';

const file = (hasVideo: boolean): PlacedMedia => ({
  start: 0,
  end: 900,
  media: {
    name: 'bench.mp4',
    duration: 900,
    tracks: 1,
    hasVideo,
    ...(hasVideo && { frameRate: '24000/1001' }),
  } as PlacedMedia['media'],
});
const word = (text: string, start: number, end: number) => ({
  text,
  start,
  end,
  confidence: 1,
  speaker: '',
  timing: 'measured' as const,
});

describe('captions of a rendered programme', () => {
  it('are where the words are heard, to a frame, however many cuts come before', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ kept: fc.double({ min: 0.4, max: 3, noNaN: true }), gone: fc.double({ min: 0.05, max: 2, noNaN: true }) }),
          {
            minLength: 1,
            maxLength: 150,
          },
        ),
        fc.boolean(),
        (spans, isReversed) => {
          let at = 0;
          const pieces = spans.map(({ kept, gone }) => {
            const piece = { start: at, end: at + kept, rate: 1 };
            at = piece.end + gone;
            return piece;
          });
          const words = pieces.map(({ start }, k) => word(`w${k}`, start + 0.1, start + 0.3));
          const programme = programmeOf(isReversed ? [...pieces].reverse() : pieces);
          const rate = { num: 24_000, den: 1001 };
          const placed = wordsOnTimeline(renderTimeline([file(true)], programme, rate), words);
          expect(placed).toHaveLength(words.length);
          const frame = rate.den / rate.num;
          for (const { word: shown, from } of placed) {
            const heard = toProgramme(programme, (words.find(({ text }) => text === shown.text) as (typeof words)[number]).start);
            expect(Math.abs(from * frame - heard)).toBeLessThanOrEqual(1.5 * frame + 1e-6);
          }
        },
      ),
      { numRuns: 100 },
    );
  });

  it('come where they are wanted, with masked words masked, and chapters where there are parts', () => {
    const programme = programmeOf([{ start: 0, end: 5, rate: 1 }]);
    const words = {
      transcript: { language: 'en', words: [word('Blast', 0.5, 1), word('fog', 1.2, 1.6)] },
      mask: ['blast'],
      style: DEFAULT_STYLE,
      unheard: ['blast'],
    };
    const asked = (choices: object, breaks: Parameters<typeof renderedBeside>[3] = []) =>
      renderedBeside(
        'Lamp',
        [file(false)],
        { programme, proposals: [], settings: DEFAULT_SETTINGS },
        breaks,
        words,
        renderChoices.parse(choices),
      );
    expect(asked({}).captions).toBe('');
    expect(asked({ captions: 'track' }).captions).toMatch(/B\*+ fog/);
    expect(asked({}).masked).toBeUndefined();
    expect(asked({ masks: 'tone' }).masked).toEqual({ ranges: [{ start: 0.46, end: 1.04 }], by: 'tone' });
    expect(asked({}).chapters).toBe('');
    expect(asked({}).plan.stretches.every(({ black }) => black === 'without picture')).toBe(true);
  });
});

describe('the size that a render may come to', () => {
  it('follows what was chosen', () => {
    const of = (choices: object, points?: number) => bytesExpected(renderChoices.parse(choices), 3600, points);
    expect(of({ format: 'mp3' })).toBeLessThan(of({ format: 'wav' }));
    expect(of({ format: 'wav' })).toBe((3600 * 1_536_000) / 8);
    expect(of({ quality: 'small' })).toBeLessThan(of({ quality: 'fine' }));
    expect(of({}, 1280 * 720)).toBeLessThan(of({}, 1920 * 1080));
    expect(of({ megabytes: 500 })).toBeCloseTo(550e6, -3);
  });
});
