// Written by scripts/fit/sync.ts: 126 stretches found in their own recording, a tenth of them under 17.6; 140 in another, the highest 6.2.

/** Deviations by which a shift must stand out. */
export const LEAST_HEIGHT = 10.4;
