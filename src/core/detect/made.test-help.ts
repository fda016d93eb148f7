import { dbfsToCode, type LevelCurve } from '../curves/level.ts';
import { NO_STEPS } from '../decisions/replay.ts';
import type { Word } from '../transcript/word.ts';
import type { Material } from './detector.ts';
import { detect, prepare } from './registry.ts';
import { DEFAULT_SETTINGS, type Settings } from './settings.ts';
import { SpeechParts } from './words/partsOfSpeech.ts';

// Curves and words made up for tests.

/** A level curve from stretches of `[seconds, dBFS]`; a stretch wavers by a decibel, as rooms and voices do. */
export function curve(...stretches: readonly (readonly [seconds: number, dbfs: number])[]): LevelCurve {
  const powers = stretches.flatMap(([seconds, dbfs]) =>
    Array.from({ length: Math.round(seconds * 100) }, (_, k) => 10 ** ((dbfs + Math.sin(k * 1.7) * (dbfs > -40 ? 4 : 0.7)) / 10)),
  );
  // A sample looks one sample to either side, like the meter's.
  const around = (k: number) =>
    (powers[Math.max(0, k - 1)] ?? 0) + (powers[k] ?? 0) + (powers[Math.min(powers.length - 1, k + 1)] ?? 0);
  return { codes: Uint8Array.from(powers, (_, k) => dbfsToCode(10 * Math.log10(around(k) / 3))) };
}

/** What tells parts of speech, loaded. */
export const SPEECH_PARTS = await SpeechParts.loaded();

export const VOICE = -22;
export const ROOM = -60;
export const word = (text: string, start: number, end: number, timing: Word['timing'] = 'measured'): Word => ({
  text,
  start,
  end,
  confidence: 1,
  speaker: '',
  timing,
});

/** Proposals without air, unless the settings say so. */
export function find(material: Partial<Material> & { levels: readonly LevelCurve[] }, settings: Partial<Settings> = {}) {
  const duration = Math.max(...material.levels.map(({ codes }) => codes.length)) / 100;
  return detect(
    prepare({ duration, words: [], speechParts: SPEECH_PARTS, ...material }),
    { ...DEFAULT_SETTINGS, airBefore: 0, airAfter: 0, ...settings },
    NO_STEPS,
  );
}

/** Words of a text, a quarter of a second each without a gap; `|` is a pause of as much. */
export function said(text: string, { from = 1, signs = true } = {}): Word[] {
  const words: Word[] = [];
  let at = from;
  for (const token of text.split(/\s+/).filter(Boolean)) {
    if (token !== '|') words.push(word(signs ? token : token.replace(/[.,?!]/g, '').toLowerCase(), at, at + 0.25));
    at += 0.25;
  }
  return words;
}

/** Half a minute of steady sound: nothing in it that a detector of levels would find. */
export const quiet = { duration: 30, levels: [curve([30, VOICE])], speechParts: SPEECH_PARTS };
