import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { word } from '../../detect/made.test-help.ts';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import type { Cut } from '../../programme/cutlist.ts';
import { type Piece, programmeOf } from '../../programme/programme.ts';
import { parseRate } from '../../time/rate.ts';
import { standardRateOf } from '../../time/standardRates.ts';
import { chaptersOf } from './chapters.ts';
import { planFrames } from './framePlan.ts';
import { locationIn } from './location.ts';
import { planOne } from './made.test-help.ts';
import { withMarkers } from './markers.ts';
import type { HandoffMedia } from './media.ts';
import { momentOnTimeline, wordsOnTimeline } from './onTimeline.ts';
import { plainTitle, reelNames } from './reels.ts';

const bench: HandoffMedia = { name: 'bench.mp4', duration: 60, frameRate: '25/1', tracks: 1, hasVideo: true };
const cutOf = (pieces: readonly Piece[], more: Partial<Cut> = {}): Cut => ({
  settings: DEFAULT_SETTINGS,
  proposals: [],
  unmatched: [],
  programme: programmeOf(pieces),
  ...more,
});
const plain = (...edges: (readonly [number, number])[]) => cutOf(edges.map(([start, end]) => ({ start, end, rate: 1 })));
const RATES = ['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '50/1', '60000/1001', '60/1', '48000/1'];

/** Up to a thousand pieces with words in and between them, at times on no frame. */
const talk = fc
  .array(fc.record({ gap: fc.integer({ min: 1, max: 900 }), length: fc.integer({ min: 36, max: 2500 }), joins: fc.boolean() }), {
    minLength: 1,
    maxLength: 1000,
  })
  .map((list) => {
    let at = 0.0003;
    return list.map(({ gap, length, joins }): Piece => {
      const start = at + (joins ? 0 : gap / 1000);
      at = start + length / 1000;
      return { start, end: at, rate: 1 };
    });
  });

describe('words on a timeline', () => {
  it('are in the frame in which the timeline shows them, at every rate, over a thousand cuts', () => {
    fc.assert(
      fc.property(talk, fc.constantFrom(...RATES), (pieces, frameRate) => {
        const duration = (pieces.at(-1) as Piece).end + 1;
        const plan = planOne('t', { ...bench, duration, frameRate }, cutOf(pieces));
        const { num, den } = parseRate(frameRate);
        const words = pieces.map(({ start, end }, k) => word(`w${k}`, start + (end - start) * 0.3, start + (end - start) * 0.7));
        const placed = wordsOnTimeline(plan, words);
        expect(placed.map((one) => one.word.text)).toEqual(words.map(({ text }) => text));
        for (const [k, { from, word: heard }] of placed.entries()) {
          const frame = Math.floor(((words[k] as (typeof words)[number]).start * num) / den + 1e-6);
          // By going through the events one after another.
          const event = plan.events.find(({ sourceIn, sourceOut }) => frame >= sourceIn && frame < sourceOut);
          expect(event).toBeDefined();
          expect(from).toBe((event?.recordIn ?? 0) + frame - (event?.sourceIn ?? 0));
          const exact = (heard.start * num) / den;
          expect(exact > from - 0.05 && exact < from + 1.05).toBe(true);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('keep their length across a split, and come in the order of the timeline', () => {
    const plan = planOne('t', bench, plain([0, 2.01], [2.01, 4], [6, 8]));
    const [over, later] = wordsOnTimeline(plan, [word('over', 1.9, 2.3), word('later', 6.5, 7)]);
    expect(over?.word).toMatchObject({ start: 1.9, end: 2.3 });
    expect([over?.from, over?.to]).toEqual([47, 58]);
    expect(later?.from).toBe(112);
    const moved = planOne('t', bench, plain([6, 8], [0, 2]));
    expect(wordsOnTimeline(moved, [word('first', 0.5, 1), word('second', 6.5, 7)]).map((one) => one.word.text)).toEqual([
      'second',
      'first',
    ]);
  });

  it('are none where nothing is heard, or where it runs faster', () => {
    const pieces: Piece[] = [
      { start: 0, end: 2, rate: 1 },
      { start: 2, end: 6, rate: 4, sound: 'along' },
      { start: 6, end: 8, rate: 1, hole: true },
    ];
    const words = [word('heard', 0.5, 1), word('fast', 3, 4), word('gone', 6.5, 7)];
    expect(wordsOnTimeline(planOne('t', bench, cutOf(pieces)), words).map((one) => one.word.text)).toEqual(['heard']);
  });
});

describe('events', () => {
  it('begin anew at a split, which is no cut that vanished', () => {
    const { events, roundings } = planOne('t', bench, plain([0, 2.01], [2.01, 4]));
    expect(events.map(({ sourceIn, sourceOut, recordIn }) => [sourceIn, sourceOut, recordIn])).toEqual([
      [0, 51, 0],
      [51, 100, 51],
    ]);
    expect(roundings.vanished).toBe(0);
    expect(planOne('t', bench, plain([0, 2.01], [2.03, 4])).events).toHaveLength(1);
  });

  it('show no frame behind the last, and go on with the sound alone', () => {
    const media = { ...bench, pictureEnd: 9 };
    const { events } = planOne('t', { ...media, duration: 10 }, plain([0, 2], [8, 10]));
    expect(events).toEqual([
      { sourceIn: 0, sourceOut: 50, recordIn: 0, recordOut: 50 },
      { sourceIn: 200, sourceOut: 225, recordIn: 50, recordOut: 75 },
      { sourceIn: 225, sourceOut: 250, recordIn: 75, recordOut: 100, blind: true },
    ]);
    const longer = planOne('t', { ...bench, duration: 10, pictureEnd: 12 }, plain([0, 10]));
    expect(longer.sources[0]).toMatchObject({ length: 300, pictureLength: 300 });
  });

  it('hold what goes in its place, switched off or marked, and nothing is moved together', () => {
    const cut = plain([0, 2], [4, 6], [8, 60]);
    const off = planOne('t', bench, cut, undefined, { removed: 'disabled' });
    expect(off.events.map(({ recordIn, recordOut, off: isOff }) => [recordIn, recordOut, isOff ?? false])).toEqual([
      [0, 50, false],
      [50, 100, true],
      [100, 150, false],
      [150, 200, true],
      [200, 1500, false],
    ]);
    expect(off.events.every(({ sourceIn, recordIn }) => sourceIn === recordIn)).toBe(true);
    expect(off.keptEvents).toEqual([0, 2, 4]);
    const marked = withMarkers(planOne('t', bench, cut, undefined, { removed: 'marked' }), [], [], ['removed']);
    expect(marked.events.some((event) => event.off)).toBe(false);
    expect(marked.markers.map(({ at, length }) => [at, length])).toEqual([
      [50, 50],
      [150, 50],
    ]);
  });

  it('of a part hold what went within it, and nothing of the other parts; of a recording that is all out, all of it', () => {
    const whole = plain([2, 4], [6, 8], [10, 12], [14, 16]).programme.pieces;
    const part = planOne('t', { ...bench, duration: 20 }, plain([6, 8], [10, 12]), undefined, { removed: 'disabled', whole });
    expect(part.events.map(({ sourceIn, sourceOut, off }) => [sourceIn / 25, sourceOut / 25, off ?? false])).toEqual([
      [6, 8, false],
      [8, 10, true],
      [10, 12, false],
      [12, 14, true],
    ]);
    const files = [0, 40, 80].map((start) => ({
      start,
      end: start + 20,
      media: { ...bench, name: `${start}.mp4`, duration: 20 },
    }));
    const all = planFrames('t', files, plain([40, 60]), { removed: 'marked' });
    expect(all.events.map(({ source = 0, sourceIn, sourceOut }) => [source, sourceIn, sourceOut])).toEqual([
      [0, 0, 500],
      [1, 0, 500],
      [2, 0, 500],
    ]);
  });

  it('know moments behind the last frame of the picture', () => {
    const plan = planOne('t', { ...bench, duration: 20, pictureEnd: 10 }, plain([0, 20]));
    expect(momentOnTimeline(plan, 15)).toBe(375);
    expect(chaptersOf(plan, [{ part: 'a', at: 15, title: 'Dark' }])[1]).toEqual({ title: 'Dark', from: 375, to: 500 });
    expect(wordsOnTimeline(plan, [word('over', 9.8, 10.4)])[0]).toMatchObject({ from: 245, to: 260 });
  });

  it('leave out or mute the tracks that only follow', () => {
    const cut = cutOf([{ start: 0, end: 60, rate: 1 }], { settings: { ...DEFAULT_SETTINGS, listen: '1' } });
    const tracks = (followers: 'along' | 'muted' | 'left out') =>
      planOne('t', { ...bench, tracks: 2, channels: [1, 2] }, cut, undefined, { followers }).tracks;
    expect(tracks('along').map(({ muted, channels }) => [channels, muted])).toEqual([
      [1, false],
      [2, false],
    ]);
    expect(tracks('muted').map(({ muted }) => muted)).toEqual([false, true]);
    expect(tracks('left out')).toHaveLength(1);
  });
});

describe('a start', () => {
  const startAt = (media: Partial<HandoffMedia>, rate?: string) =>
    planOne('t', { ...bench, ...media }, plain([0, 1]), rate === undefined ? undefined : parseRate(rate)).sources[0]?.start;

  it('is converted to another rate, and not given another label', () => {
    expect(startAt({ timecode: '10:00:00:00' })).toBe(900_000);
    expect(startAt({ timecode: '10:00:00:00' }, '30/1')).toBe(1_080_000);
    // Ten hours of non-drop counting at 29.97 are 36,036 seconds.
    expect(startAt({ timecode: '10:00:00:00', frameRate: '30000/1001' }, '25/1')).toBe(900_900);
    expect(startAt({ timecode: '10:00:00;00', frameRate: '30000/1001' }, '25/1')).toBe(899_999);
  });

  it('comes from a broadcast wave’s time reference where there is no timecode', () => {
    const sound = { hasVideo: false, frameRate: undefined, timeReference: { samples: 48_000 * 3600, sampleRate: 48_000 } };
    expect(startAt(sound)).toBe(90_000);
    expect(startAt(sound, '48000/1')).toBe(172_800_000);
  });
});

describe('standard rates', () => {
  it('are what a container’s rounding meant, and the nearest of what cannot be counted', () => {
    const of = (text: string, variable = false) => {
      const { rate, conformedFrom } = standardRateOf(text, variable);
      return [`${rate.num}/${rate.den}`, conformedFrom !== undefined];
    };
    expect(of('19001/317')).toEqual(['60000/1001', false]);
    expect(of('2997/100')).toEqual(['30000/1001', false]);
    expect(of('24000/1001')).toEqual(['24000/1001', false]);
    expect(of('15/1')).toEqual(['15/1', false]);
    expect(of('2337/100', true)).toEqual(['24000/1001', true]);
    expect(of('25/2')).toEqual(['24000/1001', true]);
    expect(of('30/1', true)).toEqual(['30/1', true]);
    expect(of('1/2')).toEqual(['24000/1001', true]);
  });
});

describe('reels and titles', () => {
  it('are never words that mean something else, and differ for files that begin alike', () => {
    expect(reelNames(['BL.mov', 'ax.mov', 'a.mov'])).toEqual(['BLR', 'AXR', 'A']);
    const [monday] = reelNames(['workshop-monday-1.mp4']);
    const [tuesday] = reelNames(['workshop-monday-2.mp4']);
    expect(monday).toMatch(/^WORKS[A-Z0-9]{3}$/);
    expect(monday).not.toBe(tuesday);
    expect(reelNames(['Ünruhe.wav', '時計.wav']).every((name) => /^[A-Z0-9]{1,8}$/.test(name))).toBe(true);
    expect(reelNames(['a.wav', 'a.wav', 'x.wav'], 'tower 1')).toEqual(['TOWER11', 'TOWER12', 'TOWER13']);
  });

  it('are one line of ASCII, seventy letters at most, and never empty', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (text) => {
        expect(plainTitle(text)).toMatch(/^[\x20-\x7e]{1,70}$/);
        expect(plainTitle(text).trim()).not.toBe('');
      }),
    );
    expect(plainTitle('Die Unruhe: für Anfänger')).toBe('Die Unruhe: fur Anfanger');
  });
});

describe('a location', () => {
  it.each([
    ['/Volumes/Work shop', 'a#1.mp4', 'file:///Volumes/Work%20shop/a%231.mp4'],
    ['C:\\Footage\\Monday\\', 'b.mov', 'file:///C:/Footage/Monday/b.mov'],
    ['\\\\tower\\share', 'c.wav', 'file://tower/share/c.wav'],
    ['file:///mnt/media/', 'day 1/d.wav', 'file:///mnt/media/day%201/d.wav'],
    ['../media', 'é.wav', '../media/%C3%A9.wav'],
    ['/', 'e.wav', 'file:///e.wav'],
    ['', '../e f.wav', '../e%20f.wav'],
  ])('of %s and %s', (folder, path, uri) => {
    expect(locationIn(folder, path)).toBe(uri);
  });
});

describe('chapters', () => {
  it('lie on the frames of the timeline, one that was taken out where it went', () => {
    const plan = planOne('The bench', bench, plain([0, 2.02], [4, 10]));
    expect(chaptersOf(plan, [])).toEqual([{ title: 'The bench', from: 0, to: 201 }]);
    const breaks = [
      { part: 'a', at: 3, title: 'Gone' },
      { part: 'b', at: 5, title: '' },
      { part: 'c', at: 59, title: 'Behind all' },
    ];
    expect(chaptersOf(plan, breaks)).toEqual([
      { title: 'Part 1', from: 0, to: 51 },
      { title: 'Gone', from: 51, to: 76 },
      { title: 'Part 3', from: 76, to: 201 },
    ]);
    expect(momentOnTimeline(plan, 3)).toBe(51);
  });
});
