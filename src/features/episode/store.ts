import { createContext, use } from 'react';
import { v4 as uuid } from 'uuid';
import { createStore, useStore } from 'zustand';
import type { CutView, SeenProposal } from '@/core/assemble/packing.ts';
import { type Programme, toProgramme, toSource, wholeRecording } from '@/core/assemble/programme.ts';
import type { EpisodeDetail, JobView, LoggedEvent } from '@/core/contract/messages.ts';
import type { DecisionEvent, Verdict } from '@/core/decisions/event.ts';
import { type DecisionState, NO_STEPS, replay } from '@/core/decisions/replay.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import { fromColumns } from '@/core/transcript/columns.ts';
import type { Word } from '@/core/transcript/word.ts';
import { api } from '../api.ts';
import { Player } from '../playback/player.ts';
import { PeakSource } from '../score/peakSource.ts';
import { CutEngine } from './engine.ts';
import { DecisionQueue, type SaveState } from './saving.ts';

export type Reading = 'recorded' | 'programme';
export type TrayName = 'pauses' | 'handoff';
type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
type NewStep = DistributiveOmit<DecisionEvent, 'id'>;

/** Seconds a row that can be chosen. */
export const ROW_LENGTHS = [6, 8, 10, 15, 20, 30, 60] as const;

export interface EpisodeState {
  readonly detail: EpisodeDetail | undefined;
  readonly error: string | undefined;
  readonly words: readonly Word[];
  readonly decisions: DecisionState;
  /** settings while a slider moves, before they are decided */
  readonly draft: Partial<Settings>;
  readonly cut: CutView | undefined;
  /** the cut before the slider that moves began to */
  readonly settled: CutView | undefined;
  readonly autoThreshold: [number, number] | undefined;
  readonly save: SaveState;
  readonly reading: Reading;
  readonly rowSeconds: number;
  readonly tray: TrayName;
  readonly selection: Range | undefined;
  /** the proposal that keys act on */
  readonly focus: Pick<SeenProposal, 'kind' | 'found'> | undefined;
  readonly playing: boolean;
  readonly rate: number;
  readonly dialog: 'keys' | 'palette' | undefined;
}

/** All that the page of one episode knows and can do. Components read the state and call the named actions. */
export class EpisodeModel {
  readonly store = createStore<EpisodeState>(() => ({
    detail: undefined,
    error: undefined,
    words: [],
    decisions: NO_STEPS,
    draft: {},
    cut: undefined,
    settled: undefined,
    autoThreshold: undefined,
    save: 'saved',
    reading: 'recorded',
    rowSeconds: 8,
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
  private readonly queue: DecisionQueue;
  private logged: LoggedEvent[] = [];
  private loadedFor = '';

  constructor(readonly id: string) {
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

  private async loadMaterial({ mediaId, duration, facts, wordsVersion }: EpisodeDetail): Promise<void> {
    const key = `${mediaId} ${wordsVersion}`;
    if (this.loadedFor === key) return;
    this.loadedFor = key;
    const wordsFetched = wordsVersion > 0 ? api.words(this.id, wordsVersion) : Promise.resolve({ words: null });
    const [curves, { words }] = await Promise.all([
      Promise.all(facts.audio.map((_, track) => api.level(mediaId, track))),
      wordsFetched,
    ]);
    const loading = this.engine.load(duration, curves, words);
    this.set({ words: words ? fromColumns(words).words : [] });
    this.set({ autoThreshold: await loading });
    this.recompute();
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
    this.recompute();
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
    const { decisions, draft, autoThreshold } = this.state;
    if (!autoThreshold) return;
    this.engine.request({ ...decisions, settings: { ...decisions.settings, ...draft } });
  }

  private takeCut(cut: CutView): void {
    const { draft } = this.state;
    this.set({ cut, ...(Object.keys(draft).length === 0 && { settled: cut }) });
    this.player.follow(this.readingProgramme());
  }

  /** What the score shows and the player plays: everything, or what is left. */
  readingProgramme(): Programme {
    const { reading, cut, detail } = this.state;
    return reading === 'programme' && cut ? cut.programme : wholeRecording(detail?.duration ?? 0);
  }

  private decide(step: NewStep): void {
    this.queue.add({ ...step, id: uuid() } as DecisionEvent);
    this.replayLog();
  }

  judge(proposal: Pick<SeenProposal, 'kind' | 'found'>, verdict: Verdict): void {
    this.decide({ type: 'verdict', kind: proposal.kind, about: proposal.found, verdict });
    this.set({ focus: { kind: proposal.kind, found: proposal.found } });
  }

  cutOut(range: Range): void {
    const about = { start: Math.round(range.start * 1000) / 1000, end: Math.round(range.end * 1000) / 1000 };
    if (about.end - about.start < 0.02) return;
    this.decide({ type: 'cut', about });
    this.set({ selection: undefined, focus: { kind: 'hand', found: about } });
  }

  moveSetting(change: Partial<Settings>): void {
    performance.mark(STEP_MARK);
    this.set({ draft: { ...this.state.draft, ...change } });
    this.recompute();
  }

  settleSetting<N extends keyof Settings>(name: N, value: Settings[N]): void {
    const { [name]: _, ...draft } = this.state.draft;
    this.set({ draft });
    if (this.state.decisions.settings[name] === value) this.recompute();
    else this.decide({ type: 'setting', change: { name, value } });
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
    this.set({ reading, selection: undefined });
    this.player.follow(this.readingProgramme());
    this.player.seek(at);
  }

  show(change: Partial<Pick<EpisodeState, 'tray' | 'rowSeconds' | 'selection' | 'focus' | 'dialog'>>): void {
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

  /** Goes to the next or previous proposal and shows it. */
  step(direction: 1 | -1): void {
    const { cut } = this.state;
    if (!cut || cut.count === 0) return;
    const current = this.focused();
    const at = this.player.sourceTime;
    let index = current ? current.index + direction : -1;
    if (!current) {
      const [first, last] = cut.near({ start: at, end: at + 1e-6 });
      index = first;
      while (index < cut.count && direction > 0 && cut.start(index) < at) index++;
      if (direction < 0) index = last - 1;
    }
    if (index < 0 || index >= cut.count) return;
    this.visit(cut.at(index));
  }

  visit(proposal: SeenProposal): void {
    this.set({ focus: { kind: proposal.kind, found: proposal.found } });
    this.player.seek(Math.max(0, proposal.start - LEAD_IN));
  }

  /** Plays across the focused proposal: with it out, or with the material in. */
  hear(withMaterial: boolean): void {
    const proposal = this.focused();
    const { cut, detail } = this.state;
    if (!proposal || !cut || !detail) return;
    const from = Math.max(0, proposal.start - HEAR_MARGIN);
    const to = Math.min(detail.duration, proposal.end + HEAR_MARGIN);
    this.player.playOnce(
      withMaterial
        ? [{ start: from, end: to, rate: 1 }]
        : [
            { start: from, end: proposal.start, rate: 1 },
            { start: proposal.end, end: to, rate: 1 },
          ].filter((piece) => piece.end > piece.start),
    );
  }

  /** A moment of the shown reading as a moment of the recording, and back. */
  fromReading = (at: Seconds): Seconds => toSource(this.readingProgramme(), at);
  toReading = (at: Seconds): Seconds => toProgramme(this.readingProgramme(), at);

  close(): void {
    this.queue.close();
    this.engine.close();
    this.player.close();
  }
}

/** Set when a slider moves; the score measures from it to its painting, for `npm run bench`. */
export const STEP_MARK = 'zetemis:step';
const LEAD_IN: Seconds = 1;
const HEAR_MARGIN: Seconds = 1.2;

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
