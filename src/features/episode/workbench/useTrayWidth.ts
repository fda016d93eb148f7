import { type KeyboardEvent, type PointerEvent, useEffect, useState } from 'react';

const KEPT_AS = 'zetemis:tray-width';
const [USUAL, LEAST] = [348, 300];
/** What the score keeps beside it. */
const SCORE_LEAST = 360;
const STEP = 24;

const most = (): number => Math.max(LEAST, window.innerWidth - SCORE_LEAST);
const within = (width: number): number => Math.round(Math.max(LEAST, Math.min(most(), width)));

/** How wide the trays are: pulled at their edge, or moved by arrow keys on it, and kept in this browser. */
export function useTrayWidth() {
  const [width, setWidth] = useState(USUAL);
  useEffect(() => {
    const kept = Number(localStorage.getItem(KEPT_AS));
    if (kept > 0) setWidth(within(kept));
    const keepWithin = () => setWidth(within);
    keepWithin();
    window.addEventListener('resize', keepWithin);
    return () => window.removeEventListener('resize', keepWithin);
  }, []);
  const put = (wanted: number) => {
    const next = within(wanted);
    setWidth(next);
    localStorage.setItem(KEPT_AS, String(next));
  };
  const wantedBy = (key: string): number | undefined =>
    ({ ArrowLeft: width + STEP, ArrowRight: width - STEP, Home: most(), End: LEAST })[key];
  return {
    width,
    tabIndex: 0,
    'aria-orientation': 'vertical' as const,
    'aria-label': 'Width of the trays',
    'aria-valuenow': width,
    'aria-valuemin': LEAST,
    'aria-valuemax': typeof window === 'undefined' ? width : most(),
    className:
      'absolute inset-y-0 -left-1 z-10 m-0 h-full w-2 cursor-col-resize border-0 hover:bg-base-300 focus-visible:bg-base-300 max-sm:hidden',
    onPointerDown: (event: PointerEvent<HTMLElement>) => event.currentTarget.setPointerCapture(event.pointerId),
    onPointerMove: (event: PointerEvent<HTMLElement>) => event.buttons === 1 && put(window.innerWidth - event.clientX),
    onDoubleClick: () => put(USUAL),
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const to = wantedBy(event.key);
      if (to === undefined) return;
      event.preventDefault();
      event.stopPropagation();
      put(to);
    },
  };
}
