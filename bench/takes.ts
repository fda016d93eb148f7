import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { prepare, preparedTakes } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { takeGroups } from '@/core/detect/takes/takes.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { measureEchoes } from '@/server/media/echoes.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import type { Line } from './line.ts';

/** Lines said again: by ear in an hour, by words in three. */
export async function benchTakes(recording: { aac: string; words: string }): Promise<Line[]> {
  const work = mkdtempSync(join(tmpdir(), 'zetemis-bench-takes-'));
  try {
    const hour = join(work, 'hour.m4a');
    await execa('ffmpeg', ['-v', 'error', '-y', '-i', recording.aac, '-t', '3600', '-c', 'copy', hour]);
    const facts = await probe(hour);
    const curves = join(work, 'curves');
    await measure(hour, facts, curves);
    const listening = performance.now();
    await measureEchoes(hour, facts, curves);
    const heard = (performance.now() - listening) / 1000;
    const echoes = await readMeasure('echoes', curves);

    const speechParts = await SpeechParts.loaded();
    const { words } = readTranscript(readFileSync(recording.words, 'utf8'));
    const prepared = prepare({ duration: 10_800, levels: [{ codes: new Uint8Array(1_080_000).fill(200) }], words, speechParts });
    const finding = performance.now();
    const groups = takeGroups(preparedTakes(prepared), { ...DEFAULT_SETTINGS, takes: 'words' }, NO_STEPS);
    const found = performance.now() - finding;
    return [
      {
        what: 'speech embedding and takes by ear of an hour, one core',
        value: `${heard.toFixed(1)} s, ${echoes.length} pairs`,
        goal: '< 110 s',
        ok: heard < 110,
      },
      {
        what: `takes by words (${words.length} words, ${groups.length} groups)`,
        value: `${found.toFixed(0)} ms`,
        goal: '< 2 s',
        ok: found < 2000 && groups.length >= 150,
      },
    ];
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}
