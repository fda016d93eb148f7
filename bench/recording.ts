import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { execa } from 'execa';
import type { Word } from '@/core/transcript/word.ts';

const ROOT = join(import.meta.dirname, '..');
const FOLDER = join(ROOT, 'var', 'bench');
const SOURCE = join(ROOT, 'demo', 'media', 'carriage-clock');
export const HOURS = 3;

const FURTHER = ['brass', 'maybe', 'later', 'under', 'small', 'north', 'again', 'twice', 'there', 'only', 'wood'];

/** Long words are others in each round: a lesson that comes again every three minutes would be one take after another. */
const wordOf = (text: string, round: number): string =>
  text.replace(/^(\p{L}{4,})/u, `$1${String.fromCharCode(97 + (round % 26), 97 + Math.floor(round / 26))}`);

/** The three-hour recording that everything is measured on: the demo presenter over and over, with her words. */
export async function longRecording(): Promise<{ folder: string; aac: string; flac: string; words: string; wordCount: number }> {
  mkdirSync(FOLDER, { recursive: true });
  const seconds = HOURS * 3600;
  const flac = join(FOLDER, 'three-hours.flac');
  const aac = join(FOLDER, 'three-hours.m4a');
  const loop = ['-v', 'error', '-y', '-stream_loop', '-1', '-i', `${SOURCE}.mp4`, '-t', String(seconds), '-vn', '-ac', '2'];
  if (!existsSync(flac)) await execa('ffmpeg', [...loop, '-c:a', 'flac', flac]);
  if (!existsSync(aac)) {
    // Encoding three hours takes minutes: encode the lesson once and repeat the packets.
    const once = join(FOLDER, 'once.m4a');
    await execa('ffmpeg', ['-v', 'error', '-y', '-i', `${SOURCE}.mp4`, '-vn', '-ac', '2', '-c:a', 'aac', '-b:a', '160k', once]);
    await execa('ffmpeg', ['-v', 'error', '-y', '-stream_loop', '-1', '-i', once, '-t', String(seconds), '-c', 'copy', aac]);
  }
  const { duration } = JSON.parse(readFileSync(`${SOURCE}.truth.json`, 'utf8')) as { duration: number };
  const once = (JSON.parse(readFileSync(`${SOURCE}.words.json`, 'utf8')) as { words: Word[] }).words;
  const words: Word[] = [];
  for (let round = 0; round * duration < seconds; round++)
    for (const word of once) {
      const start = word.start + round * duration;
      // A few syllables more than the presenter says, to come to thirty thousand words.
      const halves = words.length % 9 === 0 ? 2 : 1;
      for (let part = 0; part < halves; part++)
        words.push({
          ...word,
          text: part === 0 ? wordOf(word.text, round) : (FURTHER[words.length % FURTHER.length] as string),
          start: start + (part * (word.end - word.start)) / halves,
          end: start + ((part + 1) * (word.end - word.start)) / halves,
        });
    }
  const inside = words.filter((word) => word.end < seconds);
  const path = join(FOLDER, 'three-hours.words.json');
  writeFileSync(path, JSON.stringify({ language: 'en', words: inside }));
  return { folder: FOLDER, aac, flac, words: path, wordCount: inside.length };
}
