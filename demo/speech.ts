import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';

export const RATE = 32_000;

export const VOICES = { her: 'voice_cmu_us_slt_arctic_hts', him: 'voice_kal_diphone', them: 'voice_ked_diphone' } as const;
export type Voice = keyof typeof VOICES;

/** A spoken line: mono samples at `RATE`, trimmed of silence, and when each of its words starts and ends. */
export interface Spoken {
  readonly samples: Float32Array;
  readonly words: readonly { start: number; end: number }[];
}

/** How a line is said: times the usual pace, times the usual pitch. */
export interface Delivery {
  readonly pace?: number;
  readonly pitch?: number;
}

/** Has festival speak lines, all in one run. Word times come from the synthesiser itself. */
export async function speak(lines: readonly ({ voice: Voice; text: string } & Delivery)[]): Promise<Spoken[]> {
  const folder = await mkdtemp(join(tmpdir(), 'demo-speech-'));
  const script = lines.map(
    ({ voice, text }, k) => `(${VOICES[voice]}) (say ${JSON.stringify(text)} ${JSON.stringify(join(folder, `${k}.wav`))})`,
  );
  const program = `
(define (say text file)
  (let ((u (utt.synth (eval (list 'Utterance 'Text text)))))
    (utt.save.wave u file 'riff)
    (format t "line\\n")
    (mapcar (lambda (w) (format t "%s %f %f\\n" (item.name w) (item.feat w 'word_start) (item.feat w 'word_end)))
            (utt.relation.items u 'Word))))
${script.join('\n')}`;
  await writeFile(join(folder, 'lines.scm'), program);
  const { stdout } = await execa('festival', ['-b', join(folder, 'lines.scm')], { maxBuffer: 10_000_000 });
  const blocks = stdout.split('line\n').slice(1);
  const spoken: Spoken[] = [];
  for (const [k, line] of lines.entries()) {
    const { pace = 1, pitch = 1 } = line;
    const samples = await decode(join(folder, `${k}.wav`), { pace, pitch });
    const words =
      blocks[k]
        ?.trim()
        .split('\n')
        .map((row) => row.split(' ')) ?? [];
    const times: { start: number; end: number }[] = [];
    for (const [name, start, end] of words) {
      const last = times.at(-1);
      // The synthesiser takes “it's” for two words; the script has one.
      if (name?.startsWith("'") && last) last.end = Number(end) / pace;
      else times.push({ start: Number(start) / pace, end: Number(end) / pace });
    }
    const tokens = line.text.split(/\s+/).length;
    if (times.length !== tokens) throw new Error(`“${line.text}” has ${tokens} words, spoken as ${times.length}`);
    spoken.push(trim(samples, times));
  }
  await rm(folder, { recursive: true });
  return spoken;
}

async function decode(path: string, { pace, pitch }: Required<Delivery>): Promise<Float32Array> {
  // In two steps: one goes down to half the pace at most.
  const half = Math.sqrt(pace / pitch).toFixed(4);
  // Resampled to be higher and quicker, then brought to the pace asked for with the pitch kept.
  const filter =
    pace === 1 && pitch === 1
      ? []
      : ['-af', `aresample=${RATE},asetrate=${Math.round(RATE * pitch)},aresample=${RATE},atempo=${half},atempo=${half}`];
  const { stdout } = await execa(
    'ffmpeg',
    ['-v', 'error', '-i', path, ...filter, '-ac', '1', '-ar', String(RATE), '-f', 'f32le', '-'],
    {
      encoding: 'buffer',
      maxBuffer: 100_000_000,
    },
  );
  return new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.byteLength));
}

const SILENT = 0.002;
const FADE = Math.round(0.01 * RATE);

/**
 * Cuts a line to its words. The synthesiser's own word times bound it as well: some voices carry the noise of their
 * recording room in the silence round a sentence.
 */
function trim(samples: Float32Array, words: { start: number; end: number }[]): Spoken {
  let first = Math.round((words[0]?.start ?? 0) * RATE);
  let last = Math.min(samples.length, Math.round((words.at(-1)?.end ?? 0) * RATE));
  while (first < last && Math.abs(samples[first] as number) < SILENT) first++;
  while (last > first && Math.abs(samples[last - 1] as number) < SILENT) last--;
  const cut = samples.slice(first, last);
  for (let k = 0; k < Math.min(FADE, cut.length); k++) {
    cut[k] = ((cut[k] as number) * k) / FADE;
    cut[cut.length - 1 - k] = ((cut[cut.length - 1 - k] as number) * k) / FADE;
  }
  const shift = first / RATE;
  const end = (last - first) / RATE;
  return {
    samples: cut,
    words: words.map((word, k) => ({
      start: k === 0 ? 0 : Math.max(0, word.start - shift),
      end: k === words.length - 1 ? end : Math.min(end, word.end - shift),
    })),
  };
}
