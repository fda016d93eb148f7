import type { Transcript } from '../../transcript/word.ts';
import { readCues } from './cues.ts';
import type { TranscriptFormat } from './format.ts';
import { cueTime, linesOf } from './lines.ts';

/** SubRip captions: a number, the times of the line, the line. */
export const srt: TranscriptFormat = {
  id: 'srt',
  label: 'SubRip',
  help: 'Captions that nearly everything reads, timed by the line.',
  mime: 'application/x-subrip; charset=utf-8',
  looksLike: (text) => /^\uFEFF?\s*\d+\s*\r?\n(?:\d+:)?\d+:\d\d[,.]\d/.test(text),
  read: (text) => readCues(text, 'srt'),
  write({ words }: Transcript): string {
    const several = new Set(words.map((word) => word.speaker)).size > 1;
    let before = '';
    return linesOf(words)
      .map(({ start, end, speaker, words: said }, k) => {
        const name = several && speaker && speaker !== before ? `[${speaker.replaceAll(/[\][:\s]+/g, ' ').trim()}] ` : '';
        before = speaker;
        const text = said.map((word) => word.text.replaceAll('-->', '→')).join(' ');
        return `${k + 1}\n${cueTime(start, ',')} --> ${cueTime(Math.max(end, start + 0.001), ',')}\n${name}${text}\n`;
      })
      .join('\n');
  },
};
