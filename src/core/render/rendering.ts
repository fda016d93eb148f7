import type { Break } from '../decisions/layout.ts';
import { captionsOf } from '../outputs/captions/captions.ts';
import { chapterMetadata } from '../outputs/captions/chapterFiles.ts';
import { subRip } from '../outputs/captions/files.ts';
import { masked } from '../outputs/captions/masking.ts';
import type { OutputInput } from '../outputs/outputs.ts';
import { shownAngles } from '../outputs/plan/carriers.ts';
import { chaptersOf } from '../outputs/plan/chapters.ts';
import type { PlacedMedia } from '../outputs/plan/media.ts';
import { wordsOnTimeline } from '../outputs/plan/onTimeline.ts';
import type { Cut } from '../programme/cutlist.ts';
import { seenBy } from '../programme/seen.ts';
import { silencesAmong, viewsOf } from '../programme/views.ts';
import type { Range } from '../time/range.ts';
import { type FrameRate, parseRate } from '../time/rate.ts';
import type { RenderChoices } from './choices.ts';
import { type MaskedBy, maskedRanges } from './masked.ts';
import { type PicturePlan, picturePlan } from './picturePlan.ts';
import type { SoundJoins } from './programmeSound.ts';
import { renderTimeline } from './renderTimeline.ts';

/** What a rendered file holds besides its sound. */
export interface RenderedBeside {
  readonly plan: PicturePlan;
  /** SubRip; empty without words, or where none are wanted */
  readonly captions: string;
  /** in ffmpeg's metadata format; empty where the programme has no chapters */
  readonly chapters: string;
  readonly masked: { readonly ranges: readonly Range[]; readonly by: MaskedBy } | undefined;
}

/** How the pieces of a cut are joined in its sound. */
export const joinsOf = ({ settings: { crossfade }, tones }: Pick<Cut, 'settings' | 'tones'>): SoundJoins => ({
  crossfade,
  tones,
});

/** Frames a second of a picture that no footage decides. */
const PLAIN_RATE: FrameRate = { num: 25, den: 1 };

/** The words of a programme, and how they are wanted in captions. */
export interface WordsInput extends Pick<OutputInput, 'transcript' | 'mask' | 'style' | 'partOf'> {
  /** words that are not to be heard, where that is chosen */
  readonly unheard: readonly string[];
}

/** What goes into a rendered file besides its sound: on the grid of its picture, which keeps its frame rate. */
export function renderedBeside(
  title: string,
  files: readonly PlacedMedia[],
  {
    programme,
    settings,
    proposals,
    seams = [],
    angles = [],
  }: Pick<Cut, 'programme' | 'settings' | 'proposals' | 'seams' | 'angles'>,
  breaks: readonly Break[],
  { transcript, mask, style, partOf, unheard }: WordsInput,
  choices: Pick<RenderChoices, 'captions' | 'masks'>,
): RenderedBeside {
  const own = files.find(({ media }) => media.hasVideo)?.media.frameRate;
  const rate = own === undefined ? PLAIN_RATE : parseRate(own);
  const timeline = renderTimeline(files, programme, rate);
  const seen = seenBy(programme, shownAngles(angles, files));
  const words = mask.length > 0 ? masked(transcript.words, mask) : transcript.words;
  const captions =
    choices.captions === 'none'
      ? []
      : captionsOf(wordsOnTimeline(timeline, words), timeline, style, { language: transcript.language, partOf });
  return {
    plan: picturePlan(files, seen, rate, viewsOf(seen, settings, seams, silencesAmong(proposals))),
    captions: captions.length === 0 ? '' : subRip({ captions, rate, language: transcript.language, title }),
    masked: choices.masks === 'nothing' ? undefined : { ranges: maskedRanges(transcript.words, unheard), by: choices.masks },
    chapters: breaks.length === 0 ? '' : chapterMetadata(chaptersOf({ ...timeline, title }, breaks), rate, title),
  };
}
