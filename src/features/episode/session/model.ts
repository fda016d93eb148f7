import { v4 as uuid } from 'uuid';
import { createStore } from 'zustand/vanilla';
import { applyText } from '@/core/align/corrections.ts';
import { UNHEARD_CONFIDENCE } from '@/core/align/refine.ts';
import { basisKey, type CutBasis, type KnownCut, receivedCut } from '@/core/contract/cut.ts';
import type { EpisodeDetail, JobView, LoggedEvent } from '@/core/contract/messages.ts';
import { fromColumns } from '@/core/contract/wordColumns.ts';
import { type NewStep, withinBounds } from '@/core/decisions/bounds.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { NO_STEPS, repeats, replay } from '@/core/decisions/replay.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { CutView } from '@/core/programme/packing.ts';
import { asRecorded, type Programme, toProgramme, toSource } from '@/core/programme/programme.ts';
import type { MisplacedWords } from '@/core/session.ts';
import { presentOf, type Recording } from '@/core/sources/recording.ts';
import { firstAfter, inMillis, type Range, type Seconds, subtract } from '@/core/time/range.ts';
import { WordFinder } from '@/core/transcript/find.ts';
import { Memory } from '@/core/transcript/memory.ts';
import type { Transcript, Word } from '@/core/transcript/word.ts';
import { api } from '../../api.ts';
import { DocketModel } from '../../docket/docketModel.ts';
import { Player } from '../../playback/player.ts';
import { PeakSource } from '../../score/peakSource.ts';
import { TakesModel } from '../../takes/takesModel.ts';
import { Review } from '../review/review.ts';
import { Tuning, withDraft } from '../review/tuning.ts';
import { anglesOf } from './angles.ts';
import { DecisionQueue } from './decisionQueue.ts';
import { CutEngine } from './engine.ts';
import { materialOf } from './material.ts';
import { anglePictures, hasPicture, isMadeOf, onClock, recordingsOf } from './recordings.ts';
import type { CleanedSound, Episode, EpisodeState, Reading } from './state.ts';
import { isThreadAhead } from './thread.ts';

const NO_TRANSCRIPT: Transcript = { language: 'en', words: [] };

/** Less than this was not heard. */
const LEAST_HEARD: Seconds = 0.1;

const SPEED_KEPT_AS = 'zetemis:speed';

/** What is known is painted within this. */
const SHOWN_MS = 50;

/** Speeds that can be chosen, times what was recorded. */
export const RATES = [1, 1.25, 1.5, 1.75, 2] as const;

/** Seconds a row that can be chosen. */
export const ROW_LENGTHS = [6, 8, 10, 15, 20, 30, 60] as const;

/** All that the page of one episode knows and can do. Components read the state and call the named actions. */
export class EpisodeModel implements Episode {
  readonly finder = new WordFinder();
  readonly store = createStore<EpisodeState>(() => ({
    detail: undefined,
    recordings: [],
    error: undefined,
    words: [],
    find: { text: '', at: 0 },
    revealed: undefined,
    spoken: -1,
    correcting: false,
    hearsSteps: false,
    decisions: NO_STEPS,
    draft: {},
    cut: undefined,
    isWhole: false,
    settled: undefined,
    lit: undefined,
    beside: undefined,
    target: undefined,
    autoThreshold: undefined,
    rhythm: undefined,
    histogram: undefined,
    stray: 0,
    material: undefined,
    save: 'saved',
    refused: [],
    reading: 'recorded',
    cleaned: undefined,
    captions: undefined,
    picture: 'tray',
    rowSeconds: 8,
    showsSpeech: false,
    tray: 'pauses',
    selection: undefined,
    lifted: undefined,
    naming: undefined,
    focus: undefined,
    playing: false,
    rate: 1,
    dialog: undefined,
  }));
  readonly engine = new CutEngine(
    (cut, isWhole) => this.takeCut(cut, isWhole),
    () => {
      this.trouble = 'The cut could not be worked out. What you decided is safe; load the page again.';
      this.set({ error: this.trouble });
    },
  );
  readonly player = new Player({
    onState: (playing) => this.set({ playing }),
    onPlayed: (pieces) => this.noteHeard(pieces),
  });
  readonly peaks = new PeakSource();
  readonly takes = new TakesModel(this);
  readonly docket = new DocketModel(this);
  readonly tuning = new Tuning(this);
  readonly review = new Review(this);
  readonly queue: DecisionQueue;
  private logged: LoggedEvent[] = [];
  /** the steps that the present decisions come from */
  private replayed: readonly DecisionEvent[] | undefined;
  /** the recordings as they are shown, for as long as they are the same */
  private recorded:
    | { readonly of: readonly Recording[]; readonly removed: readonly string[]; readonly programme: Programme }
    | undefined;
  private loadedFor = '';
  /** why no cut will come on this page, whatever else is fetched */
  private trouble: string | undefined;
  private transcript: Transcript = NO_TRANSCRIPT;
  /** what corrections made of words */
  private readonly written = new Memory();
  private textOf: { readonly transcript: Transcript; readonly key: string } = { transcript: NO_TRANSCRIPT, key: '' };

  constructor(readonly id: string) {
    this.player.onTime((at) => this.followWords(at));
    // Rows of another length, another reading: the playhead stands elsewhere.
    this.store.subscribe(() => this.player.wake());
    this.queue = new DecisionQueue(
      id,
      (entries) => this.takeLog(entries),
      (save) => this.set({ save }),
      (refused) => {
        this.set({ refused });
        this.replayLog();
      },
    );
    this.set({ refused: this.queue.refused });
    const rate = Number(localStorage.getItem(SPEED_KEPT_AS));
    if ((RATES as readonly number[]).includes(rate)) this.setRate(rate);
  }

  get state(): EpisodeState {
    return this.store.getState();
  }

  private set(change: Partial<EpisodeState>): void {
    this.store.setState(change);
  }

  /** Fetches the episode, again when something about it changed. */
  async refresh(): Promise<void> {
    try {
      const coming = this.state.cut ? undefined : this.askKnown();
      const detail = await api.episode(this.id);
      document.title = `${detail.title} · Zetemis`;
      this.takeDetail(detail);
      this.takeLog(detail.log);
      if (!this.state.cut) this.player.follow(this.readingProgramme());
      this.queue.send();
      const known = await coming;
      await this.loadMaterial(detail, known && this.holds(known, detail) ? known : undefined);
    } catch (error) {
      this.set({ error: (error as Error).message });
    }
  }

  private takeDetail(detail: EpisodeDetail): void {
    const recordings = recordingsOf(detail);
    const isSame = JSON.stringify(recordings) === JSON.stringify(this.state.recordings);
    this.player.pictures.setCentre(detail.centre);
    this.set({ detail, error: this.trouble, ...(!isSame && { recordings }) });
    const shown = detail.recordings.filter(({ measured }) => measured);
    this.peaks.configure(shown.map((one) => ({ ...onClock(one), mediaId: one.mediaId, tracks: one.facts.audio.length })));
    this.player.configure(
      shown.map((one) => ({
        ...onClock(one),
        mediaId: one.mediaId,
        address: hasPicture(one) ? api.picture(one.mediaId) : undefined,
        angles: anglePictures(one),
      })),
    );
    this.player.pictures.setAngles(anglesOf(this.state));
  }

  /** The cut as the server keeps it. Where the page has started to compute it, there was none. */
  private async askKnown(): Promise<KnownCut | undefined> {
    return isThreadAhead() ? undefined : api.knownCut(this.id).catch(() => undefined);
  }

  /** Whether a cut is the one that would be computed now. */
  private holds(known: KnownCut, detail: EpisodeDetail): boolean {
    return !this.state.cut && this.queue.pending.length === 0 && known.basis === basisKey(this.basisOf(detail));
  }

  private basisOf(detail: EpisodeDetail): CutBasis {
    const { wordsVersion, recordings } = detail;
    return { wordsVersion, recordings, seq: this.logged.at(-1)?.seq ?? 0 };
  }

  /** @param known the cut, when it is known already: it is shown before the thread that computes takes time from the page */
  private async loadMaterial(detail: EpisodeDetail, known: KnownCut | undefined): Promise<void> {
    const material = materialOf(detail);
    const key = JSON.stringify(material);
    if (!material || this.loadedFor === key) return;
    this.loadedFor = key;
    const text = material.words ? api.words(this.id, detail.wordsVersion) : { words: null };
    const { decisions } = this.state;
    if (known) {
      const cut = new CutView(receivedCut(known));
      this.set({ cut, settled: cut });
      this.playCut(cut);
      await new Promise((resolve) => setTimeout(resolve, SHOWN_MS));
    }
    const loading = this.engine.load(material, known && decisions);
    this.recompute();
    const { words } = await text;
    this.transcript = words ? fromColumns(words) : NO_TRANSCRIPT;
    this.takeText();
    this.set({ autoThreshold: await loading, material });
    const [rhythm, histogram, misplaced] = await Promise.all([
      this.engine.rhythm(DEFAULT_SETTINGS),
      this.engine.histogram(DEFAULT_SETTINGS),
      this.engine.misplacedWords(),
    ]);
    this.set({ rhythm, histogram });
    if (this.loadedFor === key && misplaced) this.doubt(misplaced);
  }

  /** Shows words that are not said where they stand as hardly likely, whoever wrote them. */
  private doubt({ overSilence, stray }: MisplacedWords): void {
    this.set({ stray: stray.length });
    if (overSilence.length + stray.length === 0) return;
    const words = [...this.transcript.words];
    for (const k of [...overSilence, ...stray]) {
      const word = words[k];
      if (word) words[k] = { ...word, confidence: Math.min(word.confidence, UNHEARD_CONFIDENCE) };
    }
    this.transcript = { ...this.transcript, words };
    this.takeText();
  }

  /** The log as far as this page knows it: what the server has, then what waits to be sent. */
  private takeLog(entries: readonly LoggedEvent[]): void {
    const known = new Set(this.logged.map((entry) => entry.seq));
    const fresh = entries.filter((entry) => !known.has(entry.seq));
    if (fresh.length > 0) this.logged = [...this.logged, ...fresh].sort((a, b) => a.seq - b.seq);
    this.replayLog();
  }

  private replayLog(): void {
    const logged = this.logged.map((entry) => entry.event);
    const has = new Set(logged.map((event) => event.id));
    const events = [...logged, ...this.queue.pending.filter((event) => !has.has(event.id))];
    // A decision comes back twice, as saved and as told to all tabs, and changes nothing then.
    const { replayed } = this;
    if (replayed?.length === events.length && events.every((event, k) => event.id === replayed[k]?.id)) return;
    this.replayed = events;
    const decisions = replay(events);
    this.set({ decisions });
    this.player.setJoins({ crossfade: decisions.settings.crossfade });
    this.player.pictures.setLooks(decisions.settings, decisions.seams);
    this.player.pictures.setAngles(anglesOf(this.state));
    this.takeText();
    this.recompute();
  }

  /** The words as they now are written. Most decisions change nothing about them. */
  private takeText(): void {
    const { text } = this.state.decisions;
    const key = text.map(({ id }) => id).join();
    if (this.textOf.transcript === this.transcript && this.textOf.key === key) return;
    this.textOf = { transcript: this.transcript, key };
    this.set({ words: applyText(this.transcript.words, text, this.written) });
  }

  /** Marks the word that is being spoken. */
  private followWords(at: Seconds): void {
    const { playing, words, spoken } = this.state;
    if (!playing) {
      if (spoken >= 0) this.set({ spoken: -1 });
      return;
    }
    const index = firstAfter(words.length, (k) => (words[k] as Word).start, at) - 1;
    const now = index >= 0 && at < (words[index] as Word).end + SPOKEN_AFTER ? index : -1;
    if (now !== spoken) this.set({ spoken: now });
  }

  /** BCP 47 tag of what is spoken. */
  get language(): string {
    return this.transcript.language;
  }

  /** Another tab wrote: fetch what is missing. */
  async catchUp(): Promise<void> {
    const { log } = await api.decisions(this.id, this.logged.at(-1)?.seq ?? 0);
    this.takeLog(log);
    this.queue.send();
  }

  takeJob(job: JobView): void {
    const { detail } = this.state;
    if (job.kind === 'render' || !detail?.recordings.some((one) => isMadeOf(one, job.mediaId))) return;
    const others = detail.jobs.filter((other) => other.kind !== job.kind || other.mediaId !== job.mediaId);
    this.set({ detail: { ...detail, jobs: [...others, job] } });
  }

  /** Cleaned sound that can be heard from now on, or none any more. */
  offerCleaned(sources: CleanedSound['sources'] | undefined): void {
    const isHeard = sources !== undefined && (this.state.cleaned?.isHeard ?? false);
    this.set({ cleaned: sources && { sources, isHeard } });
    this.player.hearCleaned(isHeard ? sources : {});
  }

  /** Goes from recorded to cleaned sound, or back. */
  switchCleaned(): void {
    const { cleaned } = this.state;
    if (!cleaned) return;
    this.set({ cleaned: { ...cleaned, isHeard: !cleaned.isHeard } });
    this.player.hearCleaned(cleaned.isHeard ? {} : cleaned.sources);
  }

  recompute(): void {
    const { decisions, target } = this.state;
    this.engine.request(withDraft(decisions, target, this.tuning.draft));
  }

  private takeCut(cut: CutView, isWhole: boolean): void {
    const draft = this.tuning.takeDraft();
    this.set({ cut, isWhole, draft, ...(Object.keys(draft).length === 0 && { settled: cut }) });
    this.playCut(cut);
    this.tuning.compareAgain();
  }

  private playCut(cut: CutView): void {
    this.player.setJoins({ tones: cut.packed.tones });
    this.player.pictures.setSilences(() => cut.silences());
    this.player.follow(this.readingProgramme());
  }

  /** What the score shows and the player plays: everything, or what is left. */
  readingProgramme(): Programme {
    const { reading, cut } = this.state;
    return reading === 'programme' && cut ? cut.programme : this.recordedProgramme();
  }

  /** All recordings that are part of the episode, end to end. */
  private recordedProgramme(): Programme {
    const {
      recordings,
      decisions: { removed },
    } = this.state;
    const { recorded } = this;
    if (recorded?.of !== recordings || recorded.removed !== removed)
      this.recorded = { of: recordings, removed, programme: asRecorded(presentOf(recordings, removed)) };
    return (this.recorded as NonNullable<typeof recorded>).programme;
  }

  decide(...steps: readonly NewStep[]): void {
    if (steps.every((step) => repeats(step, this.state.decisions))) return;
    const parts = steps.flatMap(withinBounds);
    const whole = parts.length > 1 ? { of: uuid() } : {};
    for (const part of parts) this.queue.add({ ...part, ...whole, id: uuid() } as DecisionEvent);
    this.replayLog();
  }

  /** What was played with cuts left out counts as heard. */
  private noteHeard(pieces: readonly Range[]): void {
    if (this.state.reading !== 'programme') return;
    const fresh = subtract(pieces, this.state.decisions.heard).map(inMillis);
    const about = fresh.filter(({ start, end }) => end - start >= LEAST_HEARD);
    if (about.length > 0) this.decide({ type: 'heard', about });
  }

  /** Makes a seam at the playhead; nothing is taken. */
  splitHere(): void {
    this.decide({ type: 'split', at: Math.round(this.player.sourceTime * 1000) / 1000 });
  }

  undo(): void {
    const { undoable } = this.state.decisions;
    if (undoable) this.decide({ type: 'undo', target: undoable.id });
  }

  redo(): void {
    const { redoable } = this.state.decisions;
    if (redoable) this.decide({ type: 'redo', target: redoable.id });
  }

  read(reading: Reading): void {
    const at = this.player.sourceTime;
    this.set({ reading, selection: reading === 'programme' ? undefined : this.state.selection });
    this.player.follow(this.readingProgramme());
    this.player.seek(at);
  }

  /** Goes so many seconds further, or back, and lets that be seen. */
  nudge(seconds: Seconds): void {
    this.player.nudge(seconds);
    this.set({ revealed: { at: this.player.sourceTime, atTop: false } });
  }

  /** Goes to a moment and lets it be seen, with what is selected there; at the top where what follows matters. */
  reveal(at: Seconds, selection?: Range, atTop = false): void {
    this.set({ revealed: { at, atTop }, ...(selection && { selection, focus: undefined }) });
    this.player.seek(Math.max(0, at));
  }

  show(
    change: Partial<
      Pick<
        EpisodeState,
        | 'tray'
        | 'rowSeconds'
        | 'picture'
        | 'selection'
        | 'lifted'
        | 'naming'
        | 'focus'
        | 'dialog'
        | 'target'
        | 'showsSpeech'
        | 'find'
        | 'spoken'
        | 'correcting'
        | 'hearsSteps'
        | 'captions'
      >
    >,
  ): void {
    this.set(change);
  }

  setRate(rate: number): void {
    localStorage.setItem(SPEED_KEPT_AS, String(rate));
    this.set({ rate });
    this.player.setRate(rate);
  }

  /** A moment of the shown reading as a moment of the recording, and back. */
  fromReading = (at: Seconds): Seconds => toSource(this.readingProgramme(), at);
  toReading = (at: Seconds): Seconds => toProgramme(this.readingProgramme(), at);

  close(): void {
    this.tuning.close();
    this.queue.close();
    this.engine.close();
    this.player.close();
  }
}

/** A word stays marked for so long after it was said. */
const SPOKEN_AFTER: Seconds = 0.15;
