import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { numbers } from './hostile.ts';

/** Parts of sentences: of each kind one is taken, so that hardly anything is said twice. */
const WHO = [
  'The keeper',
  'My father',
  'Nobody here',
  'The old clockmaker',
  'A visitor',
  'The pilot boat',
  'Your sister',
  'Every second ship',
];
const DOES = [
  'carried',
  'looked for',
  'wrote about',
  'never heard',
  'counted',
  'found',
  'asked for',
  'remembers',
  'would not sell',
  'mended',
];
const WHAT = [
  'the brass lamp',
  'a letter',
  'eleven small screws',
  'the horn',
  'the long pendulum',
  'those gulls',
  'a glass of oil',
  'the north wall',
];
const WHEN = [
  'in the fog',
  'before breakfast',
  'last November',
  'by candle light',
  'at ten past three',
  'when the tide turned',
  'all night long',
];

const RATE = 16_000;

/** A turn of a conversation: who speaks, and from when to when. */
export interface Turn {
  readonly who: number;
  readonly start: number;
  readonly end: number;
}

/**
 * A conversation on one microphone, of voices of a speech synthesiser that are equally loud, with who speaks when.
 * @param interrupted share of the turns into the last second of which somebody else speaks
 */
export function makeConversation(
  folder: string,
  name: string,
  voices: readonly string[],
  turns: number,
  interrupted = 0,
): { path: string; turns: Turn[] } {
  const next = numbers(voices.length + turns);
  const work = join(folder, `${name}-turns`);
  mkdirSync(work, { recursive: true });
  const made: Turn[] = [];
  const parts: { readonly sound: Int16Array; readonly from: number }[] = [];
  let at = 0;
  let who = 0;
  for (let k = 0; k < turns; k++) {
    // Mostly another one answers.
    if (k > 0 && next() < 0.8) who = (who + 1 + Math.floor(next() * (voices.length - 1))) % voices.length;
    const text = join(work, `${k}.txt`);
    writeFileSync(text, [WHO, DOES, WHAT, WHEN].map((all) => all[Math.floor(next() * all.length)]).join(' '));
    const source = `flite=textfile=${text}:voice=${voices[who]},silenceremove=start_periods=1:start_threshold=-50dB,loudnorm=I=-20,aresample=16000`;
    const sound = execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', source, '-ac', '1', '-f', 's16le', '-'], {
      maxBuffer: 1e8,
    });
    const samples = new Int16Array(sound.buffer.slice(sound.byteOffset, sound.byteOffset + sound.length));
    const last = made.at(-1);
    const before = last && last.who !== who && last.end - last.start > 2 && next() < interrupted ? last.end - 1 : at;
    parts.push({ sound: samples, from: Math.round(before * RATE) });
    made.push({ who, start: before, end: before + samples.length / RATE });
    at = before + samples.length / RATE + 0.3 + 0.6 * next();
  }
  const all = new Int16Array(Math.ceil(at * RATE));
  for (const { sound, from } of parts)
    for (const [k, sample] of sound.entries()) all[from + k] = (all[from + k] as number) + sample;
  const [raw, path] = [join(work, 'all.raw'), join(folder, `${name}.wav`)];
  writeFileSync(raw, Buffer.from(all.buffer));
  const room = `anoisesrc=c=pink:a=0.002:r=16000:d=${at}:seed=5`;
  const mixed = ['-f', 'lavfi', '-i', room, '-filter_complex', 'amix=inputs=2:normalize=0'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 's16le', '-ar', '16000', '-ac', '1', '-i', raw, ...mixed, path]);
  return { path, turns: made };
}
