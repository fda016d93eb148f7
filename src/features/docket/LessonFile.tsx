import { writeLessonsFile } from '@/core/lessons/book.ts';
import type { Lesson } from '@/core/lessons/lesson.ts';

/** Lessons to a file of one's own. */
export const ToFile = ({ name, lessons }: { name: string; lessons: readonly Lesson[] }) => (
  <a
    className="btn btn-xs"
    download={`${name.replaceAll(/[^\p{L}\p{N} ._-]/gu, '')}.lessons.json`}
    href={`data:application/json;charset=utf-8,${encodeURIComponent(writeLessonsFile(name, lessons))}`}
  >
    To a file
  </a>
);
