import { describe, expect, it } from 'vitest';
import type { DecisionEvent } from './decisions/event.ts';
import { type DecisionState, NO_STEPS, replay } from './decisions/replay.ts';
import { curve, ROOM, SPEECH_PARTS, said, VOICE } from './detect/made.test-help.ts';
import { DEFAULT_SETTINGS } from './detect/settings.ts';
import { EpisodeSession } from './session.ts';
import type { PlacedSound } from './sources/placedSound.ts';
import { shiftWord } from './sources/shift.ts';
import type { Word } from './transcript/word.ts';

/** Level where words are said, and the room where they are not. */
function soundOf(words: readonly Word[], room = ROOM, voice = VOICE) {
  const stretches = words.flatMap((word, k): (readonly [number, number])[] => [
    [word.start - (words[k - 1]?.end ?? 0), room],
    [word.end - word.start, voice],
  ]);
  const level = curve(...stretches, [2, room]);
  return { duration: level.codes.length / 100, levels: [level] };
}

const AT_BENCH = said('We lift the wheel out of the plate. | | | | Then um the pivot is cleaned with care. | | | |');
const IN_LAMP_ROOM = said('The spring was let down | | | | first of all. | | | | So it cannot bite. | | | |');
const SECOND = 30;

const bench = soundOf(AT_BENCH);
/** A louder room and a softer voice: what is silence here would be speech there. */
const lampRoom = soundOf(IN_LAMP_ROOM, -41, -27);

const both = (first = bench, second = lampRoom): PlacedSound[] => [
  { id: 'bench', place: 0, sound: first },
  { id: 'lamp', place: SECOND, sound: second },
];
const onClock = (words: readonly Word[]) => words.map((word) => shiftWord(word, SECOND));
const session = () =>
  new EpisodeSession({ recordings: both(), words: [...AT_BENCH, ...onClock(IN_LAMP_ROOM)], speechParts: SPEECH_PARTS });
const alone = (sound: PlacedSound['sound'], words: readonly Word[]) =>
  new EpisodeSession({ recordings: [{ id: 'one', place: 0, sound }], words, speechParts: SPEECH_PARTS });

const found = (one: EpisodeSession, state: DecisionState = NO_STEPS, by = 0) =>
  one
    .cut(state)
    .proposals.filter(({ kind }) => kind === 'pause' || kind === 'filler')
    .map(({ kind, start, end, confidence, verdict }) => ({
      kind,
      start: expect.closeTo(start + by, 6),
      end: expect.closeTo(end + by, 6),
      confidence,
      verdict,
    }));

describe('several recordings', () => {
  it('are each looked at by itself, whatever the others sound like', () => {
    const proposals = session()
      .cut(NO_STEPS)
      .proposals.filter(({ kind }) => kind === 'pause' || kind === 'filler');
    const expected = [...found(alone(bench, AT_BENCH)), ...found(alone(lampRoom, IN_LAMP_ROOM), NO_STEPS, SECOND)];
    expect(expected.length).toBeGreaterThan(4);
    expect(proposals.map(({ kind, start, end, confidence, verdict }) => ({ kind, start, end, confidence, verdict }))).toEqual(
      expected,
    );
  });

  it('have no proposal across an end, and no time between them in the programme', () => {
    const { proposals, programme } = session().cut(NO_STEPS);
    for (const { start, end, found } of [...proposals, ...programme.pieces.map((piece) => ({ ...piece, found: piece }))])
      for (const range of [{ start, end }, found]) expect(range.end <= bench.duration + 1e-9 || range.start >= SECOND).toBe(true);
    const whole = session().cut({ ...NO_STEPS, settings: { ...DEFAULT_SETTINGS, where: 'marked' } }).programme;
    expect(whole.length).toBeCloseTo(bench.duration + lampRoom.duration, 6);
  });

  it('know a try in one and its retake in the next', () => {
    const line = 'The escape wheel sits behind the anchor and turns one tooth at a time';
    const first = said(`Here we go again now. | | | | | | ${line.split(' ').slice(0, 9).join(' ')}`);
    const next = said(`Sorry, once more. | | | | ${line}. | | | | Now the train runs free again. | |`);
    const [one, two] = [soundOf(first), soundOf(next)];
    const kept = new EpisodeSession({
      recordings: both(one, two),
      words: [...first, ...onClock(next)],
      speechParts: SPEECH_PARTS,
    });
    const retake = kept.cut(NO_STEPS).proposals.find(({ kind }) => kind === 'retake');
    expect(retake?.found.start).toBeCloseTo(first[5]?.start ?? 0, 1);
    expect(retake?.end).toBeLessThanOrEqual(one.duration);
    expect(kept.takes()).toMatchObject([{ attempts: [{}, { start: expect.any(Number) }] }]);
    expect(kept.takes()[0]?.attempts[1]?.start).toBeGreaterThan(SECOND);

    // Without the retake there is nothing that the try could go for, whatever was chosen while it was there.
    const tries = kept.takes()[0]?.attempts.map(({ start, end }) => ({ start, end })) ?? [];
    const chosen: DecisionEvent = {
      id: '00000000-0000-4000-8000-000000000005',
      type: 'takes',
      about: tries,
      groups: [{ attempts: tries, keep: tries.slice(1) }],
    };
    const [id] = both(one, two)
      .slice(1)
      .map((recording) => recording.id);
    const gone = { id: '00000000-0000-4000-8000-000000000006', type: 'recording', recording: id ?? '', present: false } as const;
    const back = { ...gone, id: '00000000-0000-4000-8000-000000000007', present: true };
    for (const before of [[], [chosen]]) {
      const { proposals, programme, unmatched } = kept.cut(replay([...before, gone]));
      expect(proposals.filter(({ kind }) => kind === 'retake')).toEqual([]);
      expect(kept.takes()).toEqual([]);
      expect(unmatched).toEqual([]);
      for (const { start, end } of first.slice(5))
        expect(programme.pieces.some((piece) => piece.start <= start && piece.end >= end)).toBe(true);
      expect(kept.cut(replay([...before, gone, back]))).toEqual(kept.cut(replay(before)));
      expect(kept.takes()).toHaveLength(1);
    }
  });

  it('take corrections in their own words, and answer about seams by name', () => {
    const kept = session();
    const word = onClock(IN_LAMP_ROOM)[5] as Word;
    const corrected = replay([
      {
        id: '00000000-0000-4000-8000-000000000001',
        type: 'correct',
        changes: [{ about: { start: word.start, end: word.end }, text: 'um' }],
      },
    ]);
    const before = kept.cut(NO_STEPS).proposals.filter(({ kind }) => kind === 'filler');
    const after = kept.cut(corrected).proposals.filter(({ kind }) => kind === 'filler');
    expect(after).toHaveLength(before.length + 1);
    expect(after.at(-1)?.found).toEqual({ start: expect.closeTo(word.start, 1), end: expect.closeTo(word.end, 1) });
    expect(kept.words(corrected).words.filter(({ text }) => text === 'um')).toHaveLength(2);
    const { proposals } = kept.cut(NO_STEPS);
    const inLampRoom = proposals.find(({ start }) => start >= SECOND);
    const same = alone(lampRoom, IN_LAMP_ROOM);
    const local = same.cut(NO_STEPS).proposals.find(({ kind, start }) => kind === inLampRoom?.kind && start >= 0);
    expect(kept.seam(inLampRoom?.id ?? '')).toEqual(same.seam(local?.id ?? ''));
    expect(kept.evidence(inLampRoom?.id ?? '')).toEqual(local?.evidence);
    const listed = kept.docket()?.groups.flatMap(({ entries }) => entries) ?? [];
    for (const { found: about } of listed) expect(proposals.some((one) => one.found === about)).toBe(true);
  });

  it('keep what was decided about one when another is removed and put back', () => {
    const kept = session();
    const first = kept.cut(NO_STEPS).proposals[0];
    const about = first?.found ?? { start: 0, end: 0 };
    const stay = { id: '00000000-0000-4000-8000-000000000002', type: 'verdict', kind: 'pause', about, verdict: 'stay' } as const;
    const gone = { id: '00000000-0000-4000-8000-000000000003', type: 'recording', recording: 'bench', present: false } as const;
    const back = { ...gone, id: '00000000-0000-4000-8000-000000000004', present: true };
    const without = kept.cut(replay([stay, gone]));
    expect(without.proposals.every(({ start }) => start >= SECOND)).toBe(true);
    expect(without.unmatched).toEqual([]);
    expect(without.programme.length).toBeLessThanOrEqual(lampRoom.duration);
    expect(kept.cut(replay([stay, gone, back]))).toEqual(kept.cut(replay([stay])));
  });
});
