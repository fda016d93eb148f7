import { describe, expect, it } from 'vitest';
import type { Word } from '../../transcript/word.ts';
import type { Material } from '../detector.ts';
import { curve, find, quiet, ROOM, said, VOICE, word } from '../made.test-help.ts';
import { certaintyOf } from '../settings.ts';

/** A pause of a second between sentences; each line of a script is one stretch of speech. */
const script = (...lines: readonly string[]) => said(lines.join(' | | | | '));
const spares = (...lines: readonly string[]) => {
  const words = script(...lines);
  const levels = quiet.levels;
  return find({ levels, duration: 300, words }, { takes: 'words' })
    .filter(({ kind }) => kind === 'retake')
    .map(({ start: from, end: until, evidence, confidence }) => ({
      text: words
        .filter(({ start }) => start >= from && start < until)
        .map(({ text }) => text)
        .join(' '),
      confidence,
      evidence,
    }));
};

// The lines of each script, and those of them that go: all sayings but the one suggested, with what is said between.
const AGAIN: readonly (readonly [what: string, lines: readonly string[], goes: readonly string[]])[] = [
  ['broken off', ['We start with the back', 'We start with the back plate and its four screws.'], ['We start with the back']],
  [
    'broken off twice',
    ['Now the spring is', 'Now the spring is let', 'Now the spring is let down a quarter turn at a time.'],
    ['Now the spring is', 'Now the spring is let'],
  ],
  [
    'broken off in a word, after a wait',
    ['It hangs on two hooks, and | | th-', 'It hangs on two hooks, and the chain goes over both of them.'],
    ['It hangs on two hooks, and th-'],
  ],
  [
    'whole, said the same',
    ['The lamp was lit by gas until the war.', 'The lamp was lit by gas until the war.'],
    ['The lamp was lit by gas until the war.'],
  ],
  [
    'worded otherwise',
    [
      'You wind the old clock once every week with this brass key.',
      'You wind the old clock once a week with this big brass key.',
    ],
    ['You wind the old clock once every week with this brass key.'],
  ],
  [
    'a word of apology between',
    ['The tower has two hundred steps to the top.', 'sorry once more', 'The tower has two hundred steps up to the top.'],
    ['The tower has two hundred steps to the top. sorry once more'],
  ],
  [
    'a paragraph',
    [
      'The fog came in at noon and stayed for nine days. Nobody could see the rocks from the gallery.',
      'The fog came in at noon and stayed for nine days. Nobody saw the rocks from the gallery.',
    ],
    ['The fog came in at noon and stayed for nine days. Nobody could see the rocks from the gallery.'],
  ],
  [
    'words misheard',
    ['The father kept the long book in a tin under his bed.', 'My father kept the log book in a tin under the bed.'],
    ['The father kept the long book in a tin under his bed.'],
  ],
  [
    'with another beginning',
    ['The wheels go into the bath for twenty minutes or so.', 'All the wheels go into the bath for twenty minutes.'],
    ['The wheels go into the bath for twenty minutes or so.'],
  ],
  [
    'whole, then broken off, then whole',
    [
      'Next week we will polish the hands of the clock.',
      'Next week we will polish',
      'Next week we will polish the hands of this clock.',
    ],
    ['Next week we will polish the hands of the clock.', 'Next week we will polish'],
  ],
  [
    'without signs',
    ['so here is what the old keeper told', 'so here is what the old keeper told me about the storm'],
    ['so here is what the old keeper told'],
  ],
];

// More lines said again, each time the first goes.
const MORE_AGAIN: readonly (readonly [what: string, first: string, second: string])[] = [
  ['word for word', 'My uncle rowed us out to the light that night.', 'My uncle rowed us out to the light that night.'],
  ['begun three words in', 'The spare wheel came', 'The spare wheel came from a box at the market.'],
  ['broken in the middle of a word', 'Somebody has to trim the wi', 'Somebody has to trim the wick even on a holiday.'],
  ['with another small word', 'We carried the stones back up to the wall.', 'We carried the stones back up to a wall.'],
  ['with one word more', 'The glass was cracked when it arrived.', 'The glass was badly cracked when it arrived.'],
  ['a question again', 'Who left the letter on the stairs last night?', 'Who left the letter on the stairs last night?'],
  ['broken twice as far', 'I keep every screw in the order', 'I keep every screw in the order in which it came out.'],
  [
    'a long line',
    'When the weight reaches the floor the strike train locks and the bell is silent until noon.',
    'When the weight reaches the floor the strike train locks and the bell is silent until noon.',
  ],
  ['broken before a name', 'The next keeper was called', 'The next keeper was called Tobit and he sang.'],
  ['with a hesitation', 'The radio um works best in a north wind.', 'The radio works best in a north wind.'],
  ['an order again', 'Hold the plate by its edges please.', 'Hold the plate by its edges please.'],
  ['broken after a comma', 'On a clear night,', 'On a clear night, you can see our beam from the harbour.'],
  ['a list begun and broken off', 'We had bread, flour,', 'We had bread, flour, and lamp oil for three weeks.'],
  ['a short line', 'The pendulum hangs here.', 'The pendulum hangs here.'],
  ['broken at the article', 'People bring me the', 'People bring me the clocks that only need to stand level.'],
  ['trailing off', 'People bring me the...', 'People bring me the clocks that only need to stand level.'],
  ['trailing off in a word', 'Somebody has to trim the wi…', 'Somebody has to trim the wick even on a holiday.'],
  ['closed by a sign behind an article', 'We start with the.', 'We start with the back plate and its four screws.'],
  ['trailing off as it ends', 'My uncle rowed us out to the light...', 'My uncle rowed us out to the light...'],
  ['begun in another spelling', "We're gonna start", 'We are going to start with the back plate and its screws.'],
  ['begun with a number in figures', 'There are 21 jewels', 'There are twenty-one jewels in this movement.'],
  ['two sentences in one', 'It was late. We lit the lamp and waited.', 'It was late. We lit the lamp and waited.'],
];

// One line as recognisers write it in two ways.
const WRITTEN_TWICE: readonly (readonly [first: string, second: string])[] = [
  ['The tower has 3 steps up to the gallery.', 'The tower has three steps up to the gallery.'],
  ['The tower has 1,200 steps up to the gallery.', 'The tower has one thousand two hundred steps up to the gallery.'],
  ['It loses 10% of its force in a year.', 'It loses ten percent of its force in a year.'],
  ['It was built in 1890 by my uncle.', 'It was built in eighteen ninety by my uncle.'],
  ['It runs 2.5 minutes fast in a week.', 'It runs two point five minutes fast in a week.'],
  ['The 2nd hand goes on last of all.', 'The second hand goes on last of all.'],
  ["It's a small spring that drives the bell.", 'It is a small spring that drives the bell.'],
  ["We're gonna take the plate off first.", "We're going to take the plate off first."],
  ["You can't turn the key backwards in this clock.", 'You cannot turn the key backwards in this clock.'],
  ['The constructor of this bell is unknown, okay.', 'The constructor of this bell is unknown, OK.'],
  ['You need a screwdriver and a small lamp.', 'You need a screw driver and a small lamp.'],
];

// What may be said again, or meant: it is not for the program to say.
const PERHAPS: readonly (readonly [what: string, lines: readonly string[]])[] = [
  [
    'closed by a sign where it was broken off',
    [
      'A letter came from a reader on the mainland.',
      'A letter came from a listener on the mainland, and she asks how the lamp still burns.',
    ],
  ],
  [
    'some lines later',
    [
      'The pendulum swings exactly sixty times in every single minute of the day.',
      'Let me move this lamp a little so that one can see it better from there.',
      'The pendulum swings exactly sixty times in every single minute of the day.',
    ],
  ],
  [
    'a refrain after a remark that has an article in common with what follows',
    [
      'And then you do it all again the next day.',
      'Mind the step.',
      'And then you do it all again the next day.',
      'The um',
      'glass has to be cleaned before the sun is down.',
    ],
  ],
  [
    'a refrain after a remark that begins with a hesitation',
    [
      'And then you do it all again the next day.',
      'uh the wind.',
      'And then you do it all again the next day.',
      'I keep every screw in the order in which it came out.',
    ],
  ],
  ['the last stumbles', ['A good oil never dries out in the bearing.', 'A um good uh oil never never dries out in the bearing.']],
  ['in another tense', ['The hammer touches the bell at rest.', 'The hammer touched the bell at rest.']],
];

const NOT_AGAIN: readonly (readonly [what: string, lines: readonly string[]])[] = [
  ['a list', ['The first thing is to clean the wheels.', 'The second thing is to oil the springs.']],
  ['a list of three', ['Step one is the case.', 'Step two is the dial.', 'Step three is the hands.']],
  ['a refrain', ['And that is that.', 'We went home and slept until the morning came.', 'And that is that.']],
  ['a question and its answer', ['Why does the clock stop at ten?', 'The clock stops at ten because the oil is old.']],
  ['a figure of speech', ['It was cold.', 'It was cold and it was dark.']],
  ['two sentences that begin alike', ['I like the sound of the small one.', 'I like to hear it at night when all is still.']],
  ['a stock phrase far apart', ['Let us see.', 'The plate comes off and the train lies open in front of us.', 'Let us see.']],
  ['a contrast', ['If it runs fast you lower the bob.', 'If it runs slow you raise the bob.']],
  ['one thought after another', ['The tide was out.', 'The boat lay on the sand.', 'The keepers walked to the shore.']],
  ['an opening that comes again', ['And then the bell rang twice.', 'And then the men came up the stairs with a lamp.']],
  ['the same word first', ['Remember to wipe the blade.', 'Remember the chip in the door.']],
  [
    'one number for another',
    ['The large weight pulls two stone and falls in nine hours.', 'The large weight pulls five stone and falls in twelve hours.'],
  ],
  ['one colour for another', ['The red lamp marks the rocks to the north.', 'The green lamp marks the rocks to the north.']],
  ['the contrary', ['Our gallery is now lit until midnight.', 'Our gallery is not lit until midnight.']],
  ['one year for another', ['It was built in 1890 by my uncle.', 'It was built in eighteen ninety one by my uncle.']],
  ['the contrary, shortened', ["You can't turn the key backwards here.", 'You can turn the key backwards here.']],
  ['one name for another', ['On Monday we wound it with Isolde.', 'On Monday we wound it with Marit.']],
  ['more and less', ['Sand the upper edge with the finest paper.', 'Sand the lower edge with the finest paper.']],
  ['days of a week', ['On Tuesday we clean the glass.', 'On Wednesday we clean the glass.']],
  [
    'parts of a clock',
    ['The centre wheel has eighty teeth.', 'The third wheel has sixty teeth.', 'The escape wheel has fifteen teeth.'],
  ],
  ['people in turn', ['My father kept the light before me.', 'My sister kept the light before me.']],
  ['rooms', ['You are now in the lamp room.', 'You are now in the engine room.']],
  ['a verse', ['A moth slept in the lens by day.', 'A wren slept in the lens by day.']],
  ['before and after', ['Before the storm we tied the boat.', 'After the storm we tied the boat.']],
  ['a rule and its exception', ['If it is rusty leave it alone.', 'If it is painted leave it alone.']],
  ['words turned round', ['Brass bends before steel.', 'Steel bends before stone.']],
  ['a question asked of two', ['Who winds the tower in summer?', 'Who winds the tower in winter?']],
  ['a thought taken up again', ['The clock was French.', 'The clock was French, and the key was not.']],
  ['a saying about itself', ['You wind it, and it runs.', 'You forget it, and it stops.']],
];

describe('takes by their words', () => {
  it.each(AGAIN)('said again: %s', (_, lines, goes) => {
    expect(spares(...lines).map(({ text }) => text)).toEqual(goes);
  });

  it.each(MORE_AGAIN)('said again: %s', (_, first, second) => {
    expect(spares('We sat at the bench all day.', first, second, 'Then we went home.').map(({ text }) => text)).toEqual([first]);
  });

  it.each(WRITTEN_TWICE)('said again, and written otherwise: %s', (first, second) => {
    const [spare] = spares('We sat at the bench all day.', first, second, 'Then we went home.');
    expect(spare?.confidence).toBeGreaterThan(certaintyOf({ boldness: 'usual' }));
  });

  it.each(PERHAPS)('left to a person: %s', (_, lines) => {
    for (const { confidence } of spares(...lines)) expect(confidence).toBeLessThan(certaintyOf({ boldness: 'usual' }));
  });

  it.each(NOT_AGAIN)('not said again: %s', (_, lines) => {
    expect(spares(...lines).filter(({ confidence }) => confidence >= certaintyOf({ boldness: 'daring' }))).toEqual([]);
  });

  it('two people who say the same line do not make tries of it', () => {
    const words = script('The lamp was lit by gas until the war.', 'The lamp was lit by gas until the war.').map((word, k) => ({
      ...word,
      speaker: k < 9 ? 'Isolde' : 'Tobit',
    }));
    const found = find({ ...quiet, duration: 300, words }, { takes: 'words' });
    expect(found.filter(({ kind }) => kind === 'retake')).toEqual([]);
  });

  it('a number that differs is pointed out, and makes it no try by itself', () => {
    const line = (steps: string) => `The tower has ${steps} hundred steps up to the very top of the gallery.`;
    for (const { confidence, evidence } of spares(line('two'), line('three'))) {
      expect(confidence).toBeLessThan(certaintyOf({ boldness: 'daring' }));
      expect(evidence['otherwise two / three']).toBe(1);
    }
    expect(spares(line('two'), line('two'))[0]?.confidence).toBeGreaterThan(certaintyOf({ boldness: 'bold' }));
  });

  it('a name that differs is pointed out, and a noun with a capital among others is none', () => {
    const line = (name: string) => `The tower belongs to ${name} down to the very last step of the gallery.`;
    const meaning = (...before: readonly string[]) => spares(...before, line('Marn'), line('Tobit'))[0]?.evidence.meaning;
    expect(meaning()).toBe(1);
    expect(meaning('The Keeper has a Lamp and a Rope in the Tower by the Sea.')).toBe(0);
  });

  it('sound that follows a broken try at once, and that no word covers, is evidence that its last word was left out', () => {
    const words = script('We start with the back', 'We start with the back plate and its four screws.');
    const end = words[4]?.end ?? 0;
    const levels = (more: number) => [
      curve([1, ROOM], [end - 1 + more, VOICE], [(words[5]?.start ?? 0) - end - more, ROOM], [10, VOICE], [3, ROOM]),
    ];
    const unwritten = (more: number) =>
      find({ duration: 15, levels: levels(more), words }, { takes: 'words' }).find(({ kind }) => kind === 'retake')?.evidence
        .unwritten;
    expect(unwritten(0)).toBeLessThan(0.1);
    expect(unwritten(0.5)).toBeGreaterThan(0.4);
  });

  it('two lines with sentences between them that nobody wrote are far apart', () => {
    const line = 'The lamp was lit by gas until the war.';
    const far = (...unwritten: readonly string[]) => {
      const words = script(line, ...unwritten, line).filter((_, k, { length }) => k < 9 || k >= length - 9);
      return find({ ...quiet, words }, { takes: 'words' }).find(({ kind }) => kind === 'retake')?.evidence.far;
    };
    expect(far()).toBe(0);
    expect(far('Nobody wrote this one down and it goes on for a while.')).toBe(1);
  });

  it('a line that a recogniser wrote once more into a silence is no try, and none goes for its sake', () => {
    const line = 'We start with the back plate and its four screws.';
    const words = script(line, line, line, 'The lamp is lit.');
    const until = words[9]?.end ?? 0;
    const [last] = words.slice(-4);
    const levels = [curve([1, ROOM], [until - 1, VOICE], [(last?.start ?? 0) - until, ROOM], [3, VOICE], [1, ROOM])];
    const found = find({ duration: (last?.start ?? 0) + 4, levels, words }, { takes: 'both' });
    expect(found.filter(({ kind }) => kind === 'retake')).toEqual([]);
    expect(found.find(({ kind, start }) => kind === 'pause' && start > 1)).toMatchObject({
      end: expect.closeTo((last?.start ?? 0) - 0.1, 0),
    });
  });

  it('the same words in which the ear hears nothing go together are asked about', () => {
    const words = script('The lamp was lit by gas until the war.', 'The lamp was lit by gas until the war.');
    const told = (more: Partial<Material>) =>
      find({ ...quiet, words, ...more }, { takes: 'both' }).find(({ kind }) => kind === 'retake')?.confidence;
    expect(told({})).toBeGreaterThan(certaintyOf({ boldness: 'usual' }));
    expect(told({ echoes: [] })).toBe(0.5);
    const second = words[8]?.start ?? 0;
    const recordings = [
      { id: 'a', start: 0, end: second - 0.5 },
      { id: 'b', start: second - 0.5, end: 30 },
    ];
    // Two recordings may never have been compared by ear.
    expect(told({ echoes: [], recordings })).toBeGreaterThan(0.5);
  });

  it('nothing is looked for when it is switched off', () => {
    const words = script('We start with the back', 'We start with the back plate.');
    expect(find({ ...quiet, words }, { takes: 'off' }).filter(({ kind }) => kind === 'retake')).toEqual([]);
  });

  it('takes thirty thousand words with two hundred groups in one go', () => {
    const words = Array.from({ length: 30_000 }, (_, k) => `w${(k * 7919) % 4001}${k % 12 === 11 ? '.' : ''}`);
    for (let group = 0; group < 200; group++) {
      const at = 144 * group + 12;
      words.splice(at, 12, ...words.slice(at - 12, at));
    }
    const timed = said(words.join(' '));
    const found = find({ levels: [curve([8000, VOICE])], duration: 8000, words: timed }, { takes: 'words' });
    expect(found.filter(({ kind }) => kind === 'retake').length).toBeGreaterThanOrEqual(195);
  });
});

describe('a try during which somebody else speaks', () => {
  const line = 'The tower has two hundred steps up to the top.';
  const marn = script(line, line).map((one) => ({ ...one, speaker: 'Marn' }));
  const sparesAmong = (words: Word[]) =>
    find({ levels: quiet.levels, duration: 300, words: words.sort((a, b) => a.start - b.start) }, { takes: 'words' }).filter(
      ({ kind }) => kind === 'retake',
    );
  const tobit = (at: number, text = 'lovely') => ({ ...word(text, at, at + 0.4), speaker: 'Tobit' });

  it('is asked about and does not go by itself, since the other would be cut with it', () => {
    const [first] = marn as [Word];
    const alone = sparesAmong([...marn]);
    expect(alone).toMatchObject([{ evidence: expect.not.objectContaining({ overOthers: 1 }) }]);
    expect(alone[0]?.confidence).toBeGreaterThan(0.97);
    for (const at of [first.start + 0.6, first.start + 2.1])
      expect(sparesAmong([...marn, tobit(at)])).toMatchObject([{ confidence: 0.5, evidence: { overOthers: 1 } }]);
  });

  it('goes as ever with what is said to whoever cuts between the tries', () => {
    const end = Math.max(...marn.slice(0, 10).map(({ end }) => end));
    const [spare] = sparesAmong([...marn, tobit(end + 0.3, 'sorry')]);
    expect(spare?.confidence).toBeGreaterThan(0.97);
    expect(spare?.end).toBeGreaterThan(end + 0.6);
  });
});
