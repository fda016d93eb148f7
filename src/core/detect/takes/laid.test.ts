import { describe, expect, it } from 'vitest';
import type { DecisionEvent } from '../../decisions/event.ts';
import { NO_STEPS, replay } from '../../decisions/replay.ts';
import { computeCut } from '../../programme/cutlist.ts';
import { withVerdicts } from '../../programme/keptTakes.ts';
import { bestJoin } from '../../programme/splice.ts';
import { overlapOf, type Range } from '../../time/range.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import { curve, ROOM, SPEECH_PARTS, said, VOICE } from '../made.test-help.ts';
import { type PreparedMaterial, prepare, preparedPauses, preparedTakes } from '../registry.ts';
import { DEFAULT_SETTINGS } from '../settings.ts';
import { alignRows } from './columns.ts';
import { sayingsLike } from './like.ts';
import { takeGroups } from './takes.ts';

const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const FIRST = 'We start with the back plate and its screws.';
const words = said(
  `${FIRST} | | | | We | um | start | um | with the back plate and its four screws. | | | | The lamp is lit. | | | | Nobody saw it.`,
);

/** Sound where words are, and silence between. */
function materialOf(spoken = words): PreparedMaterial {
  const codes = curve(
    ...spoken.flatMap((word, k) => [
      [word.start - (spoken[k - 1]?.end ?? 0), ROOM] as const,
      [word.end - word.start, VOICE] as const,
    ]),
    [2, ROOM],
  );
  return prepare({ duration: codes.codes.length / 100, levels: [codes], words: spoken, speechParts: SPEECH_PARTS });
}
const prepared = materialOf();

const groupsAfter = (...log: DecisionEvent[]) => takeGroups(preparedTakes(prepared), DEFAULT_SETTINGS, replay(log));
const [found] = groupsAfter();
const [one, two] = (found?.attempts ?? []) as unknown as [Range, Range];
const only = ({ start, end }: Range) => ({ start, end });
const laid = (n: number, about: Range[], ...groups: { attempts: Range[]; keep?: Range[] }[]): DecisionEvent => ({
  id: id(n),
  type: 'takes',
  about: about.map(only),
  groups: groups.map(({ attempts, keep }) => ({ attempts: attempts.map(only), ...(keep && { keep: keep.map(only) }) })),
});
const leftAfter = (...log: DecisionEvent[]) => leftWith(replay(log));
const leftWith = (steps: typeof NO_STEPS) => {
  const { programme } = computeCut(prepared, steps);
  return words
    .filter(({ start, end }) =>
      programme.pieces.some((piece) => piece.start <= (start + end) / 2 && piece.end > (start + end) / 2),
    )
    .map(({ text }) => text)
    .join(' ');
};
const wordAt = (text: string, from: Range) => {
  const [first, last] = wordsIn(words, from);
  return words.findIndex((word, k) => k >= first && k < last && word.text.startsWith(text));
};

describe('attempts that somebody has laid out', () => {
  it('are suggested by what is known of them until then', () => {
    expect(found?.attempts).toHaveLength(2);
    expect(found?.chosen).toBe(false);
    expect(found?.best).toBe(0);
    expect(leftAfter()).toContain('its four screws');
    // A number that only one of them has may be what was to be said: it is asked about.
    expect(found?.confidence).toBeGreaterThan(0.5);
    expect(found?.confidence).toBeLessThan(0.97);
  });

  it('keep the one chosen, and let the other go with its silence', () => {
    const log = [laid(1, [one, two], { attempts: [one, two], keep: [two] })];
    expect(groupsAfter(...log)[0]).toMatchObject({ chosen: true, confidence: 1 });
    expect(leftAfter(...log)).toMatch(/^We start with the back plate and its four screws\. The lamp/);
    expect(leftAfter(...log, { id: id(2), type: 'undo', target: id(1) })).toBe(leftAfter());
  });

  it('stay chosen when settings change, and when what finds them is switched off', () => {
    const log = [
      laid(1, [one, two], { attempts: [one, two], keep: [two] }),
      { id: id(2), type: 'settings', values: { minPause: 0.3, takes: 'off' } } as DecisionEvent,
    ];
    expect(leftAfter(...log)).toContain('four screws');
    expect(leftAfter(...log)).not.toContain('and its screws');
  });

  it('take nothing with them that is said and not written, where the transcript ends early', () => {
    const keptOf = (until: number, keep: Range) => {
      const partly = prepare({ ...prepared.material, words: words.filter(({ end }) => end <= until) });
      const { programme } = computeCut(partly, replay([laid(1, [one, two], { attempts: [one, two], keep: [keep] })]));
      return (range: Range) =>
        programme.pieces.reduce((sum, piece) => sum + overlapOf(piece, range), 0) / (range.end - range.start);
    };
    const rest = { start: (words.find(({ text }) => text === 'The')?.start ?? 0) + 0.01, end: (words.at(-1)?.end ?? 0) - 0.01 };
    const kept = keptOf(one.end + 0.1, two);
    expect(kept(one)).toBe(0);
    expect(kept(two)).toBeGreaterThan(0.9);
    // All but the pause between its two sentences.
    expect(kept(rest)).toBeGreaterThan(0.5);
    expect(keptOf(two.end + 0.1, one)(two)).toBe(0);
    expect(keptOf(two.end + 0.1, one)(rest)).toBeGreaterThan(0.5);
  });

  it('all stay when they are no retake, or when one of them is none', () => {
    const both = /plate and its screws\..*plate and its four screws\./;
    expect(leftAfter(laid(1, [one, two], { attempts: [one, two], keep: [one, two] }))).toMatch(both);
    expect(leftAfter(laid(1, [one, two], { attempts: [one], keep: [one] }))).toMatch(both);
    expect(leftAfter(laid(1, [one, two], { attempts: [one], keep: [one] }, { attempts: [two], keep: [two] }))).toMatch(both);
  });

  it('give way to what is laid out about them later', () => {
    const log = [
      laid(1, [one, two], { attempts: [one, two], keep: [two] }),
      laid(2, [one, two], { attempts: [one, two], keep: [one] }),
    ];
    expect(groupsAfter(...log)).toHaveLength(1);
    expect(leftAfter(...log)).toContain('and its screws');
  });

  it('stay as well when one is put back by itself, until the group is laid out anew', () => {
    const back: DecisionEvent = { id: id(1), type: 'verdict', kind: 'retake', about: only(two), verdict: 'stay' };
    expect(leftAfter(back)).toContain('and its screws');
    expect(leftAfter(back)).toContain('four screws');
    const { proposals } = computeCut(prepared, replay([back]));
    const [shown] = withVerdicts(groupsAfter(back), proposals);
    expect(shown).toMatchObject({ chosen: true, kept: [only(one), only(two)] });
    expect(leftAfter(back, laid(2, [one, two], { attempts: [one, two], keep: [one] }))).not.toContain('four screws');
  });

  it('can be any two stretches: a group by hand is judged like any other', () => {
    const [three, four] = [9, 10].map((line) => ({
      start: line === 9 ? (words.at(-7)?.start ?? 0) : (words.at(-3)?.start ?? 0),
      end: line === 9 ? (words.at(-4)?.end ?? 0) : (words.at(-1)?.end ?? 0),
    })) as [Range, Range];
    const groups = groupsAfter(laid(1, [three, four], { attempts: [three, four] }));
    expect(groups).toHaveLength(2);
    expect(groups[1]).toMatchObject({ chosen: false, attempts: [{ broken: false }, { broken: false }] });
  });

  it('take the cue that leads to them along when they go', () => {
    const spoken = said(
      'The tower has two hundred steps to the top of it. | | | sorry once more | | | The tower um has um two hundred steps to the top of it.',
    );
    const apology = computeCut(materialOf(spoken), NO_STEPS).proposals.find(({ kind }) => kind === 'retake');
    expect(apology?.evidence).toMatchObject({ attempt: 2, suggested: 1 });
    expect(apology?.start).toBeLessThanOrEqual(spoken.find(({ text }) => text === 'sorry')?.start ?? 0);
  });
});

describe('the lexicon that is in force', () => {
  it('says what a stumble is', () => {
    const fluent = (lexicon: string) =>
      takeGroups(preparedTakes(prepared), { ...DEFAULT_SETTINGS, lexicon }, NO_STEPS)[0]?.attempts[1]?.parts.fluent;
    expect(fluent('shipped')).toBeCloseTo(0.3, 9);
    expect(fluent('en/um:off')).toBe(1);
    expect(fluent('shipped')).toBeCloseTo(0.3, 9);
  });
});

describe('a line begun with one attempt and ended with another', () => {
  const joinAt = (word: number) => bestJoin(preparedPauses(prepared), prepared.material, prepared.spoken(), one, two, word);

  it('is joined between two words that both have, where the one asked for is', () => {
    const join = joinAt(wordAt('plate', two));
    expect(join).toBeDefined();
    const log = [
      laid(1, [one, two], {
        attempts: [one, two],
        keep: [
          { start: one.start, end: join?.out ?? 0 },
          { start: join?.into ?? 0, end: two.end },
        ],
      }),
    ];
    expect(leftAfter(...log)).toMatch(/^We start with the back plate and its four screws\. The lamp/);
  });

  it('never says a word twice or leaves one out, whichever word is asked for', () => {
    const [first, last] = wordsIn(words, two);
    for (let word = first + 2; word < last; word++) {
      const join = joinAt(word);
      if (!join) continue;
      const log = [
        laid(1, [one, two], {
          attempts: [one, two],
          keep: [
            { start: one.start, end: join.out },
            { start: join.into, end: two.end },
          ],
        }),
      ];
      expect(leftAfter(...log)).toMatch(/^We start with the back plate and (its|its four) screws\. The lamp/);
    }
  });

  it('is not joined at a word that is in neither', () => {
    expect(joinAt(words.length - 1)).toBeUndefined();
  });
});

describe('what is like a stretch that is shown', () => {
  it('is found whatever is said between, and the stretch itself is with it', () => {
    const like = sayingsLike(prepared.spoken(), prepared.material, only(one));
    expect(like).toHaveLength(2);
    expect(like[1]?.start).toBeCloseTo(two.start, 3);
  });

  it('is nothing where nothing is', () => {
    const alone = { start: words.at(-3)?.start ?? 0, end: words.at(-1)?.end ?? 0 };
    expect(sayingsLike(prepared.spoken(), prepared.material, alone)).toEqual([alone]);
  });

  it('is what sounds alike where there are no words', () => {
    const [left, right] = [
      { start: 1, end: 4 },
      { start: 6, end: 9 },
    ];
    const deaf = prepare({
      speechParts: SPEECH_PARTS,
      ...prepared.material,
      words: [],
      echoes: [{ left, right, matched: 2.8, closeness: 0.2, worst: 0.3, path: [] }],
    });
    expect(sayingsLike(deaf.spoken(), deaf.material, { start: 6.1, end: 8.8 })).toEqual([left, { start: 6.1, end: 8.8 }]);
  });
});

describe('attempts by ear', () => {
  const together = (left: Range, right: Range, closeness: number) => {
    const matched = Math.min(left.end - left.start, right.end - right.start);
    const path = [0, 0.5, 1].map((share) => ({
      left: left.start + share * (left.end - left.start),
      right: right.start + share * (right.end - right.start),
      apart: closeness,
    }));
    return { left, right, matched, closeness, worst: closeness + 0.1, path };
  };
  const echo = together(only(one), only(two), 0.2);
  const bySound = (
    echoes: NonNullable<PreparedMaterial['material']['echoes']>,
    spoken = words,
    takes: 'sound' | 'both' = 'both',
  ) =>
    takeGroups(preparedTakes(prepare({ ...prepared.material, words: spoken, echoes })), { ...DEFAULT_SETTINGS, takes }, NO_STEPS);

  it('are enough where there are no words', () => {
    const [group, ...more] = bySound([echo], []);
    expect(more).toEqual([]);
    expect(group).toMatchObject({ attempts: [only(one), only(two)] });
    expect(group?.attempts[0]?.sameLine.evidence.heardAlike).toBe(1);
  });

  it('raise the confidence in what the words say', () => {
    const words = bySound([])[0]?.confidence ?? 0;
    const both = bySound([echo])[0];
    expect(both?.attempts[1]?.sameLine.evidence).toMatchObject({ listened: 1, heardAlike: 1 });
    expect(both?.confidence).toBeGreaterThan(words - 1e-9);
  });

  it('count for nothing where the words are others', () => {
    const lamp = { start: words.at(-7)?.start ?? 0, end: words.at(-4)?.end ?? 0 };
    expect(bySound([echo, together(only(two), lamp, 0.4)])).toHaveLength(1);
    expect(bySound([], words, 'sound')).toEqual([]);
  });
});

describe('sayings under one another', () => {
  const columnsOf = (...rows: string[]) => {
    const split = rows.map((row) => row.split(' '));
    return alignRows(split).map((column) => column.map((at, row) => (at < 0 ? '.' : split[row]?.[at])).join('/'));
  };

  it('have the same words in one column, and gaps where one has none', () => {
    expect(columnsOf('the oil has turned to glue', 'the oil um has turned')).toEqual([
      ...['the/the', 'oil/oil', './um', 'has/has', 'turned/turned', 'to/.', 'glue/.'],
    ]);
  });

  it('have what is said instead in the same column, of three as of two', () => {
    expect(columnsOf('round the form', 'around the form', 'round the')).toEqual([
      'round/around/round',
      'the/the/the',
      'form/form/.',
    ]);
  });
});

describe('in a hurry', () => {
  it('at a glance there are pauses, the very ones of the whole answer, and nothing else', () => {
    const fresh = materialOf();
    const pauses = (cut: ReturnType<typeof computeCut>) =>
      cut.proposals.filter(({ kind }) => kind === 'pause').map(({ id }) => id);
    const seen = computeCut(fresh, NO_STEPS, 'glance');
    expect(seen.proposals.every(({ kind }) => kind === 'pause')).toBe(true);
    const whole = computeCut(fresh, NO_STEPS);
    expect(pauses(whole)).toEqual(pauses(seen));
    expect(whole.proposals.length).toBeGreaterThan(seen.proposals.length);
  });

  const told = ({ proposals }: ReturnType<typeof computeCut>) => proposals.map(({ id }) => id);
  const correction = (n: number, text: string): DecisionEvent => ({
    id: id(n),
    type: 'correct',
    changes: [{ about: only(words[0] as Range), text }],
  });

  it('takes are not waited for before they were ever looked for, and there in the whole answer', () => {
    const fresh = materialOf();
    const hurried = computeCut(fresh, NO_STEPS, 'hurry');
    const whole = computeCut(fresh, NO_STEPS);
    expect(hurried.proposals.some(({ kind }) => kind === 'retake')).toBe(false);
    expect(whole.proposals.some(({ kind }) => kind === 'retake')).toBe(true);
    expect(told(computeCut(fresh, NO_STEPS, 'hurry'))).toEqual(told(whole));
  });

  it('a corrected text has its fillers at once, the takes of the text before, and in the end the same as without a hurry', () => {
    const corrected = replay([correction(1, 'um')]);
    const expected = told(computeCut(materialOf(), corrected));
    const fresh = materialOf();
    computeCut(fresh, NO_STEPS);
    const hurried = computeCut(fresh, corrected, 'hurry').proposals;
    expect(hurried.filter(({ kind }) => kind === 'filler')[0]?.found.start).toBe(words[0]?.start);
    expect(hurried.some(({ kind }) => kind === 'retake')).toBe(true);
    expect(told(computeCut(fresh, corrected))).toEqual(expected);
  });
});
