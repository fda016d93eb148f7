import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type AngleStretch, withAngle } from '../../decisions/angles.ts';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import { programmeOf } from '../../programme/programme.ts';
import { overlapOf } from '../../time/range.ts';
import { frames } from '../../time/rate.ts';
import { picturesOf } from '../plan/carriers.ts';
import { type FramePlan, sourceOf, type TimelineEvent } from '../plan/framePlan.ts';
import { withLooks } from '../plan/looks.ts';
import { planOne } from '../plan/made.test-help.ts';
import type { HandoffMedia } from '../plan/media.ts';
import { compare } from '../readback/compare.ts';
import { readEdited } from '../readback/edited.ts';
import { csv } from './csv.ts';
import { edl } from './edl.ts';
import { json } from './json.ts';
import { otio } from './otio.ts';
import { xml } from './xml.ts';

const LENGTH = 300;
const camera = (name: string, duration: number): HandoffMedia => ({
  name,
  duration,
  tracks: 1,
  channels: [1],
  sampleRate: 48_000,
  hasVideo: true,
  frameRate: '25/1',
  pictureEnd: duration,
});

interface Side {
  readonly place: number;
  readonly drift: number;
  readonly length: number;
  readonly heard: boolean;
}

/** The bench from the front, and a second camera from the side that may begin later and end sooner. */
function planOf(
  { place, drift, length, heard }: Side,
  angles: readonly AngleStretch[],
  cuts: readonly number[],
  look = false,
  sideRate = '25/1',
): FramePlan {
  const media: HandoffMedia = {
    ...camera('front.mov', LENGTH),
    tracks: heard ? 2 : 1,
    channels: heard ? [1, 1] : [1],
    together: {
      channels: [1],
      sampleRate: 48_000,
      tracks: 1,
      beside: [
        { id: 'side', media: { ...camera('side.mov', length), frameRate: sideRate }, tracks: heard ? 1 : 0, place, drift },
      ],
    },
  };
  const edges = [0, ...cuts, LENGTH];
  const pieces = edges
    .slice(1)
    .flatMap((end, k) => (k % 2 === 0 && end > (edges[k] as number) ? [{ start: edges[k] as number, end, rate: 1 }] : []));
  const settings = { ...DEFAULT_SETTINGS, seamLook: look ? ('dissolve' as const) : ('cut' as const), dissolveFor: 0.4 };
  const cut = { settings, proposals: [], unmatched: [], programme: programmeOf(pieces), angles };
  return withLooks(planOne('Bench', media, cut), cut);
}

const sides = fc.record({
  place: fc.double({ min: -50, max: 200, noNaN: true }),
  drift: fc.constantFrom(0, 4e-5, -2.5e-4),
  length: fc.double({ min: 20, max: 400, noNaN: true }),
  heard: fc.boolean(),
});
const increasing = (least: number) =>
  fc
    .uniqueArray(fc.integer({ min: 1, max: LENGTH * 1000 - 1 }), { minLength: least, maxLength: 14 })
    .map((moments) => moments.sort((a, b) => a - b).map((moment) => moment / 1000));
const stretchesOf = (edges: readonly number[]) =>
  edges.slice(1).flatMap((end, k) => (k % 2 === 0 ? [{ start: edges[k] as number, end, angle: 'side' }] : []));
const stretches = increasing(2).map(stretchesOf);
/** Moments far enough from each other, and from those of another offset, that nothing is too short to be seen. */
const apart = (offset: number) =>
  fc
    .uniqueArray(fc.integer({ min: 1, max: LENGTH - 1 }), { minLength: 2, maxLength: 14 })
    .map((moments) => moments.sort((a, b) => a - b).map((moment) => moment + offset));

interface Clip {
  readonly name: string;
  readonly enabled: boolean;
  readonly recordIn: number;
  readonly length: number;
  readonly sourceIn: number;
}

/** Clips of each track of pictures, lowest first, from the text alone. */
function tracksInXml(plan: FramePlan): Clip[][] {
  const text = xml.write(plan)[0]?.text.replaceAll('\n', '') ?? '';
  const video = text.slice(text.indexOf('<video><format>'), text.indexOf('<numOutputChannels>'));
  return [...video.matchAll(/<track>(.*?)<\/track>/g)].map(([, track = '']) =>
    [...track.matchAll(/<clipitem .*?<\/clipitem>/g)].map(([clip]) => {
      const field = (name: string) => new RegExp(`<${name}>([^<]*)<`).exec(clip)?.[1] ?? '';
      const [recordIn, end] = [Number(field('start')), Number(field('end'))];
      return {
        name: field('name'),
        enabled: !clip.includes('<enabled>FALSE'),
        recordIn,
        length: end - recordIn,
        sourceIn: Number(field('in')),
      };
    }),
  );
}

interface OtioItem {
  readonly OTIO_SCHEMA: string;
  readonly name?: string;
  readonly enabled?: boolean;
  readonly source_range: Readonly<Record<'duration' | 'start_time', { readonly value: number }>>;
}

function tracksInOtio(plan: FramePlan): Clip[][] {
  const { tracks } = JSON.parse(otio.write(plan)[0]?.text ?? '');
  return tracks.children
    .filter(({ kind }: { kind: string }) => kind === 'Video')
    .map(({ children }: { children: OtioItem[] }) => {
      let at = 0;
      return children.flatMap(({ OTIO_SCHEMA, name = '', enabled = true, source_range: { duration, start_time } }) => {
        const clip = { name, enabled, recordIn: at, length: duration.value, sourceIn: start_time.value };
        at += duration.value;
        return OTIO_SCHEMA === 'Clip.2' ? [clip] : [];
      });
    });
}

const perSecond = 25;
const isAt = ({ place, drift }: Side, event: TimelineEvent) => (event.sourceIn / perSecond - place) * (1 + drift) * perSecond;
const timeOf = ({ sourceIn, sourceOut }: TimelineEvent) => ({ start: sourceIn / perSecond, end: sourceOut / perSecond });

describe('several cameras on a timeline', () => {
  it('are cut alike on tracks of their own, and what was chosen is what is seen', () => {
    fc.assert(
      fc.property(sides, stretches, increasing(2), (side, angles, cuts) => {
        const plan = planOf(side, angles, cuts);
        for (const [format, tracks] of [['xml', tracksInXml(plan)] as const, ['otio', tracksInOtio(plan)] as const]) {
          const [front = [], over = []] = tracks;
          for (const event of plan.events) {
            const clip = over.find(({ recordIn }) => recordIn === event.recordIn);
            expect([format, clip?.enabled ?? false]).toEqual([format, event.angle === 1]);
            if (event.angle === undefined) expect(front.find(({ recordIn }) => recordIn === event.recordIn)?.enabled).toBe(true);
          }
          for (const { name, recordIn, length, sourceIn } of over) {
            const event = plan.events.find((one) => one.recordIn === recordIn) as TimelineEvent;
            expect([name, length]).toEqual(['side.mov', event.recordOut - event.recordIn]);
            expect(Math.abs(sourceIn - isAt(side, event))).toBeLessThanOrEqual(0.501);
            const last = isAt(side, { ...event, sourceIn: frames(event.sourceOut - 1) });
            expect(Math.abs(sourceIn + length - 1 - last)).toBeLessThanOrEqual(0.501);
            expect(sourceIn).toBeGreaterThanOrEqual(0);
            expect(sourceIn + length).toBeLessThanOrEqual(Math.floor(side.length * perSecond + 1e-6));
          }
        }
        // Of what was chosen, all that the camera has is seen, but for a frame and what is too short on either side of an edge.
        for (const event of plan.events) {
          const chosen = angles.reduce((sum, stretch) => sum + overlapOf(stretch, timeOf(event)), 0);
          const share = chosen / ((event.sourceOut - event.sourceIn) / perSecond);
          const from = isAt(side, event);
          const until = isAt(side, { ...event, sourceIn: event.sourceOut });
          const has = from >= 0.5 && until <= Math.floor(side.length * perSecond) - 0.5;
          const isLong = event.sourceOut - event.sourceIn > 8;
          if (isLong && (event.angle === 1 || has)) expect(event.angle === 1).toBe(share > 0.5);
        }
      }),
      { numRuns: 80 },
    );
  });

  it('come back as the recording they are of, without a change, and the same events', () => {
    fc.assert(
      fc.property(sides, stretches, increasing(2), (side, angles, cuts) => {
        const plan = planOf(side, angles, cuts);
        for (const format of [xml, otio, edl]) {
          const texts = format.write(plan).map(({ text }) => text);
          const read = readEdited(texts, `bench.${format.id}`, plan);
          expect([format.id, read.foreign, compare(plan, read, []).changes]).toEqual([format.id, [], []]);
        }
        for (const format of [json, csv])
          expect(format.read([format.write(plan)[0]?.text ?? ''], plan.rate).events.map(({ angle }) => angle)).toEqual(
            plan.events.map(({ angle }) => angle),
          );
      }),
      { numRuns: 60 },
    );
  });

  it('that an editor chose otherwise come back as decisions that show the same here', () => {
    fc.assert(
      fc.property(sides, apart(0.2), apart(0.4), apart(0.7), (side, before, after, cuts) => {
        const [angles, chosen] = [stretchesOf(before), stretchesOf(after)];
        const plan = planOf(side, angles, cuts);
        const theirs = planOf(side, chosen, cuts);
        for (const format of [xml, otio, edl]) {
          const texts = format.write(theirs).map(({ text }) => text);
          const read = readEdited(texts, `bench.${format.id}`, plan);
          const { changes } = compare(plan, read, []);
          expect(changes.filter(({ kind }) => kind !== 'picture')).toEqual([]);
          const steps = changes.flatMap(({ steps }) => steps).flatMap((step) => (step.type === 'angle' ? [step] : []));
          expect(steps).toHaveLength(changes.length);
          const decided = steps.reduce<readonly AngleStretch[]>((all, { about, angle }) => withAngle(all, about, angle), angles);
          // Rounded to frames, and of those to milliseconds, an edge may be a frame off.
          const left = compare(planOf(side, decided, cuts), read, []).changes.filter(
            ({ about }) => about.end - about.start > 0.06,
          );
          expect([format.id, left]).toEqual([format.id, []]);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('begin where they were chosen, though the cut there is shorter than a frame', () => {
    const plan = planOf(
      { place: 0, drift: 0, length: 400, heard: false },
      [{ start: 0.002, end: 0.016, angle: 'side' }],
      [0.015, 0.019],
    );
    const seen = plan.events.filter(({ angle }) => angle === 1).map(({ sourceIn, sourceOut }) => [sourceIn, sourceOut]);
    expect(seen).toEqual([[0, 1]]);
  });

  it('have a line for the picture and one for the sound in an edit decision list', () => {
    const plan = planOf({ place: -5, drift: 0, length: 400, heard: false }, [{ start: 20, end: 30, angle: 'side' }], []);
    const [list] = edl.write(plan).map(({ text }) => text);
    expect(list?.split('\r\n').filter((line) => /^\d|CLIP NAME|START OF/.test(line))).toEqual([
      '* SOURCE START OF FRONT: 00:00:00:00',
      '* SOURCE START OF SIDE: 00:00:00:00',
      '001  FRONT    B     C        00:00:00:00 00:00:20:00 01:00:00:00 01:00:20:00',
      '* FROM CLIP NAME: front.mov',
      '002  SIDE     V     C        00:00:25:00 00:00:35:00 01:00:20:00 01:00:30:00',
      '* FROM CLIP NAME: side.mov',
      '003  FRONT    A     C        00:00:20:00 00:00:30:00 01:00:20:00 01:00:30:00',
      '* FROM CLIP NAME: front.mov',
      '004  FRONT    B     C        00:00:30:00 00:05:00:00 01:00:30:00 01:05:00:00',
      '* FROM CLIP NAME: front.mov',
    ]);
    expect(edl.cannotCarry(plan).join()).toContain('the pictures of further files where they are not seen');
  });

  it('of another frame rate are said to be conformed', () => {
    const plan = planOf(
      { place: -5, drift: 0, length: 400, heard: false },
      [{ start: 20, end: 30, angle: 'side' }],
      [],
      false,
      '30/1',
    );
    expect(xml.write(plan)[0]?.text).toContain('<!-- side.mov is conformed to 25 from 30/1 frames a second -->');
    expect(edl.write(plan)[0]?.text).toMatch(/^\* SIDE IS CONFORMED TO 25 FROM 30 FRAMES A SECOND/m);
  });

  it('number no more lines in a list than it has numbers for', () => {
    const angles = Array.from({ length: 700 }, (_, k) => ({ start: 0.2 * (2 * k + 1), end: 0.2 * (2 * k + 2), angle: 'side' }));
    const plan = planOf({ place: -1, drift: 0, length: 400, heard: false }, angles, []);
    const lists = edl.write(plan).map(({ text }) => text);
    const numbers = lists.map((text) => [...text.matchAll(/^(\d+) /gm)].map(([, number]) => Number(number)));
    expect(numbers.flat().filter((number) => number > 999)).toEqual([]);
    for (const list of numbers) expect(list).toEqual(list.map((_, k) => k + 1));
    const texts = edl.read(lists, plan.rate).clips.filter(({ kind }) => kind !== 'sound');
    expect(texts).toHaveLength(plan.events.length);
  });

  it('go over into one another only within one track, as far as both sides reach', () => {
    fc.assert(
      fc.property(sides, stretches, increasing(4), (side, angles, cuts) => {
        const plan = planOf(side, angles, cuts, true);
        for (const [k, event] of plan.events.entries()) {
          if (!event.dissolve) continue;
          const before = plan.events[k - 1] as TimelineEvent;
          expect(before.angle).toBe(event.angle);
          const picture = picturesOf(sourceOf(plan, event))[event.angle ?? 0];
          const at = event.angle ? isAt(side, event) : event.sourceIn;
          expect(at - event.dissolve).toBeGreaterThanOrEqual(-0.5);
          expect(picture?.pictureLength).toBeGreaterThan(0);
        }
        for (const format of [xml, otio]) {
          const read = readEdited(
            format.write(plan).map(({ text }) => text),
            `bench.${format.id}`,
            plan,
          );
          expect([format.id, compare(plan, read, []).changes]).toEqual([format.id, []]);
        }
      }),
      { numRuns: 40 },
    );
  });
});
