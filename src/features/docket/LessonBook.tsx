import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { SwitchLesson } from '@/core/contract/messages.ts';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { listen } from '../events.ts';
import { ToFile } from './LessonFile.tsx';
import { lessonWords, WORTH_SAYING } from './lessonWords.ts';

const client = new QueryClient();
const SHOWN = 40;

/** What the next recordings are taught, under the set that this one goes by: each lesson can be switched off, or forgotten. */
export function LessonBook() {
  return (
    <QueryClientProvider client={client}>
      <Book />
    </QueryClientProvider>
  );
}

function Book() {
  const name = useEpisode((s) => s.decisions.set);
  const settings = useEpisode((s) => s.decisions.settings);
  const saved = useEpisode((s) => s.save);
  const [said, setSaid] = useState<Message>();
  const { data: set, isSuccess } = useQuery({
    queryKey: ['set', name],
    queryFn: async () => (name === undefined ? null : ((await api.sets()).sets.find((one) => one.name === name)?.id ?? null)),
  });
  const { data, error } = useQuery({
    queryKey: ['lessons', set],
    queryFn: () => api.lessons(set ?? null),
    enabled: isSuccess,
  });
  const renew = () => client.invalidateQueries({ queryKey: ['lessons'] });
  useEffect(() => listen(({ type }) => ['sets', 'missed', 'cut'].includes(type) && void renew()), []);
  useEffect(() => {
    if (saved === 'saved') void renew();
  }, [saved]);
  const change = (about: string, to: SwitchLesson['to']) =>
    void api.switchLesson({ set: set ?? null, about, to }).then(
      (book) => client.setQueryData(['lessons', set], book),
      (problem) => setSaid({ text: `${(problem as Error).message} Nothing was changed.`, bad: true }),
    );
  const lessons = data?.lessons ?? [];
  const inForce = lessons.filter(({ off }) => !off);
  const worth = lessons.filter(({ off, right, wrong }) => off || right + wrong >= WORTH_SAYING);
  return (
    <section className="mt-2" aria-label="For the next recordings">
      <h2 className="font-semibold text-sm">For the next recordings{name ? ` under “${name}”` : ' without a named set'}</h2>
      {error && (
        <p role="alert" className="text-error text-sm">
          {error.message}
        </p>
      )}
      {lessons.length === 0 && <p className="text-sm quiet">Nothing is kept for them yet.</p>}
      <ul className="text-sm">
        {worth.slice(0, SHOWN).map((lesson) => {
          const words = lessonWords(lesson, inForce, settings);
          return (
            <li key={lesson.about} className="flex items-start justify-between gap-2 border-base-300 border-b py-0.5">
              <span className={lesson.off ? 'line-through quiet' : ''}>{words}</span>
              <span className="flex shrink-0 gap-1">
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`${lesson.off ? 'On' : 'Off'}: ${words}`}
                  onClick={() => change(lesson.about, lesson.off ? 'on' : 'off')}
                >
                  {lesson.off ? 'on' : 'off'}
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Forget: ${words}`}
                  onClick={() => change(lesson.about, 'forgotten')}
                >
                  forget
                </button>
              </span>
            </li>
          );
        })}
      </ul>
      {lessons.length > worth.length && (
        <p className="text-xs">and {lessons.length - worth.length} of a single verdict, which hardly count</p>
      )}
      {inForce.length > 0 && (
        <div className="mt-1">
          <ToFile name={name ?? 'lessons'} lessons={inForce.map(({ off: _, ...lesson }) => lesson)} />
        </div>
      )}
      <Said message={said} />
    </section>
  );
}
