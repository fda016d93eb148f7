import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DecidedProposal } from '../decisions/matching.ts';
import { replay } from '../decisions/replay.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { assemble } from '../programme/assemble.ts';
import type { Range } from '../time/range.ts';
import { airOffers } from './airOffer.ts';
import { docketOf, type Seam, standingAlone } from './docket.ts';
import { weightedSample } from './sample.ts';
import { standingOrder } from './standing.ts';

const LENGTH = 600;
const QUIET: Seam = { harsh: 0, clips: 0, doubt: 'close' };

const made = (
  kind: DecidedProposal['kind'],
  start: number,
  length: number,
  over: Partial<DecidedProposal> = {},
): DecidedProposal => {
  const range = { start, end: start + length };
  return {
    id: `${kind}-${start}`,
    kind,
    ...range,
    found: range,
    taken: range,
    treatment: 'remove',
    confidence: 0.999,
    evidence: {},
    verdict: 'out',
    decided: false,
    ...over,
  };
};
const pause = (start: number, over?: Partial<DecidedProposal>) => made('pause', start, 1, over);
const filler = (start: number, over?: Partial<DecidedProposal>) => made('filler', start, 0.3, { group: 'um', ...over });

function ask(
  proposals: readonly DecidedProposal[],
  over: { heard?: Range[]; seams?: Record<string, Partial<Seam>>; settings?: object; comesTrue?: object } = {},
) {
  const sorted = [...proposals].sort((a, b) => a.start - b.start);
  return docketOf({
    proposals: sorted,
    programme: assemble([{ start: 0, end: LENGTH }], sorted),
    settings: { ...DEFAULT_SETTINGS, sampleOf: 0, ...over.settings },
    heard: over.heard ?? [],
    words: [],
    seamOf: ({ id }) => ({ ...QUIET, ...over.seams?.[id] }),
    recorded: LENGTH,
    doubtComesTrue: over.comesTrue ?? {},
  });
}
const ids = (docket: ReturnType<typeof ask>) => docket.groups.flatMap(({ entries }) => entries.map(({ id }) => id));

describe('the docket', () => {
  it('asks about what is open, and not about what goes by itself', () => {
    const docket = ask([pause(10), filler(30, { confidence: 0.8, verdict: 'open' })]);
    expect(ids(docket)).toEqual(['filler-30']);
    expect(docket.sure).toEqual([{ kind: 'pause', found: { start: 10, end: 11 } }]);
  });

  it('is ordered by the expected harm that a second of listening removes', () => {
    const open = { verdict: 'open' } as const;
    // A line left in costs 0.8 and takes five seconds to hear, a pause 0.1 and a filler 0.15 in two.
    const docket = ask([
      made('retake', 100, 6, { ...open, confidence: 0.9, evidence: { matches: 4 } }),
      pause(40, { ...open, confidence: 0.9 }),
      filler(60, { ...open, confidence: 0.6 }),
    ]);
    expect(ids(docket)).toEqual(['retake-100', 'pause-40', 'filler-60']);
    const [line, silence] = docket.groups.map(({ entries }) => entries[0]);
    expect(line?.harm).toBeCloseTo(0.9 * 0.8, 9);
    expect(line?.seconds).toBeCloseTo(2 + 3, 9);
    expect(silence?.harm).toBeCloseTo(0.9 * 0.1, 9);
    expect(silence?.seconds).toBeCloseTo(2, 9);
  });

  it('weighs by what the settings say that mistakes cost', () => {
    const open = { verdict: 'open', confidence: 0.9 } as const;
    const both = [pause(40, open), filler(60, open)];
    expect(ids(ask(both))[0]).toBe('filler-60');
    expect(ids(ask(both, { settings: { costPauseIn: 0.5 } }))[0]).toBe('pause-40');
  });

  it('expects as many wrong cuts as the probabilities of what was not heard say, and fewer with each that was', () => {
    const three = [pause(10, { confidence: 0.98 }), pause(30, { confidence: 0.98 }), pause(50, { confidence: 0.98 })];
    expect(ask(three).outlook.wrongCuts).toBeCloseTo(0.06, 6);
    const one = ask(three.map((one, k) => (k === 0 ? { ...one, decided: true } : one)));
    expect(one.outlook.wrongCuts).toBeLessThan(0.04);
    const heard = ask(three, {
      heard: [
        { start: 9, end: 10 },
        { start: 11, end: 12 },
      ],
    });
    expect(heard.judged).toEqual({ right: 1, wrong: 0 });
    expect(heard.outlook.wrongCuts).toBeLessThan(0.04);
  });

  it('tells of what goes by itself only as much doubt as comes true, and all of it of what was decided in doubt', () => {
    const two = [pause(10, { confidence: 0.98 }), pause(30, { confidence: 0.5, decided: true, unheard: true })];
    expect(ask(two, { comesTrue: { sound: 0.25 } }).outlook.wrongCuts).toBeCloseTo(0.25 * 0.02 + 0.5, 6);
  });

  it('counts an edge that may clip a word among wrong cuts', () => {
    expect(ask([pause(10)], { seams: { 'pause-10': { clips: 0.2 } } }).outlook.wrongCuts).toBeCloseTo(1 - 0.999 * 0.8, 6);
  });

  it('hears a seam only where both its sides were heard with the cut made', () => {
    const left = [{ start: 9, end: 10 }];
    expect(ask([pause(10)], { heard: left }).judged.right).toBe(0);
    expect(ask([pause(10)], { heard: [...left, { start: 11, end: 11.4 }] }).judged.right).toBe(1);
  });

  it('corrects its figure for this recording by what is said of others', () => {
    const many = Array.from({ length: 20 }, (_, k) => filler(10 * k + 5, { confidence: 0.98 }));
    const before = ask(many).outlook.wrongCuts;
    const wrong = many.map((one, k) => (k < 4 ? { ...one, verdict: 'stay' as const, decided: true } : one));
    const after = ask(wrong);
    expect(after.outlook.wrongCuts).toBeGreaterThan(4 * before);
    // They are asked about again, now that they are less sure.
    expect(after.groups.flatMap(({ entries }) => entries).every(({ why }) => why === 'doubt')).toBe(true);
    expect(after.entries).toBe(16);
  });

  it('leaves what was settled unheard in the figure, and off the list', () => {
    const settled = [filler(10, { confidence: 0.98, decided: true, unheard: true })];
    const docket = ask(settled);
    expect(docket.entries).toBe(0);
    expect(docket.outlook.wrongCuts).toBeCloseTo(0.02, 6);
    expect(docket.lessons).toEqual([]);
  });

  it('checks some of the sure ones, the same ones while others are decided, and cannot stop before', () => {
    const many = Array.from({ length: 40 }, (_, k) => pause(10 * k + 5, { confidence: 0.985 }));
    const docket = ask(many, { settings: { sampleOf: 3 } });
    const sample = docket.groups.flatMap(({ entries }) => entries.filter(({ why }) => why === 'sample').map(({ id }) => id));
    expect(sample).toHaveLength(3);
    expect(docket.outlook.canStop).toBe(false);
    const decided = many.map((one) => (one.id === sample[0] ? { ...one, decided: true } : one));
    const next = ask(decided, { settings: { sampleOf: 3 } });
    expect(ids(next).sort()).toEqual(sample.slice(1).sort());
    const all = many.map((one) => (sample.includes(one.id) ? { ...one, decided: true } : one));
    expect(ask(all, { settings: { sampleOf: 3 } }).outlook).toMatchObject({ sampleLeft: 0, canStop: true });
  });

  it('says that one could stop only under the limit', () => {
    const open = Array.from({ length: 3 }, (_, k) => made('retake', 50 * k + 5, 4, { confidence: 0.9, verdict: 'open' }));
    expect(ask(open).outlook).toMatchObject({ canStop: false, limit: 1 });
    expect(ask(open, { settings: { stopUnder: 3 } }).outlook.canStop).toBe(true);
  });

  it('sets those together that one decision settles', () => {
    const open = { verdict: 'open', confidence: 0.9, group: 'so', evidence: { opens: 1 } } as const;
    const docket = ask([filler(10, open), filler(30, open), filler(50, { ...open, evidence: { setOff: 1 } })]);
    expect(docket.groups.map(({ about, entries }) => [about, entries.length])).toEqual(
      expect.arrayContaining([
        ['filler/so/opens', 2],
        ['filler/so/setOff', 1],
      ]),
    );
  });

  it('proposes to leave in what had better stay', () => {
    const docket = ask([filler(10, { verdict: 'open', confidence: 0.3 })]);
    expect(docket.groups[0]?.entries[0]?.proposed).toBe('stay');
  });

  it('does not ask about what lies inside something that goes, nor what goes along with it', () => {
    const line = made('retake', 10, 5);
    const inside = filler(12, { verdict: 'open', confidence: 0.6 });
    const along = made('broken', 14, 1.5, { confidence: 0.4 });
    expect(standingAlone([line, inside, along], 0.97)).toEqual([line]);
  });
});

describe('a weighted sample', () => {
  it('chooses by weight: what weighs nine times as much is chosen about nine times as often', () => {
    let heavy = 0;
    for (let n = 0; n < 4000; n++) {
      const chosen = weightedSample(
        [
          { id: `a${n}`, weight: 0.9 },
          { id: `b${n}`, weight: 0.1 },
        ],
        1,
      );
      if (chosen.has(`a${n}`)) heavy++;
    }
    expect(heavy / 4000).toBeGreaterThan(0.87);
    expect(heavy / 4000).toBeLessThan(0.93);
  });

  it('stays the same when others come and go', () => {
    const items = Array.from({ length: 30 }, (_, k) => ({ id: `pause-${k}`, weight: 0.02 }));
    const chosen = weightedSample(items, 3);
    const fewer = items.filter(({ id }, k) => chosen.has(id) || k % 2 === 0);
    expect(weightedSample(fewer, 3)).toEqual(chosen);
  });
});

describe('the list under the hand', () => {
  const group = (key: string) => ({ key, about: key, entries: [{ id: key }] }) as never;

  it('keeps what is in sight where it is, whatever the new order says', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.string({ minLength: 1, maxLength: 3 }), { minLength: 2, maxLength: 12 }),
        fc.integer({ min: 0, max: 12 }),
        (keys, inSight) => {
          const fresh = [...keys].reverse().slice(1).map(group);
          const order = standingOrder(keys, fresh, inSight, new Set()).map(({ key }) => key);
          const stays = keys.slice(0, inSight).filter((key) => key !== keys.at(-1));
          expect(order.slice(0, stays.length)).toEqual(stays);
          expect([...order].sort()).toEqual(keys.slice(0, -1).sort());
        },
      ),
    );
  });

  it('puts what was put off behind everything else', () => {
    const order = standingOrder([], ['a', 'b', 'c'].map(group), 0, new Set(['a']));
    expect(order.map(({ key }) => key)).toEqual(['b', 'c', 'a']);
  });
});

describe('an offer of air', () => {
  const opened = (start: number, after: number) =>
    pause(start, { decided: true, proposed: { start, end: start + 1 }, taken: { start: start + after, end: start + 1 } });
  const edge = (start: number, k: number) =>
    ({
      id: `00000000-0000-4000-8000-00000000000${k}`,
      type: 'edge',
      kind: 'pause',
      about: { start, end: start + 1 },
      taken: { start: start + 0.05, end: start + 1 },
    }) as const;

  it('comes once the same side was opened three times by about as much', () => {
    const [three, steps] = [[opened(10, 0.05), opened(20, 0.07), opened(30, 0.06)], [10, 20, 30].map(edge)];
    expect(airOffers(three, replay(steps))).toEqual([{ side: 'after', seconds: 0.06, cuts: 3 }]);
    expect(airOffers(three.slice(1), replay(steps.slice(1)))).toEqual([]);
    expect(airOffers([opened(10, 0.05), opened(20, 0.4), opened(30, 0.9)], replay(steps))).toEqual([]);
  });

  it('does not come again once it was taken up, or declined', () => {
    const three = [opened(10, 0.05), opened(20, 0.07), opened(30, 0.06)];
    const steps = [10, 20, 30].map(edge);
    const id = '00000000-0000-4000-8000-00000000000a';
    const taken = { id, type: 'setting', change: { name: 'airAfter', value: 0.22 } } as const;
    const kept = { id, type: 'airKept', side: 'after' } as const;
    expect(airOffers(three, replay([...steps, taken]))).toEqual([]);
    expect(airOffers(three, replay([...steps, kept]))).toEqual([]);
  });
});
