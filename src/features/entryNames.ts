import type { DecisionEvent } from '@/core/decisions/event.ts';

/** What an entry of the log is called. */
const NAMES: Readonly<Record<DecisionEvent['type'], string>> = {
  verdict: 'A verdict',
  verdicts: 'Verdicts on several places',
  treat: 'A treatment',
  edge: 'An edge that was moved',
  cut: 'A cut by hand',
  seam: 'A look of a seam',
  cuts: 'Cuts by hand at several places',
  split: 'A split',
  angle: 'A picture that is seen',
  correct: 'A correction of words',
  found: 'Where corrected words are said',
  speaker: 'A speaker’s name',
  takes: 'A choice of takes',
  setting: 'A setting',
  settings: 'A set of settings',
  lessons: 'Lessons',
  heard: 'What was listened to',
  airKept: 'Air that stays as it is',
  section: 'A marked range',
  unmark: 'A marked range that was let go',
  recording: 'A recording removed or put back',
  move: 'A passage that was moved',
  sendBack: 'A passage that was sent back',
  collect: 'A passage that is wanted',
  collecting: 'Collecting',
  break: 'A part',
  unbreak: 'A part that was joined',
  undo: 'A step that was taken back',
  redo: 'A step that was brought back',
};

export const entryName = (type: string | undefined): string => NAMES[type as DecisionEvent['type']] ?? 'An entry';
