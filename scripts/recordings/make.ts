import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { addRoom, type Line, perform, seeded } from '../../demo/script.ts';
import type { Voice } from '../../demo/speech.ts';
import { type Random, script } from './scenes.ts';
import { writeSound } from './sound.ts';
import { asWritten, NOISY, POOR, trueWords, withoutHesitations, wordsWithErrors } from './transcripts.ts';

/**
 * Makes recordings with exact truth, for fitting what detection is sure of: `npm run recordings FOLDER [COUNT] [SEED]`. Needs
 * festival with three voices. Each has its own voice, pace, pitch, room, noise and codec.
 */
const [folder, count = '12', seed = '1'] = process.argv.slice(2);
if (!folder) throw new Error('usage: npm run recordings FOLDER [COUNT] [SEED]');
await mkdir(folder, { recursive: true });
/** Seconds that the synthesiser holds a hesitation by itself; people hold it for up to three quarters of a second. */
const USUAL_LENGTH: Readonly<Record<string, number>> = { um: 0.33, uh: 0.22, er: 0.12 };

const VOICES: readonly Voice[] = ['her', 'him', 'them'];
for (let k = 0; k < Number(count); k++) {
  const name = `g-${seed}-${k}`;
  await makeRecording(name, VOICES[k % VOICES.length] as Voice, seeded(1000 * Number(seed) + k));
  process.stdout.write(`${name}\n`);
}

async function makeRecording(name: string, voice: Voice, random: Random): Promise<void> {
  const between = (low: number, high: number) => low + (high - low) * random();
  const [pace, pitch] = [between(0.85, 1.25), between(0.85, 1.2)];
  const lines: Line[] = script(random, 14).flatMap(({ say, pause, as, take }): Line[] => {
    // A line said again is said otherwise: quicker or slower, higher or lower.
    const delivery = () => ({ by: voice, pace: pace * between(0.86, 1.16), pitch: pitch * between(0.92, 1.09) });
    return [
      ...silenceOf(pause, random),
      ...parted(say, random).map((part): Line => {
        if ('pause' in part) return part;
        const held = part.say.startsWith('<') && part.say.endsWith('>');
        return {
          ...part,
          ...delivery(),
          ...(held && { pace: Math.max(0.32, (USUAL_LENGTH[part.say.slice(1, -1)] ?? 0.25) / between(0.14, 0.7)) }),
          ...(as && { as }),
          ...(take && { take }),
        };
      }),
    ];
  });
  const shown = await perform([...lines, { pause: between(0.5, 1.5) }], [voice], ['a']);
  const [track] = shown.tracks as [Float32Array];
  addRoom(track, between(-66, -46), Math.floor(random() * 1e6));
  await writeSound(join(folder as string, name), track, random);
  const write = (what: string, value: object) => writeFile(join(folder as string, `${name}.${what}.json`), JSON.stringify(value));
  const { duration, words, speech, pauses, noises } = shown;
  const fillers = words.filter(({ tag }) => tag === 'filler').map(({ start, end }) => [start, end]);
  const cues = words.filter(({ tag }) => tag === 'cue');
  await write('truth', {
    name,
    duration,
    tail: 0,
    wordTol: 0.03,
    words,
    speech,
    pauses,
    noises,
    fillers,
    cues,
    retakes: shown.retakes,
  });
  await write('words', { language: 'en', words: trueWords(words) });
  await write('words-nofill', { language: 'en', words: withoutHesitations(words) });
  await write('words-noisy', { language: 'en', words: wordsWithErrors(words, pauses, NOISY, random) });
  await write('words-poor', { language: 'en', words: wordsWithErrors(words, pauses, POOR, random) });
  await write('words-written', { language: 'en', words: asWritten(words, pauses, random) });
}

/** Silence, with a breath, a knock or a row of keys in some that are long enough. */
function silenceOf(pause: number, random: Random): Line[] {
  const between = (low: number, high: number) => low + (high - low) * random();
  if (pause <= 0.9 || random() < 0.6) return [{ pause }];
  if (random() < 0.4) return [{ pause, breath: between(0.25, pause - 0.5) }];
  if (pause <= 1.3 || random() < 0.4) return [{ pause, knock: between(0.25, pause - 0.3) }];
  const keys: Line[] = [];
  let left = pause - between(0.25, 0.5);
  const softer = between(3, 16);
  for (let gap = between(0.08, 0.3); left - gap > 0.35; gap = between(0.08, 0.3)) {
    keys.push({ pause: gap, knock: 0 });
    left -= gap;
  }
  return [
    { pause: pause - left - keys.reduce((sum, key) => sum + ('pause' in key ? key.pause : 0), 0) },
    { gain: -softer },
    ...keys,
    { gain: 0 },
    { pause: left },
  ];
}

/** A line with a hesitation in three parts, short silences between: said inside a line the synthesiser hardly holds it at all. */
function parted(say: string, random: Random): ({ readonly say: string } | { readonly pause: number })[] {
  const match = /^(.*?)\s*(<\w+>)\s*(.*)$/.exec(say);
  if (!match) return [{ say }];
  const [, before = '', hesitation = '', after = ''] = match;
  const gap = () => ({ pause: random() < 0.4 ? 0.02 : 0.03 + 0.4 * random() });
  return [...(before ? [{ say: before }, gap()] : []), { say: hesitation }, ...(after ? [gap(), { say: after }] : [])];
}
