import Papa from 'papaparse';
import { z } from 'zod';
import { type FrameRate, frames, framesToSeconds } from '../../time/rate.ts';
import { formatTimecode } from '../../time/timecode.ts';
import { type FramePlan, sourceOf, speedOf, type TimelineEvent } from '../plan/framePlan.ts';
import { InterchangeError, lossesOf, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';
import { TIMELINE_NAMES } from './names.ts';
import { clipsOfEvents } from './readEvents.ts';

const COLUMNS = [
  'event',
  'clip',
  'source in',
  'source out',
  'record in',
  'record out',
  'source in frame',
  'source out frame',
  'record in frame',
  'record out frame',
  'source in seconds',
  'source out seconds',
  'speed',
  'shown',
  'sound',
] as const;

/** Whether picture and sound of a row are on the timeline. */
function shownAs({ hole, off, blind }: TimelineEvent): string {
  if (hole) return 'no';
  if (off) return blind ? 'off, sound' : 'off';
  return blind ? 'sound' : 'yes';
}

/** A row a kept piece, with the number of its file where there are several, and that of its picture where another is seen than the file's own, for spreadsheets and scripts: timecodes, frames from the start, and seconds (RFC 4180). */
export const csv: TimelineFormat = {
  id: 'csv',
  label: TIMELINE_NAMES.csv,
  help: 'A row for each kept piece, for spreadsheets and scripts.',
  mime: 'text/csv; charset=utf-8',

  write(plan: FramePlan): WrittenFile[] {
    const { sources, rate, mode, recordStart, events } = plan;
    const several = sources.length > 1;
    const hasAngles = events.some(({ angle }) => angle !== undefined);
    const timecode = (start: number, count: number) => formatTimecode(frames(start + count), rate, mode);
    const rows = events.map((event, index) => {
      const { sourceIn, sourceOut, recordIn, recordOut } = event;
      const { media, start } = sourceOf(plan, event);
      return [
        index + 1,
        media.name,
        timecode(start, sourceIn),
        timecode(start, sourceOut),
        timecode(recordStart, recordIn),
        timecode(recordStart, recordOut),
        sourceIn,
        sourceOut,
        recordIn,
        recordOut,
        framesToSeconds(sourceIn, rate).toFixed(6),
        framesToSeconds(sourceOut, rate).toFixed(6),
        speedOf(event).toFixed(6),
        shownAs(event),
        event.sound ?? (event.hole ? 'mute' : 'as it is'),
        ...(several ? [(event.source ?? 0) + 1] : []),
        ...(hasAngles ? [(event.angle ?? 0) + 1] : []),
      ];
    });
    // A file name that starts like a formula must not become one in a spreadsheet.
    const text = Papa.unparse(
      { fields: [...COLUMNS, ...(several ? ['file'] : []), ...(hasAngles ? ['picture'] : [])], data: rows },
      { newline: '\r\n', escapeFormulae: true },
    );
    return [{ part: '', text: `${text}\r\n` }];
  },

  refused: () => undefined,
  parts: () => [''],

  cannotCarry: (plan) => lossesOf(plan, { disabled: true }),

  read([text]: readonly string[], _rate: FrameRate): ReadTimeline {
    const { data, errors } = Papa.parse<Record<string, string>>((text ?? '').trim(), { header: true });
    if (errors[0]) throw new InterchangeError(`Row ${(errors[0].row ?? 0) + 2}: ${errors[0].message}`);
    const events = data.map((row, index) => {
      const counts = rowFrames.safeParse(row);
      if (!counts.success) throw new InterchangeError(`Row ${index + 2}: a frame count is missing or no whole number.`);
      const {
        'source in frame': sourceIn,
        'source out frame': sourceOut,
        'record in frame': recordIn,
        'record out frame': recordOut,
      } = counts.data;
      const source = Number(row.file ?? 1) - 1;
      const angle = Number(row.picture ?? 1) - 1;
      return {
        ...(source > 0 && { source }),
        sourceIn,
        sourceOut,
        recordIn,
        recordOut,
        ...(row.shown === 'no' && { hole: true as const }),
        ...(row.shown !== 'no' && isManner(row.sound) && { sound: row.sound }),
        ...(/sound$/.test(row.shown ?? '') && { blind: true as const }),
        ...(/^off/.test(row.shown ?? '') && { off: true as const }),
        ...(angle > 0 && { angle }),
      };
    });
    const names = new Map(data.map((row) => [Number(row.file ?? 1), row.clip ?? '']));
    const files = [...names].sort(([a], [b]) => a - b).map(([, name]) => ({ name }));
    const clips = clipsOfEvents(events, true);
    return { title: '', clipName: data[0]?.clip ?? '', rate: undefined, files, clips, events };
  },
};

const isManner = (text: string | undefined): text is 'mute' | 'along' | 'pitch' => /^(mute|along|pitch)$/.test(text ?? '');

const count = z
  .string()
  .regex(/^\d+$/)
  .transform((digits) => frames(Number(digits)));
const rowFrames = z.object({
  'source in frame': count,
  'source out frame': count,
  'record in frame': count,
  'record out frame': count,
});
