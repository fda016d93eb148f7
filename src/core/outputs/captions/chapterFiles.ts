import { cueTime } from '../../interchange/transcripts/lines.ts';
import { formatClock } from '../../time/clock.ts';
import type { FrameRate } from '../../time/rate.ts';
import type { Chapter } from '../plan/chapters.ts';
import { timelineSeconds } from '../plan/framePlan.ts';

const oneLine = (text: string): string => text.replaceAll(/[\p{Cc}\s]+/gu, ' ').trim();
const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('-->', '→');

/** Chapters as WebVTT (W3C): a cue each, its text the title. */
export function chapterCues(chapters: readonly Chapter[], rate: FrameRate): string {
  const time = (count: number) => cueTime(timelineSeconds({ rate }, count), '.');
  const cues = chapters.map(({ from, to, title }, k) => `${k + 1}\n${time(from)} --> ${time(to)}\n${escaped(oneLine(title))}\n`);
  return `WEBVTT\n\n${cues.join('\n')}`;
}

/** Chapters in ffmpeg's metadata format (`;FFMETADATA1`), times in frames. */
export function chapterMetadata(chapters: readonly Chapter[], { num, den }: FrameRate, title: string): string {
  const value = (text: string) => oneLine(text).replaceAll(/[=;#\\]/g, (sign) => `\\${sign}`);
  const sections = chapters.map(
    ({ from, to, title: name }) => `[CHAPTER]\nTIMEBASE=${den}/${num}\nSTART=${from}\nEND=${to}\ntitle=${value(name)}\n`,
  );
  return [';FFMETADATA1\n', `title=${value(title)}\n`, ...sections].join('');
}

/** Chapters as lines `0:00 Title`, as descriptions of videos list them. */
export const chapterList = (chapters: readonly Chapter[], rate: FrameRate): string =>
  chapters
    .map(({ from, title }) => `${formatClock(Math.floor(timelineSeconds({ rate }, from) + 1e-6))} ${oneLine(title)}\n`)
    .join('');
