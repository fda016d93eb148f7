import { describe, expect, it } from 'vitest';
import { curve, find, ROOM, said, VOICE } from '../made.test-help.ts';

const levels = [curve([120, VOICE])];
/** What of a script is thought not to be said to the listener; `||` is a pause of a second and a half. */
const asides = (script: string, settings = {}) => {
  const words = said(script.replaceAll('||', '| | | | | |'));
  return find({ levels, duration: 120, words }, { takes: 'off', ...settings })
    .filter(({ kind }) => ['cue', 'broken', 'head', 'tail'].includes(kind))
    .map(({ kind, found, confidence }) => ({
      kind,
      confidence,
      text: words
        .filter(({ start }) => start >= found.start && start < found.end)
        .map(({ text }) => text)
        .join(' '),
    }));
};
const kinds = (script: string) => asides(script).map(({ kind, text }) => `${kind}: ${text}`);
const ROUND = (middle: string) => `The clock is old. It runs well. || ${middle} || The dial is white. It was painted twice.`;

describe('words to whoever cuts', () => {
  it.each([
    ['sorry'],
    ['once more'],
    ['take two'],
    ['sorry, let me say that again'],
    ['no, wait'],
    ['Sorry.'],
    ['okay, from the top'],
    ['sorry, that came out wrong, once more'],
  ])('are found: %s', (cue) => {
    expect(kinds(ROUND(cue))).toEqual([`cue: ${cue}`]);
  });

  it.each([
    ['I was sorry to see it go.'],
    ['Then we wait for the glue to dry.'],
    ['Cut the spring with care, and wind it again.'],
    ['Hold on to the bridge while the wheel comes out.'],
    ['You do that again and again until it shines.'],
    ['Take two screws of the same length.'],
    ['He said it once more, and nobody heard him.'],
  ])('are not found in a sentence that is meant: %s', (line) => {
    expect(kinds(ROUND(line))).toEqual([]);
  });

  it('are always somebody’s question, and none where nobody asks', () => {
    for (const { confidence } of asides(ROUND('sorry'))) expect(confidence).toBeLessThan(0.6);
    expect(asides(ROUND('sorry'), { asides: 'leave' })).toEqual([]);
  });

  it('follow a list of one’s own', () => {
    expect(asides(ROUND('mulligan'), { lexicon: 'en/mulligan:cue' })).toHaveLength(1);
    expect(asides(ROUND('sorry'), { lexicon: 'en/sorry:off' })).toHaveLength(0);
  });
});

describe('a clap', () => {
  const clapAt = (...shape: (readonly [number, number])[]) =>
    find({ levels: [curve([5, VOICE], [2, ROOM], ...shape, [2, ROOM], [5, VOICE])] }, { takes: 'off' }).filter(
      ({ group }) => group === 'clap',
    );

  it('is a sound as short as it is loud', () => {
    const [clap, ...more] = clapAt([0.06, -14]);
    expect(more).toEqual([]);
    expect(clap?.found.start).toBeGreaterThan(6.9);
    expect(clap?.found.end).toBeLessThan(7.25);
  });

  it('is no word, no tap, and nothing that lasts', () => {
    expect(clapAt([0.4, -14])).toEqual([]);
    expect(clapAt([0.06, -44])).toEqual([]);
  });
});

describe('a sentence that stops in its middle', () => {
  it('is pointed out when another begins behind it', () => {
    expect(kinds(ROUND('Now the spring is in the'))).toEqual(['broken: Now the spring is in the']);
  });

  it('is none before a noun, where all nouns have capitals', () => {
    const nouns =
      'Der Meister zeigt dem Lehrling die Feder. Das Gehäuse aus Messing steht auf dem Tisch. Der Schlüssel liegt im Fach.';
    expect(kinds(`${nouns} || Dann nehmen wir die || Unruh aus dem Werk. || Die Platte ist dünn.`)).toEqual([]);
    expect(kinds(`${ROUND('Then we take the')} || Balance out of it.`)).toEqual(['broken: Then we take the']);
  });

  it.each([
    ['now we look at the || we open the case first', 'now we look at the'],
    ['so the wheel sits on my || and the dial is white', 'so the wheel sits on my'],
  ])('is pointed out without signs where no sentence goes on like that: %s', (line, dropped) => {
    expect(kinds(`the clock is old || ${line} || it was painted twice`)).toEqual([`broken: ${dropped}`]);
  });

  it.each([
    'now we look at || the barrel of the old clock',
    'we gave it to || you and to him',
    'now we look at the || the barrel',
    'that is what it looks like || we open the case first',
    'then you put the lid back on || we wait for an hour',
    'turn it into that || we wait for an hour',
  ])('is none without signs where it may go on: %s', (line) => {
    expect(kinds(`the clock is old || ${line} || it was painted twice`)).toEqual([]);
  });

  it('is none where it goes on, where it is over, or where a repeat tells more', () => {
    expect(kinds(ROUND('Now the spring is in the || barrel of the old clock.'))).toEqual([]);
    expect(kinds(ROUND('Now the spring is in the barrel.'))).toEqual([]);
    expect(kinds('the clock is old || now the spring is in the || the dial is white')).toEqual([]);
  });
});

describe('chatter at both ends', () => {
  const BODY =
    'Welcome to the bench. Today we open a clock. || The case is brass. It has four doors. It runs for eight days. || Thank you for your time.';

  it('is what is said about the recording before the first sentence and after the last', () => {
    expect(kinds(`okay, is this recording, yes || ${BODY} || okay and cut`)).toEqual([
      'head: okay, is this recording, yes',
      'tail: okay and cut',
    ]);
  });

  it('reaches to the very start and end', () => {
    const words = said(`rolling | | | | | | ${BODY} | | | | | | and cut`);
    const found = find({ levels, duration: 120, words }, { takes: 'off' });
    expect(found.find(({ kind }) => kind === 'head')?.start).toBe(0);
    expect(found.find(({ kind }) => kind === 'tail')?.end).toBe(120);
  });

  it('is none where the recording begins and ends with sentences', () => {
    expect(kinds(BODY)).toEqual([]);
    expect(kinds(`Okay, here we are. || ${BODY} || Good night.`)).toEqual([]);
  });

  it('is not all there is', () => {
    expect(kinds('okay is this recording || yes rolling')).toEqual([]);
  });
});

describe('what goes with an aside', () => {
  it('is the silence round it, and nothing that is said and was not written', () => {
    const words = said('The clock is old. | | | | sorry, once more');
    const end = words.at(-1)?.end ?? 0;
    const gap = [words[3]?.end ?? 0, words[4]?.start ?? 0] as const;
    const spoken = (after: number) =>
      curve(
        [1, ROOM],
        [gap[0] - 1, VOICE],
        [gap[1] - gap[0], ROOM],
        [end - gap[1], VOICE],
        [2, ROOM],
        [after, VOICE],
        [6 - after, ROOM],
      );
    const reached = (after: number) =>
      find({ levels: [spoken(after)], words }, { takes: 'off' }).find(({ kind }) => kind === 'cue')?.end ?? 0;
    expect(reached(0)).toBeGreaterThan(end + 7);
    expect(reached(4)).toBeLessThan(end + 2.1);
  });
});
