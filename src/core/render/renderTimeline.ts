import { plannedSource } from '../outputs/plan/carriers.ts';
import type { Meant, TimelineEvent } from '../outputs/plan/framePlan.ts';
import type { PlacedMedia } from '../outputs/plan/media.ts';
import type { Timeline } from '../outputs/plan/onTimeline.ts';
import type { Programme } from '../programme/programme.ts';
import { type FrameRate, frames, framesDown } from '../time/rate.ts';
import { framedPieces } from './frameGrid.ts';

/**
 * Where the words and chapters of a rendered programme are, for captions and chapters that go into its file. Unlike a timeline that is
 * handed over, whose pieces keep their first and last frame whole, it is as long as the sound.
 */
export function renderTimeline(files: readonly PlacedMedia[], programme: Programme, rate: FrameRate): Timeline {
  const events: TimelineEvent[] = [];
  const meant: Meant[] = [];
  for (const { piece, from: recordIn, to: recordOut, source } of framedPieces(files, programme, rate)) {
    const sourceIn = framesDown(piece.start - (files[source] as PlacedMedia).start, rate);
    const sourceOut = frames(sourceIn + Math.max(1, Math.round((recordOut - recordIn) * piece.rate)));
    const { hole, sound } = piece;
    meant.push({ start: piece.start, end: piece.end, event: events.length });
    events.push({ source, sourceIn, sourceOut, recordIn, recordOut, ...(hole && { hole }), ...(sound && { sound }) });
  }
  meant.sort((a, b) => a.start - b.start);
  const sources = files.map((file) => plannedSource(file, rate, []));
  return { events, meant, rate, sources, length: events.at(-1)?.recordOut ?? frames(0) };
}
