import { type Handoff, type HandoffSource, sourceOf, speedOf, type TimelineEvent } from '../programme/handoff.ts';
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
 * black, with what it leaves out in a comment. Where there are several files each has a reel of its own, and the start of each stands
 * in a comment.
 */
export const edl: TimelineFormat = {
  id: 'edl',
  label: 'CMX 3600 EDL',
  help: 'Read by nearly every editing program. A reel for each file; speed changes as M2 lines, holes as black.',
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
    const others = startsIn(texts[0] ?? '', rate);
    const reels = [...others.keys()];
    const sourceIn = (reel: string | undefined) => {
      const source = reels.indexOf(reel ?? '') + 1;
      return source > 0 ? { source } : {};
    };
    for (const text of texts) {
      for (const [number, line] of text.split(/\r?\n/).entries()) {
        if (line.startsWith('TITLE:'))
          title ||= line
            .slice(6)
            .replace(/ \(part \d+\)$/, '')
            .trim();
        else if (line.startsWith('* FROM CLIP NAME:')) clipName ||= line.slice(17).trim();
        else if (line.startsWith('* LEFT OUT') && lines.length > 0) {
          const { recordIn, recordOut } = lines.pop() as TimelineEvent;
          const [from, to] = timecodesIn(line, 2, number + 1, rate) as [Frames, Frames];
          const source = sourceIn(/^\* LEFT OUT OF (\S+):/.exec(line)?.[1]);
          lines.push({ ...source, sourceIn: from, sourceOut: to, recordIn, recordOut, hole: true });
        } else if (/^\d{3}\s/.test(line)) {
          const [from, to, recordIn, recordOut] = timecodesIn(line, 4, number + 1, rate) as [Frames, Frames, Frames, Frames];
          lines.push({ ...sourceIn(line.split(/\s+/)[1]), sourceIn: from, sourceOut: to, recordIn, recordOut });
        }
      }
    }
    const first = headerCount(texts[0], 'SOURCE START', rate);
    const recordStart = lines[0]?.recordIn ?? frames(0);
    const from = (count: Frames, start: Frames) => frames(count - start);
    return {
      title,
      clipName,
      events: lines.map((event) => {
        const start = event.source ? (others.get(reels[event.source - 1] as string) as Frames) : first;
        return {
          ...event,
          sourceIn: from(event.sourceIn, start),
          sourceOut: from(event.sourceOut, start),
          recordIn: from(event.recordIn, recordStart),
          recordOut: from(event.recordOut, recordStart),
        };
      }),
    };
  },
};

/** Where the files begin that are not the first, by their reels. */
function startsIn(text: string, rate: FrameRate): Map<string, Frames> {
  const lines = [...text.matchAll(/^\* SOURCE START OF (\S+): (\S+)/gm)];
  return new Map(lines.map(([, reel, label]) => [reel as string, parseTimecode(label as string, rate).count]));
}

function writePart(handoff: Handoff, events: readonly TimelineEvent[], part: number): string {
  const { title, media, sources, rate, mode, recordStart } = handoff;
  const reels = reelNames(sources);
  const [channels, more] = channelsOf(media.hasVideo, media.tracks);
  const timecode = (count: number) => formatTimecode(frames(count), rate, mode);
  const lines = [
    `TITLE: ${oneLine(title)}${part > 0 ? ` (part ${part})` : ''}`,
    `FCM: ${mode === 'drop' ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
    `* FRAME RATE: ${spokenRate(rate)}`,
    `* SOURCE START: ${timecode((sources[0] as HandoffSource).start)}`,
    ...sources.slice(1).map(({ start }, k) => `* SOURCE START OF ${(reels[k + 1] as string).trim()}: ${timecode(start)}`),
  ];
  for (const [index, event] of events.entries()) {
    const { start, media: file } = sourceOf(handoff, event);
    const reel = reels[event.source ?? 0] as string;
    const number = String(index + 1).padStart(3, '0');
    const span = `${timecode(start + event.sourceIn)} ${timecode(start + event.sourceOut)}`;
    const source = event.hole ? `${timecode(0)} ${timecode(event.recordOut - event.recordIn)}` : span;
    const record = `${timecode(recordStart + event.recordIn)} ${timecode(recordStart + event.recordOut)}`;
    lines.push(`${number}  ${event.hole ? BLACK : reel} ${channels.padEnd(5)} C        ${source} ${record}`);
    if (more) lines.push(more);
    if (event.hole) {
      lines.push(`* LEFT OUT${event.source ? ` OF ${reel.trim()}` : ''}: ${span}`);
      continue;
    }
    const speed = speedOf(event);
    if (speed !== 1)
      lines.push(
        `M2   ${reel} ${(speed * nominalRate(rate)).toFixed(1).padStart(5, '0')}                ${timecode(start + event.sourceIn)}`,
      );
    lines.push(`* FROM CLIP NAME: ${oneLine(file.name)}`);
  }
  return `${lines.join('\r\n')}\r\n`;
}

/** A reel for each file; files whose names begin alike are told apart by a number at the end. */
function reelNames(sources: readonly HandoffSource[]): string[] {
  const names: string[] = [];
  for (const { media } of sources) {
    const plain = reelName(media.name);
    let name = plain;
    for (let k = 2; names.includes(name); k++) {
      const number = String(k);
      name = `${plain.trim().slice(0, 8 - number.length)}${number}`.padEnd(8);
    }
    names.push(name);
  }
  return names;
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
