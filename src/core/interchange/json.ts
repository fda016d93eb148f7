import { z } from 'zod';
import { parseJson } from '../contract/json.ts';
import { cutListSchema } from '../programme/cutlistSchema.ts';
import type { Handoff } from '../programme/handoff.ts';
import { type FrameRate, frames, framesDown, framesUp } from '../time/rate.ts';
import { InterchangeError, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';

/** Our own cut list, `zetemis.cutlist/1`: proposals with evidence and verdicts, pieces in seconds, settings. */
export const json: TimelineFormat = {
  id: 'json',
  label: 'Zetemis JSON',
  help: 'Everything: settings, proposals, reasons, verdicts and pieces in seconds.',
  mime: 'application/json; charset=utf-8',

  write({ cutList }: Handoff): WrittenFile[] {
    return [{ part: '', text: `${JSON.stringify(cutList, null, 1)}\n` }];
  },

  read([text]: readonly string[], rate: FrameRate): ReadTimeline {
    const value = parseJson(text ?? '', (why) => new InterchangeError(`Not JSON: ${why}`));
    const parsed = cutListSchema.safeParse(value);
    if (!parsed.success) throw new InterchangeError(`Not a cut list: ${z.prettifyError(parsed.error)}`);
    let record = 0;
    const { recordings = [] } = parsed.data;
    const events = parsed.data.pieces.map(({ start: from, end: to, rate: speed, hole, recording = 0 }) => {
      const place = recordings[recording]?.start ?? 0;
      const [start, end] = [from - place, to - place];
      const plain = speed === 1 && !hole;
      const sourceIn = plain ? framesDown(start, rate) : framesUp(start, rate);
      const sourceOut = plain ? framesUp(end, rate) : framesDown(end, rate);
      const recordIn = frames(record);
      record += Math.round((sourceOut - sourceIn) / speed);
      return {
        ...(recording > 0 && { source: recording }),
        sourceIn,
        sourceOut,
        recordIn,
        recordOut: frames(record),
        ...(hole && { hole }),
      };
    });
    return { title: '', clipName: parsed.data.media.name, events };
  },
};
