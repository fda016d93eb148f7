import { LRUCache } from 'lru-cache';
import { basisKey, type CutBasis, type KnownCut, sentCut } from '@/core/contract/cut.ts';
import type { CutSummary, HandoffView } from '@/core/contract/messages.ts';
import { type DecisionState, replay } from '@/core/decisions/replay.ts';
import { loadSpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { InterchangeError, type TimelineFormat, type WrittenFile } from '@/core/interchange/format.ts';
import { FORMATS, fileNameFor } from '@/core/interchange/registry.ts';
import type { Cut } from '@/core/programme/cutlist.ts';
import { type Handoff, type HandoffSource, handOff } from '@/core/programme/handoff.ts';
import { buffersOf, type PackedCut, packCut } from '@/core/programme/packing.ts';
import { seamCount } from '@/core/programme/programme.ts';
import { masked, wordsLeft } from '@/core/programme/transcriptOut.ts';
import { EpisodeSession } from '@/core/session.ts';
import type { PlacedSound } from '@/core/sources/placedSound.ts';
import { totalLength } from '@/core/time/range.ts';
import { formatRate, frames, framesToSeconds, parseRate } from '@/core/time/rate.ts';
import { formatTimecode } from '@/core/time/timecode.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import { handoffMedia, readMeasures } from '../media/material.ts';
import { isMeasured } from '../media/media.ts';
import { curvesFolder } from '../media/store.ts';
import { Refusal } from '../refusal.ts';
import { type Episode, type EpisodeRecording, onClock } from './episode.ts';
import { readLog } from './log.ts';
import { masksFor } from './masks.ts';
import { readEpisodeWords } from './words.ts';

/** The last answers, so that neither shelf nor score wait for what has not changed. */
const summaries = new LRUCache<string, CutSummary>({ max: 1000 });
const packedCuts = new LRUCache<string, PackedCut>({
  maxSize: 64_000_000,
  sizeCalculation: (packed) => 1 + buffersOf(packed).reduce((sum, { byteLength }) => sum + byteLength, 0),
});

const basisOf = ({ lastSeq: seq, wordsVersion, recordings }: Episode): CutBasis => ({
  seq,
  wordsVersion,
  recordings: recordings.map(({ id, medium }) => ({ ...medium, id })),
});
const cutKey = (episode: Episode): string => `${episode.id} ${basisKey(basisOf(episode))}`;

/** What the cut of an episode comes to, by its stored words, settings and decisions. */
export async function summaryOf(episode: Episode): Promise<CutSummary> {
  const key = cutKey(episode);
  const known = summaries.get(key);
  if (known) return known;
  const { cut, end, state } = await compute(episode);
  const summary = {
    recorded: totalLength(episode.recordings.filter(({ id }) => !state.removed.includes(id)).map(onClock)),
    programme: cut.programme.length,
    seams: seamCount(cut.programme),
    open: cut.proposals.filter((proposal) => proposal.verdict === 'open').length,
  };
  summaries.set(key, summary);
  packedCuts.set(key, packCut(end, cut));
  return summary;
}

/** The cut of an episode where it was computed already, with a key to keep it by. */
export function knownCutOf(episode: Episode): { key: string; sent: () => KnownCut } | undefined {
  const key = cutKey(episode);
  const packed = packedCuts.get(key);
  return packed && { key, sent: () => sentCut(basisOf(episode), packed) };
}

async function compute(episode: Episode): Promise<{ cut: Cut; end: number; state: DecisionState }> {
  await loadSpeechParts();
  const [session, state] = [await sessionOf(episode), await stateOf(episode)];
  return { cut: session.cut(state), end: session.end, state };
}

const stateOf = async ({ id }: Episode) => replay((await readLog(id)).map(({ event }) => event));

/** The corrected words: those that are left, in programme time, or all; masked for those who want that. */
export async function transcriptOf(episode: Episode, left: boolean, mask: boolean): Promise<Transcript> {
  const [session, state] = [await sessionOf(episode), await stateOf(episode)];
  await loadSpeechParts();
  const { words, language } = session.words(state);
  const kept = left ? wordsLeft(words, session.cut(state).programme) : words;
  return { language, words: mask ? masked(kept, await masksFor(language)) : kept };
}

/** All that is measured of an episode's recordings, ready to be asked. Recordings that are not measured yet are left out. */
async function sessionOf({ id, recordings }: Episode): Promise<EpisodeSession> {
  const measured = recordings.filter(({ medium }) => medium.measured);
  if (measured.length === 0) throw new Refusal(409, 'This recording is still being measured.');
  const [placed, { language, words }] = await Promise.all([Promise.all(measured.map(soundOf)), readEpisodeWords(id)]);
  return new EpisodeSession({ recordings: placed, words, language });
}

async function soundOf({ id, place, medium }: EpisodeRecording): Promise<PlacedSound> {
  const [folder, tracks] = [curvesFolder(medium.id), medium.facts.audio.length];
  const measured = await readMeasures((job) => isMeasured(medium, job), folder, tracks);
  return { id, place, sound: { duration: medium.duration, levels: [], ...measured } };
}

/** Everything for the timeline formats. `rate` is for sound alone, or to conform to another rate. */
export async function handoffOf(episode: Episode, rate: string | undefined): Promise<Handoff> {
  const wanted = rate === undefined ? undefined : parseRateOrRefuse(rate);
  const { cut } = await compute(episode);
  const files = episode.recordings.map((recording) => ({ ...onClock(recording), media: mediaOf(recording) }));
  return handOff(episode.title, files, cut, wanted);
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

/** What a hand-off will hold, before anything is downloaded. */
export function describeHandoff(handoff: Handoff): HandoffView {
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
    roundings,
    files: FORMATS.map((format) => {
      const about = { format: format.id, label: format.label, help: format.help };
      try {
        const parts = format.write(handoff).map(({ part, text }) => ({
          name: fileNameFor(media.name, part, format),
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
