import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdir, mkdtemp, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import { CLOCK_WORKSHOP } from './clock-workshop.ts';
import { LIGHTHOUSE } from './lighthouse.ts';
import { HEIGHT, Painter, WIDTH } from './picture.ts';
import { addRoom, type Performance, perform, seeded } from './script.ts';
import { RATE } from './speech.ts';

/** Makes the demo media and their truth from the scripts beside this file: `npm run demo:make`. Needs festival. */

const MEDIA = join(import.meta.dirname, 'media');
const FPS = 25;
const MOST_BYTES = 4_000_000;

await mkdir(MEDIA, { recursive: true });
const work = await mkdtemp(join(tmpdir(), 'demo-'));
await makeWorkshop();
await makeLighthouse();
await rm(work, { recursive: true });

async function makeWorkshop(): Promise<void> {
  const shown = await perform(CLOCK_WORKSHOP, ['her'], ['Marit Quill']);
  const [voice] = shown.tracks as [Float32Array];
  const moved = shown.words.find((word) => word.text === 'Let')?.start ?? 0;
  addRoom(voice, -58, 11, [
    [0, 0],
    [moved - 1, -7],
  ]);
  const sound = join(work, 'workshop.wav');
  await writeWav(sound, [voice]);
  const target = join(MEDIA, 'carriage-clock.mp4');
  const encoder = spawn(
    'ffmpeg',
    // biome-ignore format: one option and its value a pair
    ['-v', 'error', '-y', '-f', 'rawvideo', '-pix_fmt', 'rgba', '-s', `${WIDTH}x${HEIGHT}`, '-r', String(FPS), '-i', 'pipe:0',
      '-i', sound, '-map', '0:v', '-map', '1:a', '-c:v', 'libx264', '-preset', 'slow', '-crf', '31', '-g', '50',
      '-pix_fmt', 'yuv420p', '-c:a', 'aac', '-b:a', '56k', '-timecode', '10:00:00:00', '-movflags', '+faststart',
      '-map_metadata', '-1', '-fflags', '+bitexact', target],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  );
  const painter = new Painter();
  const poses = posesOf(shown, voice);
  for (const pose of poses) if (!encoder.stdin.write(painter.paint(pose))) await once(encoder.stdin, 'drain');
  encoder.stdin.end();
  await once(encoder, 'exit');
  await finish('carriage-clock', target, shown);
}

/** A pose for each frame: the mouth follows the level, the hands go to work in the silences that say so. */
function posesOf(shown: Performance, voice: Float32Array) {
  const random = seeded(7);
  const step = RATE / FPS;
  let reach = 0;
  let untilBlink = 60;
  return Array.from({ length: Math.ceil(shown.duration * FPS) }, (_, frame) => {
    const at = frame / FPS;
    const speaking = shown.speech.some(([start, end]) => at >= start && at < end);
    let power = 0;
    for (let k = 0; k < step; k++) power += (voice[Math.round(frame * step) + k] ?? 0) ** 2;
    const loud = Math.min(1, Math.sqrt(power / step) * 9);
    const working = shown.hands.some(([start, end]) => at >= start && at < end - 0.4);
    reach += Math.max(-0.12, Math.min(0.12, (working ? 1 : 0) - reach));
    untilBlink = untilBlink > -3 ? untilBlink - 1 : 50 + Math.floor(random() * 90);
    return {
      mouth: speaking ? Math.round(loud * 6) / 6 : 0,
      blink: untilBlink <= 0,
      reach: Math.round(reach * 25) / 25,
      turn: working ? Math.round(at * 6 * 4) / 4 : 0,
    };
  });
}

async function makeLighthouse(): Promise<void> {
  const shown = await perform(LIGHTHOUSE, ['her', 'him'], ['Isolde Marn', 'Tobit Fenn']);
  const [hers, his] = shown.tracks as [Float32Array, Float32Array];
  // Each microphone also hears the other keeper across the table, a little later and much softer.
  const bleed = 10 ** (-27 / 20);
  const late = Math.round(0.006 * RATE);
  const [herMicrophone, hisMicrophone] = [hers.slice(), his.slice()];
  for (let k = late; k < hers.length; k++) {
    herMicrophone[k] = (herMicrophone[k] as number) + bleed * (his[k - late] as number);
    hisMicrophone[k] = (hisMicrophone[k] as number) + bleed * (hers[k - late] as number);
  }
  addRoom(herMicrophone, -62, 21);
  addRoom(hisMicrophone, -57, 22);
  const tracks = [herMicrophone, hisMicrophone];
  const files = tracks.map((_, k) => join(work, `lighthouse-${k}.wav`));
  for (const [k, track] of tracks.entries()) await writeWav(files[k] as string, [track]);
  const target = join(MEDIA, 'fog-and-birds.mka');
  // biome-ignore format: one option and its value a pair
  await execa('ffmpeg', ['-v', 'error', '-y', ...files.flatMap((file) => ['-i', file]), '-map', '0:a', '-map', '1:a',
    '-c:a', 'libopus', '-b:a', '44k', '-metadata:s:a:0', 'title=Isolde', '-metadata:s:a:1', 'title=Tobit',
    '-fflags', '+bitexact', target]);
  await finish('fog-and-birds', target, shown);
}

async function writeWav(path: string, channels: readonly Float32Array[]): Promise<void> {
  const [samples] = channels as [Float32Array];
  const { buffer, byteOffset, byteLength } = samples;
  // biome-ignore format: one option and its value a pair
  await execa('ffmpeg', ['-v', 'error', '-y', '-f', 'f32le', '-ar', String(RATE), '-ac', '1', '-i', 'pipe:0', '-ar', '48000', path],
    { input: new Uint8Array(buffer as ArrayBuffer, byteOffset, byteLength) });
}

/** Writes the words as a recogniser would give them, and the truth of everything. */
async function finish(name: string, media: string, shown: Performance): Promise<void> {
  const { tracks: _, words, ...rest } = shown;
  const plain = words.map(({ text, start, end, speaker }) => ({ text, start, end, confidence: 1, speaker }));
  const spans = (tag: string) => words.filter((word) => word.tag === tag);
  await writeFile(join(MEDIA, `${name}.words.json`), `${JSON.stringify({ language: 'en', words: plain })}\n`);
  await writeFile(
    join(MEDIA, `${name}.truth.json`),
    `${JSON.stringify({ name, ...rest, words, fillers: spans('filler'), repeats: spans('repeat'), cues: spans('cue') })}\n`,
  );
  const { size } = await stat(media);
  process.stdout.write(`${media}: ${shown.duration} s, ${(size / 1e6).toFixed(2)} MB\n`);
  if (size > MOST_BYTES) throw new Error(`${media} is over 4 MB`);
}
