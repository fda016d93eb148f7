import type { Lesson } from './lesson.ts';

/** Share that a recording's lessons keep of their weight with each later recording. */
const KEPT = 0.85;
/** Classes that a list holds, at most: those with the most examples. */
export const MOST_LESSONS = 400;

/** Lessons of several recordings as one list, by class. @param recordings lessons of each, newest first */
export function mergedLessons(recordings: readonly (readonly Lesson[])[]): Lesson[] {
  const sums = new Map<string, { told: number; right: number; wrong: number }>();
  for (const [age, lessons] of recordings.entries()) {
    const weight = KEPT ** age;
    for (const { about, told, right, wrong } of lessons) {
      const sum = sums.get(about) ?? { told: 0, right: 0, wrong: 0 };
      const count = weight * (right + wrong);
      sums.set(about, { told: sum.told + count * told, right: sum.right + weight * right, wrong: sum.wrong + weight * wrong });
    }
  }
  return [...sums]
    .flatMap(([about, { told, right, wrong }]) =>
      right + wrong > 0
        ? [{ about, told: inThousandths(told / (right + wrong)), right: inThousandths(right), wrong: inThousandths(wrong) }]
        : [],
    )
    .sort((a, b) => b.right + b.wrong - a.right - a.wrong || (a.about < b.about ? -1 : 1))
    .slice(0, MOST_LESSONS);
}

const inThousandths = (value: number): number => Math.round(value * 1000) / 1000;

/** Lessons as a file that can be kept and given on: `zetemis.lessons/1`. */
export const writeLessonsFile = (name: string, lessons: readonly Lesson[]): string =>
  `${JSON.stringify({ schema: 'zetemis.lessons/1', name, lessons }, null, 2)}\n`;
