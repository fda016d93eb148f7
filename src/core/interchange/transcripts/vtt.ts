import type { Transcript } from '../../transcript/word.ts';
import { readCues } from './cues.ts';
import type { TranscriptFormat } from './format.ts';
import { cueTime, linesOf } from './lines.ts';

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
/** A voice may hold anything but the end of its own mark, and no line break. */
const voice = (speaker: string): string => escaped(speaker.replaceAll(/\s+/g, ' '));

/** WebVTT (W3C), with the time of each word inside its cue. */
export const vtt: TranscriptFormat = {
  id: 'vtt',
  label: 'WebVTT',
  help: 'Captions for the web, with the time of each word.',
  mime: 'text/vtt; charset=utf-8',
  looksLike: (text) => /^\uFEFF?WEBVTT/.test(text),
  read: (text) => readCues(/^\uFEFF?WEBVTT/.test(text) ? text : `WEBVTT\n\n${text}`, 'vtt'),
  write({ words }: Transcript): string {
    const cues = linesOf(words).map(({ start, end, speaker, words: said }) => {
      const text = said.map((word, k) => `${k > 0 ? `<${cueTime(word.start, '.')}>` : ''}${escaped(word.text)}`).join(' ');
      const until = Math.max(end, start + 0.001, ...said.map((word) => word.start + 0.001));
      return `${cueTime(start, '.')} --> ${cueTime(until, '.')}\n${speaker ? `<v ${voice(speaker)}>` : ''}${text}\n`;
    });
    return `WEBVTT\n\n${cues.join('\n')}`;
  },
};
