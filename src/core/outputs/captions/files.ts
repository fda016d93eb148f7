import { cueTime } from '../../interchange/transcripts/lines.ts';
import { type FrameRate, nominalRate } from '../../time/rate.ts';
import { timelineSeconds } from '../plan/framePlan.ts';
import type { PlacedWord } from '../plan/onTimeline.ts';
import { escapedXml } from '../timelines/xmlText.ts';
import type { Caption } from './captions.ts';

/** What a caption file says besides its captions. */
export interface CaptionFile {
  readonly captions: readonly Caption[];
  readonly rate: FrameRate;
  readonly language: string;
  readonly title: string;
}

/** Frames are told to the millisecond nearest to their start, which no other frame is nearer to at any rate of pictures. */
const timeOf = ({ rate }: Pick<CaptionFile, 'rate'>, count: number, sign: '.' | ','): string =>
  cueTime(timelineSeconds({ rate }, count), sign);

const textOf = (line: readonly PlacedWord[]): string => line.map(({ word }) => word.text).join(' ');
const oneLine = (text: string): string => text.replaceAll(/\s+/g, ' ').trim();

/** SubRip: a number, the times, the lines; the name of who speaks in brackets where it is another. */
export const subRip = (file: CaptionFile): string =>
  file.captions
    .map(({ from, to, lines, speaker, isOther }, k) => {
      const name = isOther && speaker ? `[${oneLine(speaker.replaceAll(/[\][:]/g, ' '))}] ` : '';
      const text = lines.map((line) => textOf(line).replaceAll('-->', '→')).join('\n');
      return `${k + 1}\n${timeOf(file, from, ',')} --> ${timeOf(file, to, ',')}\n${name}${text}\n`;
    })
    .join('\n');

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

/** WebVTT (W3C), with who speaks, and the time of each word inside its cue. */
export function webVtt(file: CaptionFile): string {
  const cues = file.captions.map(({ from, to, lines, speaker }) => {
    // A time inside a cue must lie inside it, and behind the one before.
    let latest = from;
    const text = lines
      .map((line) =>
        line
          .map(({ word, from: at }) => {
            const isLater = at > latest && at < to;
            if (isLater) latest = at;
            return `${isLater ? `<${timeOf(file, at, '.')}>` : ''}${escaped(word.text)}`;
          })
          .join(' '),
      )
      .join('\n');
    const voice = speaker ? `<v ${escaped(oneLine(speaker))}>` : '';
    return `${timeOf(file, from, '.')} --> ${timeOf(file, to, '.')}\n${voice}${text}\n`;
  });
  return `WEBVTT\n\n${cues.join('\n')}`;
}

/** TTML (W3C), with times in frames of the timeline. */
export function ttml({ captions, rate, language, title }: CaptionFile): string {
  const speakers = [...new Set(captions.map(({ speaker }) => speaker).filter(Boolean))];
  const agents = speakers.map(
    (name, k) =>
      `<ttm:agent xml:id="speaker${k + 1}" type="person"><ttm:name type="full">${escapedXml(name)}</ttm:name></ttm:agent>`,
  );
  const paragraphs = captions.map(({ from, to, lines, speaker }) => {
    const agent = speaker ? ` ttm:agent="speaker${speakers.indexOf(speaker) + 1}"` : '';
    return `<p begin="${from}f" end="${to}f"${agent}>${lines.map((line) => escapedXml(textOf(line))).join('<br/>')}</p>`;
  });
  const multiplier = rate.den === 1 ? '1 1' : `${Math.round(rate.num / nominalRate(rate))} ${rate.den}`;
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" xmlns:ttm="http://www.w3.org/ns/ttml#metadata" xml:lang="${escapedXml(language)}" ttp:timeBase="media" ttp:frameRate="${nominalRate(rate)}" ttp:frameRateMultiplier="${multiplier}">`,
    `<head><metadata><ttm:title>${escapedXml(title)}</ttm:title>${agents.join('')}</metadata></head>`,
    '<body><div>',
    ...paragraphs,
    '</div></body>',
    '</tt>',
    '',
  ].join('\n');
}
