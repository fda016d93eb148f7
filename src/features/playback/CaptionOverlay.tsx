import { useEffect, useMemo, useState } from 'react';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { speechPartOf } from '@/core/detect/words/partsOfSpeech.ts';
import { type Caption, captionsOf } from '@/core/outputs/captions/captions.ts';
import { timelineOf } from '@/core/outputs/plan/framePlan.ts';
import { handoffMedia } from '@/core/outputs/plan/media.ts';
import { momentOnTimeline, wordsOnTimeline } from '@/core/outputs/plan/onTimeline.ts';
import { isHeard } from '@/core/programme/programme.ts';
import { presentOf } from '@/core/sources/recording.ts';
import { firstAfter } from '@/core/time/range.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** The caption at the playhead, as it will be handed over: on the frames of the timeline. */
export function CaptionOverlay() {
  const model = useModel();
  const style = useEpisode((s) => s.captions);
  const detail = useEpisode((s) => s.detail);
  const removed = useEpisode((s) => s.decisions.removed);
  const words = useEpisode((s) => s.words);
  const cut = useEpisode((s) => s.cut);
  const shown = useMemo(() => {
    if (!style || !detail || !cut) return undefined;
    const files = presentOf(detail.recordings, removed)
      .filter(({ measured }) => measured)
      .map(({ place, duration, fileName, facts }) => ({
        start: place,
        end: place + duration,
        media: handoffMedia(fileName, facts, duration),
      }));
    if (files.length === 0) return undefined;
    const timeline = timelineOf(files, cut.programme);
    const partOf = baseLanguage(model.language) === 'en' ? speechPartOf : undefined;
    const captions = captionsOf(wordsOnTimeline(timeline, words), timeline, style, { language: model.language, partOf });
    return { timeline, captions, programme: cut.programme };
  }, [style, detail, removed, words, cut, model]);
  const [caption, setCaption] = useState<Caption>();
  useEffect(() => {
    if (!shown) return setCaption(undefined);
    const { timeline, captions, programme } = shown;
    return model.player.onTime((at) => {
      const frame = isHeard(programme, at) ? momentOnTimeline(timeline, at) : -1;
      const found = captions[firstAfter(captions.length, (k) => (captions[k] as Caption).from, frame) - 1];
      setCaption(found && frame >= 0 && frame < found.to ? found : undefined);
    });
  }, [shown, model]);
  if (!caption) return null;
  return (
    <p
      data-caption
      className="pointer-events-none absolute inset-x-0 bottom-[5%] z-10 text-center font-sans text-base text-white leading-snug"
    >
      {caption.lines.map((line, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines of one caption have no other name
        <span key={k} className="block">
          <span className="box-decoration-clone bg-black/75 px-1.5 py-0.5">
            {k === 0 && caption.isOther && caption.speaker ? `${caption.speaker}: ` : ''}
            {line.map(({ word }) => word.text).join(' ')}
          </span>
        </span>
      ))}
    </p>
  );
}
