import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { PlacedMedia } from '../outputs/plan/media.ts';
import { type Piece, programmeOf, toSource } from '../programme/programme.ts';
import { framesNear } from '../time/rate.ts';
import { dissolvesIn, type PictureStretch, picturePlan, segmentsOf, shiftedBy } from './picturePlan.ts';

const PAL = { num: 25, den: 1 };
const NTSC = { num: 30_000, den: 1001 };
const FILM = { num: 24_000, den: 1001 };

const file = (start: number, duration: number, more: object = {}): PlacedMedia => ({
  start,
  end: start + duration,
  media: { name: 'bench.mp4', duration, tracks: 1, hasVideo: true, ...more } as PlacedMedia['media'],
});

/** The frames of their file that stretches show, one after another. */
const shown = (stretches: readonly PictureStretch[]): number[] =>
  stretches.flatMap(({ first, count, rate, black }) =>
    Array.from({ length: count }, (_, j) => (black ? Number.NaN : Math.floor(first + j * rate + 1e-6))),
  );

describe('the picture of a programme', () => {
  it('shows at each frame what its file has there, never half a frame off, however many cuts there are', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ kept: fc.double({ min: 0.02, max: 4, noNaN: true }), gone: fc.double({ min: 0.04, max: 3, noNaN: true }) }),
          {
            minLength: 1,
            maxLength: 60,
          },
        ),
        fc.constantFrom(PAL, NTSC, FILM),
        fc.boolean(),
        (spans, rate, isReversed) => {
          let at = 0;
          const pieces: Piece[] = spans.map(({ kept, gone }) => {
            const piece = { start: at, end: at + kept, rate: 1 };
            at = piece.end + gone;
            return piece;
          });
          const programme = programmeOf(isReversed ? pieces.reverse() : pieces);
          const plan = picturePlan([file(0, at + 1)], programme, rate);
          const frame = rate.den / rate.num;
          expect(plan.length).toBe(framesNear(programme.length, rate));
          const all = shown(plan.stretches);
          expect(all).toHaveLength(plan.length);
          for (const [k, one] of all.entries()) {
            const middle = Math.min(programme.length - 1e-9, (k + 0.5) * frame);
            // The frame is on screen at the moment that is heard in the middle of its time: of two, where a cut falls exactly there.
            const heard = [-1e-9, 1e-9].map((aside) => toSource(programme, middle + aside));
            const isOnScreen = (at: number) => one * frame <= at + 1e-6 && (one + 1) * frame >= at - 1e-6;
            expect({ k, one, heard, isOnScreen: heard.some(isOnScreen) }).toMatchObject({ isOnScreen: true });
          }
          const segments = segmentsOf(plan);
          expect(segments.flatMap(({ stretches }) => shown(stretches))).toEqual(all);
          let start = 0;
          for (const segment of segments) {
            expect(segment.start).toBe(start);
            start += segment.count;
            const frames = shown(segment.stretches);
            expect(frames.length).toBe(segment.count);
            for (let k = 1; k < frames.length; k++) expect(frames[k]).toBeGreaterThan(frames[k - 1] as number);
          }
        },
      ),
      {
        numRuns: 150,
        examples: [
          [
            [
              { kept: 0.02, gone: 0.04 },
              { kept: 0.02, gone: 0.04 },
            ],
            PAL,
            false,
          ],
        ],
      },
    );
  });

  it('hurries, blacks out holes, and goes on in black where sound outlasts its picture or has none', () => {
    const files = [file(0, 20, { pictureEnd: 15 }), file(30, 5, { hasVideo: false })];
    const plan = picturePlan(
      files,
      programmeOf([
        { start: 0, end: 8, rate: 4, sound: 'mute' },
        { start: 8, end: 10, rate: 1, hole: true },
        { start: 14, end: 17, rate: 1 },
        { start: 31, end: 32, rate: 1 },
      ]),
      PAL,
    );
    expect(plan.stretches.map(({ source, count, rate, black }) => [source, count, rate, black])).toEqual([
      [0, 50, 4, undefined],
      [0, 50, 1, 'over picture'],
      [0, 25, 1, undefined],
      [0, 50, 1, 'without picture'],
      [1, 25, 1, 'without picture'],
    ]);
    const [first, second, ...rest] = segmentsOf(plan);
    expect([first?.count, second?.count, rest.length]).toEqual([125, 50, 1]);
    const frames = shown([plan.stretches[0] as PictureStretch]);
    expect(frames[1]).toBe((frames[0] as number) + 4);
  });

  it('keeps segments short, so that little is lost by a kill and filters stay small', () => {
    const pieces = Array.from({ length: 2000 }, (_, k) => ({ start: 1.5 * k, end: 1.5 * k + 1, rate: 1 }));
    const segments = segmentsOf(picturePlan([file(0, 3000)], programmeOf([...pieces, { start: 3000, end: 3300, rate: 1 }]), PAL));
    for (const { count, stretches } of segments) {
      expect(count).toBeLessThanOrEqual(40 * 25);
      expect(stretches.length).toBeLessThanOrEqual(60);
    }
    expect(segments.length).toBeLessThan(70);
  });
});

describe('pictures that go over into each other', () => {
  const piece = (start: number, end: number) => ({ start, end, rate: 1 });
  const views = (count: number) => Array.from({ length: count }, (_, k) => ({ closer: 0, dissolve: k === 0 ? 0 : 0.4 }));

  it('stay in one segment, however much lies between them and however many there are', () => {
    const pieces = Array.from({ length: 200 }, (_, k) => ({ start: 30 * k, end: 30 * k + 1.2, rate: 1 }));
    const plan = picturePlan([file(0, 6100)], programmeOf(pieces), PAL, views(200));
    const segments = segmentsOf(plan);
    expect(segments.length).toBeGreaterThan(3);
    expect(segments.flatMap(({ stretches }) => shown(stretches))).toEqual(shown(plan.stretches));
    const dissolves = segments.flatMap(({ stretches, start }) => dissolvesIn(stretches).map(({ at }) => start + at));
    const seams = programmeOf(pieces).offsets.slice(1);
    expect(dissolves).toEqual(seams.map((seconds) => framesNear(seconds, PAL)));
  });

  it('are in a segment of their own across files and back in one, with what lies beyond both sides', () => {
    const pieces = [piece(4, 6), piece(32, 34), piece(10, 12), piece(12.05, 14)];
    const files = [file(0, 20), file(30, 5)];
    const segments = segmentsOf(picturePlan(files, programmeOf(pieces), PAL, views(4)));
    expect(segments.map(({ start, count, into }) => [start, count, into !== undefined])).toEqual([
      [0, 45, false],
      [45, 10, true],
      [55, 40, false],
      [95, 10, true],
      [105, 94, false],
    ]);
    const [, over, , back] = segments;
    expect(shown(over?.stretches ?? [])).toEqual(Array.from({ length: 10 }, (_, k) => 145 + k));
    expect(shown(over?.into ? [over.into] : [])).toEqual(Array.from({ length: 10 }, (_, k) => 45 + k));
    expect([over?.into?.source, back?.stretches[0]?.source, back?.into?.source, back?.into?.first]).toEqual([1, 1, 0, 245]);
    // What begins with its file has nothing to come from.
    const bare = segmentsOf(picturePlan(files, programmeOf([piece(4, 6), piece(30, 34)]), PAL, views(2)));
    expect(bare.map(({ start, count, into }) => [start, count, into !== undefined])).toEqual([
      [0, 50, false],
      [50, 100, false],
    ]);
  });

  it('show what was taken out beside the seam, forwards, and nothing else otherwise', () => {
    const plan = picturePlan(
      [file(0, 60)],
      programmeOf([
        { start: 0, end: 2, rate: 1 },
        { start: 2.1, end: 4, rate: 1 },
        { start: 20, end: 22, rate: 1 },
      ]),
      PAL,
      views(3),
    );
    const [segment] = segmentsOf(plan);
    const { stretches } = segment as NonNullable<typeof segment>;
    const [whole, stays, comes] = [stretches, shiftedBy(stretches, 'stays'), shiftedBy(stretches, 'comes')].map(shown) as [
      number[],
      number[],
      number[],
    ];
    const near = new Set(dissolvesIn(stretches).flatMap(({ at, half }) => [...Array(2 * half).keys()].map((k) => at - half + k)));
    for (const [k, frame] of whole.entries()) {
      if (!near.has(k)) expect([stays[k], comes[k]]).toEqual([frame, frame]);
      else expect([stays[k], comes[k]]).toContain(frame);
    }
    for (const frames of [stays, comes]) {
      expect(frames).toHaveLength(whole.length);
      expect(frames.every((frame, k) => k === 0 || frame > (frames[k - 1] as number))).toBe(true);
    }
  });
});
