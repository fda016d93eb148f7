import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import { programmeOf } from '../../programme/programme.ts';
import { frames } from '../../time/rate.ts';
import { frameIn, holds, recordingFrame } from '../plan/carriers.ts';
import type { FramePlan, TimelineEvent } from '../plan/framePlan.ts';
import { planOne } from '../plan/made.test-help.ts';
import { type HandoffMedia, locatedMedia } from '../plan/media.ts';
import { compare } from '../readback/compare.ts';
import { readEdited } from '../readback/edited.ts';
import { edl } from './edl.ts';
import type { TimelineFormat } from './format.ts';
import { otio } from './otio.ts';
import { xml } from './xml.ts';

interface Beside {
  readonly place: number;
  readonly drift: number;
  readonly length: number;
}

const LENGTH = 600;
const camera = { name: 'bench.mov', duration: LENGTH, tracks: 1, channels: [2], hasVideo: true, timecode: '10:00:00:00' };
const recorder = (duration: number): HandoffMedia => ({
  name: 'bench recorder.wav',
  duration,
  tracks: 2,
  channels: [1, 1],
  sampleRate: 48_000,
  hasVideo: false,
  timeReference: { samples: 8 * 3600 * 48_000, sampleRate: 48_000 },
});

/** A camera and a recorder with two tracks, whose sounds are used with the camera's or in their place. */
function planOf({ place, drift, length }: Beside, isInstead: boolean, cuts: readonly number[], rate = '25/1'): FramePlan {
  const media: HandoffMedia = {
    ...camera,
    frameRate: rate,
    tracks: isInstead ? 2 : 3,
    channels: isInstead ? [1, 1] : [2, 1, 1],
    together: {
      channels: [2],
      sampleRate: 48_000,
      tracks: isInstead ? 0 : 1,
      beside: [{ id: 'recorder', media: recorder(length), tracks: 2, place, drift }],
    },
  };
  const edges = [0, ...cuts, LENGTH];
  const pieces = edges
    .slice(1)
    .flatMap((end, k) => (k % 2 === 0 && end > (edges[k] as number) ? [{ start: edges[k] as number, end, rate: 1 }] : []));
  const cut = { settings: DEFAULT_SETTINGS, proposals: [], unmatched: [], programme: programmeOf(pieces) };
  return planOne('Bench', media, cut);
}

const besides = fc.record({
  place: fc.double({ min: -50, max: 500, noNaN: true }),
  drift: fc.constantFrom(0, 4e-5, -2.5e-4),
  length: fc.double({ min: 20, max: 700, noNaN: true }),
});
const someCuts = fc
  .uniqueArray(fc.integer({ min: 1, max: LENGTH * 1000 - 1 }), { minLength: 2, maxLength: 30 })
  .map((moments) => moments.sort((a, b) => a - b).map((moment) => moment / 1000));

interface Clip {
  readonly recordIn: number;
  readonly length: number;
  readonly sourceIn: number;
}

/** Clips of a file on the track of sound with a number, from the text alone. */
const READ: readonly (readonly [TimelineFormat, (plan: FramePlan, track: number) => Clip[]])[] = [
  [
    xml,
    (plan, track) => {
      const text = xml.write(plan)[0]?.text.replaceAll('\n', '') ?? '';
      const sounds = [...text.slice(text.indexOf('<numOutputChannels>')).matchAll(/<track>(.*?)<\/track>/g)];
      return [...(sounds[track]?.[1] ?? '').matchAll(/<clipitem .*?<start>(\d+)<\/start><end>(\d+)<\/end><in>(\d+)<\/in>/g)].map(
        ([, start, end, source]) => ({ recordIn: Number(start), length: Number(end) - Number(start), sourceIn: Number(source) }),
      );
    },
  ],
  [
    otio,
    (plan, track) => {
      const { tracks } = JSON.parse(otio.write(plan)[0]?.text ?? '');
      const [sound] = tracks.children.filter(({ name }: { name: string }) => name.startsWith(`Sound ${track}`));
      let at = 0;
      const clips: Clip[] = [];
      let start = 0;
      for (const { OTIO_SCHEMA, source_range, media_references } of sound.children) {
        const length = source_range.duration.value;
        start = media_references?.DEFAULT_MEDIA.available_range?.start_time.value ?? start;
        if (OTIO_SCHEMA === 'Clip.2') clips.push({ recordIn: at, length, sourceIn: source_range.start_time.value - start });
        at += length;
      }
      return clips;
    },
  ],
];

const isAt = ({ place, drift }: Beside, event: TimelineEvent, rate: number) =>
  (event.sourceIn / rate - place) * (1 + drift) * rate;

describe('a file that ran together with the recording', () => {
  it('is on its own tracks wherever it reaches, to the nearest frame, and nowhere else', () => {
    fc.assert(
      fc.property(besides, fc.boolean(), someCuts, fc.constantFrom('25/1', '30000/1001'), (beside, isInstead, cuts, rate) => {
        const plan = planOf(beside, isInstead, cuts, rate);
        const perSecond = plan.rate.num / plan.rate.den;
        const whole = Math.floor(beside.length * perSecond + 1e-6);
        for (const [format, clipsOf] of READ) {
          const clips = clipsOf(plan, format === xml ? (isInstead ? 1 : 3) : isInstead ? 2 : 3);
          for (const { recordIn, length, sourceIn } of clips) {
            const event = plan.events.find((one) => one.recordIn === recordIn) as TimelineEvent;
            expect(length).toBe(event.recordOut - event.recordIn);
            const [start, end] = [
              isAt(beside, event, perSecond),
              isAt(beside, { ...event, sourceIn: frames(event.sourceOut - 1) }, perSecond),
            ];
            expect(Math.abs(sourceIn - start)).toBeLessThanOrEqual(0.501);
            expect(Math.abs(sourceIn + length - 1 - end)).toBeLessThanOrEqual(0.501);
            expect(sourceIn).toBeGreaterThanOrEqual(0);
            expect(sourceIn + length).toBeLessThanOrEqual(whole);
          }
          const reached = plan.events.filter((event) => {
            const from = isAt(beside, event, perSecond);
            return from >= 0.5 && isAt(beside, { ...event, sourceIn: event.sourceOut }, perSecond) <= whole - 0.5;
          });
          const missing = reached.filter(({ recordIn }) => !clips.some((clip) => clip.recordIn === recordIn));
          expect([format.id, missing]).toEqual([format.id, []]);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('comes back as the recording it is of, without a change', () => {
    fc.assert(
      fc.property(besides, fc.boolean(), someCuts, (beside, isInstead, cuts) => {
        const plan = planOf(beside, isInstead, cuts);
        for (const format of [xml, otio, edl]) {
          const read = readEdited(
            format.write(plan).map(({ text }) => text),
            `bench.${format.id}`,
            plan,
          );
          expect([format.id, read.foreign, compare(plan, read, []).changes]).toEqual([format.id, [], []]);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('lies where each of its files does', () => {
    const { media } = planOf({ place: 10, drift: 0, length: 300 }, false, []);
    const located = locatedMedia(media, ['day/bench.mov', 'sound/b.wav'], (path) => `file:///Watch/${path}`);
    expect([located.location, located.together?.beside[0]?.media.location]).toEqual([
      'file:///Watch/day/bench.mov',
      'file:///Watch/sound/b.wav',
    ]);
  });

  it('is counted in samples without an event for each that it drifts by', () => {
    const plan = planOf({ place: 10, drift: 4e-5, length: 500 }, true, [], '48000/1');
    // Two hundredths of a second in five hundred seconds at 40 millionths, and where it begins and ends.
    expect(plan.events.length).toBeLessThan(8);
    const [, carrier] = plan.sources[0]?.carriers ?? [];
    const held = plan.events.filter((event) => carrier && holds(carrier, event));
    const seconds = held.reduce((sum, { sourceIn, sourceOut }) => sum + (sourceOut - sourceIn) / 48_000, 0);
    expect(seconds).toBeGreaterThan(499.9);
  });

  it('crosses from thread to thread as it is', () => {
    const plan = planOf({ place: 10, drift: 4e-5, length: 300 }, false, [2, 4]);
    expect(structuredClone(plan)).toEqual(plan);
  });

  it('has a reel, a start and a list of its own in edit decision lists', () => {
    const plan = planOf({ place: 10, drift: 0, length: 700 }, true, [2, 4, 20, 30]);
    const lists = edl.write(plan);
    expect(lists.map(({ part }) => part)).toEqual(['', '-sound-1', '-sound-2']);
    const [pictures, sounds, second] = lists.map(({ text }) => text) as [string, string, string];
    expect(pictures).toMatch(/^001 {2}BENCH {4}V {5}C/m);
    expect(pictures).toContain('* SOUND 1, SOUND 2: IN FILES AND LISTS OF THEIR OWN');
    // Where the recorder was not on yet the list says so; ten seconds in it was at its own start, eight in the morning.
    expect(sounds).toMatch(/^001 {2}BL {6} A {5}C.*\r\n\* SILENT OF BENCH: 10:00:00:00 10:00:02:00/m);
    expect(sounds).toMatch(
      /^003 {2}BENCH\w{3} A {5}C {8}08:00:00:00 08:00:10:00 01:00:08:00 01:00:18:00\r\n\* FROM CLIP NAME: bench recorder.wav/m,
    );
    expect(second).toContain('* SOURCE CHANNELS: 2');
    expect(edl.cannotCarry(plan).join()).toContain('a list of its own');
  });

  it('is found again by the frame it is at, however it drifts', () => {
    fc.assert(
      fc.property(besides, fc.integer({ min: 0, max: 2_000_000 }), (beside, frame) => {
        const [, carrier] = planOf(beside, false, []).sources[0]?.carriers ?? [];
        if (!carrier) throw new Error('it has two files');
        const back = recordingFrame(carrier, frameIn(carrier, frame));
        expect(frameIn(carrier, back)).toBe(frameIn(carrier, frame));
        expect(Math.abs(back - frames(frame))).toBeLessThanOrEqual(beside.drift === 0 ? 0 : 1);
      }),
    );
  });
});
