import { applyText } from './align/corrections.ts';
import type { DecidedProposal } from './decisions/matching.ts';
import type { AboutStep, DecisionState } from './decisions/replay.ts';
import { probabilityOf } from './detect/calibration/logistic.ts';
import {
  type EpisodeMaterial,
  eachPrepared,
  type Pace,
  type Placed,
  type PreparedMaterial,
  preparedAt,
  preparedPauses,
  preparedTakes,
  prepareEpisode,
  reworded,
} from './detect/registry.ts';
import type { Settings } from './detect/settings.ts';
import { type LevelHistogram, levelHistogram } from './detect/sound/levelOverview.ts';
import { thresholdRange } from './detect/sound/pauses.ts';
import { type Rhythm, rhythmOf } from './detect/sound/rhythm.ts';
import { sayingsLike } from './detect/takes/like.ts';
import { type TakeGroup, takeGroups } from './detect/takes/takes.ts';
import { wordsOverSilence } from './detect/words/wordTiming.ts';
import { airOffers } from './docket/airOffer.ts';
import { type Docket, docketOf, type Seam } from './docket/docket.ts';
import { edgeEvidence } from './docket/edges.ts';
import { EDGES } from './docket/fitted.ts';
import type { Lesson } from './lessons/lesson.ts';
import { type Cut, computeCut, recordingsOf } from './programme/cutlist.ts';
import { withVerdicts } from './programme/keptTakes.ts';
import { measureSeam, type SeamMeasure, seamRisk } from './programme/risk.ts';
import { bestJoin, type Join } from './programme/splice.ts';
import { presentOf } from './sources/recording.ts';
import { shiftRange } from './sources/shift.ts';
import { type Range, type Seconds, totalLength } from './time/range.ts';
import { Memory } from './transcript/memory.ts';
import type { Transcript } from './transcript/word.ts';

/** Places of words that are not said where they stand. */
export interface MisplacedWords {
  readonly overSilence: readonly number[];
  readonly stray: readonly number[];
}

/**
 * An episode under analysis: its material with all that was worked out from it, and the last cut with the decisions it answers. All times
 * are times of the episode clock. What is asked needs `speechParts` that are loaded, except a cut at a glance.
 */
export class EpisodeSession {
  private readonly prepared: PreparedMaterial;
  private readonly written = new Memory();
  private last: { readonly cut: Cut; readonly state: DecisionState } | undefined;

  constructor(material: EpisodeMaterial) {
    this.prepared = prepareEpisode(material);
  }

  /** End of the last recording on the clock. */
  get end(): Seconds {
    return this.prepared.material.duration;
  }

  get wordCount(): number {
    return this.prepared.material.words.length;
  }

  /**
   * Places of the words, as they were brought, that are not said where they stand: over silence, or where words and sound have nothing to do
   * with one another. None where some stand outside of all recordings.
   */
  get misplacedWords(): MisplacedWords {
    const words = this.prepared.words();
    if (words.length !== this.wordCount) return { overSilence: [], stray: [] };
    const { timing, silences } = this.prepared.spoken().sound();
    return { overSilence: wordsOverSilence(words, timing, silences), stray: [...this.prepared.stray()] };
  }

  /** Lowest and highest level that counts as sound under the automatic threshold, in dBFS. */
  threshold(): [number, number] {
    const ranges = this.each.map(({ prepared }) => thresholdRange(preparedPauses(prepared)));
    return [Math.min(...ranges.map(([low]) => low)), Math.max(...ranges.map(([, high]) => high))];
  }

  /** The cut under some decisions, which further questions are about. */
  cut(state: DecisionState, pace: Pace = 'whole'): Cut {
    const cut = computeCut(this.prepared, state, pace);
    this.last = { cut, state };
    return cut;
  }

  /** A cut to compare with: the last answer stays what it was. */
  aside(state: DecisionState): Cut {
    return computeCut(this.prepared, state);
  }

  /** The words with all corrections of the last cut's decisions, or of others. */
  words(state: DecisionState): Transcript {
    const { words, language } = reworded(this.prepared, state.text).spoken();
    if (this.prepared.stray().size === 0) return { words, language };
    // Nothing is found by stray words, and they are written all the same.
    return { words: applyText(this.prepared.words(), state.text, this.written), language };
  }

  /** The numbers that led to a proposal, if it is among those of the last answer. */
  evidence(id: string): Readonly<Record<string, number>> | undefined {
    const proposal = this.proposal(id);
    if (proposal?.untaught === undefined) return proposal?.evidence;
    return { ...proposal.evidence, untaught: proposal.untaught };
  }

  /** Decisions that met no proposal of the last answer. */
  unmet(): readonly AboutStep[] {
    return this.last?.cut.unmatched ?? [];
  }

  /** What still needs an ear under the last answer. */
  docket(): Docket | undefined {
    if (!this.last) return undefined;
    const { cut, state } = this.last;
    const recorded = totalLength(presentOf(recordingsOf(this.prepared), state.removed));
    const { words } = this.words(state);
    const asked = { ...cut, heard: state.heard, words, recorded, seamOf: (proposal: DecidedProposal) => this.seamOf(proposal) };
    return { ...docketOf(asked), airOffers: airOffers(cut.proposals, state) };
  }

  /** What hearing and deciding say of this recording so far. */
  lessons(): Lesson[] {
    return this.docket()?.lessons.slice() ?? [];
  }

  /** How the two sides of a seam differ, if its proposal is among those of the last answer. */
  seam(id: string): SeamMeasure | undefined {
    const proposal = this.proposal(id);
    if (!proposal) return undefined;
    const { start, prepared } = preparedAt(this.prepared, proposal.start);
    return measureSeam(preparedPauses(prepared), shiftRange(proposal, -start), prepared.material);
  }

  /** Groups of attempts at one line under the last answer. */
  takes(): TakeGroup[] {
    if (!this.last) return [];
    const { state, cut } = this.last;
    return withVerdicts(takeGroups(preparedTakes(reworded(this.prepared, state.text)), state.settings, state), cut.proposals);
  }

  /** Where to leave one attempt for a later one near a word. */
  join(left: Range, right: Range, word: number): Join | undefined {
    if (!this.last) return undefined;
    const { material } = this.prepared;
    const { spoken } = reworded(this.prepared, this.last.state.text);
    return bestJoin(preparedPauses(this.prepared), material, spoken(), left, right, word);
  }

  /** What is said like a stretch, and the stretch itself. */
  like(shown: Range): Range[] {
    return this.last ? sayingsLike(reworded(this.prepared, this.last.state.text).spoken(), this.prepared.material, shown) : [];
  }

  /** The rhythm of the longest recording. */
  rhythm(settings: Settings): Rhythm {
    return rhythmOf(preparedPauses(this.longest.prepared), settings);
  }

  /** Levels of the longest recording. */
  histogram(settings: Settings): LevelHistogram {
    return levelHistogram(preparedPauses(this.longest.prepared), settings);
  }

  private seamOf(proposal: DecidedProposal): Seam {
    const { start, prepared } = preparedAt(this.prepared, proposal.start);
    const local = start === 0 ? proposal : { ...proposal, ...shiftRange(proposal, -start) };
    const { harsh, doubt, atEnd } = seamRisk(preparedPauses(prepared), local, prepared.material);
    return { harsh, doubt, clips: proposal.kind === 'pause' ? probabilityOf(EDGES, edgeEvidence(proposal, atEnd)) : 0 };
  }

  private get each(): readonly Placed[] {
    return eachPrepared(this.prepared);
  }

  private get longest(): Placed {
    return this.each.reduce((a, b) => (b.prepared.material.duration > a.prepared.material.duration ? b : a));
  }

  private proposal(id: string): DecidedProposal | undefined {
    return this.last?.cut.proposals.find((proposal) => proposal.id === id);
  }
}
