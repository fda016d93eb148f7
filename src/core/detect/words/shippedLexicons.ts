import type { LexiconEntry, Strength } from './lexiconEntry.ts';

/** Phrases of one strength, with commas between them. */
const entries = (strength: Strength, phrases: string): LexiconEntry[] =>
  phrases.split(', ').map((phrase) => ({ phrase, strength }));

/**
 * What ships, by language. Words that are judged by what stands round them are English alone, as `fillerRules.ts` is; in other languages
 * they are proposed when asked for.
 */
export const SHIPPED: Readonly<Record<string, readonly LexiconEntry[]>> = {
  en: [
    ...entries('always', 'um, umm, uhm, uh, uhh, er, erm, hmm, hm, mm'),
    ...entries('often', 'like, so, well, right, you know, i mean, you see, kind of, sort of, actually, basically, okay, ok, now'),
    ...entries('asked', 'just, really, literally, obviously, honestly, anyway, ah, oh, yeah'),
    ...entries('asked', 'to be honest, or something, and stuff, and so on'),
    ...entries('cue', 'sorry, again, once more, one more time, from the top, start again, start over, start that again'),
    ...entries('cue', 'wait, cut, scratch that, hang on, hold on, oops, take two, take three, take four, take that'),
    ...entries('cue', 'try that again, say that again, do that again, pick up from'),
  ],
  de: [
    ...entries('always', 'äh, ähh, ähm, ähhm, öh, öhm, hm, hmm, ehm'),
    ...entries(
      'asked',
      'also, halt, eben, quasi, sozusagen, eigentlich, irgendwie, ja, genau, na ja, naja, oder so, und so weiter',
    ),
    ...entries(
      'cue',
      'entschuldigung, sorry, nochmal, noch mal, noch einmal, von vorn, von vorne, ich fange nochmal an, moment, stopp',
    ),
    ...entries('cue', 'schnitt, zweiter versuch, das war nichts'),
  ],
  fr: [
    ...entries('always', 'euh, euhh, heu, hum, hm, hmm'),
    ...entries(
      'asked',
      'ben, bah, bon, donc, alors, voilà, quoi, en fait, du coup, genre, tu vois, vous voyez, tu sais, vous savez',
    ),
    ...entries(
      'cue',
      'pardon, désolé, désolée, je recommence, on recommence, je reprends, on reprend, encore une fois, attends, attendez',
    ),
    ...entries('cue', 'coupez, deuxième prise, depuis le début'),
  ],
  es: [
    ...entries('always', 'eh, ehh, em, ehm, mmm, hm, hmm'),
    ...entries('asked', 'este, pues, bueno, o sea, entonces, digamos, es decir, sabes, en plan, vale'),
    ...entries(
      'cue',
      'perdón, perdona, perdonen, otra vez, de nuevo, repito, empiezo de nuevo, desde el principio, espera, corta',
    ),
    ...entries('cue', 'segunda toma'),
  ],
  it: [
    ...entries('always', 'ehm, uhm, mmm, hm, hmm'),
    ...entries('asked', 'eh, cioè, allora, diciamo, insomma, praticamente, tipo, ecco, sai, come dire'),
    ...entries('cue', 'scusa, scusate, di nuovo, ancora una volta, ricomincio, riprendo, da capo, aspetta, aspettate, taglia'),
  ],
  nl: [
    ...entries('always', 'eh, ehh, ehm, uh, uhh, uhm, euh, hm, hmm'),
    ...entries('asked', 'gewoon, eigenlijk, zeg maar, weet je, dus, nou, eigenlijk gewoon, of zo, enzovoort'),
    ...entries('cue', 'sorry, opnieuw, nog een keer, nog eens, even opnieuw, vanaf het begin, wacht, knip'),
  ],
  pt: [
    ...entries('always', 'hum, hm, hmm, hã, ahn, ãhn, éé'),
    ...entries('asked', 'tipo, então, assim, pronto, portanto, bem, bom, sabe, né, quer dizer'),
    ...entries(
      'cue',
      'desculpa, desculpe, desculpem, outra vez, de novo, mais uma vez, vou repetir, repito, do início, espera, corta',
    ),
  ],
};
