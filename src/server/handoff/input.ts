import type { Break } from '@/core/decisions/layout.ts';
import type { Section } from '@/core/detect/sections.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import type { HandoffOptions, HandoffScope } from '@/core/outputs/messages.ts';
import type { OutputInput } from '@/core/outputs/outputs.ts';
import { type FramePlan, planFrames } from '@/core/outputs/plan/framePlan.ts';
import { locationIn } from '@/core/outputs/plan/location.ts';
import { withLooks } from '@/core/outputs/plan/looks.ts';
import { withMarkers } from '@/core/outputs/plan/markers.ts';
import { filesIn, handoffMedia, locatedMedia, type PlacedMedia } from '@/core/outputs/plan/media.ts';
import type { Cut } from '@/core/programme/cutlist.ts';
import { partsOf, within, withinClock } from '@/core/programme/parts.ts';
import type { Piece } from '@/core/programme/programme.ts';
import { presentOf } from '@/core/sources/recording.ts';
import { formatClock } from '@/core/time/clock.ts';
import { parseRate } from '@/core/time/rate.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import { type Episode, type EpisodeRecording, measuredOf, onClock } from '../episodes/episode.ts';
import { masksFor } from '../episodes/masks.ts';
import type { FoundCut } from '../episodes/snapshots.ts';
import { Refusal } from '../refusal.ts';
import { speechParts } from '../speechParts.ts';
import { optionsOf } from './options.ts';

/** An episode ready to be handed over, in whole or in parts. */
export interface Handoff {
  readonly episode: Episode;
  readonly title: string;
  /** those that are part of the programme, in the order of `files` */
  readonly recordings: readonly EpisodeRecording[];
  readonly files: readonly PlacedMedia[];
  readonly cut: Cut;
  readonly transcript: Transcript;
  readonly breaks: readonly Break[];
  readonly ranges: readonly Section[];
  readonly options: HandoffOptions;
}

/** @param changed what is chosen otherwise than it is kept, for this once */
export async function handoffOf(found: FoundCut, changed: Partial<HandoffOptions> = {}): Promise<Handoff> {
  const { episode, cut, layout, ranges = [], transcript } = found;
  // What was removed is no part of the timeline, nor does it decide its frame rate.
  const recordings = presentOf(measuredOf(episode), layout.removed);
  if (recordings.length === 0) throw new Refusal(409, 'All recordings were removed from this episode: put one back.');
  const options = { ...(await optionsOf(episode.id)), ...changed };
  return {
    episode,
    title: episode.title,
    recordings,
    files: recordings.map((recording) => placed(recording, options.folder)),
    cut,
    transcript: transcript(),
    breaks: layout.breaks,
    ranges,
    options,
  };
}

/** A file that lies in a folder of the server is in the same place below the folder that its reader has. */
function placed(recording: EpisodeRecording, folder: string): PlacedMedia {
  const { fileName, medium } = recording;
  const { start, end } = onClock(recording);
  const media = handoffMedia(fileName, medium.facts, medium.duration);
  if (folder === '') return { start, end, media };
  const together = filesIn(medium.facts);
  const files = together.length > 0 ? together : [{ name: media.name, linkedPath: medium.linkedPath }];
  const paths = files.map(({ name, linkedPath }) => linkedPath ?? name);
  return { start, end, media: locatedMedia(media, paths, (path) => locationIn(folder, path)) };
}

/** What outputs are written from, for one part of an episode or for all of it. */
export async function inputOf(handoff: Handoff, scope: HandoffScope = {}): Promise<OutputInput> {
  const { cut, options } = handoff;
  const { title, programme, suffix } = scoped(handoff, scope);
  // Of a part there are no chapters: it is one.
  const breaks = suffix === '' ? handoff.breaks : [];
  const plan = planOrRefuse({ ...handoff, title, cut: { ...cut, programme } }, suffix === '' ? undefined : cut.programme.pieces);
  return {
    plan: withMarkers({ ...plan, stem: `${plan.stem}${suffix}` }, cut.proposals, breaks, options.markers),
    breaks,
    ...(await captionInputOf(handoff)),
  };
}

/** The words of an episode, and how they are shown in captions. */
export async function captionInputOf({ transcript, options }: Handoff): Promise<Omit<OutputInput, 'plan' | 'breaks'>> {
  const isEnglish = baseLanguage(transcript.language) === 'en';
  if (isEnglish) await speechParts.load();
  return {
    transcript,
    mask: options.mask ? await masksFor(transcript.language) : [],
    style: options.captions,
    ...(isEnglish && { partOf: speechParts.of }),
  };
}

/** The programme of a part or of a marked range, with what its files are told apart by. */
export function scoped({ title, cut, breaks, ranges }: Handoff, { part, range }: HandoffScope) {
  if (part !== undefined) {
    const chosen = partsOf(cut.programme, breaks)[part - 1];
    if (!chosen) throw new Refusal(404, 'There is no such part.');
    return { title: `${title}: ${chosen.title}`, programme: within(cut.programme, chosen), suffix: `-part${part}` };
  }
  if (range !== undefined) {
    const index = ranges.findIndex(({ id }) => id === range);
    const chosen = ranges[index];
    if (!chosen) throw new Refusal(404, 'There is no such marked range.');
    const programme = withinClock(cut.programme, chosen.about);
    if (programme.pieces.length === 0) throw new Refusal(409, 'Nothing is left of that marked range.');
    return { title: `${title}: from ${formatClock(chosen.about.start)}`, programme, suffix: `-range${index + 1}` };
  }
  return { title, programme: cut.programme, suffix: '' };
}

function planOrRefuse(
  { title, files, cut, options }: Pick<Handoff, 'title' | 'files' | 'cut' | 'options'>,
  whole: readonly Piece[] | undefined,
): FramePlan {
  const { rate, recordStart, reel, removed, followers, centre, cleanedTracks: cleaned } = options;
  try {
    const plan = planFrames(title, files, cut, {
      rate: rate === null ? undefined : parseRate(rate),
      recordStart: recordStart || undefined,
      reel,
      removed,
      followers,
      cleaned,
      whole,
    });
    return withLooks(plan, cut, centre);
  } catch (error) {
    if (error instanceof RangeError) throw new Refusal(400, error.message);
    throw error;
  }
}
