import { type Remote, wrap } from 'comlink';
import type { AboutStep, DecisionState } from '@/core/decisions/replay.ts';
import { type Proposal, proposalId } from '@/core/detect/detector.ts';
import type { Pace } from '@/core/detect/registry.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { LevelHistogram } from '@/core/detect/sound/levelOverview.ts';
import type { Rhythm } from '@/core/detect/sound/rhythm.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import type { Docket, SentDocket } from '@/core/docket/docket.ts';
import type { CaptionStyle } from '@/core/outputs/captions/style.ts';
import type { PlacedMedia } from '@/core/outputs/plan/media.ts';
import { CutView } from '@/core/programme/packing.ts';
import type { Programme } from '@/core/programme/programme.ts';
import type { SeamMeasure } from '@/core/programme/risk.ts';
import type { Join } from '@/core/programme/splice.ts';
import type { MisplacedWords } from '@/core/session.ts';
import type { Range } from '@/core/time/range.ts';
import type { CutWorker, MaterialAddresses } from '@/workers/cut.worker.ts';
import { takeThread } from './thread.ts';

/** Another one when words were corrected. */
const textKey = ({ text }: DecisionState): string => text.map(({ id }) => id).join();

/** A proposal by what it is about: its place in a list is another one in the next answer. */
type Named = Pick<Proposal, 'kind' | 'found'>;

/** Words: half an hour of speech. */
const LONG_TEXT = 5000;
const REST_MS = 300;

/**
 * Keeps one worker busy with the newest question only: while it computes, later ones replace each other, so that a
 * slider that moves faster than the answers never falls behind.
 */
export class CutEngine {
  private thread: Worker | undefined;
  private wrapped: Remote<CutWorker> | undefined;
  private waiting: DecisionState | undefined;
  private busy = false;
  private loaded = false;
  private hasShown = false;
  private endRest: (() => void) | undefined;
  /** a text that takes a while to be gone through; a shorter one is there whole at once */
  private isLong = false;
  /** the text of the last whole answer, by its corrections */
  private answered: string | undefined;

  /**
   * @param onCut told each answer, and whether it is the whole one
   * @param onTrouble told when there is none
   */
  constructor(
    private readonly onCut: (cut: CutView, isWhole: boolean) => void,
    private readonly onTrouble: (problem: unknown) => void,
  ) {}

  /** The thread starts when it is first needed: on two cores it would hold up a page that has something to show already. */
  private get worker(): Remote<CutWorker> {
    if (!this.wrapped) {
      this.thread = takeThread();
      // A thread that does not even start answers nothing.
      this.thread.addEventListener('error', this.onTrouble);
      this.wrapped = wrap<CutWorker>(this.thread);
    }
    return this.wrapped;
  }

  /**
   * @param known decisions whose cut is known, and whole
   * @returns lowest and highest level that counts as sound under the automatic threshold, in dBFS
   */
  async load(material: MaterialAddresses, known?: DecisionState): Promise<[number, number]> {
    this.hasShown ||= known !== undefined;
    this.answered = known && textKey(known);
    this.loaded = true;
    const { threshold, words } = await this.worker.load(material);
    this.isLong = words > LONG_TEXT;
    return threshold;
  }

  /** Asks for the cut; once something is loaded, it comes by `onCut`. */
  request(state: DecisionState): void {
    this.waiting = state;
    this.endRest?.();
    if (this.loaded && !this.busy) void this.run().catch(this.onTrouble);
  }

  evidence({ kind, found }: Named): Promise<Readonly<Record<string, number>> | undefined> {
    return this.worker.evidence(proposalId(kind, found));
  }

  seam({ kind, found }: Named): Promise<SeamMeasure | undefined> {
    return this.worker.seam(proposalId(kind, found));
  }

  captions(state: DecisionState, files: readonly PlacedMedia[], { pieces }: Programme, style: CaptionStyle) {
    return this.worker.captions(state, files, pieces, style);
  }

  unmet(): Promise<readonly AboutStep[]> {
    return this.worker.unmet();
  }

  docket(): Promise<SentDocket | undefined> {
    return this.worker.docket();
  }

  /** What goes without being asked about. */
  sure(): Promise<Docket['sure']> {
    return this.worker.sure();
  }

  takes(): Promise<TakeGroup[]> {
    return this.worker.takes();
  }

  join(left: Range, right: Range, word: number): Promise<Join | undefined> {
    return this.worker.join(left, right, word);
  }

  like(shown: Range): Promise<Range[]> {
    return this.worker.like(shown);
  }

  /** Places of the words, as they were brought, that stand over silence. */
  misplacedWords(): Promise<MisplacedWords | undefined> {
    return this.worker.misplacedWords();
  }

  rhythm(settings: Settings): Promise<Rhythm | undefined> {
    return this.worker.rhythm(settings);
  }

  histogram(settings: Settings): Promise<LevelHistogram | undefined> {
    return this.worker.histogram(settings);
  }

  /** The cut under other decisions, apart from the one that is followed; undefined before anything is loaded. */
  async aside(state: DecisionState): Promise<CutView | undefined> {
    const packed = await this.worker.aside(state);
    return packed && new CutView(packed);
  }

  close(): void {
    this.thread?.terminate();
  }

  private async run(): Promise<void> {
    this.busy = true;
    try {
      await this.answerAll();
    } finally {
      this.busy = false;
    }
  }

  private async answerAll(): Promise<void> {
    while (this.waiting) {
      const state = this.waiting;
      this.waiting = undefined;
      const text = textKey(state);
      // What can be seen at once is shown first, and the hands that correct a text do not wait for what takes longer.
      if (!this.hasShown) await this.answer(state, 'glance');
      else if (this.isLong && text !== this.answered) {
        await this.answer(state, 'hurry');
        await this.rest();
      }
      if (this.waiting) continue;
      await this.answer(state, 'whole');
      this.answered = text;
    }
  }

  /** Until nothing new was asked for a while, or something is. */
  private rest(): Promise<void> {
    if (this.waiting) return Promise.resolve();
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, REST_MS);
      this.endRest = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  private async answer(state: DecisionState, pace: Pace): Promise<void> {
    const packed = await this.worker.compute(state, pace);
    if (!packed) return;
    this.hasShown = true;
    this.onCut(new CutView(packed), pace === 'whole');
  }
}
