import { type Handoff, speedOf, type TimelineEvent } from '../assemble/handoff.ts';
import { type FrameRate, type Frames, frames, nominalRate, spokenRate } from '../time/rate.ts';
import { formatTimecode, parseTimecode } from '../time/timecode.ts';
import { InterchangeError, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';

/** Event numbers have three digits. */
const MOST_EVENTS = 999;
/** ... and frame numbers two. */
const MOST_FRAMES = 100;
/** Reel of events that show nothing. */
const BLACK = 'BL'.padEnd(8);

/**
 * CMX 3600 edit decision list (ANSI/SMPTE 258M): a line an event with number, reel, channels, transition, source in
 * and out, record in and out. The list knows neither the frame rate nor file names; both go into comments. An event
 * that runs faster is followed by an `M2` line with its speed in frames a second; a hole is an event of the reel `BL`,
 * black, with what it leaves out in a comment.
 */
export const edl: TimelineFormat = {
  id: 'edl',
  label: 'CMX 3600 EDL',
  help: 'Read by nearly every editing program. One reel; speed changes as M2 lines, holes as black.',
  mime: 'text/plain; charset=utf-8',

  write(handoff: Handoff): WrittenFile[] {
    if (nominalRate(handoff.rate) > MOST_FRAMES)
      throw new InterchangeError(`An edit decision list counts at most 100 frames a second, not ${spokenRate(handoff.rate)}.`);
    const parts = Math.max(1, Math.ceil(handoff.events.length / MOST_EVENTS));
    return Array.from({ length: parts }, (_, part) => ({
      part: parts > 1 ? `-${part + 1}` : '',
      text: writePart(handoff, handoff.events.slice(part * MOST_EVENTS, (part + 1) * MOST_EVENTS), parts > 1 ? part + 1 : 0),
    }));
  },

  read(texts: readonly string[], rate: FrameRate): ReadTimeline {
    let title = '';
    let clipName = '';
    const lines: TimelineEvent[] = [];
    for (const text of texts) {
      for (const [number, line] of text.split(/\r?\n/).entries()) {
        if (line.startsWith('TITLE:'))
          title ||= line
            .slice(6)
            .replace(/ \(part \d+\)$/, '')
            .trim();
        else if (line.startsWith('* FROM CLIP NAME:')) clipName ||= line.slice(17).trim();
        else if (line.startsWith('* LEFT OUT:') && lines.length > 0) {
          const { recordIn, recordOut } = lines.pop() as TimelineEvent;
          const [sourceIn, sourceOut] = timecodesIn(line, 2, number + 1, rate);
          lines.push({ sourceIn: sourceIn as Frames, sourceOut: sourceOut as Frames, recordIn, recordOut, hole: true });
        } else if (/^\d{3}\s/.test(line)) {
          const [sourceIn, sourceOut, recordIn, recordOut] = timecodesIn(line, 4, number + 1, rate) as [
            Frames,
            Frames,
            Frames,
            Frames,
          ];
          lines.push({ sourceIn, sourceOut, recordIn, recordOut });
        }
      }
    }
    const [sourceStart, recordStart] = [headerCount(texts[0], 'SOURCE START', rate), lines[0]?.recordIn ?? frames(0)];
    const from = (count: Frames, start: Frames) => frames(count - start);
    return {
      title,
      clipName,
      events: lines.map((event) => ({
        ...event,
        sourceIn: from(event.sourceIn, sourceStart),
        sourceOut: from(event.sourceOut, sourceStart),
        recordIn: from(event.recordIn, recordStart),
        recordOut: from(event.recordOut, recordStart),
      })),
    };
  },
};

function writePart(handoff: Handoff, events: readonly TimelineEvent[], part: number): string {
  const { title, media, rate, mode, sourceStart, recordStart } = handoff;
  const reel = reelName(media.name);
  const [channels, more] = channelsOf(media.hasVideo, media.tracks);
  const timecode = (count: number) => formatTimecode(frames(count), rate, mode);
  const lines = [
    `TITLE: ${oneLine(title)}${part > 0 ? ` (part ${part})` : ''}`,
    `FCM: ${mode === 'drop' ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
    `* FRAME RATE: ${spokenRate(rate)}`,
    `* SOURCE START: ${timecode(sourceStart)}`,
  ];
  for (const [index, event] of events.entries()) {
    const number = String(index + 1).padStart(3, '0');
    const span = `${timecode(sourceStart + event.sourceIn)} ${timecode(sourceStart + event.sourceOut)}`;
    const source = event.hole ? `${timecode(0)} ${timecode(event.recordOut - event.recordIn)}` : span;
    const record = `${timecode(recordStart + event.recordIn)} ${timecode(recordStart + event.recordOut)}`;
    lines.push(`${number}  ${event.hole ? BLACK : reel} ${channels.padEnd(5)} C        ${source} ${record}`);
    if (more) lines.push(more);
    if (event.hole) {
      lines.push(`* LEFT OUT: ${span}`);
      continue;
    }
    const speed = speedOf(event);
    if (speed !== 1)
      lines.push(
        `M2   ${reel} ${(speed * nominalRate(rate)).toFixed(1).padStart(5, '0')}                ${timecode(sourceStart + event.sourceIn)}`,
      );
    lines.push(`* FROM CLIP NAME: ${oneLine(media.name)}`);
  }
  return `${lines.join('\r\n')}\r\n`;
}

/** Eight letters or digits, of which the reel column has room for no more. */
function reelName(fileName: string): string {
  const stem = fileName.replace(/\.[^.]*$/, '').toUpperCase();
  return (stem.replace(/[^A-Z0-9]/g, '').slice(0, 8) || 'REEL').padEnd(8);
}

/** Channel column, and the `AUD` line that carries audio channels three and four. */
function channelsOf(hasVideo: boolean, tracks: number): [channels: string, more: string | undefined] {
  const base = hasVideo ? (tracks === 1 ? 'B' : 'AA/V') : tracks === 1 ? 'A' : 'AA';
  return [base, tracks > 2 ? `AUD  3${tracks > 3 ? ' 4' : ''}` : undefined];
}

/** Nothing from a file name or title may start a line of its own or turn the text around. */
const oneLine = (text: string): string => text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]+/gu, ' ').trim();

function timecodesIn(line: string, wanted: number, number: number, rate: FrameRate): Frames[] {
  const labels = line.match(/\d{2}:\d{2}:\d{2}[:;]\d{2}/g);
  if (labels?.length !== wanted) throw new InterchangeError(`Line ${number}: ${wanted} timecodes are needed here.`);
  try {
    return labels.map((label) => parseTimecode(label, rate).count);
  } catch (error) {
    throw new InterchangeError(`Line ${number}: ${(error as Error).message}`);
  }
}

function headerCount(text: string | undefined, name: string, rate: FrameRate): Frames {
  const label = text?.match(new RegExp(`^\\* ${name}: (\\S+)`, 'm'))?.[1];
  return label ? parseTimecode(label, rate).count : frames(0);
}
