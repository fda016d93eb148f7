import type { Lesson } from '@/core/lessons/lesson.ts';
import { Fold } from '@/ui/Fold.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { LessonBook } from './LessonBook.tsx';
import { ToFile } from './LessonFile.tsx';
import { lessonWords, WORTH_SAYING } from './lessonWords.ts';
import { useDocket } from './useDocket.ts';

const SHOWN = 30;
const NONE: readonly Lesson[] = [];
/** What earlier recordings taught this one, and what this one will teach. */
export function Lessons() {
  const inForce = useEpisode((s) => s.decisions.lessons);
  const taught = useDocket((s) => s.docket?.lessons ?? NONE);
  const set = useEpisode((s) => s.decisions.set);
  const settings = useEpisode((s) => s.decisions.settings);
  const model = useModel();
  const told = taught.filter(({ right, wrong }) => right + wrong >= WORTH_SAYING);
  return (
    <Fold title={`What was learned${inForce.length > 0 ? ` (${inForce.length})` : ''}`}>
      <h2 className="font-semibold text-sm">From earlier recordings</h2>
      {inForce.length === 0 ? (
        <p className="text-sm quiet">Nothing yet. What you decide here is taught to the next recordings.</p>
      ) : (
        <>
          <ul className="text-sm">
            {inForce.slice(0, SHOWN).map((lesson) => (
              <li key={lesson.about} className="flex items-start justify-between gap-2 border-base-300 border-b py-0.5">
                <span>{lessonWords(lesson, inForce, settings)}</span>
                <button
                  type="button"
                  className="btn btn-xs shrink-0"
                  aria-label={`Off: ${lessonWords(lesson, inForce, settings)}`}
                  onClick={() => model.decide({ type: 'lessons', lessons: inForce.filter((one) => one !== lesson) })}
                >
                  off
                </button>
              </li>
            ))}
          </ul>
          {inForce.length > SHOWN && <p className="text-xs">and {inForce.length - SHOWN} more</p>}
          <div className="mt-1 flex flex-wrap gap-1">
            <button type="button" className="btn btn-xs" onClick={() => model.decide({ type: 'lessons', lessons: [] })}>
              All off here
            </button>
            <ToFile name={set ?? 'lessons'} lessons={inForce} />
          </div>
        </>
      )}
      <h2 className="mt-2 font-semibold text-sm">From this one</h2>
      {told.length === 0 ? (
        <p className="text-sm quiet">Verdicts on single entries, and what you listened to without objecting, are counted here.</p>
      ) : (
        <ul className="text-sm">
          {told.slice(0, SHOWN).map((lesson) => (
            <li key={lesson.about} className="border-base-300 border-b py-0.5">
              {lessonWords(lesson, taught, settings)}
            </li>
          ))}
        </ul>
      )}
      <LessonBook />
    </Fold>
  );
}
