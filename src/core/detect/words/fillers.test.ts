import { describe, expect, it } from 'vitest';
import type { Word } from '../../transcript/word.ts';
import { curve, quiet, ROOM, said, VOICE } from '../made.test-help.ts';
import { prepare, preparedFillers } from '../registry.ts';
import { DEFAULT_SETTINGS } from '../settings.ts';
import { judgedFillers } from './fillers.ts';

// Fillers stand in brackets, words of the lexicon that are meant stand plain. `|` is a pause of a quarter of a second.
const FILLED = [
  'Today we are [um] taking the back plate off.',
  'The spring is, [uh] about as thick as a thumbnail.',
  '[Er] where did I leave the loupe?',
  'We let it down, [hmm] a quarter turn at a time.',
  'It took me, [like] three weeks to find the noise.',
  'And then the whole train, [like] just stopped.',
  'She was [like] really surprised by the chime.',
  'There are [like] forty of these in one drawer.',
  '[So] | the first thing is the case.',
  'The hands are off, [so] | yeah.',
  '[So], let us look at the hammer.',
  '[Well], that is not where it belongs.',
  '[Well] we could turn a new one.',
  'The owner said, [well] you can keep it.',
  '[Well] | I would not do that twice.',
  'Then you push it in, [right], and it clicks.',
  'You hold it at the edge, [right]?',
  '[Right], we are going to clean this.',
  '[Right] | now for the crystal.',
  'It is, [you know], one of the old ones.',
  'The keepers came, [you know] and they rowed back.',
  'It is just [you know] a bit stiff.',
  'You get used to the sound, [you know].',
  '[I mean], it still runs.',
  'It is slow, [I mean] it loses a minute a day.',
  '[I mean] we all drop a screw now and then.',
  'It is [kind of] hard to see from there.',
  'We [kind of] forgot about the second wheel.',
  'The dial is [sort of] yellow.',
  'He [sort of] leans on the case.',
  '[Actually], the lamp was lit by gas.',
  'It was, [actually], quite a calm night.',
  'And that is [actually] pretty common.',
  '[Basically] you wind it once a week.',
  'It is, [basically], a box with a weight in it.',
  '[Okay], here is the movement.',
  '[Okay] | let us see.',
  '[Now], this part is brass.',
  '[Now] | the pendulum hangs from here.',
  'The tide was out, [you see], and nobody came.',
  'We went up there [like] twice a week.',
  'He was, [like], halfway down the stairs.',
  'And the bell, [like] never rang again.',
  '[So], who turned off the lamp?',
  '[So] | now we wait for the glue.',
  '[Well], the tide does not wait.',
  '[Well] | nobody told me that.',
  '[Right], hand me the loupe.',
  '[Right] | where were we.',
  'It clicks twice, [right], and then it is home.',
  'You have seen this before, [right]?',
  'The stairs were, [you know], quite steep.',
  '[You know], my aunt had one of these.',
  'She just, [you know] walked off.',
  '[I mean], it is only a spring.',
  'The case is old, [I mean] really old.',
  'The handle is [kind of] loose.',
  'It [sort of] hums when it is warm.',
  '[Actually], there were two of them.',
  'It is, [actually], rather light.',
  '[Basically], it keeps the weight from falling.',
  '[Okay], turn it over.',
  '[Okay] | that is the back.',
  '[Now], watch the little hook.',
] as const;

const MEANT = [
  'It looks like brass but it is not.',
  'I like the sound of the small one.',
  'It sounds like rain on the roof.',
  'Would you like to hear it strike?',
  'Nothing else feels like that.',
  'You need a tool like this one.',
  'People like a slow tick at night.',
  'The wheel is so bright that it hurts.',
  'Do not turn it so far.',
  'We oil it so that it does not wear.',
  'I think so.',
  'The bearing is dry, so the wheel drags.',
  'An hour or so is enough.',
  'The new latch shuts so well that I threw the old away.',
  'This one is well made.',
  'The old lamp kept burning very well.',
  'Well made clocks outlive us.',
  'They drew water from the well every morning.',
  'Which is the right side of this cloth?',
  'Turn it to the right until it stops.',
  'It was right behind the lens.',
  'Is that right?',
  'All right.',
  'You know the way to the tower.',
  'Do you know how old it is?',
  'As you know the light has moved.',
  'You know that feeling when it starts.',
  'What I mean is the other screw.',
  'I mean to finish it by Friday.',
  'It is a kind of oil that never dries.',
  'What sort of weather did you have?',
  'Two kinds of glass, and this kind of glass is thicker.',
  'Weigh what it actually weighs.',
  'Nobody actually saw the ship.',
  'It is okay to stop here.',
  'She said that it was okay.',
  'Right now the tide is in.',
  'From now on we write it down.',
  'The light is electric now.',
  'Can you see the small pin?',
  'She would like another cup.',
  'Feathers feel like that.',
  'Nobody walks like him.',
  'They look like twins.',
  'It was so cold that the oil froze.',
  'He did so at once.',
  'So far it has held.',
  'That is not so bad.',
  'The lid fits well.',
  'We might as well start.',
  'He is well known on the coast.',
  'It stands on the right bank.',
  'The second from the right is mine.',
  'You were right about that.',
  'Stand right here.',
  'Did you know him?',
  'I want you to know that.',
  'Since you know the rules, begin.',
  'That is what I mean.',
  'It is a sort of lamp that needs no wick.',
  'What kind of bird is that?',
  'I do not actually own a boat.',
  'Is it okay to sit?',
  'It is now noon.',
  'They live there now.',
  'Let me see what you see.',
  'If you see him, wave.',
] as const;

/** More likely a filler than not. */
const LIKELY = 0.5;

/** Words of the lexicon in a sentence that are likely fillers. */
function likelyIn(sentence: string): string[] {
  const before = 'We were at the bench the other day. ';
  const prepared = prepare({ ...quiet, words: said(`${before}${sentence} Then we went on with the next one.`) });
  const { words } = prepared.spoken();
  return judgedFillers(preparedFillers(prepared), DEFAULT_SETTINGS)
    .filter(({ confidence }) => confidence >= LIKELY)
    .map(({ first, count }) =>
      words
        .slice(first, first + count)
        .map((word) => word.text.replace(/[^\w ]/g, ''))
        .join(' '),
    );
}

const bracketed = (sentence: string): string[] => [...sentence.matchAll(/\[([^\]]+)\]/g)].map(([, words]) => words as string);

describe('fillers by their context', () => {
  it(`are told from words that are meant in ${FILLED.length + MEANT.length} sentences, 95 in 100 right`, () => {
    const wrong = [...FILLED, ...MEANT].filter((sentence) => {
      const found = likelyIn(sentence.replaceAll(/[[\]]/g, ''));
      return JSON.stringify(found) !== JSON.stringify(bracketed(sentence));
    });
    expect(wrong.length, wrong.join('\n')).toBeLessThanOrEqual(Math.floor(0.05 * (FILLED.length + MEANT.length)));
  });

  it('hesitations are fillers wherever they stand', () => {
    for (const word of ['um', 'Uh,', 'erm', 'Hmm.'])
      expect(likelyIn(`the ${word} tide was out`)).toEqual([word.replace(/\W/g, '')]);
  });

  it('without any sign or capital pauses take their part', () => {
    const words = said('we took it off | well | the spring was gone', { signs: false });
    const found = judgedFillers(preparedFillers(prepare({ ...quiet, words })), DEFAULT_SETTINGS);
    expect(found.filter(({ confidence }) => confidence >= LIKELY).map(({ phrase }) => phrase)).toEqual(['well']);
  });

  it('over somebody else’s words are asked about, and never go by themselves', () => {
    const own = said('the tide um was out').map((one) => ({ ...one, speaker: 'Tobit' }));
    const um = own[2] as (typeof own)[number];
    const sure = (words: readonly Word[]) =>
      judgedFillers(preparedFillers(prepare({ ...quiet, words })), DEFAULT_SETTINGS).find(({ phrase }) => phrase === 'um');
    expect(sure(own)?.confidence).toBeGreaterThan(0.9);
    const other = { ...um, text: 'lighthouse', start: um.start - 0.2, end: um.start + 0.2, speaker: 'Isolde' };
    const over = sure([...own, other].sort((a, b) => a.start - b.start));
    expect(over).toMatchObject({ confidence: 0.5, evidence: { overOthers: 1 } });
    const barely = { ...other, end: um.start + 0.05 };
    expect(sure([...own, barely].sort((a, b) => a.start - b.start))?.confidence).toBeGreaterThan(0.9);
    // On one microphone it is heard that somebody else speaks.
    expect(sure(own.map((one) => (one === um ? { ...one, overlapped: true as const } : one)))?.confidence).toBe(0.5);
  });

  it('inside a line that was timed as a whole are asked about, but for those between two silences', () => {
    const words = said('the tide | um | was out um and we went in').map((one) => ({ ...one, timing: 'estimated' as const }));
    const levels = [curve([1, ROOM], [0.5, VOICE], [0.25, ROOM], [0.25, VOICE], [0.25, ROOM], [2, VOICE], [1, ROOM])];
    const found = (some: readonly Word[]) =>
      judgedFillers(preparedFillers(prepare({ ...quiet, levels, words: some })), DEFAULT_SETTINGS).map(
        ({ confidence }) => confidence,
      );
    const [alone, inside] = found(words);
    expect(alone).toBeGreaterThan(0.9);
    expect(inside).toBe(0.5);
    expect(found(words.map((one) => ({ ...one, timing: 'measured' as const }))).every((told) => told > 0.9)).toBe(true);
  });

  it('a phrase is not put together from two speakers or two sentences', () => {
    const found = (words: ReturnType<typeof said>) =>
      judgedFillers(preparedFillers(prepare({ ...quiet, words })), DEFAULT_SETTINGS).map(({ phrase }) => phrase);
    expect(found(said('That is for you. Know it by heart.'))).toEqual([]);
    const [first, ...rest] = said('you know it');
    expect(found([{ ...(first as (typeof rest)[number]), speaker: 'Isolde' }, ...rest])).toEqual([]);
  });
});
