import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import type { Cut } from '../../programme/cutlist.ts';
import { programmeOf } from '../../programme/programme.ts';
import { fileNameFor } from '../outputs.ts';
import { planOne } from '../plan/made.test-help.ts';
import type { HandoffMedia } from '../plan/media.ts';
import { csv } from './csv.ts';
import { edl } from './edl.ts';
import { InterchangeError } from './format.ts';
import { otio } from './otio.ts';
import { FORMATS } from './registry.ts';

const cutOf = (pieces: readonly (readonly [number, number])[]): Cut => ({
  settings: DEFAULT_SETTINGS,
  proposals: [],
  unmatched: [],
  programme: programmeOf(pieces.map(([start, end]) => ({ start, end, rate: 1 }))),
});

const workshop: HandoffMedia = {
  name: 'carriage-clock.mp4',
  duration: 60,
  frameRate: '25/1',
  tracks: 1,
  hasVideo: true,
  timecode: '10:00:00:00',
};

const example = planOne(
  'The carriage clock',
  workshop,
  cutOf([
    [0, 2.04],
    [4, 10],
  ]),
);

describe('the edit decision list', () => {
  it('has reels, source and record timecodes, clip names and the channels of picture and sound', () => {
    expect(edl.write(example)[0]?.text.split('\r\n')).toEqual([
      'TITLE: The carriage clock',
      'FCM: NON-DROP FRAME',
      '* FRAME RATE: 25',
      '* SOURCE START: 10:00:00:00',
      '* SOURCE START OF CARRISLX: 10:00:00:00',
      '001  CARRISLX B     C        10:00:00:00 10:00:02:01 01:00:00:00 01:00:02:01',
      '* FROM CLIP NAME: carriage-clock.mp4',
      '002  CARRISLX B     C        10:00:04:00 10:00:10:00 01:00:02:01 01:00:08:01',
      '* FROM CLIP NAME: carriage-clock.mp4',
      '',
    ]);
  });

  it('names up to four audio channels', () => {
    const line = (tracks: number, hasVideo: boolean) =>
      edl.write(planOne('t', { ...workshop, tracks, hasVideo }, cutOf([[0, 1]])))[0]?.text ?? '';
    expect(line(1, false)).toMatch(/ A {5}C /);
    expect(line(2, false)).toMatch(/ AA {4}C /);
    expect(line(2, true)).toMatch(/ AA\/V {2}C /);
    expect(line(4, true)).toMatch(/AUD {2}3 4/);
  });

  it('goes on in another part after 999 events, the record side running on', () => {
    const pieces = Array.from({ length: 2500 }, (_, k) => [k * 2, k * 2 + 1] as const);
    const handoff = planOne('Long', { ...workshop, duration: 5000 }, cutOf(pieces));
    const parts = edl.write(handoff);
    expect(parts.map(({ part }) => part)).toEqual(['-1', '-2', '-3']);
    for (const { text } of parts) expect(text.match(/^\d{3} {2}/gm)?.length ?? 0).toBeLessThanOrEqual(999);
    expect(
      edl.read(
        parts.map(({ text }) => text),
        handoff.rate,
      ).events,
    ).toEqual(handoff.events);
  });

  it('cannot be broken by a file name or title', () => {
    const evil = planOne('a\nTITLE: b\u202e', { ...workshop, name: '“x”\r\n001  AX V C 00:00:00:00\u2028.mp4' }, cutOf([[0, 1]]));
    const text = edl.write(evil)[0]?.text ?? '';
    expect(text.match(/^TITLE:/gm)).toHaveLength(1);
    expect(text.match(/^\d{3} /gm)).toHaveLength(1);
    expect(text).not.toMatch(/[\u202e\u2028]/);
  });

  it('says where it cannot be read', () => {
    expect(() => edl.read(['001  REEL V C 00:00:00:00 nonsense\n'], example.rate)).toThrow(/Line 1/);
    expect(() => edl.read(['001  R V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:99\n'], example.rate)).toThrow(
      InterchangeError,
    );
  });

  it('is refused at rates it cannot count', () => {
    expect(() => edl.write(planOne('t', { ...workshop, frameRate: '120/1', timecode: undefined }, cutOf([[0, 1]])))).toThrow(
      /at most 100/,
    );
  });
});

/** Two seconds kept, four hurried at four times the speed, one left as a hole, two kept. */
const treated = planOne('Treated', workshop, {
  ...cutOf([]),
  programme: programmeOf([
    { start: 0, end: 2, rate: 1 },
    { start: 2, end: 6, rate: 4, sound: 'mute' },
    { start: 6, end: 7, rate: 1, hole: true },
    { start: 7, end: 9, rate: 1 },
  ]),
});

describe('hurried pieces and holes', () => {
  it('meet their neighbours to the frame, and take the time they play for', () => {
    expect(
      treated.events.map(({ sourceIn, sourceOut, recordIn, recordOut }) => [sourceIn, sourceOut, recordIn, recordOut]),
    ).toEqual([
      [0, 50, 0, 50],
      [50, 150, 50, 75],
      [150, 175, 75, 100],
      [175, 225, 100, 150],
    ]);
  });

  it('round inwards where kept pieces round outwards, so that no kept frame is hurried', () => {
    const odd = planOne('Odd', workshop, {
      ...cutOf([]),
      programme: programmeOf([
        { start: 0, end: 2.01, rate: 1 },
        { start: 2.01, end: 5.99, rate: 2, sound: 'mute' },
        { start: 5.99, end: 8, rate: 1 },
      ]),
    });
    expect(odd.events.map(({ sourceIn, sourceOut }) => [sourceIn, sourceOut])).toEqual([
      [0, 51],
      [51, 149],
      [149, 200],
    ]);
  });

  it('are speed and black in an edit decision list', () => {
    const lines = edl.write(treated)[0]?.text.split('\r\n') ?? [];
    expect(lines).toContain('002  CARRISLX V     C        10:00:02:00 10:00:06:00 01:00:02:00 01:00:03:00');
    expect(lines).toContain('M2   CARRISLX 100.0                10:00:02:00');
    expect(lines).toContain('003  BL       B     C        00:00:00:00 00:00:01:00 01:00:03:00 01:00:04:00');
  });

  it('are time warps and gaps in OpenTimelineIO', () => {
    const [, hurried, hole] = JSON.parse(otio.write(treated)[0]?.text ?? '').tracks.children[0].children;
    expect(hurried.effects[0]).toMatchObject({ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 4 });
    expect(hurried.source_range.duration.value).toBe(25);
    expect(hole).toMatchObject({ OTIO_SCHEMA: 'Gap.1', source_range: { duration: { value: 25 } } });
  });
});

describe('OpenTimelineIO', () => {
  it('is a timeline of a stack of tracks of clips that refer to the whole file in exact frames', () => {
    const ntsc = planOne('T', { ...workshop, frameRate: '30000/1001', timecode: '01:00:00;00', tracks: 2 }, cutOf([[1, 2]]));
    const timeline = JSON.parse(otio.write(ntsc)[0]?.text ?? '');
    expect(timeline.OTIO_SCHEMA).toBe('Timeline.1');
    expect(timeline.tracks.OTIO_SCHEMA).toBe('Stack.1');
    expect(timeline.tracks.children.map((track: { kind: string }) => track.kind)).toEqual(['Video', 'Audio', 'Audio']);
    const [clip] = timeline.tracks.children[0].children;
    expect(clip.OTIO_SCHEMA).toBe('Clip.2');
    // 1 s at 30000/1001 is frame 29.97: in at 29, and 2 s out at 60; an hour of drop-frame is 107,892 frames.
    expect(clip.source_range.start_time).toEqual({ OTIO_SCHEMA: 'RationalTime.1', rate: 30000 / 1001, value: 107_892 + 29 });
    expect(clip.source_range.duration.value).toBe(31);
    const reference = clip.media_references[clip.active_media_reference_key];
    expect(reference.OTIO_SCHEMA).toBe('ExternalReference.1');
    expect(reference.target_url).toBe('carriage-clock.mp4');
    expect(reference.available_range.start_time.value).toBe(107_892);
    expect(reference.available_range.duration.value).toBe(1799);
  });

  it('fades sound at seams between pieces that play as they are, and the picture at none', () => {
    const faded = { ...example, cutList: { ...example.cutList, settings: { crossfade: 0.16 } } };
    const [picture, sound] = JSON.parse(otio.write(faded)[0]?.text ?? '').tracks.children;
    expect(picture.children.map((item: { OTIO_SCHEMA: string }) => item.OTIO_SCHEMA)).toEqual(['Clip.2', 'Clip.2']);
    const [, fade] = sound.children;
    expect(fade).toMatchObject({ OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve' });
    expect(fade.in_offset).toMatchObject({ rate: 25, value: 2 });
    expect(fade.out_offset).toEqual(fade.in_offset);
  });

  it('lets no two fades of a clip overlap, and writes none that is shorter than a frame on each side', () => {
    const fadesOf = (crossfade: number, pieces: readonly (readonly [number, number])[]) => {
      const plan = planOne('t', workshop, cutOf(pieces));
      const text = otio.write({ ...plan, cutList: { ...plan.cutList, settings: { crossfade } } })[0]?.text ?? '';
      return JSON.parse(text).tracks.children[1].children.filter((item: { OTIO_SCHEMA: string }) =>
        /Transition/.test(item.OTIO_SCHEMA),
      );
    };
    const short: [number, number][] = [
      [1, 2],
      [3, 3.16],
      [4, 5],
    ];
    // Four frames between two fades of five frames: two for each.
    expect(fadesOf(0.2, short).map((fade: { in_offset: { value: number } }) => fade.in_offset.value)).toEqual([2, 2]);
    expect(fadesOf(0.01, short)).toEqual([]);
  });

  it('writes the reference to a file once a track', () => {
    const text =
      otio.write(
        planOne(
          't',
          { ...workshop, tracks: 2 },
          cutOf([
            [0, 1],
            [2, 3],
            [4, 5],
          ]),
        ),
      )[0]?.text ?? '';
    expect(text.match(/ExternalReference/g)).toHaveLength(3);
    expect(text.match(/SerializableObjectRef/g)).toHaveLength(6);
  });

  it('percent-encodes the address of a file with an awkward name', () => {
    const awkward = planOne('T', { ...workshop, name: 'a b#?.mp4' }, cutOf([[0, 1]]));
    expect(otio.write(awkward)[0]?.text).toContain('a%20b%23%3F.mp4');
  });
});

describe('the table', () => {
  it('does not let a file name become a formula', () => {
    const text = csv.write(planOne('T', { ...workshop, name: '=HYPERLINK("x")' }, cutOf([[0, 1]])))[0]?.text ?? '';
    expect(text.split('\r\n')[1]).not.toMatch(/,"?=/);
  });
});

describe('every format', () => {
  const pieces = fc
    .array(fc.tuple(fc.integer({ min: 4, max: 300 }), fc.integer({ min: 4, max: 300 })), { minLength: 1, maxLength: 1200 })
    .map((gaps) => {
      let at = 0;
      return gaps.map(([gap, length]) => {
        const start = at + gap / 25;
        at = start + length / 25;
        return [Math.round(start * 1000) / 1000, Math.round(at * 1000) / 1000] as const;
      });
    });
  const rates = fc.constantFrom('24000/1001', '25/1', '30000/1001', '60000/1001');

  it.each(FORMATS.map((format) => [format.id, format] as const))('reads back the frames it wrote: %s', (_, format) => {
    fc.assert(
      fc.property(pieces, rates, fc.boolean(), (list, frameRate, drop) => {
        const handoff = planOne(
          'Clock',
          { ...workshop, duration: 60_000, frameRate, timecode: drop ? '01:02:03;10' : '01:02:03:10' },
          cutOf(list),
        );
        const read = format.read(
          format.write(handoff).map(({ text }) => text),
          handoff.rate,
        );
        expect(read.events).toEqual(handoff.events);
        expect(read.clipName).toBe('carriage-clock.mp4');
      }),
      { numRuns: 25 },
    );
  });

  const mixed = fc
    .array(
      fc.tuple(
        fc.integer({ min: 4, max: 300 }),
        fc.integer({ min: 8, max: 300 }),
        fc.constantFrom(
          { rate: 1 },
          { rate: 1, hole: true as const },
          { rate: 4, sound: 'mute' as const },
          { rate: 1.5, sound: 'pitch' as const },
        ),
        fc.boolean(),
      ),
      { minLength: 1, maxLength: 60 },
    )
    .map((list) => {
      let at = 0;
      return list.map(([gap, length, manner, joins]) => {
        const start = Math.round((at + (joins ? 0 : gap / 25)) * 1000) / 1000;
        at = start + length / 25;
        return { start, end: Math.round(at * 1000) / 1000, ...manner };
      });
    });

  it.each(FORMATS.map((format) => [format.id, format] as const))('reads back hurried pieces and holes: %s', (_, format) => {
    fc.assert(
      fc.property(mixed, rates, (list, frameRate) => {
        const handoff = planOne(
          'Clock',
          { ...workshop, duration: 60_000, frameRate },
          { ...cutOf([]), programme: programmeOf(list) },
        );
        const read = format.read(
          format.write(handoff).map(({ text }) => text),
          handoff.rate,
        );
        expect(read.events).toEqual(handoff.events);
      }),
      { numRuns: 25 },
    );
  });

  it.each(FORMATS.map((format) => [format.id, format] as const))(
    'reads back what is switched off, split, blind or faded: %s',
    (_, format) => {
      fc.assert(
        fc.property(mixed, rates, fc.boolean(), fc.constantFrom(0, 0.3), (list, frameRate, isOff, crossfade) => {
          const duration = (list.at(-1)?.end ?? 0) + 2;
          const cut = { ...cutOf([]), settings: { ...DEFAULT_SETTINGS, crossfade }, programme: programmeOf(list) };
          const plan = planOne('Clock', { ...workshop, duration, frameRate, pictureEnd: duration - 3 }, cut, undefined, {
            removed: isOff ? 'disabled' : 'gone',
          });
          // A timeline on which no picture is shown looks as one of sound.
          fc.pre(plan.events.some(({ blind, hole, off }) => !blind && !hole && !off));
          const read = format.read(
            format.write(plan).map(({ text }) => text),
            plan.rate,
          );
          expect(read.events).toEqual(plan.events);
        }),
        { numRuns: 40 },
      );
    },
  );

  it.each(FORMATS.map((format) => [format.id, format] as const))('never fails to read except with a reason: %s', (_, format) => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        try {
          format.read([text], example.rate);
        } catch (error) {
          expect(error).toBeInstanceOf(InterchangeError);
        }
      }),
    );
  });

  it('is named after the recording', () => {
    const named = (name: string) => planOne('t', { ...workshop, name }, cutOf([[0, 1]]));
    expect(fileNameFor(named('carriage-clock.mp4'), '-2', { ending: 'edl' })).toBe('carriage-clock-2.edl');
    expect(fileNameFor(named('.mp4'), '', { ending: 'json' })).toBe('cut list.json');
  });
});
