import { useEffect } from 'react';
import { tinykeys } from 'tinykeys';
import type { EpisodeModel } from '../session/model.ts';
import { COMMANDS } from './commands.ts';

/** Binds every command's keys, except where keys mean something else: in fields, on buttons, in dialogs. */
export function useKeys(model: EpisodeModel): void {
  useEffect(() => bindKeys(model, window), [model]);
}

/** The same for any window. @returns what unbinds them */
export function bindKeys(model: EpisodeModel, target: Window): () => void {
  const bindings = Object.fromEntries(
    COMMANDS.flatMap((command) =>
      command.keys.map((key) => [
        key,
        (event: KeyboardEvent) => {
          if (isTaken(event) || !command.can(model)) return;
          event.preventDefault();
          command.run(model);
        },
      ]),
    ),
  );
  return tinykeys(target, bindings);
}

const MOVED = new Set(['range', 'radio', 'checkbox']);

function isTaken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  if (document.querySelector('dialog[open]')) return true;
  // Sliders, boxes and choices keep the keys that move them; all others still decide.
  if (target.matches('input') && MOVED.has((target as HTMLInputElement).type))
    return event.key.startsWith('Arrow') || event.key === ' ';
  if (target.matches('input, textarea, select, [contenteditable]')) return true;
  if (target.matches('[role="tab"]') && ['ArrowLeft', 'ArrowRight', 'Home', 'End'].includes(event.key)) return true;
  return (event.key === ' ' || event.key === 'Enter') && target.matches('button, a, summary, [role="tab"]');
}
