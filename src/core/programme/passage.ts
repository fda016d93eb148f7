import { recordingAt } from '../sources/recording.ts';
import { firstAfter, type Range, type Seconds, toMillis } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';

/** So much silence beside its words goes along with a passage, or half of what there is. */
const AIR: Seconds = 0.3;

/** How little it counts which word is pointed at, beside which place is nearer. */
const POINTED = 0.001;

/** A place for a passage: before what stands at a moment of the clock, or after what ends there. */
export interface Place {
  readonly to: Seconds;
  readonly side: 'before' | 'after';
}

/** A selected stretch as it is moved: its words with air on both sides, so that neither side is cut into. */
export function passageOf(range: Range, words: readonly Word[], recordings: readonly Range[]): Range {
  const [first, last] = wordsIn(words, range);
  if (last === first) return range;
  return {
    start: Math.min(range.start, edgeBefore(words, first, recordings)),
    end: Math.max(range.end, edgeAfter(words, last - 1, recordings)),
  };
}

/** The place between two words that is nearest to a moment; where there are no words, the moment itself. */
export function placeNear(at: Seconds, words: readonly Word[], recordings: readonly Range[]): Place {
  const recording = recordingAt(recordings, at);
  const inside = recording ? Math.max(recording.start, Math.min(recording.end, at)) : at;
  const after = firstAfter(words.length, (k) => (words[k] as Word).start, inside);
  const places: (Place & { readonly away: Seconds })[] = [];
  for (let k = Math.max(0, after - 2); k < Math.min(words.length, after + 2); k++) {
    const word = words[k] as Word;
    if (recording && (word.start < recording.start || word.end > recording.end + AIR)) continue;
    // Where two words meet, the one that is pointed at says on which side.
    const off = POINTED * Math.abs((word.start + word.end) / 2 - inside);
    const [before, behind] = [edgeBefore(words, k, recordings), edgeAfter(words, k, recordings)];
    places.push({ to: before, side: 'before', away: Math.abs(before - inside) + off });
    places.push({ to: behind, side: 'after', away: Math.abs(behind - inside) + off });
  }
  if (recording && inside >= recording.end) return { to: recording.end, side: 'after' };
  const [nearest] = places.sort((a, b) => a.away - b.away);
  return nearest ? { to: nearest.to, side: nearest.side } : { to: inside, side: 'before' };
}

/** Where a part begins that is begun at a moment: before the word that is just being said there, or the next one. */
export function beginningAt(at: Seconds, words: readonly Word[], recordings: readonly Range[]): Seconds {
  const recording = recordingAt(recordings, at);
  let next = firstAfter(words.length, (k) => (words[k] as Word).start, at);
  const said = words[next - 1];
  if (said && at < (said.start + said.end) / 2) next--;
  const word = words[next];
  return word && recording && word.start < recording.end ? edgeBefore(words, next, recordings) : at;
}

/** Where a passage that begins with a word begins. */
function edgeBefore(words: readonly Word[], k: number, recordings: readonly Range[]): Seconds {
  const { start } = words[k] as Word;
  const least = Math.max(words[k - 1]?.end ?? 0, recordingAt(recordings, start)?.start ?? 0);
  return toMillis(start - Math.min(AIR, Math.max(0, start - least) / 2));
}

/** Where a passage that ends with a word ends. */
function edgeAfter(words: readonly Word[], k: number, recordings: readonly Range[]): Seconds {
  const { start, end } = words[k] as Word;
  const most = Math.min(words[k + 1]?.start ?? Number.POSITIVE_INFINITY, recordingAt(recordings, start)?.end ?? end);
  return toMillis(end + Math.min(AIR, Math.max(0, most - end) / 2));
}
