import { z } from 'zod';
import { parseJson } from '../../contract/json.ts';
import { cutListSchema } from '../../programme/cutlistSchema.ts';
import { type FrameRate, formatRate, parseRateOr } from '../../time/rate.ts';
import { formatTimecode } from '../../time/timecode.ts';
import { picturesOf } from '../plan/carriers.ts';
import type { FramePlan, TimelineEvent } from '../plan/framePlan.ts';
import { InterchangeError, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';
import { TIMELINE_NAMES } from './names.ts';
import { clipsOfEvents } from './readEvents.ts';

/** Our own cut list, `zetemis.cutlist/1`: proposals with evidence and verdicts, pieces in seconds, settings, and the timeline in frames. */
export const json: TimelineFormat = {
  id: 'json',
  label: TIMELINE_NAMES.json,
  help: 'Everything: settings, proposals, reasons, verdicts, pieces in seconds, and the timeline in frames.',
  mime: 'application/json; charset=utf-8',

  write(plan: FramePlan): WrittenFile[] {
    const { cutList, rate, mode, recordStart, events, sources, markers } = plan;
    const timeline = {
      rate: formatRate(rate),
      counting: mode === 'drop' ? 'drop' : 'non-drop',
      recordStart: formatTimecode(recordStart, rate, mode),
      files: sources.map(({ media, start, reel, conformed, carriers }) => ({
        name: media.name,
        start: formatTimecode(start, rate, mode),
        reel,
        ...(conformed && { ownRate: media.conformedFrom ?? media.frameRate }),
        ...(carriers.length > 1 && {
          beside: carriers.slice(1).map((carrier, k) => ({
            name: carrier.media.name,
            start: formatTimecode(carrier.start, rate, mode),
            reel: carrier.reel,
            place: media.together?.beside[k]?.place,
            drift: media.together?.beside[k]?.drift,
            tracks: media.together?.beside[k]?.tracks,
            ...(carrier.media.hasVideo && { picture: picturesOf({ carriers }).indexOf(carrier) }),
          })),
        }),
      })),
      events,
      ...(markers.length > 0 && { markers }),
    };
    const { summary, ...list } = cutList;
    return [{ part: '', text: `${JSON.stringify({ ...list, timeline, summary }, null, 1)}\n` }];
  },

  refused: () => undefined,
  parts: () => [''],

  cannotCarry: () => [],

  read([text]: readonly string[], wanted: FrameRate): ReadTimeline {
    const value = parseJson(text ?? '', (why) => new InterchangeError(`Not JSON: ${why}`));
    const parsed = cutListSchema.safeParse(value);
    if (!parsed.success) throw new InterchangeError(`Not a cut list: ${z.prettifyError(parsed.error)}`);
    const { media, timeline } = parsed.data;
    if (!timeline) throw new InterchangeError('This cut list is of an older form, without a timeline in frames: write it again.');
    const events = timeline.events as TimelineEvent[];
    return {
      title: '',
      clipName: media.name,
      rate: parseRateOr(timeline.rate, wanted),
      files: timeline.files.map(({ name }) => ({ name })),
      clips: clipsOfEvents(events, media.frameRate !== undefined),
      events,
    };
  },
};
