import type { HandoffView } from '@/core/contract/messages.ts';
import { InterchangeError, type TimelineFormat, type WrittenFile } from '@/core/interchange/format.ts';
import { FORMATS, fileNameFor } from '@/core/interchange/registry.ts';
import { type Handoff, type HandoffSource, handOff } from '@/core/programme/handoff.ts';
import { partsOf, within } from '@/core/programme/parts.ts';
import { masked, wordsLeft } from '@/core/programme/transcriptOut.ts';
import { presentOf } from '@/core/sources/recording.ts';
import { formatRate, frames, framesToSeconds, parseRate } from '@/core/time/rate.ts';
import { formatTimecode } from '@/core/time/timecode.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import { handoffMedia } from '../media/material.ts';
import { Refusal } from '../refusal.ts';
import { type EpisodeRecording, findEpisode, measuredOf, onClock } from './episode.ts';
import { stateOfFile } from './files.ts';
import { masksFor } from './masks.ts';
import { wholeCut } from './snapshots.ts';

/** The corrected words: those that are left, in programme time, or all; masked for those who want that. */
export async function transcriptOf(episodeId: string, left: boolean, mask: boolean): Promise<Transcript> {
  const { cut, transcript } = await wholeCut(episodeId);
  const { language, words } = transcript();
  const kept = left ? wordsLeft(words, cut.programme) : words;
  return { language, words: mask ? masked(kept, await masksFor(language)) : kept };
}

/**
 * Everything for the timeline formats.
 * @param rate for sound alone, or to conform to another rate
 * @param part number of the only part that is wanted, from 1
 */
export async function handoffOf(episodeId: string, rate: string | undefined, part?: number): Promise<Handoff> {
  const wanted = rate === undefined ? undefined : parseRateOrRefuse(rate);
  const { episode, cut, layout } = await wholeCut(episodeId);
  // What was removed is no part of the timeline, nor does it decide its frame rate.
  const recordings = presentOf(measuredOf(episode), layout.removed);
  if (recordings.length === 0) throw new Refusal(409, 'All recordings were removed from this episode: put one back.');
  const files = recordings.map((recording) => ({ ...onClock(recording), media: mediaOf(recording) }));
  if (part === undefined) return handOff(episode.title, files, cut, wanted);
  const chosen = partsOf(cut.programme, layout.breaks)[part - 1];
  if (!chosen) throw new Refusal(404, 'There is no such part.');
  const programme = within(cut.programme, chosen);
  const handoff = handOff(`${episode.title}: ${chosen.title}`, files, { ...cut, programme }, wanted);
  return { ...handoff, stem: `${handoff.stem}-part${part}` };
}

const mediaOf = ({ fileName, medium }: EpisodeRecording) => handoffMedia(fileName, medium.facts, medium.duration);

function parseRateOrRefuse(text: string) {
  try {
    return parseRate(text);
  } catch (error) {
    throw new Refusal(400, (error as Error).message);
  }
}

/** Files of one format. @throws Refusal when the format cannot say this hand-off */
export function writeFiles(handoff: Handoff, format: TimelineFormat): WrittenFile[] {
  try {
    return format.write(handoff);
  } catch (error) {
    throw error instanceof InterchangeError ? new Refusal(422, error.message) : error;
  }
}

/** What should be seen to before an episode is handed over: files that are not those that were measured. */
export async function warningsOf(episodeId: string): Promise<string[]> {
  const { recordings } = await findEpisode(episodeId);
  const states = await Promise.all(recordings.map(({ medium }) => stateOfFile(medium)));
  return recordings.flatMap(({ fileName }, k) => {
    if (states[k] === 'replaced')
      return [`${fileName} was exchanged for another file since it was measured: these cuts are made for the old one.`];
    return states[k] === 'missing' ? [`${fileName} is not where it was when it was measured.`] : [];
  });
}

/** What a hand-off will hold, before anything is downloaded. */
export function describeHandoff(handoff: Handoff, warnings: readonly string[] = []): HandoffView {
  const { media, sources, rate, mode, events, length, cutList, roundings } = handoff;
  return {
    rate: formatRate(rate),
    ownRate: media.frameRate === formatRate(rate),
    variable: media.variable ?? false,
    dropFrame: mode === 'drop',
    startTimecode: formatTimecode((sources[0] as HandoffSource).start, rate, mode),
    clips: sources.map(({ media: { name, frameRate }, conformed }) => ({
      name,
      frameRate: conformed ? (frameRate ?? null) : null,
    })),
    events: events.length,
    length: framesToSeconds(length, rate),
    lengthTimecode: formatTimecode(frames(length), rate, mode),
    open: cutList.summary.open,
    warnings: [...warnings],
    roundings,
    files: FORMATS.map((format) => {
      const about = { format: format.id, label: format.label, help: format.help };
      try {
        const parts = format.write(handoff).map(({ part, text }) => ({
          name: fileNameFor(handoff, part, format),
          bytes: Buffer.byteLength(text),
        }));
        return { ...about, refused: null, parts };
      } catch (error) {
        if (!(error instanceof InterchangeError)) throw error;
        return { ...about, refused: error.message, parts: [] };
      }
    }),
  };
}
