import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DecisionEvent } from '../../decisions/event.ts';
import { applyDecisions } from '../../decisions/matching.ts';
import { replay } from '../../decisions/replay.ts';
import type { Proposal } from '../../detect/detector.ts';
import { word } from '../../detect/made.test-help.ts';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import { arrange } from '../../programme/arrangement.ts';
import { assemble } from '../../programme/assemble.ts';
import type { Cut } from '../../programme/cutlist.ts';
import { frames } from '../../time/rate.ts';
import type { FramePlan, TimelineEvent } from '../plan/framePlan.ts';
import { planOne } from '../plan/made.test-help.ts';
import type { HandoffMedia } from '../plan/media.ts';
import { wordsOnTimeline } from '../plan/onTimeline.ts';
import { edl } from '../timelines/edl.ts';
import { InterchangeError, type TimelineFormat } from '../timelines/format.ts';
import { otio } from '../timelines/otio.ts';
import { xml } from '../timelines/xml.ts';
import { XML_ROOT } from '../timelines/xmlText.ts';
import type { Change } from './change.ts';
import { compare, nearestPlan } from './compare.ts';
import { planOfEdited, readEdited } from './edited.ts';
import { changeText, seamSentence } from './sentences.ts';

const bench: HandoffMedia = {
  name: 'bench.mp4',
  duration: 40,
  frameRate: '25/1',
  tracks: 2,
  hasVideo: true,
  timecode: '10:00:00:00',
};
const pause = (start: number, end: number): Proposal => ({
  id: `pause:${start}`,
  kind: 'pause',
  start,
  end,
  found: { start: start - 0.1, end: end + 0.1 },
  taken: { start, end },
  treatment: 'remove',
  confidence: 0.99,
  evidence: {},
});
const PAUSES = [pause(2.01, 3.99), pause(10.01, 11.49), pause(20.01, 21.99), pause(30.01, 30.99)];
const HERE = [{ id: 'a', start: 0, end: 40 }];

function cutAfter(steps: readonly DecisionEvent[]): Cut {
  const state = replay(steps);
  const { proposals, unmatched } = applyDecisions(PAUSES, state);
  return {
    settings: DEFAULT_SETTINGS,
    proposals,
    unmatched,
    programme: assemble(arrange(HERE, state), proposals, 'mute', state.splits),
  };
}
const handedOver = (steps: readonly DecisionEvent[] = []): FramePlan => planOne('Bench', bench, cutAfter(steps));

/** The same plan with other events, as an editor would leave it. */
function edited(change: (events: { from: number; to: number }[]) => { from: number; to: number }[]): FramePlan {
  const plan = handedOver();
  let at = 0;
  const events = change(plan.events.map(({ sourceIn, sourceOut }) => ({ from: sourceIn, to: sourceOut }))).map(
    ({ from, to }): TimelineEvent => {
      const recordIn = frames(at);
      at += to - from;
      return { sourceIn: frames(from), sourceOut: frames(to), recordIn, recordOut: frames(at) };
    },
  );
  return { ...plan, events, length: frames(at) };
}

const readBack = (plan: FramePlan, format: TimelineFormat) =>
  readEdited(
    format.write(plan).map(({ text }) => text),
    `bench.${format.id}`,
    handedOver(),
  );
const changesOf = (plan: FramePlan, format: TimelineFormat = otio): readonly Change[] =>
  compare(handedOver(), readBack(plan, format), cutAfter([]).proposals).changes;

const FORMATS = [edl, otio, xml].map((format) => [format.id, format] as const);

describe.each(FORMATS)('a timeline that comes back as %s', (_, format) => {
  it('shows nothing changed where nothing was', () => {
    const timeline = readBack(handedOver(), format);
    expect(timeline.events.map(({ sourceIn, sourceOut, recordIn }) => [sourceIn, sourceOut, recordIn])).toEqual(
      handedOver().events.map(({ sourceIn, sourceOut, recordIn }) => [sourceIn, sourceOut, recordIn]),
    );
    const found = compare(handedOver(), timeline, cutAfter([]).proposals);
    expect(found.changes).toEqual([]);
    expect(found.seams).toBe(4);
  });

  it('shows seams that were opened, cuts undone, what went besides, and what moved', () => {
    const plan = edited(([a, b, c, d, e]) => {
      const [one, two, three, four, five] = [a, b, c, d, e] as { from: number; to: number }[];
      return [
        { from: one?.from ?? 0, to: (one?.to ?? 0) + 4 },
        // The cut at ten seconds is undone.
        { from: two?.from ?? 0, to: three?.to ?? 0 },
        five,
        { from: four?.from ?? 0, to: (four?.to ?? 0) - 100 },
      ] as { from: number; to: number }[];
    });
    const changes = changesOf(plan, format);
    expect(changes.map(({ kind, after, before, frames: count }) => [kind, after, before, count])).toEqual([
      ['opened', 4, 0, 4],
      ['undone', 0, 0, 36],
      ['taken out', 0, 0, -100],
      ['moved', 0, 0, 0],
    ]);
    expect(seamSentence({ seams: 4, changes })).toBe('of 4 seams 1 was opened, after words, by 4 frames');
  });
});

describe('what an editor changed', () => {
  it('becomes decisions that make the same timeline here', () => {
    const edges = fc.array(fc.tuple(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 0, max: 9 })), {
      minLength: 4,
      maxLength: 4,
    });
    fc.assert(
      fc.property(edges, fc.constantFrom(-1, 0, 1, 2, 3), (opened, undone) => {
        const plan = edited((events) => {
          const wide = events.map((event, k) => ({
            from: event.from - (k > 0 ? (opened[k - 1]?.[1] ?? 0) : 0),
            to: event.to + (opened[k]?.[0] ?? 0),
          }));
          return undone < 0
            ? wide
            : wide.flatMap((event, k) =>
                k === undone + 1 ? [] : k === undone ? [{ from: event.from, to: wide[k + 1]?.to ?? 0 }] : [event],
              );
        });
        const steps = changesOf(plan).flatMap((change) => change.steps);
        const log = steps.map(
          (step, k) => ({ ...step, id: `00000000-0000-4000-8000-${String(k).padStart(12, '0')}` }) as DecisionEvent,
        );
        expect(handedOver(log).events).toEqual(plan.events);
      }),
      { numRuns: 60 },
    );
  });

  it('gives back what was opened from everything that takes it', () => {
    const plan = handedOver();
    const opened = edited((events) => events.map(({ from, to }, k) => ({ from, to: k === 1 ? to + 3 : to })));
    // All three begin where the seam is, one is over before what was opened ends, and kept frames reach to 10.04.
    const here: Proposal[] = [
      ...PAUSES,
      { ...pause(10.01, 10.6), id: 'broken', kind: 'broken' },
      { ...pause(10.01, 10.1), id: 'filler', kind: 'filler' },
    ];
    const { proposals } = applyDecisions(here, replay([]));
    const [change] = compare(plan, readBack(opened, otio), proposals).changes;
    expect(change).toMatchObject({ kind: 'opened', frames: 3 });
    const steps = change?.steps.map((step) =>
      'kind' in step ? [step.type, step.kind, 'taken' in step && step.taken.start] : [],
    );
    expect(steps).toHaveLength(3);
    for (const kind of ['pause', 'broken']) expect(steps).toContainEqual(['edge', kind, 10.16]);
    expect(steps).toContainEqual(['verdict', 'filler', false]);
  });

  it('can be something that was taken out or moved', () => {
    const moved = changesOf(edited(([a, b, c, d, e]) => [b, a, c, d, e] as { from: number; to: number }[]));
    expect(moved.map(({ kind }) => kind)).toEqual(['moved']);
    const log = moved
      .flatMap(({ steps }) => steps)
      .map((step, k) => ({ ...step, id: `00000000-0000-4000-8000-00000000000${k}` }) as DecisionEvent);
    expect(handedOver(log).events.map(({ sourceIn }) => sourceIn)[1]).toBe(0);
  });

  it('is said in a sentence, and offers the air that it asks for', () => {
    const plan = edited((events) => events.map(({ from, to }, k) => ({ from, to: to + (k < 3 ? k + 3 : 0) })));
    const found = compare(handedOver(), readBack(plan, otio), cutAfter([]).proposals);
    expect(seamSentence(found)).toBe('of 4 seams 3 were opened, all after words, by 3 to 5 frames');
    expect(found.air).toEqual({ airAfter: DEFAULT_SETTINGS.airAfter + 0.16 });
    expect(changeText(found.changes[0] as Change, (at) => at.toFixed(2))).toBe('2.04 to 3.96: opened by 3 frames after words');
  });

  it('leaves captions exactly where the edited timeline has the words', () => {
    const plan = edited(([a, b, c, d, e]) => [{ from: 0, to: (a?.to ?? 0) + 7 }, c, b, d, e] as { from: number; to: number }[]);
    const words = [word('one', 1, 1.5), word('two', 5, 5.5), word('three', 15, 15.5), word('gone', 3, 3.5)];
    for (const [, format] of FORMATS) {
      const placed = wordsOnTimeline(planOfEdited(handedOver(), readBack(plan, format)), words);
      expect(placed.map((one) => [one.word.text, one.from])).toEqual([
        ['one', 25],
        ['three', 58 + Math.floor(15 * 25) - 287],
        ['two', 58 + 214 + (5 * 25 - 99)],
      ]);
    }
  });
});

describe('timelines of other programs', () => {
  it('are matched by name, by name without its ending, by reel, and by timecode where no start is told', () => {
    const list = (reel: string, name: string) =>
      `TITLE: x\r\nFCM: NON-DROP FRAME\r\n\r\n000001  ${reel} V     C        10:00:01:00 10:00:03:00 01:00:00:00 01:00:02:00\r\n* FROM CLIP NAME: ${name}\r\n000002  ${reel} AA    C        10:00:01:00 10:00:03:00 01:00:00:00 01:00:02:00\r\n* FROM CLIP NAME: ${name}\r\n`;
    for (const text of [list('AX      ', 'bench.mp4'), list('AX      ', 'BENCH.MOV'), list('BENCH   ', 'Clip 7')])
      expect(readEdited([text], 'x.edl', handedOver()).events).toEqual([
        { sourceIn: 25, sourceOut: 75, recordIn: 0, recordOut: 50 },
      ]);
  });

  it('may be of a part alone, hold compound clips, frozen pictures, or lie in a collection', () => {
    const [whole, part] = [
      handedOver(),
      planOne('Part', bench, {
        ...cutAfter([]),
        programme: assemble(
          [{ start: 10, end: 20 }],
          PAUSES.map((one) => ({ ...one, verdict: 'out' as const })),
        ),
      }),
    ];
    expect(nearestPlan([whole, part], readBack(part, otio)).title).toBe('Part');
    expect(nearestPlan([whole, part], readBack(whole, otio)).title).toBe('Bench');
    const text = JSON.parse(otio.write(whole)[0]?.text ?? '');
    const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value });
    const range = { OTIO_SCHEMA: 'TimeRange.1', start_time: time(0), duration: time(40) };
    for (const track of text.tracks.children) {
      track.children[2].effects = [{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }];
      track.children.splice(1, 0, { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Gap.1', source_range: range }] });
    }
    const collection = { OTIO_SCHEMA: 'SerializableCollection.1', children: [{ OTIO_SCHEMA: 'Clip.2' }, text] };
    const { events } = readEdited([JSON.stringify(collection)], 'x.otio', whole);
    expect(events.map(({ recordIn }) => recordIn)).toEqual(whole.events.map(({ recordIn }, k) => recordIn + (k > 0 ? 40 : 0)));
  });

  it('may hold music, other rates, and pictures on several tracks', () => {
    const text = JSON.parse(otio.write(handedOver())[0]?.text ?? '');
    text.tracks.children.push({
      OTIO_SCHEMA: 'Track.1',
      kind: 'Audio',
      children: [
        {
          OTIO_SCHEMA: 'Clip.1',
          name: 'Waltz',
          source_range: {
            OTIO_SCHEMA: 'TimeRange.1',
            start_time: { OTIO_SCHEMA: 'RationalTime.1', rate: 48000, value: 0 },
            duration: { OTIO_SCHEMA: 'RationalTime.1', rate: 48000, value: 480000 },
          },
          media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///music/waltz.wav' },
        },
      ],
    });
    const timeline = readEdited([JSON.stringify(text)], 'x.otio', handedOver());
    expect(timeline.foreign).toEqual([{ name: 'waltz.wav', recordIn: 0, recordOut: 250 }]);
    expect(timeline.events).toHaveLength(5);
    expect(compare(handedOver(), timeline, []).changes.map(({ kind }) => kind)).toEqual(['added']);
  });

  it('are refused with a reason where they are of something else, or nothing', () => {
    const refused = (text: string) => () => readEdited([text], 'x.txt', handedOver());
    expect(refused('hello')).toThrow(/no timeline that can be read back/);
    expect(refused(`<${XML_ROOT} version="5"><!ENTITY a "b"></${XML_ROOT}>`)).toThrow(InterchangeError);
    expect(refused(`<${XML_ROOT} version="5"></${XML_ROOT}>`)).toThrow(/no sequence/);
    const other = planOne('Other', { ...bench, name: 'tower.mov' }, cutAfter([]));
    expect(refused(xml.write(other)[0]?.text ?? '')).toThrow(/refers to “tower.mov”; the episode is made from “bench.mp4”/);
    fc.assert(
      fc.property(fc.string(), (text) => {
        for (const start of [`<${XML_ROOT}>`, '{"OTIO_SCHEMA":', 'TITLE: a\n'])
          expect(refused(start + text)).toThrow(InterchangeError);
      }),
    );
  });
});
