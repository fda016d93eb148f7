import type { Detector } from './detector.ts';
export const heard: Detector<undefined> = { kind: 'filler', prepare: () => undefined, detect: () => [] };
