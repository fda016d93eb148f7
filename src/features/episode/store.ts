import { createContext, use } from 'react';
import { v4 as uuid } from 'uuid';
import { createStore, useStore } from 'zustand';
import type { CutView, SeenProposal } from '@/core/assemble/packing.ts';
import { assemble, type Programme, piecesWithin, toProgramme, toSource, wholeRecording } from '@/core/assemble/programme.ts';
import type { SeamDoubt } from '@/core/assemble/risk.ts';
import type { EpisodeDetail, JobView, LoggedEvent } from '@/core/contract/messages.ts';
import type { DecisionEvent, Verdict } from '@/core/decisions/event.ts';
import { type DecisionState, NO_STEPS, replay } from '@/core/decisions/replay.ts';
import { applyText } from '@/core/decisions/text.ts';
import { ASIDE_KINDS, type ProposalKind } from '@/core/detect/detector.ts';
import type { LevelHistogram } from '@/core/detect/overview.ts';
import type { Rhythm } from '@/core/detect/rhythm.ts';
import { DEFAULT_SETTINGS, type Settings, type Treatment } from '@/core/detect/settings.ts';
import { withAmount } from '@/core/detect/treatment.ts';
import { firstAfter, type Range, type Seconds } from '@/core/time/range.ts';
import { fromColumns } from '@/core/transcript/columns.ts';
import type { Transcript, Word } from '@/core/transcript/word.ts';
import type { LoadedMaterial } from '@/workers/cut.worker.ts';
import { api } from '../api.ts';
import { Player } from '../playback/player.ts';
import { PeakSource } from '../score/peakSource.ts';
import { TakesModel } from '../takes/takesModel.ts';
import { CutEngine } from './engine.ts';
import { DecisionQueue, type SaveState } from './saving.ts';

/** Everything in rows, what is left in rows, or the words alone. */
export type Reading = 'recorded' | 'programme' | 'words';
export type TrayName = 'pauses' | 'words' | 'takes' | 'handoff';
type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
type NewStep = DistributiveOmit<DecisionEvent, 'id'>;

/** A listening through the seams that are most likely to be wrong. */
export interface EarCheck {
  readonly seams: readonly { readonly about: Pick<SeenProposal, 'kind' | 'found'>; readonly doubt: SeamDoubt }[];
  readonly at: number;
}

const NO_TRANSCRIPT: Transcript = { language: 'en', words: [] };

/** Seconds a row that can be chosen. */
export const ROW_LENGTHS = [6, 8, 10, 15, 20, 30, 60] as const;

export interface EpisodeState {
  readonly detail: EpisodeDetail | undefined;
  readonly error: string | undefined;
  /** as corrected */
  readonly words: readonly Word[];
  /** what is looked for in the words, and which of the places is looked at */
  readonly find: { readonly text: string; readonly at: number };
  /** a moment that was just gone to, and is to be seen */
  readonly revealed: { readonly at: Seconds; readonly atTop: boolean } | undefined;
  /** the word that is being spoken while it plays */
  readonly spoken: number;
  /** the selected words are being written anew */
  readonly correcting: boolean;
  /** each step plays across its seam by itself */
  readonly hearsSteps: boolean;
  readonly decisions: DecisionState;
  /** settings while a slider moves, before they are decided */
  readonly draft: Partial<Settings>;
  readonly cut: CutView | undefined;
  /** the cut before the slider that moves began to */
  readonly settled: CutView | undefined;
  /** the cut that what moved last is compared with, for as long as its difference is shown */
  readonly lit: CutView | undefined;
  /** another set of settings laid beside the present one */
  readonly beside: { readonly name: string; readonly values: Partial<Settings>; readonly cut: CutView | undefined } | undefined;
  /** the marked range whose settings are shown and changed; undefined for those of the whole */
  readonly target: string | undefined;
  readonly earCheck: EarCheck | undefined;
  readonly autoThreshold: [number, number] | undefined;
  readonly rhythm: Rhythm | undefined;
  /** levels of the tracks that listen, under the automatic threshold */
  readonly histogram: LevelHistogram | undefined;
  /** what was loaded, for whoever computes beside */
  readonly material: LoadedMaterial | undefined;
  readonly save: SaveState;
  readonly reading: Reading;
  readonly rowSeconds: number;
  /** whether the probability of speech is drawn on the rows */
  readonly showsSpeech: boolean;
  readonly tray: TrayName;
  readonly selection: Range | undefined;
  /** the proposal that keys act on */
  readonly focus: Pick<SeenProposal, 'kind' | 'found'> | undefined;
  readonly playing: boolean;
  readonly rate: number;
  readonly dialog: 'keys' | 'palette' | 'find' | undefined;
}

/** All that the page of one episode knows and can do. Components read the state and call the named actions. */
export class EpisodeModel {
  readonly store = createStore<EpisodeState>(() => ({
    detail: undefined,
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
    settled: undefined,
    lit: undefined,
    beside: undefined,
    target: undefined,
    earCheck: undefined,
    autoThreshold: undefined,
    rhythm: undefined,
    histogram: undefined,
    material: undefined,
    save: 'saved',
    reading: 'recorded',
    rowSeconds: 8,
    showsSpeech: false,
    tray: 'pauses',
    selection: undefined,
    focus: undefined,
    playing: false,
    rate: 1,
    dialog: undefined,
  }));
  readonly engine = new CutEngine((cut) => this.takeCut(cut));
  readonly player = new Player({
    onState: (playing) => this.set({ playing }),
  });
  readonly peaks = new PeakSource();
  readonly takes = new TakesModel(this);
  private readonly queue: DecisionQueue;
  private logged: LoggedEvent[] = [];
  private loadedFor = '';
  private transcript: Transcript = NO_TRANSCRIPT;
  private textOf: { readonly transcript: Transcript; readonly key: string } = { transcript: NO_TRANSCRIPT, key: '' };
  private dimming: ReturnType<typeof setTimeout> | undefined;

  constructor(readonly id: string) {
    this.player.onTime((at) => this.followWords(at));
    this.queue = new DecisionQueue(
      id,
      (entries) => this.takeLog(entries),
      (save) => this.set({ save }),
    );
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
      const detail = await api.episode(this.id);
      document.title = `${detail.title} · Zetemis`;
      this.set({ detail, error: undefined });
      this.takeLog(detail.log);
      this.peaks.configure(detail.mediaId, detail.facts.audio.length);
      this.player.configure({
        mediaId: detail.mediaId,
        duration: detail.duration,
        hasPicture: detail.picture === 'original' || detail.picture === 'proxy',
      });
      if (!this.state.cut) this.player.follow(wholeRecording(detail.duration));
      this.queue.send();
      if (detail.measured) await this.loadMaterial(detail);
    } catch (error) {
      this.set({ error: (error as Error).message });
    }
  }

  private async loadMaterial({
    mediaId,
    duration,
    facts,
    wordsVersion,
    speech,
    motion,
    voice,
    echoes,
  }: EpisodeDetail): Promise<void> {
    const key = `${mediaId} ${wordsVersion} ${speech} ${motion} ${voice} ${echoes}`;
    if (this.loadedFor === key) return;
    this.loadedFor = key;
    const ofTracks = (name: string) => Promise.all(facts.audio.map((_, track) => api.curve(mediaId, `${name}-${track}`)));
    const [levels, spoken, moved, held, alike, { words }] = await Promise.all([
      ofTracks('level'),
      speech ? ofTracks('speech') : undefined,
      motion ? api.curve(mediaId, 'motion') : undefined,
      voice ? ofTracks('voice') : undefined,
      echoes ? api.curve(mediaId, 'echoes') : undefined,
      wordsVersion > 0 ? api.words(this.id, wordsVersion) : { words: null },
    ]);
    const material = { duration, levels, speech: spoken, motion: moved, voice: held, echoes: alike, words };
    const loading = this.engine.load(material);
    this.transcript = words ? fromColumns(words) : NO_TRANSCRIPT;
    this.takeText();
    this.set({ autoThreshold: await loading, material });
    this.recompute();
    const [rhythm, histogram] = await Promise.all([
      this.engine.rhythm(DEFAULT_SETTINGS),
      this.engine.histogram(DEFAULT_SETTINGS),
    ]);
    this.set({ rhythm, histogram });
  }

  /** The log as far as this page knows it: what the server has, then what waits to be sent. */
  private takeLog(entries: readonly LoggedEvent[]): void {
    const known = new Set(this.logged.map((entry) => entry.seq));
    const fresh = entries.filter((entry) => !known.has(entry.seq));
    if (fresh.length > 0) this.logged = [...this.logged, ...fresh].sort((a, b) => a.seq - b.seq);
    this.replayLog();
  }

  private replayLog(): void {
    const has = new Set(this.logged.map((entry) => entry.event.id));
    const events = this.logged.map((entry) => entry.event);
    const decisions = replay([...events, ...this.queue.pending.filter((event) => !has.has(event.id))]);
    this.set({ decisions });
    this.player.setCrossfade(decisions.settings.crossfade);
    this.takeText();
    this.recompute();
  }

  /** The words as they now are written. Most decisions change nothing about them. */
  private takeText(): void {
    const { text } = this.state.decisions;
    const key = text.map(({ id }) => id).join();
    if (this.textOf.transcript === this.transcript && this.textOf.key === key) return;
    this.textOf = { transcript: this.transcript, key };
    this.set({ words: applyText(this.transcript.words, text) });
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
    if (!detail || job.mediaId !== detail.mediaId) return;
    this.set({ detail: { ...detail, jobs: [...detail.jobs.filter((other) => other.kind !== job.kind), job] } });
  }

  private recompute(): void {
    const { decisions, draft, target, autoThreshold } = this.state;
    if (!autoThreshold) return;
    this.engine.request(withDraft(decisions, target, draft));
  }

  private takeCut(cut: CutView): void {
    const { draft } = this.state;
    this.set({ cut, ...(Object.keys(draft).length === 0 && { settled: cut }) });
    this.player.follow(this.readingProgramme());
    this.compareAgain();
  }

  /** Computes the cut that is laid beside again, once the present one rests. */
  private compareAgain(): void {
    const { beside, decisions, draft } = this.state;
    if (!beside || Object.keys(draft).length > 0) return;
    void this.engine.aside({ ...decisions, settings: { ...decisions.settings, ...beside.values } }).then((cut) => {
      if (this.state.beside?.values === beside.values) this.set({ beside: { ...beside, cut } });
    });
  }

  /** Lays another set beside the present settings, or takes it away. */
  compareWith(beside: { name: string; values: Partial<Settings> } | undefined): void {
    this.set({ beside: beside && { ...beside, cut: undefined } });
    this.compareAgain();
  }

  /** What the score shows and the player plays: everything, or what is left. */
  readingProgramme(): Programme {
    const { reading, cut, detail } = this.state;
    return reading === 'programme' && cut ? cut.programme : wholeRecording(detail?.duration ?? 0);
  }

  decide(step: NewStep): void {
    this.queue.add({ ...step, id: uuid() } as DecisionEvent);
    this.replayLog();
  }

  judge(proposal: Pick<SeenProposal, 'kind' | 'found'>, verdict: Verdict): void {
    this.decide({ type: 'verdict', kind: proposal.kind, about: proposal.found, verdict });
    this.set({ focus: { kind: proposal.kind, found: proposal.found }, lit: undefined });
  }

  /** Gives one proposal a treatment of its own. */
  treat(proposal: Pick<SeenProposal, 'kind' | 'found'>, treatment: Treatment): void {
    this.decide({ type: 'treat', kind: proposal.kind, about: proposal.found, treatment });
    this.set({ focus: { kind: proposal.kind, found: proposal.found }, lit: undefined });
  }

  /** Gives one proposal other edges. */
  moveEdges(proposal: SeenProposal, taken: Range): void {
    if (taken.end - taken.start < LEAST_CUT) return;
    this.decide({ type: 'edge', kind: proposal.kind, about: proposal.found, taken: inMillis(taken) });
  }

  cutOut(range: Range): void {
    const about = inMillis(range);
    if (about.end - about.start < LEAST_CUT) return;
    this.decide({ type: 'cut', about });
    this.set({ selection: undefined, focus: { kind: 'hand', found: about }, lit: undefined });
  }

  /** Makes a seam at the playhead; nothing is taken. */
  splitHere(): void {
    this.decide({ type: 'split', at: Math.round(this.player.sourceTime * 1000) / 1000 });
  }

  moveSetting(change: Partial<Settings>): void {
    performance.mark(STEP_MARK);
    const { draft, settled } = this.state;
    this.set({ draft: { ...draft, ...change }, ...(Object.keys(draft).length === 0 && { lit: settled }) });
    this.recompute();
  }

  /** A moved setting has come to rest. What it changed stays lit for a while. */
  settleSetting<N extends keyof Settings>(name: N, value: Settings[N]): void {
    const { [name]: moved, ...draft } = this.state.draft;
    if (moved === undefined) this.set({ lit: this.state.settled });
    this.set({ draft });
    this.dim();
    if (settingsShown(this.state)[name] === value) this.recompute();
    else this.applySettings({ [name]: value });
  }

  /** Changes several settings at once, of the whole or of the marked range that is shown. */
  applySettings(values: Partial<Settings>, name?: string): void {
    const { target, decisions, settled } = this.state;
    if (!this.state.lit) this.set({ lit: settled });
    this.dim();
    const section = decisions.sections.find(({ id }) => id === target);
    const [only, ...more] = Object.entries(values) as [string, string | number][];
    if (section) {
      const { id, about } = section;
      this.decide({ type: 'section', section: id, about, values: { ...section.values, ...values } });
    } else if (only && more.length === 0 && !name) this.decide({ type: 'setting', change: { name: only[0], value: only[1] } });
    else this.decide({ type: 'settings', values, ...(name && { name }) });
  }

  private dim(): void {
    clearTimeout(this.dimming);
    this.dimming = setTimeout(() => this.set({ lit: undefined }), LIT_MS);
  }

  /** Makes the selection a range with settings of its own, at first those of the whole. */
  markSection(about: Range): void {
    const section = uuid();
    this.decide({ type: 'section', section, about: inMillis(about), values: {} });
    this.set({ target: section, selection: undefined });
  }

  unmark(section: string): void {
    this.decide({ type: 'unmark', section });
    this.set({ target: undefined });
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
        | 'selection'
        | 'focus'
        | 'dialog'
        | 'target'
        | 'earCheck'
        | 'showsSpeech'
        | 'find'
        | 'spoken'
        | 'correcting'
        | 'hearsSteps'
      >
    >,
  ): void {
    this.set(change);
  }

  setRate(rate: number): void {
    this.set({ rate });
    this.player.setRate(rate);
  }

  /** The focused proposal as it now is. */
  focused(): SeenProposal | undefined {
    const { cut, focus } = this.state;
    return focus && cut?.same(focus);
  }

  /** Goes to the next or previous proposal that the tray is about, and shows it. */
  step(direction: 1 | -1): void {
    const { cut } = this.state;
    if (!cut || cut.count === 0) return;
    const current = this.focused();
    const at = this.player.sourceTime;
    const asked = KINDS_OF[this.state.tray];
    let index = current ? current.index + direction : -1;
    if (!current) {
      const [first, last] = cut.near({ start: at, end: at + 1e-6 });
      index = first;
      while (index < cut.count && direction > 0 && cut.start(index) < at) index++;
      if (direction < 0) index = last - 1;
    }
    while (index >= 0 && index < cut.count && asked && !asked.includes(cut.kind(index))) index += direction;
    if (index < 0 || index >= cut.count) return;
    this.visit(cut.at(index));
    if (this.state.hearsSteps) this.hear(false);
  }

  visit(proposal: SeenProposal): void {
    this.set({ focus: { kind: proposal.kind, found: proposal.found } });
    this.player.seek(Math.max(0, proposal.start - LEAD_IN));
  }

  /** Plays across the focused proposal: as treated, or with the material in. */
  hear(withMaterial: boolean): void {
    const proposal = this.focused();
    if (proposal) this.hearAcross(proposal, withMaterial);
  }

  hearAcross(proposal: SeenProposal, withMaterial: boolean): void {
    const { detail, decisions } = this.state;
    if (!detail) return;
    const around = {
      start: Math.max(0, proposal.start - HEAR_MARGIN),
      end: Math.min(detail.duration, proposal.end + HEAR_MARGIN),
    };
    const { amount } = withAmount(proposal.treatment, decisions.settings);
    const treated = assemble(detail.duration, [{ ...proposal, amount, verdict: 'out' }], decisions.settings.hurrySound);
    this.player.playOnce(withMaterial ? [{ ...around, rate: 1 }] : piecesWithin(treated, around));
  }

  /** A moment of the shown reading as a moment of the recording, and back. */
  fromReading = (at: Seconds): Seconds => toSource(this.readingProgramme(), at);
  toReading = (at: Seconds): Seconds => toProgramme(this.readingProgramme(), at);

  close(): void {
    clearTimeout(this.dimming);
    this.queue.close();
    this.engine.close();
    this.player.close();
  }
}

/** What the trays step through; the others through everything. */
const KINDS_OF: Partial<Record<TrayName, readonly ProposalKind[]>> = {
  pauses: ['pause', 'hand'],
  words: ['filler', 'repeat'],
  takes: ASIDE_KINDS,
};
/** Set when a slider moves; the score measures from it to its painting, for `npm run bench`. */
export const STEP_MARK = 'zetemis:step';
/** Seconds that the difference a setting made stays lit. */
const LIT_MS = 6000;
/** Shorter cuts are slips of the hand. */
const LEAST_CUT: Seconds = 0.02;
const LEAD_IN: Seconds = 1;
/** A word stays marked for so long after it was said. */
const SPOKEN_AFTER: Seconds = 0.15;
const HEAR_MARGIN: Seconds = 1.2;

const inMillis = ({ start, end }: Range): Range => ({
  start: Math.round(start * 1000) / 1000,
  end: Math.round(end * 1000) / 1000,
});

/** Decisions as they would be if what moves now came to rest. */
export function withDraft(decisions: DecisionState, target: string | undefined, draft: Partial<Settings>): DecisionState {
  if (Object.keys(draft).length === 0) return decisions;
  if (!decisions.sections.some(({ id }) => id === target)) return { ...decisions, settings: { ...decisions.settings, ...draft } };
  return {
    ...decisions,
    sections: decisions.sections.map((section) =>
      section.id === target ? { ...section, values: { ...section.values, ...draft } } : section,
    ),
  };
}

/** The settings that the tray shows: of the whole or of a marked range, with what moves now. */
export function settingsShown({ decisions, target, draft }: Pick<EpisodeState, 'decisions' | 'target' | 'draft'>): Settings {
  const section = decisions.sections.find(({ id }) => id === target);
  return { ...decisions.settings, ...section?.values, ...draft };
}

const ModelContext = createContext<EpisodeModel | undefined>(undefined);
export const ModelProvider = ModelContext.Provider;

export function useModel(): EpisodeModel {
  const model = use(ModelContext);
  if (!model) throw new Error('no episode here');
  return model;
}

export function useEpisode<T>(select: (state: EpisodeState) => T): T {
  return useStore(useModel().store, select);
}
