import { readFile } from 'node:fs/promises';
import { materialOf } from '@/cli/material.ts';
import { withMeasures } from '@/cli/measures.ts';
import { timeTranscript } from '@/core/align/timeTranscript.ts';
import type { SoundToFit } from '@/core/align/wordsClock.ts';
import { prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { readAny } from '@/core/interchange/transcripts/registry.ts';
import type { Passage } from '@/core/transcript/roughTranscript.ts';
import type { Word } from '@/core/transcript/word.ts';
import { probe } from '@/server/media/probe.ts';
import type { FitRecording } from './examples.ts';

const BETWEEN_WORDS = 0.1;
const LEAST_WORDS = 20;

/** A recording with its silences and the words of its transcripts. */
export interface HeardRecording extends SoundToFit {
  readonly name: string;
  readonly transcripts: readonly (readonly [kind: string, words: readonly Word[]])[];
}

export async function hear({ name, media, transcripts }: FitRecording, keep: string): Promise<HeardRecording> {
  const facts = await probe(media);
  const wanted = { words: undefined, speech: true, takes: 'off', heard: 'leave' } as const;
  const material = await withMeasures(media, facts, keep, (measures) => materialOf(media, facts, measures, wanted));
  const { duration } = material;
  const silences = silencesOf(preparedPauses(prepare(material)), DEFAULT_SETTINGS, BETWEEN_WORDS);
  const read = transcripts.map(async ([kind, path]) => {
    const { words } = timeTranscript(await readAny(await readFile(path, 'utf8')), { duration, silences: [] });
    return [kind, words] as const;
  });
  return { name, duration, silences, transcripts: (await Promise.all(read)).filter(([, words]) => words.length >= LEAST_WORDS) };
}

/** The transcript of the same kind that a later recording has: the next one, or one that is further on. */
export function otherWords(heard: readonly HeardRecording[], k: number, kind: string, further = 1): readonly Word[] | undefined {
  const next = heard[(k + further) % heard.length];
  return next?.transcripts.find(([other]) => other === kind)?.[1];
}

/** How captioners end a line: by a pause, or when it is full. */
export interface LineForm {
  readonly pause: number;
  readonly words: number;
}
export const LINES: readonly [LineForm, ...LineForm[]] = [
  { pause: 0.5, words: 9 },
  { pause: 0.8, words: 14 },
];
/** A line is shown a little before it is said, and stays a little longer. */
const SHOWN_BEFORE = 0.1;
const SHOWN_AFTER = 0.2;

/** Words as captions have them: lines with times, and none of their words. */
export function captionsOf(words: readonly Word[], { pause, words: most }: LineForm): Passage[] {
  const lines: Word[][] = [];
  for (const word of words) {
    const line = lines.at(-1);
    if (!line || line.length >= most || word.start - (line.at(-1)?.end ?? 0) > pause) lines.push([word]);
    else line.push(word);
  }
  return lines.map((line) => ({
    speaker: '',
    start: (line[0]?.start ?? 0) - SHOWN_BEFORE,
    end: (line.at(-1)?.end ?? 0) + SHOWN_AFTER,
    tokens: line.map(({ text }) => ({ text })),
  }));
}
