import { v4 as uuid } from 'uuid';
import type { CollectingOrder } from '@/core/decisions/layout.ts';
import { arrangeAll } from '@/core/programme/arrangement.ts';
import { type Part, partsOf, within } from '@/core/programme/parts.ts';
import { beginningAt, type Place, passageOf, placeNear } from '@/core/programme/passage.ts';
import { clipToRecording, presentOf, type Recording, recordingAt } from '@/core/sources/recording.ts';
import { inMillis, overlapOf, type Range, type Seconds, toMillis } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import type { EpisodeModel } from '../episode/session/model.ts';
import type { EpisodeState } from '../episode/session/state.ts';

// What can be done with the order of an episode: recordings, passages, what is wanted, and parts.

type Laid = Pick<EpisodeState, 'recordings' | 'decisions'>;

/** The recordings that are part of the episode, in the order in which they are heard first. */
export function recordingsInOrder({ recordings, decisions }: Laid): Recording[] {
  const passages = arrangeAll(recordings, decisions);
  const present = presentOf(recordings, decisions.removed);
  const firstOf = (recording: Recording) => passages.findIndex((passage) => overlapOf(passage, recording) > 0);
  return [...present].sort((a, b) => firstOf(a) - firstOf(b));
}

/** Sets a whole recording before another one, or behind the last. */
export function placeRecording(model: EpisodeModel, recording: Recording, index: number): void {
  const others = recordingsInOrder(model.state).filter(({ id }) => id !== recording.id);
  const passages = arrangeAll(model.state.recordings, model.state.decisions);
  const next = others[index];
  const near = next ?? others.at(-1);
  if (!near) return;
  const own = passages.filter((passage) => overlapOf(passage, near) > 0);
  const place: Place | undefined = next
    ? own[0] && { to: own[0].start, side: 'before' }
    : own.at(-1) && { to: (own.at(-1) as Range).end, side: 'after' };
  if (place) model.decide({ type: 'move', about: inMillis(recording), ...place });
}

export const setPresent = (model: EpisodeModel, recording: string, present: boolean): void =>
  model.decide({ type: 'recording', recording, present });

/** Lifts the selection, to be set down elsewhere. */
export function lift(model: EpisodeModel): void {
  const { selection, words, recordings } = model.state;
  if (selection) model.show({ lifted: passageOf(selection, words, recordings) });
}

/** Sets a passage at the place between two words that is nearest to a moment of the clock. */
export function setDown(model: EpisodeModel, passage: Range, at: Seconds): void {
  const { words, recordings } = model.state;
  const place = placeNear(at, words, recordings);
  model.show({ lifted: undefined });
  // Into itself: nothing moves.
  if (place.to > passage.start && place.to < passage.end) return;
  model.decide({ type: 'move', about: inMillis(passage), ...place });
  model.show({ selection: passage });
}

/** Moves the selection to a moment of the clock, with the silence that belongs to its words. */
export function moveSelection(model: EpisodeModel, at: Seconds): void {
  const { selection, words, recordings } = model.state;
  if (selection) setDown(model, passageOf(selection, words, recordings), at);
}

/** What of a stretch lies in the passage that a moment of it lies in: as they are heard, others stand in between. */
export function inOnePassage({ state }: EpisodeModel, at: Seconds, range: Range): Range {
  const { recordings, decisions, reading } = state;
  if (reading === 'recorded' || decisions.moves.length === 0) return range;
  const passage = arrangeAll(recordings, decisions).find(({ start, end }) => start <= at && at <= end);
  return passage ? { start: Math.max(passage.start, range.start), end: Math.min(passage.end, range.end) } : range;
}

/** The move that the selection, or else the playhead, lies in; the last made where there are several. */
export function moveHere(model: EpisodeModel): string | undefined {
  const { selection, decisions } = model.state;
  const at = selection ? (selection.start + selection.end) / 2 : model.player.sourceTime;
  return decisions.moves.findLast(({ about }) => about.start <= at && at < about.end)?.id;
}

export function sendBack(model: EpisodeModel): void {
  const move = moveHere(model);
  if (move) model.decide({ type: 'sendBack', move });
}

/** Whether all of a stretch is wanted. */
const isWanted = (range: Range, collected: readonly Range[]): boolean =>
  collected.reduce((sum, wanted) => sum + overlapOf(wanted, range), 0) >= range.end - range.start - 0.001;

/** Marks the selection as wanted, or as wanted no longer. */
export function collectSelection(model: EpisodeModel): void {
  const { selection, words, recordings, decisions } = model.state;
  if (!selection) return;
  const about = clipToRecording(passageOf(selection, words, recordings), recordings);
  if (about)
    model.decide({ type: 'collect', about: inMillis(about), wanted: !isWanted(inMillis(selection), decisions.collected) });
}

export function switchCollecting(model: EpisodeModel, order?: CollectingOrder): void {
  const { collecting } = model.state.decisions;
  if (order) model.decide({ type: 'collecting', on: true, order });
  else model.decide({ type: 'collecting', on: collecting === undefined, order: collecting ?? 'marking' });
}

/** Begins a part at the playhead, between words; its title is asked for in the tray. */
export function breakHere(model: EpisodeModel): void {
  const { words, recordings } = model.state;
  const at = toMillis(beginningAt(model.player.sourceTime, words, recordings));
  const part = uuid();
  model.decide({ type: 'break', part, at, title: '' });
  model.show({ tray: 'order', naming: part });
}

/** The parts of the programme as it is. */
export const partsOfEpisode = ({ cut, decisions }: Pick<EpisodeState, 'cut' | 'decisions'>): Part[] =>
  cut && cut.programme.pieces.length > 0 ? partsOf(cut.programme, decisions.breaks) : [];

/** Gives a part another title. The first one begins where the programme does. */
export function renamePart(model: EpisodeModel, { part }: Part, title: string): void {
  const { cut, decisions } = model.state;
  const known = decisions.breaks.find((one) => one.part === part);
  const at = known?.at ?? cut?.programme.pieces[0]?.start ?? 0;
  model.decide({ type: 'break', part: part ?? uuid(), at, title: title.trim() });
}

export function playPart(model: EpisodeModel, part: Part): void {
  const { cut } = model.state;
  if (cut) model.player.playOnce(within(cut.programme, part).pieces);
}

/** Name of the recording that a moment lies in. */
export function recordingName({ detail, recordings }: Pick<EpisodeState, 'detail' | 'recordings'>, at: Seconds): string {
  const id = recordingAt(recordings, at)?.id;
  return detail?.recordings.find((one) => one.id === id)?.fileName ?? '';
}

const FIRST_WORDS = 12;

/** How a passage begins, in words; empty where nothing is said in it. */
export function firstWords(words: readonly Word[], passage: Range): string {
  const [first, last] = wordsIn(words, passage);
  return words
    .slice(first, Math.min(last, first + FIRST_WORDS))
    .map((word) => word.text)
    .join(' ');
}
