import { baseLanguage } from '../../detect/words/lexicon.ts';
import type { PartOf } from '../../detect/words/partsOfSpeech.ts';
import type { Programme } from '../../programme/programme.ts';
import type { Transcript } from '../../transcript/word.ts';
import { timelineOf } from '../plan/framePlan.ts';
import type { PlacedMedia } from '../plan/media.ts';
import { type Timeline, wordsOnTimeline } from '../plan/onTimeline.ts';
import { captionsOf } from './captions.ts';
import type { CaptionStyle } from './style.ts';

/** A caption as it is shown: frames of the timeline, and lines of text. */
export interface ShownCaption {
  readonly from: number;
  readonly to: number;
  readonly lines: readonly string[];
}

/** The captions of a programme on its timeline, as they will be handed over. */
export function captionPreview(
  files: readonly PlacedMedia[],
  programme: Pick<Programme, 'pieces'>,
  { words, language }: Transcript,
  style: CaptionStyle,
  english: PartOf,
): { readonly timeline: Timeline; readonly captions: readonly ShownCaption[] } {
  const timeline = timelineOf(files, programme);
  const partOf = baseLanguage(language) === 'en' ? english : undefined;
  const captions = captionsOf(wordsOnTimeline(timeline, words), timeline, style, { language, partOf });
  return {
    timeline,
    captions: captions.map(({ from, to, speaker, isOther, lines }) => ({
      from,
      to,
      lines: lines.map((line, k) => {
        const text = line.map(({ word }) => word.text).join(' ');
        return k === 0 && isOther && speaker ? `${speaker}: ${text}` : text;
      }),
    })),
  };
}
