import { describe, expect, it } from 'vitest';
import { readAny } from '../interchange/transcripts/registry.ts';
import { languageOf } from './language.ts';

const SAID: readonly (readonly [language: string, text: string])[] = [
  [
    'en',
    'Good morning from the workshop. Today we open the old wall clock from the lighthouse. It ran um two minutes fast. Sorry, once more.',
  ],
  [
    'de',
    'Guten Morgen aus der Werkstatt. Heute öffnen wir die alte Wanduhr aus dem Leuchtturm. Er sagt, sie ging zwei Minuten vor, jeden Tag.',
  ],
  [
    'fr',
    "Bonjour de l'atelier. Aujourd'hui nous ouvrons la vieille pendule du phare. Elle avançait, euh, de deux minutes chaque jour, et personne ne sait pourquoi.",
  ],
  [
    'es',
    'Buenos días desde el taller. Hoy abrimos el viejo reloj del faro. Se adelantaba dos minutos cada día, y primero quitamos los tres tornillos.',
  ],
  [
    'it',
    'Buongiorno dal laboratorio. Oggi apriamo il vecchio orologio del faro. Andava avanti di due minuti al giorno, e prima togliamo le tre viti dietro.',
  ],
  [
    'nl',
    'Goedemorgen uit de werkplaats. Vandaag openen we de oude klok uit de vuurtoren. Hij liep elke dag twee minuten voor, en niemand weet waarom.',
  ],
  [
    'pt',
    'Bom dia da oficina. Hoje abrimos um relógio antigo do farol. Ele adiantava dois minutos por dia, e primeiro tiramos os três parafusos de trás.',
  ],
  [
    'ru',
    'Доброе утро из мастерской. Сегодня мы открываем старые часы с маяка. Они спешили на две минуты в день, и никто не знает почему это так и было.',
  ],
];

describe('the language of a text', () => {
  it.each(SAID)('is told: %s', async (language, text) => {
    expect(languageOf(text.split(' '))).toBe(language);
    expect((await readAny(`WEBVTT\n\n00:01.000 --> 00:09.000\n${text}\n`)).language).toBe(language);
  });

  it('is not told of a few words, nor of none', () => {
    expect(languageOf('Guten Morgen aus der Werkstatt'.split(' '))).toBeUndefined();
    expect(languageOf([])).toBeUndefined();
    expect(languageOf(Array.from({ length: 40 }, () => '12'))).toBeUndefined();
    expect(languageOf(Array.from({ length: 40 }, (_, k) => ['tick', 'tock', 'chime'][k % 3] as string))).toBeUndefined();
  });

  it('is that which a file names, whatever its words', async () => {
    const words = (SAID[1]?.[1] ?? '').split(' ').map((text, k) => ({ text, start: k, end: k + 0.9 }));
    expect((await readAny(JSON.stringify({ words }))).language).toBe('de');
    expect((await readAny(JSON.stringify({ language: 'nl', words }))).language).toBe('nl');
  });
});
