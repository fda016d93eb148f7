import type { ProposalKind } from '@/core/detect/kinds.ts';
import { asRecorded, piecesWithin } from '@/core/programme/programme.ts';
import { firstAfter, overlapOf, type Range } from '@/core/time/range.ts';
import { sentenceAt, spanOf, writtenLike } from '@/core/transcript/find.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import type { EpisodeModel } from '../session/model.ts';

// What can be done with words, by key, by button and on the score alike.

/** Indexes `[first, last)` of the selected words; none where the selection holds none. */
export function selectedWords({ state: { words, selection } }: EpisodeModel): [first: number, last: number] | undefined {
  if (!selection) return undefined;
  const [first, last] = wordsIn(words, selection);
  return last > first ? [first, last] : undefined;
}

export const select = (model: EpisodeModel, first: number, last: number): void =>
  model.show({ selection: spanOf(model.state.words, first, last - first) });

/** Index of the word at a moment, or the last one before it. */
export const wordAt = (words: readonly Word[], at: number): number =>
  Math.max(0, firstAfter(words.length, (k) => (words[k] as Word).start, at + 1e-6) - 1);

/** A stretch widened to the words it touches. */
export function wholeWords(range: Range, words: readonly Word[]): Range {
  const at = (moment: number) => words[firstAfter(words.length, (k) => (words[k] as Word).start, moment) - 1];
  const first = at(range.start);
  const last = at(range.end);
  // Where nothing is said it is what it is.
  if (!last || last.end <= range.start) return range;
  return { start: first && first.end > range.start ? first.start : range.start, end: Math.max(last.end, first?.end ?? 0) };
}

/** Takes a word more into the selection, or one less; without a selection starts at the playhead. */
export function extendSelection(model: EpisodeModel, by: 1 | -1): void {
  const { words } = model.state;
  if (words.length === 0) return;
  const chosen = selectedWords(model);
  const at = wordAt(words, model.player.sourceTime);
  const [first, last] = chosen ?? [at, at];
  if (by > 0 || !chosen) select(model, first, Math.min(words.length, last + 1));
  else if (last - first > 1) select(model, first, last - 1);
  else select(model, Math.max(0, first - 1), last);
}

/** Widens the selection, or what the playhead stands on, to whole sentences. */
export function selectSentence(model: EpisodeModel): void {
  const { words } = model.state;
  if (words.length === 0) return;
  const at = wordAt(words, model.player.sourceTime);
  const [from, to] = selectedWords(model) ?? [at, at + 1];
  select(model, sentenceAt(words, from)[0], sentenceAt(words, to - 1)[1]);
}

/** Writes the selected words anew; nothing written takes them out of the text alone. */
export function correctSelection(model: EpisodeModel, text: string): void {
  const chosen = selectedWords(model);
  if (!chosen) return;
  const [first, last] = chosen;
  const old = model.state.words.slice(first, last);
  if (old.map((word) => word.text).join(' ') !== text.trim().replace(/\s+/g, ' '))
    model.decide({ type: 'correct', changes: [{ about: spanOf(model.state.words, first, last - first), text: text.trim() }] });
  model.show({ correcting: false });
}

/** Takes words out of the text and leaves their sound: those that are selected, or those of the proposal looked at. */
export function outOfText(model: EpisodeModel): void {
  const about = model.state.selection ?? model.review.focused()?.found;
  if (!about) return;
  const [first, last] = wordsIn(model.state.words, about);
  if (last > first)
    model.decide({ type: 'correct', changes: [{ about: spanOf(model.state.words, first, last - first), text: '' }] });
}

/** Puts back everything of which the selection holds at least half. */
export function putBackSelected(model: EpisodeModel): void {
  const { selection, cut } = model.state;
  if (!selection || !cut) return;
  const kinds = new Map<ProposalKind, Range[]>();
  const [from, to] = cut.near(selection);
  for (let k = from; k < to; k++) {
    const { kind, found, start, end, verdict } = cut.at(k);
    if (verdict === 'stay' || overlapOf({ start, end }, selection) < (end - start) / 2) continue;
    kinds.set(kind, [...(kinds.get(kind) ?? []), found]);
  }
  for (const [kind, abouts] of kinds) model.decide({ type: 'verdicts', kind, abouts, verdict: 'stay' });
}

/** Every place of what is looked for, in the words as they are. */
export const found = ({ finder, state: { words, find } }: EpisodeModel) => finder.find(words, find.text);

/** Looks for something else, and lets the first place be seen. */
export function lookFor(model: EpisodeModel, text: string): void {
  model.show({ find: { text, at: 0 } });
  const [first] = found(model).firsts;
  if (first !== undefined) model.reveal((model.state.words[first] as Word).start);
}

/** Goes on to another place of what is looked for, and selects it. */
export function stepFound(model: EpisodeModel, by: 1 | -1 | 0): void {
  const { firsts, count } = found(model);
  if (firsts.length === 0) return;
  const at = (model.state.find.at + by + firsts.length) % firsts.length;
  const first = firsts[at] as number;
  model.show({ find: { ...model.state.find, at } });
  model.reveal((model.state.words[first] as Word).start, spanOf(model.state.words, first, count));
}

/** Writes something else wherever what is looked for stands whole; one step to undo. @returns how often */
export function replaceFound(model: EpisodeModel, text: string): number {
  const { words, find } = model.state;
  const { firsts, count } = model.finder.find(words, find.text, true);
  const changes = firsts.slice(0, MOST_AT_ONCE).map((first) => ({
    about: spanOf(words, first, count),
    text: writtenLike(words.slice(first, first + count), text),
  }));
  if (changes.length > 0) model.decide({ type: 'correct', changes });
  return changes.length;
}

/** Takes out every place of what is looked for, as one step. @returns how often */
export function takeOutFound(model: EpisodeModel): number {
  const { words } = model.state;
  const { firsts, count } = found(model);
  const abouts = firsts
    .slice(0, MOST_AT_ONCE)
    .map((first) => spanOf(words, first, count))
    .filter(({ start, end }) => end > start);
  if (abouts.length > 0) model.decide({ type: 'cuts', abouts });
  return abouts.length;
}

const MOST_AT_ONCE = 5000;
/** Words under this are worth reading again. */
export const UNSURE = 0.7;

/** The next least sure word after the one that is selected: from the least sure on. */
export function nextUnsure(model: EpisodeModel): void {
  const { words } = model.state;
  const order = unsureWords(words);
  if (order.length === 0) return;
  const chosen = selectedWords(model);
  const here = chosen ? order.indexOf(chosen[0]) : -1;
  const next = order[(here + 1) % order.length] as number;
  model.reveal((words[next] as Word).start - 0.5, spanOf(words, next, 1));
}

const orders = new WeakMap<readonly Word[], readonly number[]>();

/** Words that may be misheard, the least sure first. */
export function unsureWords(words: readonly Word[]): readonly number[] {
  const known = orders.get(words);
  if (known) return known;
  const unsure: number[] = [];
  for (const [k, { confidence }] of words.entries()) if (confidence < UNSURE) unsure.push(k);
  unsure.sort((a, b) => (words[a] as Word).confidence - (words[b] as Word).confidence || a - b);
  orders.set(words, unsure);
  return unsure;
}

/** Plays the selected stretch alone. */
export function playSelection(model: EpisodeModel): void {
  const { selection, recordings } = model.state;
  // Between recordings there is nothing to be heard.
  if (selection) model.player.playOnce(piecesWithin(asRecorded(recordings), selection));
}
