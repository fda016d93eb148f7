import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { type Message, Said } from '@/ui/Said.tsx';
import { lookFor, replaceFound, stepFound, takeOutFound } from '../episode/review/wordActions.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';

/** Finds words as one types, steps through the places, writes them anew or takes them all out. */
export function FindBox() {
  const model = useModel();
  const { text, at } = useEpisode((s) => s.find);
  const words = useEpisode((s) => s.words);
  const asked = useEpisode((s) => s.dialog === 'find');
  const { firsts } = useMemo(() => model.finder.find(words, text), [model, words, text]);
  // What a button would replace may be counted after the places are painted.
  const counted = useDeferredValue(text);
  const whole = useMemo(() => model.finder.find(words, counted, true).firsts.length, [model, words, counted]);
  const [instead, setInstead] = useState('');
  const [said, setSaid] = useState<Message>();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const idle = requestIdleCallback(() => model.finder.ready(words));
    return () => cancelIdleCallback(idle);
  }, [model, words]);
  useEffect(() => {
    if (!asked) return;
    input.current?.focus();
    input.current?.select();
    model.show({ dialog: undefined });
  }, [asked, model]);
  const told = (count: number, done: string) =>
    setSaid({ text: `${count === 1 ? 'One place' : `${count} places`} ${done}.`, bad: false });
  return (
    <section className="border-base-300 border-b py-2" aria-label="Find">
      <div className="flex items-center gap-1">
        <input
          ref={input}
          type="search"
          className="input input-sm grow"
          placeholder="Find words"
          aria-label="Find words"
          value={text}
          onChange={(event) => {
            setSaid(undefined);
            lookFor(model, event.target.value);
          }}
          onKeyDown={(event) => {
            if (event.key === 'Enter') stepFound(model, event.shiftKey ? -1 : 1);
            if (event.key === 'Escape') model.show({ find: { text: '', at: 0 } });
          }}
        />
        <output className="tabular w-16 text-right text-xs" data-figure="found-words">
          {text.trim() === '' ? '' : firsts.length === 0 ? 'none' : `${at + 1} of ${firsts.length}`}
        </output>
      </div>
      {firsts.length > 0 && (
        <div className="mt-1 flex flex-wrap gap-1">
          <CommandButton id="found-previous">Previous</CommandButton>
          <CommandButton id="found-next">Next</CommandButton>
          <button type="button" className="btn btn-xs" onClick={() => told(takeOutFound(model), 'taken out')}>
            Take out all {firsts.length}
          </button>
          <form
            className="flex w-full gap-1"
            onSubmit={(event) => {
              event.preventDefault();
              told(replaceFound(model, instead), 'written anew');
            }}
          >
            <input
              className="input input-xs grow"
              placeholder="Write instead"
              aria-label="Write instead"
              value={instead}
              onChange={(event) => setInstead(event.target.value)}
            />
            <button type="submit" className="btn btn-xs" disabled={whole === 0 || instead.trim() === ''}>
              Replace all {whole}
            </button>
          </form>
        </div>
      )}
      <Said message={said} />
    </section>
  );
}
