import { useEffect, useState } from 'react';

/** Colours and faces that canvases draw with, read from the theme. */
export interface Ink {
  readonly kept: string;
  readonly out: string;
  readonly hatch: string;
  readonly pause: string;
  readonly hand: string;
  readonly filler: string;
  readonly spoken: string;
  readonly focus: string;
  readonly select: string;
  readonly playhead: string;
  readonly staff: string;
  /** what lies under everything */
  readonly paper: string;
  readonly wordFont: string;
  readonly timeFont: string;
}

function readInk(): Ink {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(`--ink-${name}`).trim();
  return {
    kept: colour('kept'),
    out: colour('out'),
    hatch: colour('hatch'),
    pause: colour('pause'),
    hand: colour('hand'),
    filler: colour('filler'),
    spoken: colour('spoken'),
    focus: colour('focus'),
    select: colour('select'),
    playhead: colour('playhead'),
    staff: colour('staff'),
    paper: style.getPropertyValue('--color-base-100').trim(),
    wordFont: '14px "Source Serif 4 Variable", Georgia, serif',
    timeFont: '11px "Spline Sans Mono Variable", ui-monospace, monospace',
  };
}

/** The present ink; changes with the theme, and once the shipped faces have loaded. */
export function useInk(): Ink {
  const [ink, setInk] = useState(readInk);
  useEffect(() => {
    const renew = () => setInk(readInk());
    window.addEventListener('themechange', renew);
    // Canvases, unlike text, do not wait for a face: ask for both, then paint again.
    void Promise.all([document.fonts.load(readInk().wordFont), document.fonts.load(readInk().timeFont)]).then(renew);
    return () => window.removeEventListener('themechange', renew);
  }, []);
  return ink;
}
