import { useEffect, useState } from 'react';
import type { ShownCaption } from '@/core/outputs/captions/preview.ts';
import { momentOnTimeline, type Timeline } from '@/core/outputs/plan/onTimeline.ts';
import { isHeard, type Programme } from '@/core/programme/programme.ts';
import { presentOf } from '@/core/sources/recording.ts';
import { firstAfter } from '@/core/time/range.ts';
import { mediaOf } from '../episode/session/angles.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

interface Shown {
  readonly timeline: Timeline;
  readonly captions: readonly ShownCaption[];
  readonly programme: Programme;
}

/** The caption at the playhead, as it will be handed over: on the frames of the timeline. */
export function CaptionOverlay() {
  const model = useModel();
  const style = useEpisode((s) => s.captions);
  const detail = useEpisode((s) => s.detail);
  const decisions = useEpisode((s) => s.decisions);
  const words = useEpisode((s) => s.words);
  const cut = useEpisode((s) => s.cut);
  const [shown, setShown] = useState<Shown>();
  const [caption, setCaption] = useState<ShownCaption>();

  // Other words are other captions.
  useEffect(() => {
    if (!style || !detail || !cut) return;
    let current = true;
    const { programme } = cut;
    const files = mediaOf(presentOf(detail.recordings, decisions.removed).filter(({ measured }) => measured));
    if (files.length > 0)
      void model.engine
        .captions(decisions, files, programme, style)
        .then((found) => current && found && setShown({ ...found, programme }));
    return () => {
      current = false;
    };
  }, [style, detail, decisions, words, cut, model]);

  useEffect(() => {
    if (!shown) return;
    const { timeline, captions, programme } = shown;
    return model.player.onTime((at) => {
      const frame = isHeard(programme, at) ? momentOnTimeline(timeline, at) : -1;
      const found = captions[firstAfter(captions.length, (k) => captions[k]?.from ?? 0, frame) - 1];
      setCaption(found && frame >= 0 && frame < found.to ? found : undefined);
    });
  }, [shown, model]);

  if (!caption) return null;
  return (
    <p
      data-caption
      className="pointer-events-none absolute inset-x-0 bottom-[5%] z-10 text-center text-base text-white leading-snug"
    >
      {caption.lines.map((line) => (
        <span key={line} className="block">
          <span className="box-decoration-clone bg-black/75 px-1.5 py-0.5">{line}</span>
        </span>
      ))}
    </p>
  );
}
