import { useEffect } from 'react';
import { tinykeys } from 'tinykeys';
import type { EpisodeModel } from '../session/model.ts';
import { COMMANDS } from './commands.ts';

/** Binds every command's keys, except where keys mean something else: in fields, on buttons, in dialogs. */
export function useKeys(model: EpisodeModel): void {
  useEffect(() => {
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
    return tinykeys(window, bindings);
  }, [model]);
}

/** Keys that are pressed in another window do here what they always do. @returns what ends that */
export function passKeysFrom(other: Window): () => void {
  const pass = (event: KeyboardEvent) => {
    const { key, code, ctrlKey, shiftKey, altKey, metaKey } = event;
    // Events of another window are of another window's class.
    const here = new KeyboardEvent('keydown', { key, code, ctrlKey, shiftKey, altKey, metaKey, bubbles: true, cancelable: true });
    if (!document.body.dispatchEvent(here)) event.preventDefault();
  };
  other.addEventListener('keydown', pass);
  return () => other.removeEventListener('keydown', pass);
}

const MOVED = new Set(['range', 'radio', 'checkbox']);

function isTaken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  if (document.querySelector('dialog[open]')) return true;
  // Sliders, boxes and choices keep the keys that move them; all others still decide.
  if (target instanceof HTMLInputElement && MOVED.has(target.type)) return event.key.startsWith('Arrow') || event.key === ' ';
  if (target.matches('input, textarea, select, [contenteditable]')) return true;
  if (target.matches('[role="tab"]') && ['ArrowLeft', 'ArrowRight', 'Home', 'End'].includes(event.key)) return true;
  return (event.key === ' ' || event.key === 'Enter') && target.matches('button, a, summary, [role="tab"]');
}
