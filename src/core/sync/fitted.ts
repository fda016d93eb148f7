// Written by scripts/fit/sync.ts: 126 stretches found in their own recording, a tenth of them under 20.3; 144 in another, the highest 6.9.

/** Deviations by which a shift must stand out. */
export const LEAST_HEIGHT = 11.9;
