import { writeFile } from 'node:fs/promises';
import { Command } from 'commander';
import { overSilenceOfLines } from '@/core/align/linesFit.ts';
import { overSilenceByStretch } from '@/core/align/strayWords.ts';
import { clockOf, likeliestClock } from '@/core/align/wordsClock.ts';
import { unheardRuns } from '@/core/detect/words/wordTiming.ts';
import { quantile } from '@/core/numbers/quantile.ts';
import { shiftWord } from '@/core/sources/shift.ts';
import type { Word } from '@/core/transcript/word.ts';
import { recordingsIn } from './examples.ts';
import { captionsOf, type HeardRecording, hear, LINES, otherWords } from './heardRecordings.ts';

// From when on words are moved to another clock, and from when on they are not relied on: `npm run fit:clock -- FOLDER…`, recordings with
// transcripts. Each transcript is held against its own recording, as it is and moved, and against another one.

/** Recognisers are early or late by as much, and words that are further away are said elsewhere. */
const NEARBY = [-0.15, 0, 0.15];
const AWAY = [-1, 1];

const program = new Command('clock')
  .argument('<folders...>')
  .option('--keep <folder>', 'where what is measured is kept', 'var/fit/measures')
  .option('--write', 'write the numbers into the project')
  .action(async (folders: string[], { keep, write }: { keep: string; write?: boolean }) => {
    const recordings = (await Promise.all(folders.map(recordingsIn))).flat();
    const heard: HeardRecording[] = [];
    for (const recording of recordings) heard.push(await hear(recording, keep));
    const heights = { right: [] as number[], wrong: [] as number[] };
    const byLine = { right: [] as number[], wrong: [] as number[] };
    const stretches: Record<'right' | 'away' | 'wrong', Stretch[]> = { right: [], away: [], wrong: [] };
    let moved = 0;
    for (const [k, sound] of heard.entries())
      for (const [kind, words] of sound.transcripts) {
        const clock = clockOf(words, sound);
        if (clock) process.stdout.write(`moved: ${sound.name}, ${kind}, ${JSON.stringify(clock)}\n`);
        if (clock) moved++;
        heights.right.push(likeliestClock(words, sound).height);
        for (const by of NEARBY) stretches.right.push(...stretchesOf(words, sound, by));
        for (const by of AWAY) stretches.away.push(...stretchesOf(words, sound, by));
        byLine.right.push(...overOfLines(words, sound));
        const other = otherWords(heard, k, kind);
        if (!other) continue;
        byLine.wrong.push(...overOfLines(other, sound));
        heights.wrong.push(likeliestClock(other, sound).height);
        stretches.wrong.push(...stretchesOf(other, sound));
      }
    process.stdout.write(`${moved} of ${heights.right.length} transcripts moved that are where they belong\n`);
    const least = between([heights.wrong, 0.995], [heights.right, 0.02], 'heights, in another recording and in their own');
    const usual =
      Math.round(
        100 *
          quantile(
            stretches.right.map(({ over }) => over),
            0.95,
          ),
      ) / 100;
    // What is over silence for a written-in line alone is none.
    const overOf = (some: readonly Stretch[]) => some.map(({ over, withLeft }) => (over > usual ? withLeft : over));
    const elsewhere = overOf([...stretches.away, ...stretches.wrong]);
    const most = between([overOf(stretches.right), 0.999], [elsewhere, 0.1], 'over silence, where they belong and elsewhere');
    const lines = between(
      [byLine.right, 0.995],
      [byLine.wrong, 0.02],
      'lines over silence, of their own recording and of another',
    );
    for (const [name, some] of Object.entries(stretches))
      process.stdout.write(
        `${name}: ${some.length} stretches, ${overOf(some).filter((over) => over > most.value).length} over ${most.value}, ${some.filter(({ withLeft }) => withLeft > most.value).length} for whatever reason\n`,
      );
    if (write) await writeFile('src/core/align/fitted.ts', written(least, most, usual, lines));
  });

interface Threshold {
  readonly value: number;
  readonly highest: number;
  readonly lowest: number;
  readonly counts: readonly [number, number];
}

type Numbers = readonly [values: readonly number[], quantile: number];

/** A value between nearly all of some numbers and nearly all of larger ones. */
function between([low, most]: Numbers, [high, least]: Numbers, what: string): Threshold {
  const [highest, lowest] = [quantile(low, most), quantile(high, least)];
  const value = Math.round(100 * Math.sqrt(highest * lowest)) / 100;
  process.stdout.write(`${what}: ${most} up to ${highest.toFixed(2)}, ${1 - least} from ${lowest.toFixed(2)}: ${value}\n`);
  return { value, highest, lowest, counts: [low.length, high.length] };
}

const written = (
  height: Threshold,
  over: Threshold,
  usual: number,
  lines: Threshold,
): string => `// Written by scripts/fit/clock.ts.

/**
 * Deviations by which the clock of words must stand out. Of ${height.counts[0]} transcripts of another recording 99.5 % come to ${height.highest.toFixed(2)} at most, of ${height.counts[1]} of
 * their own 98 % to ${height.lowest.toFixed(2)} and more.
 */
export const LEAST_CLOCK_HEIGHT = ${height.value};

/**
 * Of words that are where they are said, no more begin over silence, beside how many would by chance: 99.9 % of ${over.counts[0]} stretches come to ${over.highest.toFixed(2)} at most, 90 % of
 * ${over.counts[1]} of other recordings or a second away to ${over.lowest.toFixed(2)} and more.
 */
export const MOST_OVER_SILENCE = ${over.value};

/** Without lines that were written into a silence, 95 % of them come to this at most. */
export const USUAL_OVER_SILENCE = ${usual};

/**
 * Words shared out over lines begin over silence no more often, beside chance, where those are said: 99.5 % of ${lines.counts[0]} transcripts come to ${lines.highest.toFixed(2)} at most, 98 %
 * of ${lines.counts[1]} of another recording to ${lines.lowest.toFixed(2)} and more.
 */
export const MOST_OVER_BY_LINE = ${lines.value};
`;

const overOfLines = (words: readonly Word[], sound: HeardRecording): number[] =>
  LINES.flatMap((form) => overSilenceOfLines(captionsOf(words, form), sound) ?? []);

interface Stretch {
  readonly over: number;
  readonly withLeft: number;
}

/** @param by seconds that all words are moved */
function stretchesOf(brought: readonly Word[], { silences, duration }: HeardRecording, by = 0): Stretch[] {
  const words = by === 0 ? brought : brought.map((word) => shiftWord(word, by));
  const told = overSilenceByStretch(words, silences, duration, unheardRuns(words, silences));
  return told.flatMap(({ over, withLeft }) => (over === undefined || withLeft === undefined ? [] : [{ over, withLeft }]));
}

await program.parseAsync();
