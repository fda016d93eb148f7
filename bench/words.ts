import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { matchWords } from '@/core/align/matching.ts';
import { prepare } from '@/core/detect/registry.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { plainWord } from '@/core/transcript/plainWord.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { local } from '@/server/media/recognise/local.ts';
import { recognise } from '@/server/media/recognise/run.ts';
import { measureVoice } from '@/server/media/voice.ts';
import type { Line } from './line.ts';

/** Recordings with their exact words; the demo's own where there are no others. */
const CORPUS = join(import.meta.dirname, '..', '..', 'shared', 'corpus');
const DEMO = join(import.meta.dirname, '..', 'demo', 'media');

function recordings(): { path: string; words: string }[] {
  if (!existsSync(CORPUS)) return [{ path: join(DEMO, 'carriage-clock.mp4'), words: join(DEMO, 'carriage-clock.words.json') }];
  return readdirSync(CORPUS)
    .filter((name) => name.endsWith('.words.json'))
    .map((name) => ({ path: join(CORPUS, name.replace('.words.json', '.flac')), words: join(CORPUS, name) }));
}

/** The local recogniser against exact words: how many come out wrong, and how fast; and the measure of held sounds. */
export async function benchWords(): Promise<Line[]> {
  const lines: Line[] = [];
  const work = mkdtempSync(join(tmpdir(), 'zetemis-bench-words-'));
  try {
    for (const { path, words } of recordings()) {
      const name = path.split('/').at(-1) ?? '';
      const facts = await probe(path);
      const curves = join(work, name);
      await measure(path, facts, curves);
      const voiceStart = performance.now();
      await measureVoice(path, facts, curves);
      const voice = facts.duration / ((performance.now() - voiceStart) / 1000);
      const prepared = prepare({
        duration: facts.duration,
        levels: await readMeasure('levels', curves, facts.audio.length),
        words: [],
      });
      const start = performance.now();
      const heard = await recognise(local, path, facts, prepared, {
        language: 'en',
        recording: name,
        folder: join(work, `${name}-parts`),
      });
      const speed = facts.duration / ((performance.now() - start) / 1000);
      const plain = (list: readonly { text: string }[]) => list.map(({ text }) => plainWord(text));
      const [said, was] = [plain(readTranscript(readFileSync(words, 'utf8')).words), plain(heard)];
      const rate = errorRate(said, was);
      lines.push(
        {
          what: `local recogniser on ${name}`,
          value: `${speed.toFixed(1)} × real time, ${(100 * rate).toFixed(0)} % of words wrong`,
          goal: '≥ 5 × on 2 cores',
          ok: speed >= 5,
        },
        { what: `held sounds of ${name}`, value: `${voice.toFixed(0)} × real time`, goal: '≥ 30 ×', ok: voice >= 30 },
      );
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  return lines;
}

/** Word error rate by the alignment of both: words that are lost, added, or another. */
function errorRate(said: readonly string[], heard: readonly string[]): number {
  const right = [...matchWords(said, heard)].filter((match) => match >= 0).length;
  return (Math.max(said.length, heard.length) - right) / said.length;
}
